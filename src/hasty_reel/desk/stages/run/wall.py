"""The wall of frames: one cell a frame, by state."""

from __future__ import annotations

import math
from collections.abc import Mapping

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QWidget

from hasty_reel.desk import theme
from hasty_reel.run.framestate import FAILED, FINISHED, OTHER, RENDERED, RENDERING, WAITING

LARGEST = 22.0
TALLEST = 200
ORDER = (WAITING, RENDERING, RENDERED, FINISHED, FAILED, OTHER)


def paint_cell(painter: QPainter, box: QRectF, state: str) -> None:
    """A frame in its state; each differs by its fill, not by its colour alone."""
    inner = box.adjusted(1.5, 1.5, -1.5, -1.5)
    if state == WAITING:
        painter.setPen(QPen(theme.NEUTRAL_STRONG, 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(inner)
    elif state == RENDERING:
        painter.setPen(QPen(theme.INK, 1.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(inner)
        painter.fillRect(QRectF(inner.center().x() - 2, inner.center().y() - 2, 5, 5), theme.INK)
    elif state == RENDERED:
        painter.setPen(QPen(theme.PART_COLOURS["sample"], 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(inner)
        low = QRectF(inner.left(), inner.center().y(), inner.width(), inner.height() / 2)
        painter.fillRect(low, theme.PART_COLOURS["sample"])
    elif state == FINISHED:
        painter.fillRect(inner, theme.INK2)
    elif state == FAILED:
        painter.fillRect(inner, theme.CORAL)
        painter.setPen(QPen(theme.CORAL_HATCH, 1.6))
        painter.drawLine(inner.topLeft(), inner.bottomRight())
        painter.drawLine(inner.topRight(), inner.bottomLeft())
    else:
        painter.setPen(QPen(theme.AMBER, 1))
        painter.setBrush(theme.hatch(theme.AMBER, 5, 1.4))
        painter.drawRect(inner)


class FrameWall(QWidget):
    """All frames of a run; a click moves the playhead there."""

    clicked = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._states: dict[int, str] = {}
        self._words: dict[int, str] = {}
        self.setMouseTracking(True)
        self.setAccessibleName("Frames by state")

    def show_states(self, states: Mapping[int, str], faults: dict[int, str]) -> None:
        """Show the frames as they are."""
        self._states, self._words = dict[int, str](states), dict(faults)
        columns, cell = self._grid()
        rows = math.ceil(max(1, len(states)) / columns)
        self.setFixedHeight(min(TALLEST, 40 + math.ceil(rows * cell)))
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if event.oldSize().width() != event.size().width():
            self.show_states(self._states, self._words)

    def _grid(self) -> tuple[int, float]:
        """Columns and size of a cell: as large as fits, at most `LARGEST`."""
        count = max(1, len(self._states))
        width, height = max(60.0, self.width() - 32.0), TALLEST - 40.0
        cell = LARGEST
        while cell > 3 and math.ceil(count / int(width // cell)) * cell > height:
            cell -= 0.5
        return int(width // cell), cell

    def _frame_at(self, x: float, y: float) -> int | None:
        columns, cell = self._grid()
        column, row = int((x - 16) // cell), int((y - 32) // cell)
        k = row * columns + column
        if 0 <= column < columns and row >= 0 and 0 <= k < len(self._states):
            return list(self._states)[k]
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        frame = self._frame_at(event.position().x(), event.position().y())
        if frame is not None:
            self.clicked.emit(frame)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        frame = self._frame_at(event.position().x(), event.position().y())
        if frame is None:
            self.setToolTip("")
        else:
            words = self._words.get(frame)
            self.setToolTip(f"Frame {frame}: {self._states[frame]}" + (f", {words}" if words else ""))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.STAGE)
        x = 16.0
        painter.setFont(theme.words(12))
        state: str
        for state in ORDER:
            count = sum(1 for s in self._states.values() if s == state)
            if count == 0 and state in (FAILED, OTHER, RENDERING):
                continue
            paint_cell(painter, QRectF(x, 8, 14, 14), state)
            text = f"{state} {count}"
            painter.setPen(theme.INK2)
            painter.drawText(QRectF(x + 20, 5, 160, 20), Qt.AlignmentFlag.AlignVCenter, text)
            x += 20 + painter.fontMetrics().horizontalAdvance(text) + 22
        columns, cell = self._grid()
        for k, state in enumerate(self._states.values()):
            paint_cell(painter, QRectF(16 + (k % columns) * cell, 32 + (k // columns) * cell, cell, cell), state)
