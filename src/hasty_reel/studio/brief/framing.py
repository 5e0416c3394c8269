"""Where the frames of a shot come from: a range, viewpoints with holds and moves, a turntable, a loop."""

from __future__ import annotations

from fractions import Fraction
from typing import TYPE_CHECKING, Any

import msgspec

from hasty_reel.errors import WrongInput
from hasty_reel.reel.edits import with_frames, with_move
from hasty_reel.reel.moves import Loop, Move, Turntable, Viewpoint, Viewpoints
from hasty_reel.reel.rate import seconds_text
from hasty_reel.reel.shot import Shot
from hasty_reel.typednumbers import need_number, need_whole_number

if TYPE_CHECKING:
    from hasty_reel.studio.context import ShotContext

RANGE, VIEWPOINTS, TURNTABLE, LOOP = KINDS = ("a range", "viewpoints", "a turntable", "a loop")
MOST_ROWS = 12
"""Viewpoints that are shown."""
USUAL_MOVE = 2.0
"""Seconds from one viewpoint to the next that is added."""
LETTERS = 26


def kind_of(move: Move | None) -> str:
    """Return which of `KINDS` a move is.

    Parameters
    ----------
    move : of the shot; None for a range

    Returns
    -------
    str
        One of `KINDS`.
    """
    if move is None:
        return RANGE
    return {Viewpoints: VIEWPOINTS, Turntable: TURNTABLE, Loop: LOOP}[type(move)]


def fresh_move(kind: str, seconds: float) -> Move | None:
    """Return a move of a kind that lasts about as long as a shot does now.

    Parameters
    ----------
    kind : one of `KINDS`
    seconds : the shot lasts

    Returns
    -------
    Move | None
        The move; None for a range.
    """
    seconds = max(0.1, round(seconds, 3))
    if kind == VIEWPOINTS:
        hold = min(1.0, seconds / 2)
        return Viewpoints(views=(Viewpoint(name="A", hold=hold, move=round(seconds - hold, 3)), Viewpoint(name="B")))
    if kind == TURNTABLE:
        return Turntable(seconds=seconds)
    return Loop(seconds=seconds) if kind == LOOP else None


def framing_values(shot: Shot) -> dict[str, str]:
    """Return the values that tell where the frames come from, as they are written.

    Parameters
    ----------
    shot : the shot

    Returns
    -------
    dict[str, str]
        Text by the name of the value; of viewpoints 'name0', 'hold0', 'move0', 'name1' and so on.
    """
    move = shot.move
    if isinstance(move, Viewpoints):
        values: dict[str, str] = {}
        for k, view in enumerate(move.views[:MOST_ROWS]):
            values |= {f"name{k}": view.name, f"hold{k}": f"{view.hold:g}", f"move{k}": f"{view.move:g}"}
        return values
    if isinstance(move, Turntable):
        return {name: f"{getattr(move, name):g}" for name in ("start", "end", "seconds")}
    if isinstance(move, Loop):
        return {"seconds": f"{move.seconds:g}"}
    return {"first": str(shot.first), "last": str(shot.last), "step": str(shot.step)}


def outcome(shot: Shot, rate: Fraction) -> str:
    """Return what the frames of a shot come to, in words.

    Parameters
    ----------
    shot : the shot
    rate : frames a second

    Returns
    -------
    str
        Words.
    """
    text = f"{shot.length} frames, {seconds_text(shot.length, rate)}"
    if len(shot.frames) != shot.length:
        text += f", {len(shot.frames)} rendered"
    move = shot.move
    if isinstance(move, Turntable):
        text += f", {abs(move.step(rate)):.4g}° a frame"
        text += "; the frame after the last is the first again" if move.loop else f"; the last frame stands at {move.end:g}°"
    elif isinstance(move, Viewpoints):
        bounds = move.bounds(rate)
        holds = sum(b - a for a, b in zip(bounds[::2], bounds[1::2]))
        text += f": {holds} held, {shot.length - holds} moving"
        if len(move.views) > MOST_ROWS:
            text += f"; the first {MOST_ROWS} of {len(move.views)} viewpoints are shown"
    elif isinstance(move, Loop):
        text += "; the frame after the last is the first again"
    return text


class FramingModel:
    """Edits of where the frames of the shot come from; what makes no sense is said, and nothing changes.

    Parameters
    ----------
    session : the open reel
    """

    def __init__(self, session: ShotContext) -> None:
        self._session = session

    @property
    def shot(self) -> Shot:
        """The shot that is looked at."""
        return self._session.shot

    def choose(self, kind: str) -> None:
        """Tell the frames in another way; the shot stays about as long as it was.

        Parameters
        ----------
        kind : one of `KINDS`
        """
        shot = self.shot
        if kind != kind_of(shot.move):
            move = fresh_move(kind, float(shot.length / self._session.reel.fps))
            self._session.do(f"Frames from {kind}", lambda reel: with_move(reel, shot.id, move))

    def change(self, name: str, **changes: Any) -> None:
        """Change fields of the move.

        Parameters
        ----------
        name : of the edit, for undo
        **changes : fields of the move
        """
        shot = self.shot
        assert shot.move is not None
        move = msgspec.structs.replace(shot.move, **changes)
        self._session.do(name, lambda reel: with_move(reel, shot.id, move))

    def type_range(self, name: str, text: str) -> None:
        """Set a value of a range as it is typed.

        Parameters
        ----------
        name : 'first', 'last' or 'step'
        text : a whole number
        """
        shot = self.shot
        words = "Set step" if name == "step" else f"Set {name} frame"
        now = {"first": shot.first, "last": shot.last, "step": shot.step}
        self._session.do(
            words, lambda reel: with_frames(reel, shot.id, **{**now, name: need_whole_number(text, f"{name.capitalize()} frame")})
        )

    def type_move(self, name: str, text: str) -> None:
        """Set a value of a turntable or a loop as it is typed.

        Parameters
        ----------
        name : field of the move
        text : a number
        """
        try:
            value = need_number(text, name.capitalize())
        except WrongInput as error:
            self._session.said.emit(str(error))
            return
        self.change(f"Set {name}", **{name: value})

    def _views(self) -> tuple[Viewpoint, ...]:
        move = self.shot.move
        assert isinstance(move, Viewpoints)
        return move.views

    def type_view(self, k: int, part: str, text: str) -> None:
        """Set a value of a viewpoint as it is typed.

        Parameters
        ----------
        k : index of the viewpoint
        part : 'name', 'hold' or 'move'
        text : a name, or seconds
        """
        try:
            value: Any = text[:100] if part == "name" else need_number(text, f"Viewpoint {k + 1}")
        except WrongInput as error:
            self._session.said.emit(str(error))
            return
        views = self._views()
        changed = msgspec.structs.replace(views[k], **{part: value})
        self.change(f"Set viewpoint {k + 1}", views=(*views[:k], changed, *views[k + 1 :]))

    def add_view(self) -> None:
        """Add a viewpoint behind the last."""
        views = self._views()
        name = chr(ord("A") + len(views)) if len(views) < LETTERS else f"{len(views) + 1}"
        moving = msgspec.structs.replace(views[-1], move=views[-1].move or USUAL_MOVE)
        self.change("Add viewpoint", views=(*views[:-1], moving, Viewpoint(name=name)))

    def drop_view(self, k: int) -> None:
        """Take a viewpoint out.

        Parameters
        ----------
        k : index of the viewpoint
        """
        views = self._views()
        self.change("Take viewpoint out", views=views[:k] + views[k + 1 :])
