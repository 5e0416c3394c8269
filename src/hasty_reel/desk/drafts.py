"""Draft cuts: chosen, named, changed. They are the artist's and go from reel to reel."""

from __future__ import annotations

from typing import Any

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QLabel, QMenu, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton, PlainButton, Switch, ValueField
from hasty_reel.desk.session import Session
from hasty_reel.reel.draftcut import DraftCut
from hasty_reel.reel.numbers import read_number

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
        self._session = session
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
            field.committed.connect(lambda typed, n=name: self._typed(n, typed))
            grid.addWidget(self._label(text), row, 0)
            grid.addWidget(field, row, 1)
            self.fields[name] = field
        self.guides = Switch("", lambda on: self._change(guides=on), self)
        self.guides.setAccessibleName("Guides")
        grid.addWidget(self._label("Guides beside runs"), len(ROWS) + 2, 0)
        grid.addWidget(self.guides, len(ROWS) + 2, 1, Qt.AlignmentFlag.AlignRight)
        buttons = QHBoxLayout()
        self.copy_button = PlainButton("Duplicate", self._duplicate, parent=self)
        self.remove_button = PlainButton("Remove", self._remove, parent=self)
        for button in (self.copy_button, self.remove_button):
            buttons.addWidget(button)
        buttons.addStretch(1)
        buttons.addWidget(PlainButton("Close", self.accept, parent=self))
        column = QVBoxLayout(self)
        column.addWidget(words)
        column.addLayout(grid)
        column.addLayout(buttons)
        session.draft_changed.connect(self.refresh)
        self.refresh()

    def _label(self, text: str) -> QLabel:
        label = QLabel(text)
        label.setFont(theme.words(13))
        return label

    def refresh(self) -> None:
        """Show the chosen cut."""
        cuts = self._session.cuts
        cut = cuts.current
        self.pick.show_value(cut.name)
        self.remove_button.setEnabled(len(cuts.cuts) > 1)
        self.guides.setChecked(cut.guides)
        for name, field in self.fields.items():
            value = getattr(cut, name)
            field.show_value("none" if value is None else f"{value:g}" if isinstance(value, float) else str(value))

    def _menu(self) -> QMenu:
        menu = QMenu(self)
        for cut in self._session.cuts.cuts:
            entry = menu.addAction(cut.name)
            entry.setCheckable(True)
            entry.setChecked(cut.name == self._session.cuts.current.name)
            entry.triggered.connect(lambda _=False, n=cut.name: self.choose(n))
        return menu

    def choose(self, name: str) -> None:
        """Choose another cut."""
        self._session.set_cuts(msgspec.structs.replace(self._session.cuts, chosen=name))

    def _set(self, old: DraftCut, new: DraftCut) -> None:
        cuts = self._session.cuts
        changed = tuple(new if c is old else c for c in cuts.cuts)
        self._session.set_cuts(msgspec.structs.replace(cuts, cuts=changed, chosen=new.name))

    def _change(self, **changes: Any) -> None:
        old = self._session.cuts.current
        self._set(old, msgspec.structs.replace(old, **changes))
        self.refresh()

    def _typed(self, name: str, text: str) -> None:
        value: Any = text
        if name != "name":
            try:
                value = read_number(text)
            except ValueError:
                self._session.said.emit(f"Draft cut: '{text}' is no number; expected a number, or none.")
                self.refresh()
                return
            if value is not None and name not in ("size", "fog_step"):
                if value != int(value):
                    self._session.said.emit(f"Draft cut: {name.replace('_', ' ')} {value:g}; expected a whole number.")
                    self.refresh()
                    return
                value = int(value)
            if value is None and name == "seeds":
                value = 2
        self._change(**{name: value})

    def _duplicate(self) -> None:
        cuts = self._session.cuts
        taken = {c.name for c in cuts.cuts}
        name = next(n for k in range(2, len(taken) + 3) if (n := f"{cuts.current.name[:190]} {k}") not in taken)
        copy = msgspec.structs.replace(cuts.current, name=name)
        self._session.set_cuts(msgspec.structs.replace(cuts, cuts=(*cuts.cuts, copy), chosen=name))

    def _remove(self) -> None:
        cuts = self._session.cuts
        left = tuple(c for c in cuts.cuts if c is not cuts.current)
        self._session.set_cuts(msgspec.structs.replace(cuts, cuts=left, chosen=left[0].name))
