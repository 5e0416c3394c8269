"""Edits of shots: their frames, order, layers, and what their budget holds."""

from __future__ import annotations

import re
from collections.abc import Callable, Container, Iterable, Sequence
from fractions import Fraction
from typing import Any, TypeVar

from hasty_reel.errors import WrongInput
from hasty_reel.reel.calm import USUAL_CALM, Calm
from hasty_reel.reel.checked import checked_reel
from hasty_reel.reel.document import Reel
from hasty_reel.reel.edits.whole import replaced, with_fields
from hasty_reel.reel.moves import Move
from hasty_reel.reel.shot import CUSTOMARY_FIRST, Hold, Layer, ProofMark, Shot, layer_shot, with_layer_shot

V = TypeVar("V", int, float)


def with_shot(reel: Reel, shot_id: str, change: Callable[[Shot], Shot]) -> Reel:
    """Return the reel with one shot, or one layer as 'shot.layer', changed.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot_id : of the shot, or of the layer as SHOT.LAYER
    change : makes the new shot of the one there is
    """
    old = reel.shot(shot_id)
    whole, _, layer_id = shot_id.partition(".")
    if not layer_id:
        new = change(old)
    else:
        parent = reel.shot(whole)
        layers = tuple(with_layer_shot(parent, y, old, change(old)) if y.id == layer_id else y for y in parent.layers)
        old, new = parent, replaced(parent, layers=layers)
    return checked_reel(replaced(reel, shots=tuple(new if s is old else s for s in reel.shots)), reel)


def with_shot_fields(reel: Reel, shot_id: str, **changes: Any) -> Reel:
    """Return the reel with some fields of one shot changed.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot_id : of the shot, or of the layer as SHOT.LAYER
    **changes : fields and their new values
    """
    return with_shot(reel, shot_id, lambda s: replaced(s, **changes))


def with_frames(reel: Reel, shot_id: str, first: int, last: int, step: int = 1) -> Reel:
    """Return the reel with the frames of a shot told as a range; pins and weights outside it are let go.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot_id : of the shot, or of the layer as SHOT.LAYER
    first : number of the first frame
    last : number of the last frame
    step : rendered is every n-th frame
    """

    def _change(shot: Shot) -> Shot:
        return _fitting(replaced(shot, first=first, last=last, step=step, move=None))

    return with_shot(reel, shot_id, _change)


def with_first(reel: Reel, shot_id: str, first: int) -> Reel:
    """Return the reel with the frames of a shot numbered from another one; they show what they showed.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot_id : of the shot, or of the layer as SHOT.LAYER
    first : number of the first frame
    """

    def _change(shot: Shot) -> Shot:
        off = first - shot.first
        return replaced(
            shot,
            first=first,
            last=shot.last + off,
            offset=shot.offset + off,
            pins=_moved_along(shot.pins, off),
            weights=_moved_along(shot.weights, off),
            caches=tuple(f + off for f in shot.caches),
            layers=tuple(_moved_layer(y, off) for y in shot.layers),
        )

    return with_shot(reel, shot_id, _change)


def with_move(reel: Reel, shot_id: str, move: Move | None) -> Reel:
    """Return the reel with the frames of a shot told as a move, or as the range it has now.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot_id : of the shot, or of the layer as SHOT.LAYER
    move : the move; None for a range
    """
    return with_shot(reel, shot_id, lambda s: counted(replaced(s, move=move, step=1), reel.fps) if move else replaced(s, move=None))


def with_hold(reel: Reel, shot_id: str, hold: Hold) -> Reel:
    """Return the reel with what the budget of a shot holds.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot_id : of the shot, or of the layer as SHOT.LAYER
    hold : the promise and its value
    """
    return with_shot(reel, shot_id, lambda s: replaced(s, hold=hold))


def with_calm(reel: Reel, shot_id: str | None, calm: Calm | None) -> Reel:
    """Return the reel with how calm it, or one of its shots, is to be.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot_id : of the shot, or of a layer of it, which is as calm as its shot; None: the reel
    calm : percent of viewers who may see unrest, or 'eyes'; None has a shot follow the reel
    """
    if shot_id is None:
        return with_fields(reel, calm=USUAL_CALM if calm is None else calm)
    return with_shot(reel, reel.shot(shot_id).id.partition(".")[0], lambda s: replaced(s, calm=calm))


def with_mark(reel: Reel, shot_id: str, proof: str, **changes: Any) -> Reel:
    """Return the reel with what was decided about a proof: `star`, `note`, `away`.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot_id : of the shot, or of the layer as SHOT.LAYER
    proof : id of the proof
    **changes : fields and their new values
    """

    whole, _, layer = shot_id.partition(".")
    key = f"{layer}--{proof}" if layer else proof

    def _change(shot: Shot) -> Shot:
        mark = replaced(shot.marks.get(key, ProofMark()), **changes)
        marks = {**shot.marks, key: mark}
        return replaced(shot, marks={k: m for k, m in marks.items() if m != ProofMark()})

    return with_shot(reel, whole, _change)


def renamed_shot(reel: Reel, shot_id: str, new: str) -> Reel:
    """Return the reel with a shot of another id; its proofs stay with it.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot_id : of the shot, or of the layer as SHOT.LAYER
    new : the new name
    """
    old = reel.shot(shot_id)
    new_shot = replaced(old, id=new, evidence="" if new == old.proofs else old.proofs)
    return checked_reel(replaced(reel, shots=tuple(new_shot if s is old else s for s in reel.shots)), reel)


def with_layers(reel: Reel, shot_id: str, layers: Sequence[Layer]) -> Reel:
    """Return the reel with the layers of a shot, the first at the back.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot_id : of the shot, or of the layer as SHOT.LAYER
    layers : the layers
    """
    return with_shot_fields(reel, shot_id, layers=tuple(layers))


def added(reel: Reel, after: str, shot: Shot | None = None) -> tuple[Reel, str]:
    """Return the reel with a new shot behind another one, and its id; unless told it is a second of the same scene.

    Parameters
    ----------
    reel : the reel; it stays as it was
    after : id of the shot before it
    shot : the new shot; None for one like it

    Returns
    -------
    reel : Reel
        With the shot.
    id : str
        Of the shot.
    """
    near = reel.shot(after.partition(".")[0])
    if shot is None:
        last = CUSTOMARY_FIRST + max(1, round(reel.fps)) - 1
        shot = Shot(id="new", name="New shot", scene=near.scene, first=CUSTOMARY_FIRST, last=last, recipe=near.recipe, hold=near.hold)
    shot = replaced(shot, id=_next_id(reel))
    return _inserted(reel, near, shot), shot.id


def duplicated(reel: Reel, shot_id: str) -> tuple[Reel, str]:
    """Return the reel with a copy of a shot behind it, and the copy's id; the proofs of the one hold for the other.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot_id : of the shot, or of the layer as SHOT.LAYER

    Returns
    -------
    reel : Reel
        With the copy.
    id : str
        Of the copy.
    """
    shot = reel.shot(shot_id.partition(".")[0])
    copy = replaced(shot, id=_copy_id(reel, shot.id), evidence=shot.proofs)
    return _inserted(reel, shot, copy), copy.id


def removed(reel: Reel, shot_id: str) -> Reel:
    """Return the reel without a shot; its proofs stay on disk.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot_id : of the shot, or of the layer as SHOT.LAYER

    Raises
    ------
    WrongInput
        When it is the only one.
    """
    if len(reel.shots) == 1:
        raise WrongInput(f"Shot {shot_id} is the only one; expected a reel of at least one shot.")
    return checked_reel(replaced(reel, shots=tuple(s for s in reel.shots if s.id != shot_id)), reel)


def moved(reel: Reel, shot_id: str, place: int) -> Reel:
    """Return the reel with a shot at another place, counted from 0 among the others.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot_id : of the shot, or of the layer as SHOT.LAYER
    place : among the others, from 0 on
    """
    shot = reel.shot(shot_id)
    others = [s for s in reel.shots if s is not shot]
    place = min(max(place, 0), len(others))
    return checked_reel(replaced(reel, shots=(*others[:place], shot, *others[place:])), reel)


def split(reel: Reel, shot_id: str, frame: int) -> tuple[Reel, str]:
    """Return the reel with a shot cut in two before a frame, and the second part's id; its proofs hold for both.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot_id : of the shot, or of the layer as SHOT.LAYER
    frame : as the shot numbers it

    Returns
    -------
    reel : Reel
        With both parts.
    id : str
        Of the second part.

    Raises
    ------
    WrongInput
        When nothing would be left on one side.
    """
    shot = reel.shot(shot_id.partition(".")[0])
    if not shot.first < frame <= shot.last:
        raise WrongInput(f"Shot {shot.id} cannot be split at frame {frame}; expected {shot.first + 1} to {shot.last}.")
    head = _fitting(replaced(shot, last=frame - 1, move=None))
    tail = _fitting(replaced(shot, id=_copy_id(reel, shot.id), first=frame, move=None, evidence=shot.proofs))
    shots = tuple(t for s in reel.shots for t in ((head, tail) if s is shot else (s,)))
    return checked_reel(replaced(reel, shots=shots), reel), tail.id


def brought_in(reel: Reel, shots: Iterable[Shot]) -> Reel:
    """Return the reel with shots added at its end; an id that is taken gets a letter, an unknown recipe the reel's first.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shots : the shots
    """
    taken = {s.id for s in reel.shots}
    tried: dict[str, int] = {}
    names = {r.name for r in reel.recipes}
    new = []
    for shot in shots:
        name = _free(shot.id, taken, tried)
        taken.add(name)
        layers = tuple(y if y.recipe is None or y.recipe in names else replaced(y, recipe=None) for y in shot.layers)
        shot = replaced(shot, id=name, recipe=shot.recipe if shot.recipe in names else reel.recipes[0].name, layers=layers)
        new.append(counted(shot, reel.fps) if shot.move is not None and shot.move.count(reel.fps) >= 1 else shot)
    return checked_reel(replaced(reel, shots=(*reel.shots, *new)), reel)


def _inserted(reel: Reel, near: Shot, shot: Shot) -> Reel:
    shots = tuple(t for s in reel.shots for t in ((s, shot) if s is near else (s,)))
    return checked_reel(replaced(reel, shots=shots), reel)


def counted(shot: Shot, rate: Fraction) -> Shot:
    """Return a shot with as many frames as its move takes.

    Parameters
    ----------
    shot : told as a move
    rate : frames a second, exact

    Raises
    ------
    WrongInput
        When it takes less than one.
    """
    assert shot.move is not None
    count = shot.move.count(rate)
    if count < 1:
        raise WrongInput(f"Shot {shot.id}: its move has no frame; expected at least one frame of time.")
    return _fitting(replaced(shot, last=shot.first + count - 1))


def _fitting(shot: Shot) -> Shot:
    """The shot without pins, caches and layers that lie outside its frames."""
    end = shot.last + shot.handle_out
    layers = []
    for layer in shot.layers:
        if layer.held is not None:
            layer = replaced(layer, held=min(max(layer.held, shot.begin), end))
        if layer.first is not None and layer.last is not None:
            first, last = max(layer.first, shot.begin), min(layer.last, end)
            if last < first:
                continue
            layer = replaced(layer, first=first, last=last)
        frames = layer_shot(shot, layer).frames
        layers.append(replaced(layer, **_inside(layer, frames)))
    return replaced(shot, layers=tuple(layers), **_inside(shot, shot.frames))


def _inside(of: Shot | Layer, frames: range) -> dict[str, Any]:
    """What is told frame by frame, of some frames alone."""
    caches = tuple(f for f in of.caches if f in frames)
    return {"pins": _kept_inside(of.pins, frames), "weights": _kept_inside(of.weights, frames), "caches": caches}


def _moved_layer(layer: Layer, off: int) -> Layer:
    def later(frame: int | None) -> int | None:
        return None if frame is None else frame + off

    by_frame = {
        "pins": _moved_along(layer.pins, off), "weights": _moved_along(layer.weights, off), "caches": tuple(f + off for f in layer.caches)
    }  # fmt: skip
    return replaced(layer, first=later(layer.first), last=later(layer.last), held=later(layer.held), **by_frame)


def _next_id(reel: Reel) -> str:
    """Behind the last number by ten, as shots are numbered: sh030 after sh020."""
    taken = {s.id for s in reel.shots}
    match = re.match(r"(.*?)(\d{1,9})[a-z]*\Z", reel.shots[-1].id)
    head, number, digits = (match[1], int(match[2]), len(match[2])) if match else ("sh", 0, 3)
    while True:
        number = number // 10 * 10 + 10
        name = f"{head}{number:0{digits}d}"
        if name not in taken:
            return name


def _copy_id(reel: Reel, base: str) -> str:
    return _free(base, {s.id for s in reel.shots})


def _free(name: str, taken: set[str], tried: dict[str, int] | None = None) -> str:
    """The name, with a letter or a number behind it where it is taken.

    Parameters
    ----------
    tried : by name, how many endings were tried of it so far; so that thousands of one name do not try all of them again
    """
    if name not in taken:
        return name
    letters = "bcdefghijklmnopqrstuvwxyz"
    tried = {} if tried is None else tried
    base = name[:56]
    while True:
        k = tried.get(base, 0)
        tried[base] = k + 1
        found = f"{base}{letters[k] if k < len(letters) else f'-{k - len(letters) + 2}'}"
        if found not in taken:
            return found


def _moved_along(by_frame: dict[int, V], off: int) -> dict[int, V]:
    """Return values of frames that are numbered otherwise now."""
    return {f + off: v for f, v in by_frame.items()}


def _kept_inside(by_frame: dict[int, V], frames: Container[int]) -> dict[int, V]:
    """Return the values of frames that are among some."""
    return {f: v for f, v in by_frame.items() if f in frames}
