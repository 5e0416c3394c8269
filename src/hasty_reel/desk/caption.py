"""What a picture is, under it; and how far the work is, in a thin bar."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QProgressBar, QWidget

from hasty_reel.desk import theme


def thin_bar() -> QProgressBar:
    """A hidden bar of a thousand parts."""
    bar = QProgressBar()
    bar.setTextVisible(False)
    bar.setRange(0, 1000)
    bar.setStyleSheet(
        f"QProgressBar {{ background: {theme.WELL.name()}; border: 0; height: 6px; }}"
        f"QProgressBar::chunk {{ background: {theme.INK2.name()}; }}"
    )
    bar.setFixedHeight(6)
    bar.hide()
    return bar


class Caption(QWidget):
    """What the picture is, under it, in neutral grey."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._left, self._right = "", ""
        self.setFixedHeight(28)

    def say(self, left: str, right: str) -> None:
        """Words at both ends."""
        self._left, self._right = left, right
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.MAT)
        painter.setPen(theme.MAT_INK)
        painter.setFont(theme.words(13, 600))
        box = QRectF(self.rect()).adjusted(16, 0, -16, 0)
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, self._left)
        painter.setPen(theme.MAT_INK2)
        painter.setFont(theme.words(12))
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, self._right)
