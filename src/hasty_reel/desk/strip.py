"""The reel strip: frames left to right with their seconds by part, flicker, proofs and the playhead."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QFocusEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QWheelEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.follow import follow
from hasty_reel.plan.shot import PARTS, ShotPlan
from hasty_reel.reel.durations import spoken
from hasty_reel.reel.rate import rate_text, seconds_text
from hasty_reel.studio.session import Session
from hasty_reel.viewers import seen_words

TOP, BASE, FLICKER_Y, PROOF_Y, AXIS_Y = 28.0, 103.0, 119.0, 130.0, 143.0
RIGHT_PAD = 16


def nice_step(span: float, most: int) -> float:
    """A step of 1, 2 or 5 times a power of ten with at most `most` steps in a span."""
    raw = max(span / most, 1e-9)
    power = 10 ** np.floor(np.log10(raw))
    return float(next(m * power for m in (1, 2, 5, 10) if m * power >= raw * 0.999))


class ReelStrip(QWidget):
    """Drag to scrub, shift-drag to select, wheel to zoom, double click for a proof there."""

    proof_wanted = Signal(int)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._view: tuple[float, float] | None = None
        self._selecting: int | None = None
        self._by_key = False
        self.setFixedHeight(theme.STRIP_HEIGHT)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Reel strip")
        for signal in (
            session.planner.plan_changed, session.reel_changed, session.planner.evidence_changed, session.playhead.frame_changed,
            session.playhead.selection_changed, session.planner.planning,
        ):  # fmt: skip
            follow(self, signal, self._redraw)
        follow(self, session.playhead.shot_changed, self._other_shot)

    def _redraw(self, *_: object) -> None:
        self.update()

    def _other_shot(self) -> None:
        self._view = None
        self.update()

    # -- places

    def view(self) -> tuple[float, float]:
        """First frame and one past the last that are in view."""
        shot = self._session.shot
        if self._view is None:
            return float(shot.begin), float(shot.past)
        return self._view

    def x_of(self, frame: float) -> float:
        """Left edge of a frame in the widget."""
        low, high = self.view()
        return theme.PLOT_LEFT + (frame - low) / (high - low) * (self.width() - theme.PLOT_LEFT - RIGHT_PAD)

    def frame_at(self, x: float) -> int:
        """The frame under a place in the widget."""
        low, high = self.view()
        share = (x - theme.PLOT_LEFT) / max(1.0, self.width() - theme.PLOT_LEFT - RIGHT_PAD)
        shot = self._session.shot
        return int(min(max(np.floor(low + share * (high - low)), shot.begin), shot.past - 1))

    # -- hands

    def focusInEvent(self, event: QFocusEvent) -> None:
        keys = (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
        self._by_key = event.reason() in keys
        super().focusInEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        frame = self.frame_at(event.position().x())
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._selecting = frame
            self._session.playhead.select((frame, frame))
        else:
            self._selecting = None
            self._session.playhead.show_frame(frame)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        frame = self.frame_at(event.position().x())
        if event.buttons() & Qt.MouseButton.LeftButton:
            if self._selecting is not None:
                self._session.playhead.select((self._selecting, frame))
            else:
                self._session.playhead.show_frame(frame)
        self._tip(frame)

    def _tip(self, frame: int) -> None:
        plan = self._session.plan
        text = f"Frame {self._session.place_words(frame)}"
        if plan is not None:
            k = plan.index(frame)
            parts = ", ".join(f"{theme.PART_WORDS[p].lower()} {getattr(plan, p)[k]:.2f} s" for p in PARTS)
            text += (
                f": {plan.seconds[k]:.1f} s at {plan.samples[k]} samples\n{parts}\n"
                f"noise {plan.noise[k]:.4f} ({plan.noise_L[k]:.2f} L*), {seen_words(float(plan.seen_flicker[k]))}, "
                f"{plan.seen_flicker[k]:.2f} JND"
            )
        self.setToolTip(text + "\nDrag: playhead · Shift-drag: select · wheel: zoom · double click: proof there")

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.proof_wanted.emit(self.frame_at(event.position().x()))

    def wheelEvent(self, event: QWheelEvent) -> None:
        shot = self._session.shot
        low, high = self.view()
        factor = 0.8 if event.angleDelta().y() > 0 else 1.25
        share = (event.position().x() - theme.PLOT_LEFT) / max(1.0, self.width() - theme.PLOT_LEFT - RIGHT_PAD)
        share = min(1.0, max(0.0, share))
        pivot = low + share * (high - low)
        span = max(8.0, (high - low) * factor)
        whole = float(shot.past - shot.begin)
        if span >= whole:
            self._view = None
        else:
            start = min(max(pivot - share * span, shot.begin), shot.past - span)
            self._view = (start, start + span)
        self.update()

    # -- picture

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.SHELL)
        painter.setPen(theme.RULE)
        painter.drawLine(0, 0, self.width(), 0)
        self._paint_head(painter)
        plan = self._session.plan
        if plan is not None:
            self._paint_seconds(painter, plan)
            self._paint_flicker(painter, plan)
        else:
            painter.setFont(theme.words(13))
            painter.setPen(theme.INK2)
            lack = self._session.planner.outlook.lacks.get(self._session.playhead.shot_id, "Reading the proofs …")
            box = QRectF(theme.PLOT_LEFT, TOP, self.width() - theme.PLOT_LEFT - RIGHT_PAD, BASE - TOP)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, lack)
        self._paint_lanes(painter)
        self._paint_axis(painter)
        self._paint_playhead(painter)
        if self.hasFocus() and self._by_key:
            painter.setPen(QPen(theme.INK, 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(1, 2, -2, -1))

    def _paint_head(self, painter: QPainter) -> None:
        shot, reel = self._session.shot, self._session.reel
        painter.setFont(theme.words(14, 700))
        painter.setPen(theme.INK)
        painter.drawText(QRectF(16, 3, 60, 20), Qt.AlignmentFlag.AlignVCenter, "Reel")
        painter.setFont(theme.words(12))
        painter.setPen(theme.INK2)
        words = f"frames {shot.begin}–{shot.past - 1}, {rate_text(reel.fps)} fps, {seconds_text(shot.length, reel.fps)}"
        here = self._session.place_words()
        painter.drawText(QRectF(theme.PLOT_LEFT, 3, 430, 20), Qt.AlignmentFlag.AlignVCenter, f"{words}    {here}")
        plan = self._session.plan
        if plan is None:
            return
        x = self.width() - RIGHT_PAD
        for part in reversed(PARTS):
            if not getattr(plan, part).any():
                continue
            total = spoken(float(getattr(plan, part).sum()) / self._session.reel.frame_speed)
            painter.setFont(theme.figures(11))
            painter.setPen(theme.OFF if self._session.planner.stale else theme.INK2)
            width = painter.fontMetrics().horizontalAdvance(total)
            x -= width
            painter.drawText(QRectF(x, 3, width + 2, 20), Qt.AlignmentFlag.AlignVCenter, total)
            painter.setFont(theme.words(12))
            painter.setPen(theme.INK2)
            name = theme.PART_WORDS[part]
            width = painter.fontMetrics().horizontalAdvance(name)
            x -= width + 6
            painter.drawText(QRectF(x, 3, width + 2, 20), Qt.AlignmentFlag.AlignVCenter, name)
            x -= 17
            painter.fillRect(QRectF(x, 8, 10, 10), theme.PART_COLOURS[part])
            x -= 16

    def _columns(self, plan: ShotPlan) -> tuple[np.ndarray, np.ndarray]:
        """Bins of planned frames to draw: place in the plan of the first of each and one past the last; a pixel wide each at least."""
        low, high = self.view()
        first, last = plan.index(int(np.floor(low))), plan.index(int(np.ceil(high)) - 1) + 1
        pixels = int(self.width() - theme.PLOT_LEFT - RIGHT_PAD)
        edges = np.unique(np.linspace(first, last, min(last - first, max(1, pixels)) + 1).astype(np.int64))
        return edges[:-1], edges[1:]

    def _edges(self, plan: ShotPlan, places: np.ndarray) -> np.ndarray:
        """Where planned frames begin in the widget; a frame that is held is as wide as it is long."""
        frames = np.minimum(plan.shot.begin + places * plan.shot.step, plan.shot.past)
        return np.array([self.x_of(f) for f in frames])

    def _paint_seconds(self, painter: QPainter, plan: ShotPlan) -> None:
        first, past = self._columns(plan)
        layers = np.cumsum([getattr(plan, p) for p in PARTS], axis=0)
        allowed = self._session.planner.outlook.allowed
        # of each column the slowest frame counts: a peak is never lost
        tops = np.maximum.reduceat(layers, first, axis=1)
        most = max(float(plan.seconds.max()), min(allowed, 2.0 * float(plan.seconds.max()))) * 1.08
        scale = (BASE - TOP) / max(most, 1e-9)
        left, right = self._edges(plan, first), self._edges(plan, past)
        gap = 1.0 if len(first) and right[0] - left[0] >= 5 else 0.0
        step = nice_step(most, 4)
        painter.setFont(theme.figures(11))
        k = 1
        while k * step <= most:
            y = BASE - k * step * scale
            painter.setPen(theme.RULE)
            painter.drawLine(QPointF(theme.PLOT_LEFT, y), QPointF(self.width() - RIGHT_PAD, y))
            painter.setPen(theme.INK3)
            text = f"{k * step:g} s" if (k + 1) * step > most else f"{k * step:g}"
            align = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(QRectF(0, y - 8, theme.PLOT_LEFT - 8, 16), align, text)
            k += 1
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setOpacity(0.55 if self._session.planner.stale else 1.0)
        for c in range(len(first)):
            bottom = BASE
            for row, part in enumerate(PARTS):
                y = BASE - tops[row, c] * scale
                painter.fillRect(QRectF(left[c], y, right[c] - left[c] - gap, bottom - y), theme.PART_COLOURS[part])
                bottom = y
            if tops[-1, c] > allowed:
                y0 = BASE - allowed * scale
                box = QRectF(left[c], bottom, right[c] - left[c] - gap, y0 - bottom)
                painter.fillRect(box, theme.CORAL)
                painter.fillRect(box, theme.hatch(theme.CORAL_HATCH, 5, 1.4))
        painter.setOpacity(1.0)
        if 0 < allowed <= most:
            y = BASE - allowed * scale
            painter.setPen(QPen(theme.INK, 1))
            painter.drawLine(QPointF(theme.PLOT_LEFT, y), QPointF(self.width() - RIGHT_PAD, y))
            self._plate(painter, theme.PLOT_LEFT + 6, y - 15 if y - 15 >= TOP - 5 else y + 1, f"allowed {allowed:.0f} s")
        elif allowed > most:
            self._plate(painter, theme.PLOT_LEFT + 6, TOP - 3, f"allowed {allowed:.0f} s, above this scale")

    def _plate(self, painter: QPainter, x: float, y: float, text: str) -> None:
        painter.setFont(theme.words(11))
        width = painter.fontMetrics().horizontalAdvance(text)
        painter.fillRect(QRectF(x - 2, y + 1, width + 5, 14), theme.SHELL)
        painter.setPen(theme.INK)
        painter.drawText(QRectF(x, y, width + 2, 16), Qt.AlignmentFlag.AlignVCenter, text)

    def _paint_flicker(self, painter: QPainter, plan: ShotPlan) -> None:
        first, past = self._columns(plan)
        level = np.maximum.reduceat(plan.unrest_level, first)
        left, right = self._edges(plan, first), self._edges(plan, past)
        start = 0
        for c in range(1, len(level) + 1):
            if c == len(level) or level[c] != level[start]:
                x0, x1 = left[start], right[c - 1]
                if level[start] >= 2:
                    tall = 6.0 if level[start] == 2 else 11.0
                    box = QRectF(x0, FLICKER_Y + 3 - tall, x1 - x0, tall)
                    painter.fillRect(box, theme.CORAL)
                    painter.fillRect(box, theme.hatch(theme.CORAL_HATCH, 4, 1.0, cross=True))
                elif level[start] == 1:
                    painter.fillRect(QRectF(x0, FLICKER_Y - 5, x1 - x0, 7), theme.hatch(theme.AMBER, 5, 1.6))
                else:
                    painter.fillRect(QRectF(x0, FLICKER_Y, x1 - x0, 2), theme.INK3)
                start = c

    def _paint_lanes(self, painter: QPainter) -> None:
        painter.setFont(theme.words(11))
        painter.setPen(theme.INK2)
        painter.drawText(QRectF(16, FLICKER_Y - 12, 48, 16), Qt.AlignmentFlag.AlignVCenter, "Flicker")
        painter.drawText(QRectF(16, PROOF_Y - 5, 48, 14), Qt.AlignmentFlag.AlignVCenter, "Proofs")
        y = PROOF_Y + 2
        painter.setPen(theme.RULE)
        painter.drawLine(QPointF(theme.PLOT_LEFT, y), QPointF(self.width() - RIGHT_PAD, y))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.INK2)
        for frame in sorted({r.frame for r in self._session.evidence.frames if not r.scan}):
            x = (self.x_of(frame) + self.x_of(frame + 1)) / 2
            if theme.PLOT_LEFT - 1 <= x <= self.width() - RIGHT_PAD + 1:
                painter.drawEllipse(QPointF(x, y), 2.6, 2.6)
        if self._session.playhead.selection is not None:
            low, high = self._session.playhead.selection
            x0, x1 = self.x_of(low), self.x_of(high + 1)
            painter.setPen(QPen(theme.LAGOON, 2))
            painter.drawLine(QPointF(x0, y), QPointF(x1, y))
            painter.drawLine(QPointF(x0, y - 5), QPointF(x0, y + 5))
            painter.drawLine(QPointF(x1, y - 5), QPointF(x1, y + 5))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)

    def _paint_axis(self, painter: QPainter) -> None:
        low, high = self.view()
        step = max(1.0, nice_step(high - low, 12))
        painter.setFont(theme.figures(11))
        painter.setPen(theme.STRONG_RULE)
        painter.drawLine(QPointF(theme.PLOT_LEFT, AXIS_Y), QPointF(self.width() - RIGHT_PAD, AXIS_Y))
        shot = self._session.shot
        marks_ = [f for f in np.arange(np.ceil(low / step) * step, high, step) if shot.begin <= f < shot.past]
        ends = [f for f in (shot.begin, shot.past - 1) if low <= f < high]
        for frame in sorted({*ends, *(f for f in marks_ if all(abs(f - e) > step * 0.55 for e in ends))}):
            x = (self.x_of(frame) + self.x_of(frame + 1)) / 2
            painter.setPen(theme.STRONG_RULE)
            painter.drawLine(QPointF(x, AXIS_Y), QPointF(x, AXIS_Y + 4))
            if abs(x - self.x_of(self._session.playhead.frame)) < 44:  # the playhead's flag stands there
                continue
            painter.setPen(theme.INK3)
            painter.drawText(QRectF(x - 30, AXIS_Y + 5, 60, 16), Qt.AlignmentFlag.AlignCenter, f"{int(frame)}")

    def _paint_playhead(self, painter: QPainter) -> None:
        frame = self._session.playhead.frame
        low, high = self.view()
        if not low <= frame < high:
            return
        x = (self.x_of(frame) + self.x_of(frame + 1)) / 2
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(theme.INK, 1))
        painter.drawLine(QPointF(x, TOP - 4), QPointF(x, AXIS_Y + 6))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.INK)
        flag = QRectF(x - 20, AXIS_Y + 7, 40, 17)
        painter.drawRect(flag)
        painter.drawPolygon(QPolygonF([QPointF(x - 5, flag.top()), QPointF(x, flag.top() - 5), QPointF(x + 5, flag.top())]))
        painter.setFont(theme.figures(12, 600))
        painter.setPen(theme.SHELL)
        painter.drawText(flag, Qt.AlignmentFlag.AlignCenter, str(frame))
