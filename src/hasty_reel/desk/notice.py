"""A line at the top of the stage that says what happened; it stays until it is read or replaced."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QWidget

from hasty_reel.desk import marks, theme
from hasty_reel.desk.fields import PlainButton
from hasty_reel.desk.rows import discard


class Notice(QWidget):
    """One sentence with a mark, buttons where there is something to decide, and one that takes it away."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.label = QLabel("")
        self.label.setWordWrap(True)
        self.label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.label.setFont(theme.words(13))
        self.button = PlainButton("Read", self.hide)
        self.choices: list[PlainButton] = []
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(44, 6, 16, 6)
        self._row.addWidget(self.label, 1)
        self._row.addWidget(self.button)
        self.hide()

    def say(self, text: str) -> None:
        """Show a sentence."""
        self.ask(text, {})

    def ask(self, text: str, choices: dict[str, Callable[[], object]]) -> None:
        """Show a sentence with a button for each choice; pressing one takes it away."""
        for button in self.choices:
            self._row.removeWidget(button)
            discard(button)
        self.choices = []
        for words, act in choices.items():
            button = PlainButton(words, partial(self._chosen, act), parent=self)
            self._row.insertWidget(self._row.count() - 1, button)
            self.choices.append(button)
        self.button.setVisible(not choices)
        self.label.setText(text)
        self.show()

    def _chosen(self, act: Callable[[], object]) -> None:
        self.hide()
        act()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.PAGE)
        painter.fillRect(QRectF(0, self.height() - 1, self.width(), 1), theme.RULE)
        marks.triangle(painter, 26, self.height() / 2)
