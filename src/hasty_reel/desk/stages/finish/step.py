"""One step of the finishing chain: its place, its name and what it does, its settings, and the way to another place."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QAbstractButton, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from hasty_reel.desk import theme

LEFT, LEAST = 42, 59


class Nudge(QAbstractButton):
    """A small arrow that takes a step one place earlier or later."""

    def __init__(self, way: int, act: Callable[[int], object], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._way = way
        self.setFixedSize(16, 13)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAttribute(Qt.WidgetAttribute.WA_Hover)
        self.setToolTip("One place earlier" if way < 0 else "One place later")
        self.clicked.connect(lambda: act(way))

    def sizeHint(self) -> QSize:
        return QSize(16, 13)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.OFF if not self.isEnabled() else theme.INK if self.underMouse() or self.hasFocus() else theme.INK3)
        y, tip = 6.5, -3.0 * -self._way
        painter.drawPolygon(QPolygonF([QPointF(4, y - tip / 2), QPointF(12, y - tip / 2), QPointF(8, y + tip)]))
        if self.hasFocus():
            painter.setPen(theme.INK)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))


class Step(QWidget):
    """A step; `move` is called with -1 or 1."""

    def __init__(self, name: str, words: str, settings: list[QWidget], move: Callable[[int], object]) -> None:
        super().__init__()
        self._number = 0
        head = QLabel(name)
        head.setFont(theme.words(14, 700))
        self.about = about = QLabel(words)
        about.setWordWrap(True)
        about.setMinimumWidth(120)
        about.setFont(theme.words(12))
        about.setStyleSheet(f"color: {theme.INK2.name()}")
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(head)
        self.price = QLabel("")
        self.price.setFont(theme.figures(12, 500))
        self.price.setStyleSheet(f"color: {theme.INK2.name()}")
        self.price.setToolTip("Seconds a frame, measured on proof runs")
        row.addWidget(self.price)
        row.addStretch(1)
        for setting in settings:
            row.addWidget(setting)
        column = QVBoxLayout(self)
        column.setContentsMargins(LEFT, 7, 14, 7)
        column.setSpacing(2)
        column.addLayout(row)
        column.addWidget(about)
        self.earlier, self.later = Nudge(-1, move, self), Nudge(1, move, self)
        self.earlier.setAccessibleName(f"{name}: one place earlier")
        self.later.setAccessibleName(f"{name}: one place later")
        self.setMinimumHeight(LEAST)
        self.earlier.move(17, 29)
        self.later.move(17, 42)

    def place(self, number: int, count: int) -> None:
        """Say which step it is, of how many."""
        self._number = number
        self.earlier.setEnabled(number > 1)
        self.later.setEnabled(number < count)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(theme.RULE)
        painter.drawLine(14, self.height() - 1, self.width() - 14, self.height() - 1)
        painter.setFont(theme.figures(15, 600))
        painter.setPen(theme.INK3)
        painter.drawText(QRectF(14, 7, 22, 24), Qt.AlignmentFlag.AlignCenter, str(self._number))
