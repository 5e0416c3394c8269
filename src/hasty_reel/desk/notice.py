"""A line at the top of the stage that says what happened; it stays until it is read or replaced."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QWidget

from hasty_reel.desk import marks, theme
from hasty_reel.desk.fields import PlainButton


class Notice(QWidget):
    """One sentence with a mark, and a button that takes it away."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.label = QLabel("")
        self.label.setWordWrap(True)
        self.label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.label.setFont(theme.words(13))
        self.button = PlainButton("Read", self.hide)
        row = QHBoxLayout(self)
        row.setContentsMargins(44, 6, 16, 6)
        row.addWidget(self.label, 1)
        row.addWidget(self.button)
        self.hide()

    def say(self, text: str) -> None:
        """Show a sentence."""
        self.label.setText(text)
        self.show()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.PAGE)
        painter.fillRect(QRectF(0, self.height() - 1, self.width(), 1), theme.RULE)
        marks.triangle(painter, 26, self.height() / 2)
