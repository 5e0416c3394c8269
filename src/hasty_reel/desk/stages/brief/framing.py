"""Where the frames of a shot come from: a range, viewpoints with holds and moves, a turntable, a loop."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QMenu, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton, PlainButton, Switch, ValueField
from hasty_reel.desk.menus import choice_menu
from hasty_reel.desk.rows import caption, discard
from hasty_reel.reel.moves import Turntable, Viewpoints
from hasty_reel.reel.shot import Shot
from hasty_reel.studio.brief.framing import KINDS, MOST_ROWS, RANGE, TURNTABLE, VIEWPOINTS, FramingModel, framing_values, kind_of, outcome
from hasty_reel.studio.session import Session


class Framing(QWidget):
    """The choice of kind, its values, and what they come to."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._model = session, FramingModel(session)
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
        for name, value in framing_values(shot).items():
            if name in self.fields:
                self.fields[name].show_value(value)
        self._switches(shot)
        self.outcome.setText(outcome(shot, self._session.reel.fps))

    # -- fields by kind

    def _rebuild(self, kind: str) -> None:
        body = QWidget(self)
        self.fields, self._loop = {}, None
        if kind == VIEWPOINTS:
            self._build_viewpoints(body)
        else:
            rows = QVBoxLayout(body)
            rows.setContentsMargins(0, 0, 0, 0)
            rows.setSpacing(4)
            row = QHBoxLayout()
            row.setSpacing(6)
            rows.addLayout(row)
            if kind == RANGE:
                for name, text, width, tip in (
                    ("first", "First", 58, "First frame of the cut"),
                    ("last", "Last", 58, "Last frame of the cut"),
                    ("step", "Step", 34, "Every n-th frame is rendered; each is held until the next"),
                ):
                    self._add(row, name, text, "", width, tip, self._type_range)
            elif kind == TURNTABLE:
                self._build_turntable(row, rows)
            else:
                self._add(row, "seconds", "Lasts", "s", 62, "Seconds of one turn of the loop", self._type_move)
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
        self._add(row, "start", "", "°", 50, "Angle of the first frame", self._type_move)
        self._add(row, "end", "to", "°", 54, "Angle at the end; in a loop it is the start again", self._type_move)
        self._add(row, "seconds", "in", "s", 50, "Seconds of the turn", self._type_move)
        self.way = PickButton(self._way_menu, self)
        self.way.setAccessibleName("Direction")
        second = QHBoxLayout()
        second.setSpacing(6)
        second.addWidget(self.way)
        second.addSpacing(10)
        self._loop = Switch("Loop", lambda on: self._model.change("Loop" if on else "No loop", loop=on), self)
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
                field.committed.connect(lambda typed, k=k, p=part: self._type_view(k, p, typed))
                self.fields[f"{part}{k}"] = field
                grid.addWidget(field, k + 1, column)
            if len(move.views) > 2:
                remove = PlainButton("−", partial(self._model.drop_view, k), parent=self)
                remove.setFixedSize(30, 24)
                remove.setToolTip("Take this viewpoint out")
                remove.setAccessibleName(f"Take viewpoint {k + 1} out")
                grid.addWidget(remove, k + 1, 3)
        foot = QHBoxLayout()
        foot.addWidget(PlainButton("Add viewpoint", self._model.add_view, parent=self))
        self._loop = Switch("Loop", lambda on: self._model.change("Loop" if on else "No loop", loop=on), self)
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
        return choice_menu(self, [(k, k) for k in KINDS], kind_of(self._session.shot.move), self._model.choose)

    def _way_menu(self) -> QMenu:
        move = self._session.shot.move
        now = move.direction if isinstance(move, Turntable) else ""
        ways = ("clockwise", "anticlockwise")
        return choice_menu(self, [(w, w) for w in ways], now, lambda way: self._model.change("Set direction", direction=way))

    def _type_range(self, name: str, text: str) -> None:
        self._model.type_range(name, text)
        self.refresh()

    def _type_move(self, name: str, text: str) -> None:
        self._model.type_move(name, text)
        self.refresh()

    def _type_view(self, k: int, part: str, text: str) -> None:
        self._model.type_view(k, part, text)
        self.refresh()
