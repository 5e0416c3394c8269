"""Layers held as plates: one frame of them is rendered and held."""

from __future__ import annotations

from hasty_reel.errors import WrongInput
from hasty_reel.reel.document import Reel
from hasty_reel.reel.edits.shots import replaced, with_layers


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
