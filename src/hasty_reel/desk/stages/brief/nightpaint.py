"""The picture of a night band: days and hours, a lane for each machine, the work in it, now and the due flag."""

from __future__ import annotations

from datetime import datetime, time
from itertools import pairwise

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from hasty_reel.desk import theme
from hasty_reel.errors import HastyReelError
from hasty_reel.reel.hours import windows
from hasty_reel.studio.brief.nights import DAY, FOOT, HEAD, HOUR, LANE, LEFT, RIGHT_PAD, Band, Held, local_midnights, snapped


def paint_band(painter: QPainter, band: Band, focus: bool) -> None:
    """Paint all of it; focus : the lane that has the keys is framed."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.fillRect(QRectF(0, 0, band.width, band.bottom + FOOT), theme.STAGE)
    _paint_days(painter, band)
    for machine in range(band.lanes):
        _paint_lane(painter, band, machine)
    _paint_now(painter, band)
    _paint_due(painter, band)
    if focus:
        painter.setPen(QPen(theme.INK, 1.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(QRectF(8, band.lane_top(band.lane) + 1, band.width - 16, LANE - 2), 3, 3)


def _paint_days(painter: QPainter, band: Band) -> None:
    right, bottom = band.right, band.bottom
    nights = local_midnights(band.begin - DAY, band.begin + band.span + DAY)
    wide = DAY / band.span * (right - LEFT)
    for a, b in pairwise(nights):
        x0, x1 = band.x_of(a), band.x_of(b)
        if LEFT <= x0 <= right:
            painter.setPen(theme.NEUTRAL_STRONG)
            painter.drawLine(QPointF(x0, HEAD), QPointF(x0, bottom + 4))
        step = 6 if wide > 90 else 12
        for hour in range(step, 24, step):
            day = datetime.fromtimestamp(a).date()
            at = datetime.combine(day, time(hour)).timestamp()
            x = band.x_of(at)
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


def _paint_lane(painter: QPainter, band: Band, machine: int) -> None:
    m = band.session.reel.machines[machine]
    top = band.lane_top(machine)
    painter.setPen(theme.INK)
    painter.setFont(theme.words(13, 600))
    name = painter.fontMetrics().elidedText(m.name, Qt.TextElideMode.ElideRight, int(LEFT - 66))
    painter.drawText(QRectF(16, top, LEFT - 60, LANE), Qt.AlignmentFlag.AlignVCenter, name)
    painter.setFont(theme.words(12))
    painter.setPen(theme.INK2)
    power = f"{m.frame_speed:.3g}×"
    painter.drawText(QRectF(LEFT - 52, top, 44, LANE), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, power)
    painter.setPen(theme.NEUTRAL_RULE)
    painter.drawLine(QPointF(16, top + LANE - 0.5), QPointF(band.width - 16, top + LANE - 0.5))
    painter.save()
    painter.setClipRect(QRectF(LEFT, top, band.right - LEFT, LANE))
    spans = band.spans(machine)
    if not m.free:
        spans = [Held("body", machine, -1, band.begin - DAY, band.begin + band.span + DAY)]
    for span in spans:
        chosen = band.chosen == (span.machine, span.rule)
        box = QRectF(band.x_of(span.begin), top + 4, band.x_of(span.end) - band.x_of(span.begin), LANE - 8)
        painter.fillRect(box, theme.FREE_CHOSEN if chosen else theme.FREE)
        over = band.hover if band.held.part == "none" else band.held
        if (over.machine, over.rule) == (machine, span.rule) and span.rule >= 0:
            _grip(painter, box.left(), box.center().y())
            _grip(painter, box.right(), box.center().y())
    _paint_work(painter, band, machine, top)
    held = band.held
    if held.machine == machine and held.part in ("start", "end", "body", "lane") and band.dragging:
        _paint_ghost(painter, band, held, top)
    painter.restore()
    _paint_hours(painter, band, machine, top)


def _grip(painter: QPainter, x: float, y: float) -> None:
    painter.setPen(QPen(theme.LAGOON, 1.5))
    painter.setBrush(theme.STAGE)
    painter.drawRoundedRect(QRectF(x - 2.5, y - 7, 5, 14), 2.5, 2.5)


def _paint_work(painter: QPainter, band: Band, machine: int, top: float) -> None:
    when = band.session.planner.outlook.deadline
    if when is None or not band.session.planner.outlook.plans:
        return
    m = band.session.reel.machines[machine]
    start = when.start.timestamp()
    last = band.begin + band.span
    for ends, brush in (
        ((start, start + when.seconds5), theme.OFF if band.session.planner.stale else theme.INK2),
        ((start + when.seconds5, start + when.seconds9), theme.hatch(theme.INK2, 5, 1.4)),
    ):
        for a, b in m.windows(max(ends[0], band.begin), min(ends[1], last)):
            painter.fillRect(QRectF(band.x_of(a), top + LANE / 2 - 3, band.x_of(b) - band.x_of(a), 6), brush)
    painter.setFont(theme.words(11, 600))
    for span in when.layout.spans:
        if span.machine != machine:
            continue
        x0, x1 = band.x_of(start + span.begin), band.x_of(start + span.end)
        painter.setPen(theme.STAGE)
        painter.drawLine(QPointF(x1, top + LANE / 2 - 3), QPointF(x1, top + LANE / 2 + 3))
        if x1 - x0 > painter.fontMetrics().horizontalAdvance(span.shot) + 6:
            painter.setPen(theme.INK2)
            painter.drawText(QRectF(x0 + 3, top + 2, x1 - x0 - 4, 10), Qt.AlignmentFlag.AlignVCenter, span.shot)


def _paint_ghost(painter: QPainter, band: Band, held: Held, top: float) -> None:
    m = band.session.reel.machines[held.machine]
    try:
        new = band.dragged(held)
    except HastyReelError:
        return
    if new is None:
        return
    painter.setPen(QPen(theme.LAGOON, 1.5))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for a, b in windows((new,), m.zone, band.begin - 2 * DAY, band.begin + band.span + 2 * DAY):
        painter.drawRect(QRectF(band.x_of(a), top + 4, band.x_of(b) - band.x_of(a), LANE - 8))
    at = band.to if held.part != "body" else (held.begin if held.rule >= 0 else band.origin) + band.to - band.origin
    text = f"{datetime.fromtimestamp(snapped(at)):%a %H:%M}"
    painter.setFont(theme.figures(11))
    width = painter.fontMetrics().horizontalAdvance(text)
    x = min(max(band.x_of(at) + 6, LEFT), band.right - width - 6)
    painter.fillRect(QRectF(x - 3, top + 5, width + 6, LANE - 10), theme.STAGE)
    painter.setPen(theme.INK)
    painter.drawText(QRectF(x, top + 4, width + 2, LANE - 8), Qt.AlignmentFlag.AlignVCenter, text)


def _paint_hours(painter: QPainter, band: Band, machine: int, top: float) -> None:
    when = band.session.planner.outlook.deadline
    if when is None or machine >= len(when.hours):
        return
    m = band.session.reel.machines[machine]
    painter.setFont(theme.figures(12))
    painter.setPen(theme.OFF if band.session.planner.stale else theme.INK)
    text = f"{when.hours[machine]:.1f} h"
    if m.price_per_hour:
        text += f" · {when.hours[machine] * m.price_per_hour:.2f}"
    box = QRectF(band.right, top, RIGHT_PAD - 16, LANE)
    painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, text)


def _paint_now(painter: QPainter, band: Band) -> None:
    x = band.x_of(datetime.now().timestamp())
    if LEFT <= x <= band.right:
        pen = QPen(theme.INK2, 1)
        pen.setDashPattern([1, 3])
        painter.setPen(pen)
        painter.drawLine(QPointF(x, HEAD), QPointF(x, band.bottom + 4))


def _paint_due(painter: QPainter, band: Band) -> None:
    dragging = band.held.part == "due" and band.dragging
    due = snapped(band.to) if dragging else band.due
    x, right, bottom = band.x_of(due), band.right, band.bottom
    if not LEFT - 1 <= x <= right + 1:
        painter.setFont(theme.words(12))
        painter.setPen(theme.INK2)
        text = f"due {datetime.fromtimestamp(due):%a %d %b} →" if x > right else "← due before"
        painter.drawText(QRectF(LEFT, bottom + 1, right - LEFT, 14), Qt.AlignmentFlag.AlignRight, text)
        return
    grabbed = dragging or band.hover.part == "due"
    painter.setPen(QPen(theme.INK, 2 if grabbed else 1.5))
    painter.drawLine(QPointF(x, 1), QPointF(x, bottom + 4))
    painter.setBrush(theme.INK)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.drawPolygon(QPolygonF([QPointF(x, 1), QPointF(x - 11, 1), QPointF(x - 11, 9), QPointF(x, 9)]))
    if dragging:
        painter.setFont(theme.figures(11))
        painter.setPen(theme.INK)
        painter.drawText(QRectF(x + 4, 0, 90, 14), Qt.AlignmentFlag.AlignVCenter, f"{datetime.fromtimestamp(due):%a %H:%M}")
