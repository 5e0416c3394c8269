"""What is said of single frames: samples that are fixed by hand, weights, light caches, and a frame that is held as a plate."""

from __future__ import annotations

from collections.abc import Iterable

from hasty_reel.errors import WrongInput
from hasty_reel.reel.document import Reel
from hasty_reel.reel.edits.shots import replaced, with_layers, with_shot
from hasty_reel.reel.shot import LARGEST_WEIGHT, Shot
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


def with_held(reel: Reel, layer_id: str, frame: int) -> Reel:
    """Return the reel in which a layer is a plate: this one frame is rendered and held.

    Parameters
    ----------
    reel : the reel; it stays as it was
    layer_id : of the layer as SHOT.LAYER
    frame : as the shot numbers it

    Raises
    ------
    WrongInput
        When there is no such layer.
    """
    whole, _, name = layer_id.partition(".")
    layers = reel.shot(whole).layers
    if name not in {y.id for y in layers}:
        raise WrongInput(f"'{layer_id[:60]}' is no layer; expected a shot and one of its layers as SHOT.LAYER.")
    held = [replaced(y, held=frame, first=None, last=None, pins={}, weights={}, caches=()) if y.id == name else y for y in layers]
    return with_layers(reel, whole, held)
