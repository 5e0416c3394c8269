"""The time slice: one line of the picture, a row for each frame of the loop, the first on top."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.picture import as_image
from hasty_reel.desk.stages.compare.paint import paint_chip

HEAD = 22


class TimeSlice(QWidget):
    """Slices of one side or both, and which frame is shown."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._slices: list[QImage | None] = []
        self._title, self._empty = "", ""
        self._at, self._count = 0, 0
        self._note = ""
        self.setFixedHeight(116)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Time slice")
        self.setToolTip("One row is one frame of the marked line. Steady light runs straight down; unrest breaks it into streaks.")

    def show_slices(self, slices: list[np.ndarray | None], title: str, empty: str = "") -> None:
        """Slices (frames, length, 3) uint8 of the sides, None where one is not there yet; or why there is none."""
        self._slices = [None if s is None else as_image(s) for s in slices]
        self._count = max((s.shape[0] for s in slices if s is not None), default=0)
        self._title, self._empty = title, empty
        self.update()

    def show_at(self, at: int) -> None:
        """The frame that is shown."""
        if at != self._at:
            self._at = at
            self.update()

    def show_note(self, note: str) -> None:
        """What is shown above, in words."""
        if note != self._note:
            self._note = note
            self.update(0, 0, self.width(), HEAD)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.MAT)
        painter.setFont(theme.words(13, 700))
        painter.setPen(theme.MAT_INK)
        painter.drawText(QRectF(16, 0, 100, HEAD), Qt.AlignmentFlag.AlignVCenter, "Time slice")
        painter.setFont(theme.words(12))
        painter.setPen(theme.MAT_INK2)
        painter.drawText(QRectF(88, 0, self.width() - 104, HEAD), Qt.AlignmentFlag.AlignVCenter, self._title)
        painter.drawText(QRectF(16, 0, self.width() - 32, HEAD), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, self._note)
        area = QRectF(16, HEAD, self.width() - 32, self.height() - HEAD - 4)
        there = [s for s in self._slices if s is not None]
        if not there:
            painter.setPen(theme.MAT_INK3)
            painter.drawText(area, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap, self._empty)
            return
        high = (area.height() - 4 * (len(self._slices) - 1)) / len(self._slices)
        for k, image in enumerate(self._slices):
            box = QRectF(area.left(), area.top() + k * (high + 4), area.width(), high)
            if image is not None:
                painter.drawImage(box, image)
                y = box.top() + (self._at + 0.5) * high / max(1, self._count)
                painter.setPen(QPen(theme.MAT_INK, 1))
                painter.drawLine(QPointF(box.left() - 5, y), QPointF(box.left() - 1, y))
                painter.drawLine(QPointF(box.right() + 1, y), QPointF(box.right() + 5, y))
            if len(self._slices) > 1:
                paint_chip(painter, box.left() + 4, box.top() + 4, "AB"[k], solid=k == 1)
