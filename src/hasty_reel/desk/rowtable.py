"""A table of rows that are painted and picked: by a click, or with Up, Down and Return."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QEvent, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from hasty_reel.desk import theme

ROW, HEAD, MARGIN = 28, 34, 16.0
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
CELL = 150


class RowTable(QWidget):
    """Rows under heads that stand at a distance from the right.

    paint : paints a row; pick : is told which one is picked; point : which one is pointed at, or -1
    """

    def __init__(
        self,
        name: str,
        heads: Sequence[tuple[str, int]],
        paint: Callable[[QPainter, int, QRectF], None],
        pick: Callable[[int], None],
        point: Callable[[int], None] = lambda row: None,
    ) -> None:
        super().__init__()
        self._paint, self._pick, self._point = paint, pick, point
        self._heads, self._count, self._empty, self._at = heads, 0, "", 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName(name)

    def set_rows(self, count: int, empty: str) -> None:
        """Say how many rows there are, and what is said where there are none."""
        self._count, self._empty = count, empty
        self._at = min(self._at, max(0, count - 1))
        self.setMinimumHeight(HEAD + ROW * max(1, count) + 8)
        self.update()

    def row_box(self, k: int) -> QRectF:
        """Where a row stands."""
        return QRectF(MARGIN, HEAD + ROW * k, self.width() - 2 * MARGIN, ROW)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.STAGE)
        painter.setFont(theme.words(12))
        painter.setPen(theme.INK3)
        for text, off in self._heads:
            painter.drawText(QRectF(self.width() - MARGIN - off - CELL, 8, CELL, 20), RIGHT, text)
        if not self._count:
            painter.setFont(theme.words(13))
            painter.drawText(self.row_box(0), Qt.AlignmentFlag.AlignVCenter, self._empty)
        for k in range(self._count):
            self._paint(painter, k, self.row_box(k))
        if self.hasFocus() and self._count:
            painter.setPen(QPen(theme.INK, 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(self.row_box(self._at).adjusted(-8, 1, 8, -1), 3, 3)

    def paint_cells(self, painter: QPainter, box: QRectF, cells: Sequence[str], coral: int = -1) -> None:
        """Paint the figures of a row under their heads; one of them may stand out."""
        painter.setFont(theme.figures(13, 500))
        pen = painter.pen()
        for k, (text, (_, off)) in enumerate(zip(cells, self._heads)):
            painter.setPen(theme.CORAL if k == coral else pen)
            painter.drawText(QRectF(box.right() - off - CELL, box.top(), CELL, ROW), RIGHT, text)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        k = int((event.position().y() - HEAD) // ROW)
        if 0 <= k < self._count:
            self._at = k
            self._pick(k)
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        k = int((event.position().y() - HEAD) // ROW)
        self._point(k if 0 <= k < self._count else -1)

    def leaveEvent(self, event: QEvent) -> None:
        self._point(-1)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        way = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        if way is not None:
            self._at = min(max(self._at + way, 0), max(0, self._count - 1))
            self._point(self._at)
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._count:
            self._pick(self._at)
        else:
            super().keyPressEvent(event)
