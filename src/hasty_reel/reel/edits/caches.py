"""Frames that own a light cache."""

from __future__ import annotations

from collections.abc import Iterable

from hasty_reel.errors import WrongInput
from hasty_reel.reel.document import Reel
from hasty_reel.reel.edits.shots import replaced, with_shot
from hasty_reel.reel.shot import Shot


def with_caches(reel: Reel, shot_id: str, frames: Iterable[int]) -> Reel:
    """Return the reel in which some frames of a shot own a light cache, or in which they follow each other by its recipe's step.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot_id : of the shot, or of the layer as SHOT.LAYER
    frames : as the shot numbers them; none: by the step

    Returns
    -------
    Reel
        The changed reel.

    Raises
    ------
    WrongInput
        When one of them is no frame of the shot.
    """
    placed = tuple(sorted(set(frames)))

    def _change(shot: Shot) -> Shot:
        for frame in placed:
            if frame not in shot.frames:
                raise WrongInput(f"Shot {shot_id}: a light cache at frame {frame}; expected a frame of the shot.")
        return replaced(shot, caches=placed)

    return with_shot(reel, shot_id, _change)
