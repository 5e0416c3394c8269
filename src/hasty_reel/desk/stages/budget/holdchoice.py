"""One of the promises of a budget, as it stands in the bar above the plan."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import Choice, PickButton, ValueField
from hasty_reel.reel.shot import Kind
from hasty_reel.studio.budget.hold import VARIANTS


class HoldChoice(QWidget):
    """One of the promises: its ring, its value, and what it comes to."""

    def __init__(self, kind: Kind, text: str, unit: str, tip: str, meant: Callable[[], QMenu], parent: QWidget) -> None:
        super().__init__(parent)
        self._varies = kind in VARIANTS or kind == "clean"
        self.choice = Choice(text, self)
        self.field = ValueField(unit, self)
        self.field.setFixedWidth(66 if len(unit) < 2 else 100)
        self.field.setAccessibleName(text)
        self.caption = QLabel("")
        self.caption.setFont(theme.words(12))
        self.caption.setStyleSheet(f"color: {theme.INK2.name()}; margin-left: 24px")
        for widget in (self.choice, self.field):
            widget.setToolTip(tip)
        row = QHBoxLayout()
        row.setSpacing(6)
        row.addWidget(self.choice)
        row.addWidget(self.field)
        self.meant = PickButton(meant, self)
        self.meant.setAccessibleName(f"How '{text}' is meant")
        row.addStretch(1)
        self.weight = ValueField("× weight", self)
        self.weight.setFixedWidth(96)
        self.weight.setAccessibleName("Weight of the selected frames")
        self.weight.setToolTip("How often the frames selected in the strip count, or all where none are: 1 is usual.")
        self.weight.setVisible(False)
        below = QHBoxLayout()
        below.setSpacing(8)
        below.addWidget(self.caption)
        below.addWidget(self.meant)
        below.addWidget(self.weight)
        below.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(row)
        column.addLayout(below)

    def show_chosen(self, chosen: bool, weighs: bool) -> None:
        """Say whether it is held, and whether frames are weighed; how it is meant has room only then."""
        self.choice.setChecked(chosen)
        self.meant.setVisible(chosen and self._varies)
        self.weight.setVisible(weighs)
        self.caption.setVisible(not weighs)
