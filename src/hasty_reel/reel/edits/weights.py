"""Weights of single frames."""

from __future__ import annotations

from hasty_reel.errors import WrongInput
from hasty_reel.reel.document import Reel
from hasty_reel.reel.edits.shots import replaced, with_shot
from hasty_reel.reel.shot import LARGEST_WEIGHT, Shot


def with_weight(reel: Reel, shot_id: str, first: int, last: int, weight: float) -> Reel:
    """Return the reel in which some frames of a shot count more, or less, where the least noise in all is sought.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot_id : of the shot, or of the layer as SHOT.LAYER
    first, last : the frames, as the shot numbers them
    weight : how often each of them counts; 1 is usual

    Returns
    -------
    Reel
        The changed reel.

    Raises
    ------
    WrongInput
        When the weight is no number above 0.
    """
    if not 0 < weight <= LARGEST_WEIGHT:
        raise WrongInput(f"Shot {shot_id}: weight {weight:g}; expected a number above 0, up to {LARGEST_WEIGHT:g}.")

    def _change(shot: Shot) -> Shot:
        left = {f: w for f, w in shot.weights.items() if not first <= f <= last}
        new = {f: float(weight) for f in shot.frames if first <= f <= last} if weight != 1.0 else {}
        return replaced(shot, weights=dict(sorted({**left, **new}.items())))

    return with_shot(reel, shot_id, _change)
