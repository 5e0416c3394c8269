"""The ways to denoise that proof runs tried: a row each, and one of them is the recipe's; a click takes another."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from hasty_reel.desk import marks, theme
from hasty_reel.studio.finish.tries import FinishTries, Try
from hasty_reel.viewers import who_sees

ROW, HEAD = 24, 30
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
HEADS = (("seen by", 118), ("edges", 62), ("s a frame", 8))


class TriesTable(QWidget):
    """Seen flicker at the planned samples, contrast of edges kept, seconds a frame."""

    def __init__(self, model: FinishTries, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model
        self.rows: list[Try] = []
        self._dim = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Ways to denoise that were tried")
        self.setToolTip(
            "How many viewers see the noise at the samples that are planned; ticked where that is calm enough. "
            "Click a row to denoise that way."
        )

    def refresh(self, dim: bool) -> None:
        """Show what was tried; dimmed while a new plan is under way."""
        self._dim = dim
        if not dim or not self.rows:
            self.rows = self._model.rows
        self.setFixedHeight(HEAD + ROW * max(1, len(self.rows)) + 4)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        right = self.width() - 14.0
        painter.setFont(theme.words(11))
        painter.setPen(theme.INK3)
        for text, off in HEADS:
            painter.drawText(QRectF(right - off - 120, 6, 120, 20), RIGHT, text)
        if not self.rows:
            painter.setFont(theme.words(13))
            painter.drawText(QRectF(14, HEAD, right, ROW), Qt.AlignmentFlag.AlignVCenter, "Nothing tried yet: render a run in Proofs")
        for k, row in enumerate(self.rows):
            y = HEAD + ROW * k
            if row.chosen:
                painter.fillRect(QRectF(8, y, self.width() - 16, ROW), theme.RAISED)
            marks.ring(painter, 22, y + ROW / 2, theme.LAGOON if row.chosen else theme.NEUTRAL_STRONG, "dot" if row.chosen else "empty", 6)
            painter.setFont(theme.words(13, 700 if row.chosen else 500))
            painter.setPen(theme.OFF if self._dim else theme.INK)
            painter.drawText(QRectF(38, y, right - 200, ROW), Qt.AlignmentFlag.AlignVCenter, row.words)
            painter.setFont(theme.figures(13, 600 if row.chosen else 500))
            cells = (who_sees(row.seen), "" if row.recipe.denoise_window == 1 else f"{100 * row.detail:.0f} %", f"{row.seconds:.2f}")
            for (_, off), text in zip(HEADS, cells):
                painter.drawText(QRectF(right - off - 120, y, 120, ROW), RIGHT, text)
            if row.calm:
                painter.setPen(QPen(theme.LAGOON, 1.6))
                x = right - HEADS[0][1] + 11
                painter.drawPolyline([QPointF(x - 4, y + 12), QPointF(x - 1, y + 15), QPointF(x + 4, y + 8)])
        if self.hasFocus():
            painter.setPen(QPen(theme.INK, 1.5))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(3, HEAD - 3, -3, -1), 3, 3)

    def _take(self, k: int) -> None:
        if 0 <= k < len(self.rows) and not self.rows[k].chosen:
            self._model.choose(self.rows[k])

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._take(int((event.position().y() - HEAD) // ROW))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        way = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        at = next((k for k, row in enumerate(self.rows) if row.chosen), 0)
        if way is None:
            super().keyPressEvent(event)
        else:
            self._take(min(max(at + way, 0), len(self.rows) - 1))
