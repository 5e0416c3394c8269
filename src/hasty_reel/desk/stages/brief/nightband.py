"""The night band: machines as lanes over the next days, their free hours, the work in them, and the due flag.

Time runs truly: the day on which the clocks change is as long as it lasts, 23 or 25 hours.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, time, timedelta
from itertools import pairwise
from typing import Literal

from PySide6.QtCore import QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QWheelEvent
from PySide6.QtWidgets import QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.session import Session
from hasty_reel.desk.stages.brief.machine import MachinePage
from hasty_reel.errors import HastyReelError
from hasty_reel.reel.edits import with_machine
from hasty_reel.reel.hours import FreeHours, hours_text, shifted, single, windows, with_edge

LEFT, RIGHT_PAD, HEAD, LANE, FOOT = 150.0, 112.0, 6.0, 26.0, 36.0
SNAP = 900.0
HOUR, DAY = 3600.0, 86400.0
NEAR = 5.0
Part = Literal["start", "end", "body", "due", "lane", "axis", "name", "none"]


@dataclass(frozen=True)
class Held:
    """What is under the pointer or dragged: a part, of a window of a machine where there is one."""

    part: Part = "none"
    machine: int = -1
    rule: int = -1
    begin: float = 0.0
    end: float = 0.0


def snapped(instant: float) -> float:
    """A time on the next quarter of an hour."""
    return round(instant / SNAP) * SNAP


def local_midnights(begin: float, end: float) -> list[float]:
    """The midnights of this place between two times, so that a day with a change of the clocks keeps its length."""
    day = datetime.fromtimestamp(begin).date()
    out: list[float] = []
    while True:
        at = datetime.combine(day, time()).timestamp()
        if at > end:
            return out
        out.append(at)
        day += timedelta(days=1)


class NightBand(QWidget):
    """Drag a free window, its ends, or the due flag; drag in an empty lane for a new window; wheel zooms."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        now = datetime.now().timestamp()
        self.begin = now // HOUR * HOUR - HOUR
        self.span = 3 * DAY
        self._hover = Held()
        self._held = Held()
        self._from = 0.0
        self._to = 0.0
        self._lane = 0
        self._chosen: tuple[int, int] | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Night band")
        for signal in (session.reel_changed, session.plan_changed, session.planning):
            signal.connect(self._changed)
        self._changed()
        due = session.reel.due_time.timestamp()
        if due > self.begin:
            self.span = max(self.span, min(14 * DAY, (due - self.begin) * 1.15))

    def _changed(self) -> None:
        count = len(self._session.reel.machines)
        self._lane = min(self._lane, count - 1)
        self.setFixedHeight(round(HEAD + count * LANE + FOOT))
        self.update()

    # -- places

    def x_of(self, instant: float) -> float:
        """Where a time, in seconds since 1970, lies in the widget."""
        return LEFT + (instant - self.begin) / self.span * (self.width() - LEFT - RIGHT_PAD)

    def instant_at(self, x: float) -> float:
        """The time under a place in the widget."""
        return self.begin + (x - LEFT) / (self.width() - LEFT - RIGHT_PAD) * self.span

    def lane_top(self, machine: int) -> float:
        """Upper edge of a machine's lane."""
        return HEAD + machine * LANE

    def spans(self, machine: int) -> list[Held]:
        """The free windows of a machine in view, each with the rule it comes from."""
        m = self._session.reel.machines[machine]
        out = []
        for rule, hours in enumerate(m.free):
            # a day more at both ends: the window shows its true ends where they are dragged
            for a, b in windows((hours,), m.zone, self.begin - 2 * DAY, self.begin + self.span + 2 * DAY):
                if b > self.begin and a < self.begin + self.span:
                    out.append(Held("body", machine, rule, a, b))
        return out

    def under(self, x: float, y: float) -> Held:
        """What lies under a place."""
        due = self.x_of(self._session.reel.due_time.timestamp())
        lanes = len(self._session.reel.machines)
        if abs(x - due) <= NEAR + 1 and (y < self.lane_top(lanes) + 14):
            return Held("due")
        machine = int((y - HEAD) // LANE)
        if not 0 <= machine < lanes:
            return Held("axis") if x >= LEFT else Held()
        if x < LEFT - 4 or x > self.width() - RIGHT_PAD + 4:
            return Held("name", machine)
        for span in self.spans(machine):
            x0, x1 = self.x_of(span.begin), self.x_of(span.end)
            for part, at in (("start", x0), ("end", x1)):
                if abs(x - at) <= NEAR:
                    return Held(part, span.machine, span.rule, span.begin, span.end)  # type: ignore[arg-type]
            if x0 < x < x1:
                return span
        return Held("lane", machine)

    # -- hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        x, y = event.position().x(), event.position().y()
        self._held = self.under(x, y)
        self._from = self._to = self.instant_at(x)
        if self._held.machine >= 0:
            self._lane = self._held.machine
        self._chosen = (self._held.machine, self._held.rule) if self._held.rule >= 0 else None
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        x, y = event.position().x(), event.position().y()
        if not event.buttons() & Qt.MouseButton.LeftButton:
            self._hover = self.under(x, y)
            self._point()
            self.update()
            return
        if self._held.part == "axis":
            self.begin += self._from - self.instant_at(x)
        else:
            self._to = self.instant_at(x)
        self.update()

    def _point(self) -> None:
        shape = {
            "start": Qt.CursorShape.SizeHorCursor,
            "end": Qt.CursorShape.SizeHorCursor,
            "due": Qt.CursorShape.SizeHorCursor,
            "body": Qt.CursorShape.OpenHandCursor,
            "axis": Qt.CursorShape.OpenHandCursor,
            "name": Qt.CursorShape.PointingHandCursor,
            "lane": Qt.CursorShape.CrossCursor,
        }
        self.setCursor(shape.get(self._hover.part, Qt.CursorShape.ArrowCursor))
        self.setToolTip(self._tip(self._hover))

    def _tip(self, held: Held) -> str:
        if held.part == "due":
            return f"Due {self._session.reel.due_time.astimezone():%a %d %b %H:%M}. Drag it, or click the clock."
        if held.part == "axis":
            return "Drag to see earlier or later days; wheel to zoom."
        if held.machine < 0:
            return ""
        m = self._session.reel.machines[held.machine]
        words = f"{m.name}: free {hours_text(m.free)}, {m.zone}; speed {m.speed:g}, {m.workers} at a time"
        if held.rule >= 0:
            words += "\nDrag its ends or the whole; Delete takes it out. A window of the week changes on all its days."
        elif held.part == "lane":
            words += "\nDrag here for a window on this day alone."
        else:
            words += "\nClick to change it."
        return words

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        held, self._held = self._held, Held()
        moved = abs(self._to - self._from) / self.span * (self.width() - LEFT - RIGHT_PAD) >= 3
        if held.part == "name":
            self.open_machine(held.machine)
        elif held.part not in ("axis", "none") and moved:
            self._drop(held)
        self.update()

    def _dragged(self, held: Held) -> FreeHours | None:
        """The window as it would be if it were let go now."""
        m = self._session.reel.machines[held.machine]
        if held.part == "lane":
            a, b = snapped(self._from), snapped(self._to)
            return single(a, b, m.zone) if a != b else None
        hours = m.free[held.rule]
        if held.part == "body":
            return shifted(hours, m.zone, snapped(self._to - self._from))
        side: Literal["start", "end"] = "start" if held.part == "start" else "end"
        at = snapped(self._to)
        if (side == "start" and at >= held.end) or (side == "end" and at <= held.begin):
            return None
        return with_edge(hours, m.zone, side, at)

    def _drop(self, held: Held) -> None:
        if held.part == "due":
            when = datetime.fromtimestamp(snapped(self._to)).astimezone()
            self._session.set_due(when)
            return
        try:
            new = self._dragged(held)
        except HastyReelError as error:
            self._session.said.emit(str(error))
            return
        if new is None:
            return
        m = self._session.reel.machines[held.machine]
        free = (*m.free, new) if held.part == "lane" else (*m.free[: held.rule], new, *m.free[held.rule + 1 :])
        name = "Add free hours" if held.part == "lane" else "Move free hours"
        self._session.do(f"{name} of {m.name}", lambda reel: with_machine(reel, held.machine, free=free))

    def open_machine(self, machine: int) -> MachinePage:
        """Open the page of a machine at its lane."""
        page = MachinePage(self._session, machine, self)
        page.adjustSize()
        corner = self.mapToGlobal(QPoint(12, round(self.lane_top(machine))))
        page.move(corner - QPoint(0, page.height()))
        page.show()
        page.fields["name"].setFocus()
        return page

    def wheelEvent(self, event: QWheelEvent) -> None:
        at = self.instant_at(max(LEFT, event.position().x()))
        factor = 0.8 if event.angleDelta().y() > 0 else 1.25
        span = min(max(self.span * factor, 8 * HOUR), 28 * DAY)
        self.begin = at - (at - self.begin) * span / self.span
        self.span = span
        self.update()
        event.accept()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        count = len(self._session.reel.machines)
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._lane = (self._lane + (1 if key == Qt.Key.Key_Down else -1)) % count
        elif key == Qt.Key.Key_Return:
            self.open_machine(self._lane)
        elif key == Qt.Key.Key_PageDown:
            self.begin += self.span / 3
        elif key == Qt.Key.Key_PageUp:
            self.begin -= self.span / 3
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and self._chosen is not None:
            machine, rule = self._chosen
            m = self._session.reel.machines[machine]
            self._chosen = None
            if rule < len(m.free):
                free = m.free[:rule] + m.free[rule + 1 :]
                self._session.do(f"Take out free hours of {m.name}", lambda reel: with_machine(reel, machine, free=free))
        else:
            super().keyPressEvent(event)
            return
        self.update()

    # -- picture

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.STAGE)
        right = self.width() - RIGHT_PAD
        lanes = len(self._session.reel.machines)
        bottom = self.lane_top(lanes)
        self._paint_days(painter, right, bottom)
        painter.save()
        for machine in range(lanes):
            self._paint_lane(painter, machine, right)
        painter.restore()
        self._paint_now(painter, bottom)
        self._paint_due(painter, bottom)
        if self.hasFocus():
            painter.setPen(QPen(theme.INK, 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(8, self.lane_top(self._lane) + 1, self.width() - 16, LANE - 2), 3, 3)

    def _paint_days(self, painter: QPainter, right: float, bottom: float) -> None:
        nights = local_midnights(self.begin - DAY, self.begin + self.span + DAY)
        wide = DAY / self.span * (right - LEFT)
        for a, b in pairwise(nights):
            x0, x1 = self.x_of(a), self.x_of(b)
            if LEFT <= x0 <= right:
                painter.setPen(theme.NEUTRAL_STRONG)
                painter.drawLine(QPointF(x0, HEAD), QPointF(x0, bottom + 4))
            step = 6 if wide > 90 else 12
            for hour in range(step, 24, step):
                day = datetime.fromtimestamp(a).date()
                at = datetime.combine(day, time(hour)).timestamp()
                x = self.x_of(at)
                if LEFT <= x <= right:
                    painter.setPen(theme.NEUTRAL_RULE)
                    painter.drawLine(QPointF(x, HEAD), QPointF(x, bottom))
                    if wide > 150:
                        painter.setFont(theme.figures(11))
                        painter.setPen(theme.INK3)
                        painter.drawText(QRectF(x - 20, bottom + 1, 40, 14), Qt.AlignmentFlag.AlignCenter, f"{hour}")
            hours = round((b - a) / HOUR)
            text = f"{datetime.fromtimestamp(a):%a %d %b}" + (f", {hours} h" if hours != 24 else "")
            painter.setFont(theme.words(12))
            painter.setPen(theme.INK2 if hours == 24 else theme.AMBER)
            low, high = max(x0, LEFT), min(x1, right)
            if high - low >= painter.fontMetrics().horizontalAdvance(text) + 6:
                painter.drawText(QRectF(low, bottom + 15, high - low, 18), Qt.AlignmentFlag.AlignCenter, text)
        painter.setPen(theme.NEUTRAL_STRONG)
        painter.drawLine(QPointF(LEFT, bottom), QPointF(right, bottom))

    def _paint_lane(self, painter: QPainter, machine: int, right: float) -> None:
        m = self._session.reel.machines[machine]
        top = self.lane_top(machine)
        painter.setPen(theme.INK)
        painter.setFont(theme.words(13, 600))
        name = painter.fontMetrics().elidedText(m.name, Qt.TextElideMode.ElideRight, int(LEFT - 66))
        painter.drawText(QRectF(16, top, LEFT - 60, LANE), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setFont(theme.words(12))
        painter.setPen(theme.INK2)
        power = f"{m.frame_speed:.3g}×"
        painter.drawText(QRectF(LEFT - 52, top, 44, LANE), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, power)
        painter.setPen(theme.NEUTRAL_RULE)
        painter.drawLine(QPointF(16, top + LANE - 0.5), QPointF(self.width() - 16, top + LANE - 0.5))
        painter.save()
        painter.setClipRect(QRectF(LEFT, top, right - LEFT, LANE))
        spans = self.spans(machine)
        if not m.free:
            spans = [Held("body", machine, -1, self.begin - DAY, self.begin + self.span + DAY)]
        for span in spans:
            chosen = self._chosen == (span.machine, span.rule)
            box = QRectF(self.x_of(span.begin), top + 4, self.x_of(span.end) - self.x_of(span.begin), LANE - 8)
            painter.fillRect(box, theme.FREE_CHOSEN if chosen else theme.FREE)
            over = self._hover if self._held.part == "none" else self._held
            if (over.machine, over.rule) == (machine, span.rule) and span.rule >= 0:
                self._grip(painter, box.left(), box.center().y())
                self._grip(painter, box.right(), box.center().y())
        self._paint_work(painter, machine, top)
        held = self._held
        if held.machine == machine and held.part in ("start", "end", "body", "lane") and self._to != self._from:
            self._paint_ghost(painter, held, top)
        painter.restore()
        self._paint_hours(painter, machine, top)

    def _grip(self, painter: QPainter, x: float, y: float) -> None:
        painter.setPen(QPen(theme.LAGOON, 1.5))
        painter.setBrush(theme.STAGE)
        painter.drawRoundedRect(QRectF(x - 2.5, y - 7, 5, 14), 2.5, 2.5)

    def _paint_work(self, painter: QPainter, machine: int, top: float) -> None:
        when = self._session.outlook.deadline
        if when is None or not self._session.outlook.plans:
            return
        m = self._session.reel.machines[machine]
        start = when.start.timestamp()
        last = self.begin + self.span
        for ends, brush in (
            ((start, start + when.seconds5), theme.OFF if self._session.stale else theme.INK2),
            ((start + when.seconds5, start + when.seconds9), theme.hatch(theme.INK2, 5, 1.4)),
        ):
            for a, b in m.windows(max(ends[0], self.begin), min(ends[1], last)):
                painter.fillRect(QRectF(self.x_of(a), top + LANE / 2 - 3, self.x_of(b) - self.x_of(a), 6), brush)

    def _paint_ghost(self, painter: QPainter, held: Held, top: float) -> None:
        m = self._session.reel.machines[held.machine]
        try:
            new = self._dragged(held)
        except HastyReelError:
            return
        if new is None:
            return
        painter.setPen(QPen(theme.LAGOON, 1.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for a, b in windows((new,), m.zone, self.begin - 2 * DAY, self.begin + self.span + 2 * DAY):
            painter.drawRect(QRectF(self.x_of(a), top + 4, self.x_of(b) - self.x_of(a), LANE - 8))
        at = self._to if held.part != "body" else (held.begin if held.rule >= 0 else self._from) + self._to - self._from
        text = f"{datetime.fromtimestamp(snapped(at)):%a %H:%M}"
        painter.setFont(theme.figures(11))
        width = painter.fontMetrics().horizontalAdvance(text)
        x = min(max(self.x_of(at) + 6, LEFT), self.width() - RIGHT_PAD - width - 6)
        painter.fillRect(QRectF(x - 3, top + 5, width + 6, LANE - 10), theme.STAGE)
        painter.setPen(theme.INK)
        painter.drawText(QRectF(x, top + 4, width + 2, LANE - 8), Qt.AlignmentFlag.AlignVCenter, text)

    def _paint_hours(self, painter: QPainter, machine: int, top: float) -> None:
        when = self._session.outlook.deadline
        if when is None or machine >= len(when.hours):
            return
        m = self._session.reel.machines[machine]
        painter.setFont(theme.figures(12))
        painter.setPen(theme.OFF if self._session.stale else theme.INK)
        text = f"{when.hours[machine]:.1f} h"
        if m.price_per_hour:
            text += f" · {when.hours[machine] * m.price_per_hour:.2f}"
        box = QRectF(self.width() - RIGHT_PAD, top, RIGHT_PAD - 16, LANE)
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, text)

    def _paint_now(self, painter: QPainter, bottom: float) -> None:
        x = self.x_of(datetime.now().timestamp())
        if LEFT <= x <= self.width() - RIGHT_PAD:
            pen = QPen(theme.INK2, 1)
            pen.setDashPattern([1, 3])
            painter.setPen(pen)
            painter.drawLine(QPointF(x, HEAD), QPointF(x, bottom + 4))

    def _paint_due(self, painter: QPainter, bottom: float) -> None:
        due = self._session.reel.due_time.timestamp()
        dragging = self._held.part == "due" and self._to != self._from
        if dragging:
            due = snapped(self._to)
        x = self.x_of(due)
        right = self.width() - RIGHT_PAD
        if not LEFT - 1 <= x <= right + 1:
            painter.setFont(theme.words(12))
            painter.setPen(theme.INK2)
            text = f"due {datetime.fromtimestamp(due):%a %d %b} →" if x > right else "← due before"
            painter.drawText(QRectF(LEFT, bottom + 1, right - LEFT, 14), Qt.AlignmentFlag.AlignRight, text)
            return
        grabbed = dragging or self._hover.part == "due"
        painter.setPen(QPen(theme.INK, 2 if grabbed else 1.5))
        painter.drawLine(QPointF(x, 1), QPointF(x, bottom + 4))
        painter.setBrush(theme.INK)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawPolygon(QPolygonF([QPointF(x, 1), QPointF(x - 11, 1), QPointF(x - 11, 9), QPointF(x, 9)]))
        if dragging:
            painter.setFont(theme.figures(11))
            painter.setPen(theme.INK)
            painter.drawText(QRectF(x + 4, 0, 90, 14), Qt.AlignmentFlag.AlignVCenter, f"{datetime.fromtimestamp(due):%a %H:%M}")
