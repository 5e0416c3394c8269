"""Where the frames of a shot come from: a range, viewpoints with holds and moves, a turntable, a loop."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QMenu, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton, PlainButton, Switch, ValueField
from hasty_reel.desk.rows import caption, discard
from hasty_reel.desk.session import Session
from hasty_reel.desk.stages.brief.delivery import whole_number
from hasty_reel.errors import WrongInput
from hasty_reel.reel.edits import with_frames, with_move
from hasty_reel.reel.moves import Loop, Move, Turntable, Viewpoint, Viewpoints
from hasty_reel.reel.numbers import read_number
from hasty_reel.reel.rate import seconds_text
from hasty_reel.reel.shot import Shot

KINDS = ("a range", "viewpoints", "a turntable", "a loop")
MOST_ROWS = 12


def kind_of(move: Move | None) -> str:
    """Which of `KINDS` a move is."""
    if move is None:
        return KINDS[0]
    return {Viewpoints: KINDS[1], Turntable: KINDS[2], Loop: KINDS[3]}[type(move)]


def fresh_move(kind: str, seconds: float) -> Move | None:
    """A move of a kind that lasts about as long as the shot does now."""
    seconds = max(0.1, round(seconds, 3))
    if kind == KINDS[1]:
        hold = min(1.0, seconds / 2)
        return Viewpoints(views=(Viewpoint(name="A", hold=hold, move=round(seconds - hold, 3)), Viewpoint(name="B")))
    if kind == KINDS[2]:
        return Turntable(seconds=seconds)
    return Loop(seconds=seconds) if kind == KINDS[3] else None


def number(text: str, what: str) -> float:
    """A number as it is typed.

    Raises
    ------
    WrongInput
        When it is none.
    """
    try:
        value = read_number(text)
    except ValueError:
        value = None
    if value is None:
        raise WrongInput(f"{what}: '{text[:40]}' is no number.")
    return value


class Framing(QWidget):
    """The choice of kind, its values, and what they come to."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._shown: tuple[str, int] | None = None
        self._loop: Switch | None = None
        self.kind = PickButton(self._kind_menu, self)
        self.kind.setAccessibleName("Frames from")
        self.outcome = QLabel("")
        self.outcome.setFont(theme.words(12))
        self.outcome.setWordWrap(True)
        self.outcome.setStyleSheet(f"color: {theme.INK2.name()}")
        head = QHBoxLayout()
        head.setSpacing(6)
        head.addWidget(caption("Frames from"))
        head.addWidget(self.kind)
        head.addStretch(1)
        self._body = QWidget(self)
        self.fields: dict[str, ValueField] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addLayout(head)
        column.addWidget(self._body)
        column.addWidget(self.outcome)
        self._column = column

    # -- what is shown

    def refresh(self) -> None:
        """Show what the shot says; fields are kept while their kind stays."""
        shot = self._session.shot
        kind = kind_of(shot.move)
        count = len(shot.move.views) if isinstance(shot.move, Viewpoints) else 0
        self.kind.show_value(kind)
        if (kind, count) != self._shown:
            self._shown = (kind, count)
            self._rebuild(kind)
        for name, value in self._values(shot).items():
            if name in self.fields:
                self.fields[name].show_value(value)
        self._switches(shot)
        self.outcome.setText(self._outcome(shot))

    def _values(self, shot: Shot) -> dict[str, str]:
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

    def _outcome(self, shot: Shot) -> str:
        rate = self._session.reel.fps
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

    # -- fields by kind

    def _rebuild(self, kind: str) -> None:
        body = QWidget(self)
        self.fields, self._loop = {}, None
        if kind == KINDS[1]:
            self._build_viewpoints(body)
        else:
            rows = QVBoxLayout(body)
            rows.setContentsMargins(0, 0, 0, 0)
            rows.setSpacing(4)
            row = QHBoxLayout()
            row.setSpacing(6)
            rows.addLayout(row)
            if kind == KINDS[0]:
                for name, text, width, tip in (
                    ("first", "First", 58, "First frame of the cut"),
                    ("last", "Last", 58, "Last frame of the cut"),
                    ("step", "Step", 34, "Every how-manieth frame is rendered; each is held until the next"),
                ):
                    self._add(row, name, text, "", width, tip, self._set_range)
            elif kind == KINDS[2]:
                self._build_turntable(row, rows)
            else:
                self._add(row, "seconds", "Lasts", "s", 62, "Seconds of one turn of the loop", self._set_move)
            row.addStretch(1)
        self._column.replaceWidget(self._body, body)
        discard(self._body)
        self._body = body

    def _add(self, row: QHBoxLayout, name: str, text: str, unit: str, width: int, tip: str, act: Callable[[str, str], None]) -> None:
        field = ValueField(unit, self)
        field.setFixedWidth(width)
        field.setAccessibleName(f"{text} ({unit})" if unit else text)
        field.setToolTip(tip)
        field.committed.connect(lambda typed, n=name: act(n, typed))
        row.addWidget(caption(text))
        row.addWidget(field)
        self.fields[name] = field

    def _build_turntable(self, row: QHBoxLayout, rows: QVBoxLayout) -> None:
        self._add(row, "start", "", "°", 50, "Angle of the first frame", self._set_move)
        self._add(row, "end", "to", "°", 54, "Angle at the end; in a loop it is the start again", self._set_move)
        self._add(row, "seconds", "in", "s", 50, "Seconds of the turn", self._set_move)
        self.way = PickButton(self._way_menu, self)
        self.way.setAccessibleName("Direction")
        second = QHBoxLayout()
        second.setSpacing(6)
        second.addWidget(self.way)
        second.addSpacing(10)
        self._loop = Switch("Loop", lambda on: self._change("Loop" if on else "No loop", loop=on), self)
        self._loop.setToolTip("The last frame is one step before the end, since the end is the start again")
        second.addWidget(self._loop)
        second.addStretch(1)
        rows.addLayout(second)

    def _build_viewpoints(self, body: QWidget) -> None:
        move = self._session.shot.move
        assert isinstance(move, Viewpoints)
        grid = QGridLayout(body)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(6)
        grid.setVerticalSpacing(2)
        for column, text in enumerate(("Viewpoint", "Holds", "Moves on in")):
            head = QLabel(text)
            head.setFont(theme.words(11))
            head.setStyleSheet(f"color: {theme.INK3.name()}")
            grid.addWidget(head, 0, column, Qt.AlignmentFlag.AlignLeft if column == 0 else Qt.AlignmentFlag.AlignRight)
        for k in range(min(len(move.views), MOST_ROWS)):
            for column, (part, unit, width) in enumerate((("name", "", 110), ("hold", "s", 58), ("move", "s", 66))):
                field = ValueField(unit, self)
                field.setFixedWidth(width)
                field.setAccessibleName(f"Viewpoint {k + 1} {part}")
                if part == "name":
                    field.setAlignment(Qt.AlignmentFlag.AlignLeft)
                field.committed.connect(lambda typed, k=k, p=part: self._set_view(k, p, typed))
                self.fields[f"{part}{k}"] = field
                grid.addWidget(field, k + 1, column)
            if len(move.views) > 2:
                remove = PlainButton("−", partial(self._drop_view, k), parent=self)
                remove.setFixedSize(30, 24)
                remove.setToolTip("Take this viewpoint out")
                remove.setAccessibleName(f"Take viewpoint {k + 1} out")
                grid.addWidget(remove, k + 1, 3)
        foot = QHBoxLayout()
        foot.addWidget(PlainButton("Add viewpoint", self._add_view, parent=self))
        self._loop = Switch("Loop", lambda on: self._change("Loop" if on else "No loop", loop=on), self)
        self._loop.setToolTip("The last viewpoint moves back to the first")
        foot.addWidget(self._loop)
        foot.addStretch(1)
        grid.addLayout(foot, MOST_ROWS + 1, 0, 1, 4)
        grid.setColumnStretch(4, 1)

    def _switches(self, shot: Shot) -> None:
        move = shot.move
        if self._loop is not None and isinstance(move, Turntable | Viewpoints):
            self._loop.setChecked(move.loop)
        if isinstance(move, Turntable):
            self.way.show_value(move.direction)
        if isinstance(move, Viewpoints) and not move.loop:
            last = self.fields.get(f"move{len(move.views) - 1}")
            if last is not None:
                last.setEnabled(False)
                last.setToolTip("The last viewpoint moves on only in a loop")
        elif isinstance(move, Viewpoints):
            for k in range(min(len(move.views), MOST_ROWS)):
                self.fields[f"move{k}"].setEnabled(True)

    # -- edits

    def _kind_menu(self) -> QMenu:
        menu = QMenu(self)
        now = kind_of(self._session.shot.move)
        for kind in KINDS:
            entry = menu.addAction(kind)
            entry.setCheckable(True)
            entry.setChecked(kind == now)
            entry.triggered.connect(lambda _=False, k=kind: self.choose(k))
        return menu

    def choose(self, kind: str) -> None:
        """Tell the frames in another way; the shot stays about as long as it was."""
        shot = self._session.shot
        if kind != kind_of(shot.move):
            move = fresh_move(kind, float(shot.length / self._session.reel.fps))
            self._session.do(f"Frames from {kind}", lambda reel: with_move(reel, shot.id, move))

    def _way_menu(self) -> QMenu:
        menu = QMenu(self)
        for way in ("clockwise", "anticlockwise"):
            menu.addAction(way).triggered.connect(lambda _=False, w=way: self._change("Set direction", direction=w))
        return menu

    def _change(self, name: str, **changes: Any) -> None:
        shot = self._session.shot
        assert shot.move is not None
        move = msgspec.structs.replace(shot.move, **changes)
        self._session.do(name, lambda reel: with_move(reel, shot.id, move))
        self.refresh()

    def _refused(self, error: WrongInput) -> None:
        self._session.said.emit(str(error))
        self.refresh()

    def _set_range(self, name: str, text: str) -> None:
        shot = self._session.shot
        try:
            values = {"first": shot.first, "last": shot.last, "step": shot.step, name: whole_number(text, f"{name.capitalize()} frame")}
        except WrongInput as error:
            self._refused(error)
            return
        self._session.do(f"Set {name} frame" if name != "step" else "Set step", lambda reel: with_frames(reel, shot.id, **values))

    def _set_move(self, name: str, text: str) -> None:
        try:
            value = number(text, name.capitalize())
        except WrongInput as error:
            self._refused(error)
            return
        self._change(f"Set {name}", **{name: value})

    def _views(self) -> tuple[Viewpoint, ...]:
        move = self._session.shot.move
        assert isinstance(move, Viewpoints)
        return move.views

    def _set_view(self, k: int, part: str, text: str) -> None:
        try:
            value: Any = text[:100] if part == "name" else number(text, f"Viewpoint {k + 1}")
        except WrongInput as error:
            self._refused(error)
            return
        views = self._views()
        changed = msgspec.structs.replace(views[k], **{part: value})
        self._change(f"Set viewpoint {k + 1}", views=(*views[:k], changed, *views[k + 1 :]))

    def _add_view(self) -> None:
        views = self._views()
        name = chr(ord("A") + len(views)) if len(views) < 26 else f"{len(views) + 1}"
        self._change(
            "Add viewpoint", views=(*views[:-1], msgspec.structs.replace(views[-1], move=views[-1].move or 2.0), Viewpoint(name=name))
        )

    def _drop_view(self, k: int) -> None:
        views = self._views()
        self._change("Take viewpoint out", views=views[:k] + views[k + 1 :])
