"""What a run said, newest first."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from hasty_reel.desk import marks, theme
from hasty_reel.reel.durations import spoken
from hasty_reel.studio.run.record import Message, RunRecord

HEAD, ROW = 28, 22


class MessageList(QWidget):
    """Rows of messages; a click on one moves the playhead to its frame."""

    chosen = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._messages: list[Message] = []
        self.setMinimumHeight(HEAD + 3 * ROW)
        self.setAccessibleName("Messages of the run")

    def show_record(self, record: RunRecord | None) -> None:
        """Show what was said so far."""
        self._messages = [] if record is None else record.messages[::-1]
        self.setAccessibleDescription("; ".join(self.texts[:3]))
        self.update()

    @property
    def texts(self) -> list[str]:
        """What is shown, newest first."""
        return [m.words for m in self._messages]

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.STAGE)
        painter.setFont(theme.words(14, 700))
        painter.setPen(theme.INK)
        painter.drawText(QRectF(16, 4, 300, 20), Qt.AlignmentFlag.AlignVCenter, "Messages")
        painter.setFont(theme.words(13))
        if not self._messages:
            painter.setPen(theme.INK3)
            painter.drawText(QRectF(16, HEAD, 500, ROW), Qt.AlignmentFlag.AlignVCenter, "Nothing to tell so far.")
        for k, message in enumerate(self._messages):
            y = HEAD + k * ROW
            if y + ROW > self.height():
                break
            if message.trouble:
                marks.triangle(painter, 22, y + ROW / 2, radius=5)
            painter.setFont(theme.figures(12))
            painter.setPen(theme.INK3)
            painter.drawText(QRectF(34, y, 76, ROW), Qt.AlignmentFlag.AlignVCenter, spoken(message.at))
            painter.setFont(theme.words(13))
            painter.setPen(theme.INK2)
            box = QRectF(116, y, self.width() - 132, ROW)
            painter.drawText(
                box,
                Qt.AlignmentFlag.AlignVCenter,
                painter.fontMetrics().elidedText(message.words, Qt.TextElideMode.ElideRight, int(box.width())),
            )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        k = int((event.position().y() - HEAD) // ROW)
        if 0 <= k < len(self._messages) and self._messages[k].frame:
            self.chosen.emit(self._messages[k].frame)
