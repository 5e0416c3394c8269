"""All of the chosen shot: name, scene, frames, numbering, handles, recipe, note, layers."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QLabel, QMenu, QPlainTextEdit, QScrollArea, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton, Switch, ValueField
from hasty_reel.desk.follow import follow
from hasty_reel.desk.menus import choice_menu
from hasty_reel.desk.rows import field_row
from hasty_reel.desk.stages.brief.framing import Framing
from hasty_reel.desk.stages.brief.layers import LayerRows
from hasty_reel.errors import WrongInput
from hasty_reel.reel.edits import renamed_shot, with_first, with_shot_fields
from hasty_reel.reel.shot import Shot
from hasty_reel.studio.session import Session
from hasty_reel.typednumbers import need_whole_number

WIDTH = 334


class NoteField(QPlainTextEdit):
    """A note of some lines; it is an edit when one leaves it."""

    def __init__(self, act, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._act, self._shown = act, ""
        self.setFont(theme.words(13))
        self.setTabChangesFocus(True)
        self.setFixedHeight(44)
        self.setPlaceholderText("Note")
        self.setAccessibleName("Note")
        self.setStyleSheet(
            f"QPlainTextEdit {{ background: transparent; border: 0; border-bottom: 1px dotted {theme.STRONG_RULE.name()}; }}"
            f"QPlainTextEdit:focus {{ background: {theme.WELL.name()}; border: 1px solid {theme.LAGOON.name()}; }}"
        )

    def show_value(self, text: str) -> None:
        """Show a note, unless one is typing."""
        if text != self._shown and not self.hasFocus():
            self.setPlainText(text)
        self._shown = text

    def focusOutEvent(self, event) -> None:
        super().focusOutEvent(event)
        if self.toPlainText() != self._shown:
            self._act(self.toPlainText())


class ShotPane(QScrollArea):
    """What is edited of the shot that is looked at."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.setFixedWidth(WIDTH)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.name = self._field(250, "Name", self._set_name, left=True)
        self.name.setFont(theme.words(14, 700))
        self.on = Switch("", self._set_on, self)
        self.on.setAccessibleName("Shot counts")
        self.on.setToolTip("Off: the shot counts neither in the film nor in the plan")
        self.id = self._field(72, "Shot id", self._set_id, left=True)
        self.id.setToolTip("Names its frames on disk; its proofs stay with it")
        self.scene = self._field(140, "Scene", lambda t: self._set("Set scene", scene=t), left=True)
        self.scene.setToolTip("What the renderer link is asked to render")
        self.recipe = PickButton(self._recipe_menu, self)
        self.recipe.setAccessibleName("Recipe")
        self.framing = Framing(session, self)
        self.numbered = self._field(52, "Numbered from", self._set_numbered)
        self.numbered.setToolTip("Number of its first frame; 1001 by custom. The frames show what they showed.")
        self.before = self._field(34, "Handle before", lambda t: self._set_handle(t, "handle_in"))
        self.after = self._field(34, "Handle after", lambda t: self._set_handle(t, "handle_out"))
        for field in (self.before, self.after):
            field.setToolTip("Frames rendered beyond the cut, so that it can be moved later")
        self.note = NoteField(lambda text: self._set("Set note", note=text), self)
        self.layers = LayerRows(session, self)
        page = Page(self)
        column = QVBoxLayout(page)
        column.setContentsMargins(14, 8, 12, 8)
        column.setSpacing(5)
        self._row(column, self.name, None, self.on)
        self._row(column, "Id", self.id, 8, "Scene", self.scene, None)
        self._row(column, "Recipe", self.recipe, None)
        column.addWidget(Rule(page))
        column.addWidget(self.framing)
        self._row(column, "Numbered from", self.numbered, 10, "Handles", self.before, self.after, None)
        column.addWidget(Rule(page))
        column.addWidget(self.note)
        self.layer_head = QLabel("Layers, the first at the back")
        self.layer_head.setFont(theme.words(12, 700))
        column.addWidget(self.layer_head)
        column.addWidget(self.layers)
        column.addStretch(1)
        self.setWidget(page)
        follow(self, session.reel_changed, self.refresh)
        follow(self, session.playhead.shot_changed, self.refresh)
        self.refresh()

    def _field(self, width: int, name: str, act, left: bool = False) -> ValueField:
        field = ValueField("", self)
        field.setFixedWidth(width)
        field.setAccessibleName(name)
        if left:
            field.setAlignment(Qt.AlignmentFlag.AlignLeft)
        field.committed.connect(act)
        return field

    def _row(self, column: QVBoxLayout, *things: object) -> None:
        column.addLayout(field_row(*things))

    @property
    def shot(self) -> Shot:
        """The shot itself, also while one of its layers is looked at."""
        return self._session.reel.shot(self._session.playhead.whole_id)

    def refresh(self) -> None:
        """Show what the shot says."""
        if not self._session.reel.has_shot(self._session.playhead.shot_id):
            return
        shot = self.shot
        self.name.show_value(shot.name)
        self.on.setChecked(shot.enabled)
        self.id.show_value(shot.id)
        self.scene.show_value(shot.scene)
        self.recipe.show_value(shot.recipe)
        self.numbered.show_value(str(shot.first))
        self.before.show_value(str(shot.handle_in))
        self.after.show_value(str(shot.handle_out))
        self.note.show_value(shot.note)
        if "." not in self._session.playhead.shot_id:
            self.framing.refresh()
        self.framing.setVisible("." not in self._session.playhead.shot_id)
        self.layer_head.setVisible(bool(shot.layers))
        self.layers.refresh()

    # -- edits

    def _set(self, edit: str, **changes: Any) -> None:
        shot_id = self.shot.id
        self._session.do(edit, lambda reel: with_shot_fields(reel, shot_id, **changes))
        self.refresh()

    def _set_name(self, text: str) -> None:
        self._set("Rename shot", name=text)

    def _set_on(self, on: bool) -> None:
        self._set("Switch shot on" if on else "Switch shot off", enabled=on)

    def _set_id(self, text: str) -> None:
        old = self.shot.id
        if self._session.do("Set shot id", lambda reel: renamed_shot(reel, old, text)):
            self._session.playhead.show_shot(text)
        self.refresh()

    def _recipe_menu(self) -> QMenu:
        entries = [(r.name, r.name) for r in self._session.reel.recipes]
        return choice_menu(self, entries, self.shot.recipe, lambda name: self._set(f"Use recipe {name}", recipe=name))

    def _set_numbered(self, text: str) -> None:
        shot_id = self.shot.id
        self._session.do("Number frames", lambda reel: with_first(reel, shot_id, need_whole_number(text, "Numbered from")))
        self.refresh()

    def _set_handle(self, text: str, side: str) -> None:
        try:
            self._set("Set handle", **{side: need_whole_number(text, "Handle")})
        except WrongInput as error:
            self._session.said.emit(str(error))
            self.refresh()


class Page(QWidget):
    """The pane's ground."""

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.STAGE)
        painter.setPen(theme.NEUTRAL_RULE)
        painter.drawLine(0, 8, 0, self.height() - 8)


class Rule(QWidget):
    """A thin line between two matters."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setFixedHeight(5)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(theme.NEUTRAL_RULE)
        painter.drawLine(0, 2, self.width(), 2)
