"""Machines as lanes: above each the frames as they were planned, in it the frames as they came."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QRectF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from hasty_reel.desk import theme
from hasty_reel.reel.durations import spoken
from hasty_reel.run.framestate import FAILED, FINISHED, RENDERED
from hasty_reel.run.journal import CACHED
from hasty_reel.studio.run.record import RunRecord, Span

LEFT, RIGHT, HEAD, FOOT = 132, 16, 30, 24
MOST_HEIGHT, LEAST_HEIGHT = 44.0, 9.0
GAP = 3.0
KINDS = (("failed", theme.CORAL), ("tried again", theme.AMBER), ("rendered", theme.LAGOON), ("planned", theme.NEUTRAL_STRONG))


class LaneView(QWidget):
    """All lanes over the time of the run; what lies under the mouse is told."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._record: RunRecord | None = None
        self._planned: list[Span] = []
        self._busy, self._end = False, 1.0
        self.setMinimumHeight(120)
        self.setMouseTracking(True)
        self.setAccessibleName("Machines as lanes, planned and real")

    def show_record(self, record: RunRecord | None, busy: bool) -> None:
        """Show a run as it stands."""
        if record is not self._record:
            self._planned = [] if record is None else record.planned_spans
        self._record, self._busy = record, busy
        if record is not None:
            ends = [s.end for s in self._planned] + [s.end for s in record.spans] + [record.clock]
            left = record.told[-1].left.middle if busy and record.told else 0.0
            self._end = max([1e-9, *ends, record.clock + left])
            words = f"{len(record.hands)} lanes, {len(record.spans)} frames so far"
            self.setAccessibleDescription(words)
        self.update()

    def _x(self, seconds: float) -> float:
        return LEFT + (self.width() - LEFT - RIGHT) * seconds / self._end

    def _lane(self, k: int) -> QRectF:
        count = max(1, len(self._record.hands) if self._record is not None else 1)
        height = min(MOST_HEIGHT, max(LEAST_HEIGHT, (self.height() - HEAD - FOOT) / count))
        return QRectF(LEFT, HEAD + k * height, self.width() - LEFT - RIGHT, height - GAP)

    def _box(self, span: Span, planned: bool) -> QRectF:
        lane = self._lane(span.lane)
        share = 0.34
        top = lane.top() if planned else lane.top() + share * lane.height()
        height = lane.height() * (share if planned else 1 - share)
        x0, x1 = self._x(span.begin), self._x(span.end)
        return QRectF(x0, top, max(1.0, x1 - x0 - (1.0 if x1 - x0 > 3 else 0.0)), height - 1)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.STAGE)
        painter.setFont(theme.words(14, 700))
        painter.setPen(theme.INK)
        title = "Machines, as rehearsed" if self._record is not None and self._record.rehearsed else "Machines"
        painter.drawText(QRectF(16, 4, 300, 22), Qt.AlignmentFlag.AlignVCenter, title)
        record = self._record
        if record is None:
            painter.setFont(theme.words(13))
            painter.setPen(theme.INK2)
            words = "Nothing has been rendered since the reel was opened. 'Rehearse' plays the night with simulated machines."
            painter.drawText(QRectF(16, HEAD, 800, 24), Qt.AlignmentFlag.AlignVCenter, words)
            return
        self._legend(painter)
        names = [name for name, _ in record.hands]
        for k, name in enumerate(names):
            lane = self._lane(k)
            painter.fillRect(lane, theme.MAT_RULE)
            if k == 0 or names[k - 1] != name:
                painter.setFont(theme.words(12))
                painter.setPen(theme.INK2)
                box = QRectF(16, lane.top(), LEFT - 24, min(MOST_HEIGHT, max(16.0, lane.height())))
                text = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, LEFT - 26)
                painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, text)
        for span in self._planned:
            painter.fillRect(self._box(span, True), theme.NEUTRAL_STRONG)
        for span in record.spans:
            self._paint_span(painter, span)
        if self._busy:
            x = self._x(record.clock)
            painter.setPen(QPen(theme.INK, 1))
            painter.drawLine(int(x), HEAD - 4, int(x), self.height() - FOOT)
        self._axis(painter)

    def _paint_span(self, painter: QPainter, span: Span) -> None:
        box = self._box(span, False)
        if span.state in (RENDERED, FINISHED):
            painter.fillRect(box, theme.LAGOON)
        elif span.state == CACHED:
            painter.fillRect(box, theme.hatch(theme.LAGOON, 4, 1.6))
        elif span.state == FAILED:
            painter.fillRect(box, theme.CORAL)
        else:  # it is tried again
            painter.fillRect(box, theme.hatch(theme.AMBER, 5, 1.6))

    def _legend(self, painter: QPainter) -> None:
        x = self.width() - RIGHT
        painter.setFont(theme.words(12))
        for words, colour in KINDS:
            width = painter.fontMetrics().horizontalAdvance(words)
            x -= width
            painter.setPen(theme.INK2)
            painter.drawText(QRectF(x, 5, width + 2, 20), Qt.AlignmentFlag.AlignVCenter, words)
            painter.fillRect(QRectF(x - 17, 10, 11, 11), QColor(colour))
            x -= 34

    def _axis(self, painter: QPainter) -> None:
        painter.setFont(theme.figures(11))
        painter.setPen(theme.INK3)
        y = self.height() - FOOT
        for k in range(5):
            at = self._end * k / 4
            x = self._x(at)
            align = Qt.AlignmentFlag.AlignLeft if k == 0 else Qt.AlignmentFlag.AlignRight if k == 4 else Qt.AlignmentFlag.AlignHCenter
            left = x if k == 0 else x - 100 if k == 4 else x - 50
            painter.drawText(QRectF(left, y + 4, 100, 16), align, "begin" if k == 0 else spoken(at))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._record is None:
            return
        at = event.position()
        for span, planned in [*((s, False) for s in reversed(self._record.spans)), *((s, True) for s in self._planned)]:
            if self._box(span, planned).adjusted(-1, 0, 1, 0).contains(at):
                what = "planned" if planned else span.state if span.state in (RENDERED, FINISHED, FAILED, CACHED) else "tried again"
                self.setToolTip(f"Frame {span.frame}: {what}, {spoken(span.end - span.begin)}")
                return
        self.setToolTip("")

    def leaveEvent(self, event: QEvent) -> None:
        self.setToolTip("")
