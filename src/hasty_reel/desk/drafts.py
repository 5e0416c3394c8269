"""Draft cuts: chosen, named, changed. They are the artist's and go from reel to reel."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QLabel, QMenu, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton, PlainButton, Switch, ValueField
from hasty_reel.desk.follow import follow
from hasty_reel.desk.menus import choice_menu
from hasty_reel.settings.own import is_own
from hasty_reel.studio.draftcuts import DraftCutsModel, cut_value_text
from hasty_reel.studio.session import Session

ROWS = (
    ("size", "Size at most", "%", "Of the delivered width"),
    ("samples", "Samples at most", "", "Per pixel"),
    ("bounces", "Bounces at most", "", "Light bounces after the first surface"),
    ("shutter_steps", "Shutter steps at most", "", "Moments the open shutter is sampled in"),
    ("fog_step", "Fog step at least", "%", "Of a cell of the fog's grid"),
    ("seeds", "Seeds", "", "Two measure noise; one is half the time"),
)


class DraftCutsPage(QDialog):
    """One cut at a time, the others in a menu."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._model = session, DraftCutsModel(session)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Draft cuts")
        words = QLabel("A cut lies over the recipe of what is rendered as a proof. It never reaches finals, exports or saved recipes.")
        words.setWordWrap(True)
        words.setFont(theme.words(12))
        words.setStyleSheet(f"color: {theme.INK2.name()}")
        self.pick = PickButton(self._menu, self)
        self.pick.setAccessibleName("Draft cut")
        self.fields: dict[str, ValueField] = {}
        grid = QGridLayout()
        grid.setVerticalSpacing(5)
        grid.addWidget(self._label("Cut"), 0, 0)
        grid.addWidget(self.pick, 0, 1)
        for row, (name, text, unit, tip) in enumerate((("name", "Name", "", "Its name"), *ROWS), start=1):
            field = ValueField(unit, self)
            field.setFixedWidth(170)
            field.setAccessibleName(text)
            field.setToolTip(tip + ("" if name in ("name", "seeds") else "; none leaves the recipe as it is"))
            field.committed.connect(partial(self._model.type_value, name))
            grid.addWidget(self._label(text), row, 0)
            grid.addWidget(field, row, 1)
            self.fields[name] = field
        for row, setting in enumerate((s.setting for s in session.reel.settings), start=len(ROWS) + 3):
            field = ValueField(setting.unit, self)
            field.setFixedWidth(170)
            field.setAccessibleName(setting.label)
            field.setToolTip(f"{setting.meaning} None leaves the recipe as it is.")
            field.committed.connect(partial(self._model.type_value, setting.field))
            grid.addWidget(self._label(setting.label), row, 0)
            grid.addWidget(field, row, 1)
            self.fields[setting.field] = field
        self.guides = Switch("", lambda on: self._model.change(guides=on), self)
        self.guides.setAccessibleName("Guides")
        grid.addWidget(self._label("Guides beside runs"), len(ROWS) + 2, 0)
        grid.addWidget(self.guides, len(ROWS) + 2, 1, Qt.AlignmentFlag.AlignRight)
        buttons = QHBoxLayout()
        self.copy_button = PlainButton("Duplicate", self._model.duplicate, parent=self)
        self.remove_button = PlainButton("Remove", self._model.remove, parent=self)
        for button in (self.copy_button, self.remove_button):
            buttons.addWidget(button)
        buttons.addStretch(1)
        buttons.addWidget(PlainButton("Close", self.accept, parent=self))
        column = QVBoxLayout(self)
        column.addWidget(words)
        column.addLayout(grid)
        column.addLayout(buttons)
        follow(self, session.own.draft_changed, self.refresh)
        self.refresh()

    def _label(self, text: str) -> QLabel:
        label = QLabel(text)
        label.setFont(theme.words(13))
        return label

    def refresh(self) -> None:
        """Show the chosen cut."""
        cuts = self._session.own.cuts
        cut = cuts.current
        self.pick.show_value(cut.name)
        self.remove_button.setEnabled(len(cuts.items) > 1)
        self.guides.setChecked(cut.guides)
        for name, field in self.fields.items():
            field.show_value(cut_value_text(cut, name, self._session.recipe.setting(name) if is_own(name) else None))

    def _menu(self) -> QMenu:
        cuts = self._session.own.cuts
        return choice_menu(self, [(c.name, c.name) for c in cuts.items], cuts.current.name, self._model.choose)
