"""Samples of single frames that are fixed by hand."""

from __future__ import annotations

from hasty_reel.errors import WrongInput
from hasty_reel.reel.document import Reel
from hasty_reel.reel.edits.shots import replaced, with_shot
from hasty_reel.reel.shot import Shot
from hasty_reel.settings.recipe import SETTING


def with_pin(reel: Reel, shot_id: str, frame: int, samples: int | None) -> Reel:
    """Return the reel in which a frame of a shot has its samples fixed, or is let go.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot_id : of the shot, or of the layer as SHOT.LAYER
    frame : as the shot numbers it
    samples : per pixel; None lets it go

    Returns
    -------
    Reel
        The changed reel.

    Raises
    ------
    WrongInput
        When there can be no so many samples.
    """
    most = int(SETTING["samples_ceiling"].high)
    if samples is not None and not 1 <= samples <= most:
        raise WrongInput(f"Shot {shot_id}, frame {frame}: pinned to {samples} samples; expected 1 to {most}.")

    def _change(shot: Shot) -> Shot:
        left = {f: n for f, n in shot.pins.items() if f != frame}
        return replaced(shot, pins=dict(sorted((left | ({} if samples is None else {frame: samples})).items())))

    return with_shot(reel, shot_id, _change)
