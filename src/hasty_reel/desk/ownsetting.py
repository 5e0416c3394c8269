"""A setting of the artist's own: declared, changed, taken out."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QLabel, QMenu, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton, PlainButton, Switch, text_field
from hasty_reel.desk.follow import follow
from hasty_reel.desk.menus import choice_menu
from hasty_reel.studio.declaring import ACTS, KINDS, DeclarationModel
from hasty_reel.studio.session import Session

TEXTS = (
    ("label", "Label", 220, "As it stands in the ledger"),
    ("name", "Name", 220, "Renderer links take it as {own.NAME}; small letters, digits and _"),
)
BOUNDS = (("low", "From"), ("high", "to"), ("step", "by steps of"), ("unit", "unit"))


class OwnSettingPage(QDialog):
    """One setting: a new one, or one that the reel has."""

    def __init__(self, session: Session, name: str | None = None, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.model = model = DeclarationModel(session, name)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Add a setting" if name is None else "Change a setting")
        self.resize(560, 360)
        words = QLabel(
            "What your renderer takes besides the settings that ship. It is planned, swept and priced like them, and goes with the reel."
        )
        words.setWordWrap(True)
        words.setFont(theme.words(12))
        words.setStyleSheet(f"color: {theme.INK2.name()}")
        self.fields = {f: text_field(self, width, title, partial(model.type_value, f)) for f, title, width, _ in TEXTS}
        for field, _, _, tip in TEXTS:
            self.fields[field].setToolTip(tip)
        self.kind = PickButton(lambda: choice_menu(self, list(KINDS), model.draft.kind, lambda k: model.change(kind=k)), self)
        self.kind.setAccessibleName("Kind")
        self.acts = PickButton(lambda: choice_menu(self, list(ACTS), model.draft.acts_on, lambda k: model.change(acts_on=k)), self)
        self.acts.setAccessibleName("Changes")
        for field, title in BOUNDS:
            self.fields[field] = text_field(self, 64, title.capitalize(), partial(model.type_value, field))
        self.whole = Switch("whole numbers alone", lambda on: model.change(whole=on), self)
        self.fields["choices"] = text_field(self, 380, "Choices", partial(model.type_value, "choices"))
        self.fields["choices"].setToolTip("Names with commas between them; the renderer is told the place of one, from 0")
        self.fields["default"] = text_field(self, 110, "Left out at", partial(model.type_value, "default"))
        self.fields["default"].setToolTip(
            "What recipes have unless they say otherwise; frames rendered before it was declared count as such"
        )
        self.fields["meaning"] = text_field(self, 380, "What it does", partial(model.type_value, "meaning"))
        self.bounds = QWidget(self)
        row = QHBoxLayout(self.bounds)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        for k, (field, title) in enumerate(BOUNDS):
            if k:
                row.addWidget(self._label(title))
            row.addWidget(self.fields[field])
        row.addStretch(1)
        self.grid = QGridLayout()
        self.grid.setVerticalSpacing(6)
        self.grid.setColumnStretch(1, 1)
        self.rows: dict[str, tuple[QLabel, QWidget]] = {}
        for k, (title, widget) in enumerate(
            (
                ("Label", self.fields["label"]), ("Name", self.fields["name"]), ("Kind", self.kind), ("From", self.bounds),
                ("", self.whole),
                ("Choices", self.fields["choices"]), ("Left out at", self.fields["default"]), ("Changes", self.acts),
                ("What it does", self.fields["meaning"]),
            )
        ):  # fmt: skip
            label = self._label(title)
            self.grid.addWidget(label, k, 0)
            self.grid.addWidget(widget, k, 1, Qt.AlignmentFlag.AlignLeft)
            self.rows[title or "whole"] = (label, widget)
        self.answer = QLabel("")
        self.answer.setWordWrap(True)
        self.answer.setFont(theme.words(13))
        self.keep = Switch("offer it in other reels", lambda on: None, self)
        self.save_button = PlainButton("Add setting" if name is None else "Change setting", self._save, main=True, parent=self)
        self.kept_button = PlainButton("Take one I keep …", lambda: self._kept().popup(self.kept_button.mapToGlobal(self.rect().topLeft())))
        self.kept_button.setVisible(name is None and bool(model.kept))
        self.remove_button = PlainButton("Remove", self._remove, parent=self)
        self.remove_button.setVisible(name is not None)
        foot = QHBoxLayout()
        for widget in (self.save_button, self.kept_button, self.remove_button, self.keep):
            foot.addWidget(widget)
        foot.addStretch(1)
        foot.addWidget(PlainButton("Close", self.accept, parent=self))
        column = QVBoxLayout(self)
        column.addWidget(words)
        column.addLayout(self.grid)
        column.addWidget(self.answer)
        column.addStretch(1)
        column.addLayout(foot)
        follow(self, model.changed, self.refresh)
        self.refresh()

    def _label(self, text: str) -> QLabel:
        label = QLabel(text)
        label.setFont(theme.words(13))
        return label

    def _kept(self) -> QMenu:
        return choice_menu(self, [(s.name, s.label) for s in self.model.kept], None, self.model.take)

    def _save(self) -> None:
        if self.model.save(self.keep.isChecked()):
            self.accept()

    def _remove(self) -> None:
        self.model.remove()
        self.accept()

    def refresh(self) -> None:
        """Show the declaration as it stands."""
        draft = self.model.draft
        for name in ("label", "name", "unit", "meaning"):
            self.fields[name].show_value(getattr(draft, name))
        for name in ("low", "high", "step"):
            self.fields[name].show_value(f"{getattr(draft, name):g}")
        self.fields["choices"].show_value(", ".join(draft.choices))
        self.fields["default"].show_value(draft.setting.text(draft.default))
        self.kind.show_value(dict(KINDS)[draft.kind])
        self.acts.show_value(dict(ACTS)[draft.acts_on])
        self.whole.setChecked(draft.whole)
        for title, kinds in (("From", ("number",)), ("whole", ("number",)), ("Choices", ("choice",))):
            for widget in self.rows[title]:
                widget.setVisible(draft.kind in kinds)
        self.answer.setText(self.model.answer)
