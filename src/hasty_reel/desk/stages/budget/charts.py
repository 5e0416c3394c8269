"""The charts of the plan over the frames: samples, and the noise they come to."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QEvent, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.plotting import pg
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.studio.session import Session
from hasty_reel.viewers import percent_who_see, seen_by, who_sees

GHOST = "dashed: the other plan"
AXIS_WIDTH = theme.PLOT_LEFT - 8
BINS = 900


class ChartTitle(QWidget):
    """Title at the left, what the dashes mean at the right."""

    def __init__(self, title: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._title, self._legend = title, ""
        self.setFixedHeight(28)

    def set_legend(self, text: str) -> None:
        """Say what the dashed line is."""
        self._legend = text
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(theme.words(14, 700))
        painter.setPen(theme.INK)
        painter.drawText(QRectF(16, 6, 400, 20), Qt.AlignmentFlag.AlignVCenter, self._title)
        if self._legend:
            painter.setFont(theme.words(12))
            painter.setPen(theme.INK2)
            box = QRectF(0, 6, self.width() - 16, 20)
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, self._legend)
            x = self.width() - 16 - painter.fontMetrics().horizontalAdvance(self._legend) - 34
            pen = QPen(theme.INK3, 1.2)
            pen.setDashPattern([4, 3])
            painter.setPen(pen)
            painter.drawLine(int(x), 16, int(x) + 26, 16)


def quiet_plot() -> pg.PlotWidget:
    """A plot in the application's own style, which nobody drags or zooms."""
    plot = pg.PlotWidget(background=theme.STAGE)
    item = plot.getPlotItem()
    item.hideButtons()
    item.setMenuEnabled(False)
    plot.setMouseEnabled(x=False, y=False)
    plot.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    item.layout.setContentsMargins(8, 2, 16, 2)
    for name in ("left", "bottom"):
        axis = item.getAxis(name)
        axis.setStyle(tickFont=theme.figures(11), tickLength=0)
        axis.setPen(pg.mkPen(None))
        axis.setTextPen(theme.INK3)
    item.getAxis("left").setWidth(AXIS_WIDTH)
    item.showGrid(x=False, y=True, alpha=0.10)
    return plot


class PlanChart(QWidget):
    """A chart over the frames of the shot, in step with the reel strip's axis; frames : it has their numbers below."""

    def __init__(self, session: Session, title: str, parent: QWidget | None = None, frames: bool = False) -> None:
        super().__init__(parent)
        self._session = session
        self.title = ChartTitle(title, self)
        self.plot = quiet_plot()
        item = self.plot.getPlotItem()
        item.getAxis("left").setStyle(tickTextOffset=8)
        item.getAxis("bottom").setStyle(tickLength=3, tickTextOffset=3)
        item.getAxis("bottom").setPen(pg.mkPen(theme.NEUTRAL_RULE))
        item.getAxis("bottom").setHeight(24 if frames else 6)
        item.getAxis("bottom").setStyle(showValues=frames)
        self.head = pg.InfiniteLine(session.playhead.frame + 0.5, pen=pg.mkPen(theme.INK, width=1))
        self.head.setZValue(20)
        item.addItem(self.head, ignoreBounds=True)
        self._items: list[object] = []
        self.ghost: ShotPlan | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.title)
        column.addWidget(self.plot, 1)

    def set_frame(self, frame: int) -> None:
        """Move the playhead."""
        self.head.setPos(frame + 0.5)

    def _clear(self) -> None:
        for thing in self._items:
            self.plot.removeItem(thing)
        self._items = []

    def _add(self, thing, z: int = 0):
        thing.setZValue(z)
        self.plot.addItem(thing, ignoreBounds=True)
        self._items.append(thing)
        return thing

    def _ghost_line(self, values: Callable[[ShotPlan], np.ndarray]) -> None:
        """Draw another plan of the shot dashed, where there is one."""
        ghost = self.ghost
        if ghost is not None:
            edges, tops = binned(ghost, values(ghost).astype(np.float64))
            self._add(pg.PlotCurveItem(edges, tops, stepMode="center", pen=pg.mkPen(theme.INK, width=1.4, style=Qt.PenStyle.DashLine)), 6)

    def _label(self, text: str, x: float, y: float, anchor: tuple[float, float], colour: QColor = theme.INK2) -> None:
        label = pg.TextItem(text, color=colour, anchor=anchor)
        label.setFont(theme.words(12))
        label.setPos(x, y)
        self._add(label, 10)

    def _frame_range(self, plan: ShotPlan, top: float) -> None:
        first, last = int(plan.frames[0]), int(plan.frames[-1])
        self.plot.setXRange(first, last + plan.shot.step, padding=0)
        self.plot.setYRange(0, top, padding=0)
        step = max(1, int(10 ** np.floor(np.log10(max(1, (last - first) / 6)))))
        step = next(step * m for m in (1, 2, 5, 10) if (last - first) / (step * m) <= 9)
        ticks = [f for f in range(-(-first // step) * step, last + 1, step) if abs(f - first) > step / 2 and abs(f - last) > step / 2]
        self.plot.getPlotItem().getAxis("bottom").setTicks([[(f + 0.5, str(f)) for f in (first, *ticks, last)]])


def binned(plan: ShotPlan, values: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Step edges and values for a chart; of each bin the largest value, so that no peak is lost."""
    count = len(values)
    edges = np.unique(np.linspace(0, count, min(count, BINS) + 1).astype(np.int64))
    return plan.frames[0] + edges * plan.shot.step, np.maximum.reduceat(values, edges[:-1])


class SamplesChart(PlanChart):
    """Samples per pixel, planned, between floor and ceiling; a frame is pinned by dragging, let go by a double click."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(session, "Samples per pixel, planned", parent)
        self._plan: ShotPlan | None = None
        self._drag: tuple[int, int] | None = None
        self.plot.viewport().installEventFilter(self)
        self.plot.setToolTip("Drag a frame up or down to pin its samples; a double click on a pin lets it go")

    def eventFilter(self, watched, event) -> bool:
        kind = event.type()
        if self._plan is None or kind not in (QEvent.Type.MouseButtonPress, QEvent.Type.MouseMove, QEvent.Type.MouseButtonRelease,
                                               QEvent.Type.MouseButtonDblClick):  # fmt: skip
            return super().eventFilter(watched, event)
        at = self.plot.getPlotItem().vb.mapSceneToView(self.plot.mapToScene(event.position().toPoint()))
        frame = self._plan.shot.nearest(int(np.floor(at.x())))
        if kind == QEvent.Type.MouseButtonDblClick:
            self._drag = None
            if frame in self._session.shot.pins:
                self._session.set_pin(frame, None)
        elif kind == QEvent.Type.MouseButtonPress and event.button() == Qt.MouseButton.LeftButton:
            self._drag = frame, 0
            self._session.playhead.show_frame(frame)
        elif kind == QEvent.Type.MouseMove and self._drag is not None:
            steps = self._plan.recipe.sample_step
            samples = max(steps, round(max(1.0, at.y()) / steps) * steps)
            self._drag = self._drag[0], min(samples, 65536)
            self._ghost.setText(f"pin {self._drag[0]} to {self._drag[1]}")
            self._ghost.setPos(self._drag[0] + 0.5, self._drag[1])
            self._ghost.show()
        elif kind == QEvent.Type.MouseButtonRelease and self._drag is not None:
            frame, samples = self._drag
            self._drag = None
            self._ghost.hide()
            if samples:
                self._session.set_pin(frame, samples)
        return True

    def show_plan(self, plan: ShotPlan | None) -> None:
        """Draw a plan, or nothing."""
        self._clear()
        self._plan = plan
        if plan is None:
            self.title.set_legend("")
            return
        self._ghost = pg.TextItem("", color=theme.INK, anchor=(0.5, 1.1), fill=theme.SHELL)
        self._ghost.setFont(theme.words(12, 700))
        self._add(self._ghost, 15)
        self._ghost.hide()
        if pins := self._session.shot.pins:
            marks = pg.ScatterPlotItem([f + 0.5 for f in pins], list(pins.values()), symbol="d", size=11)
            marks.setBrush(pg.mkBrush(theme.INK))
            marks.setPen(pg.mkPen(theme.STAGE, width=1))
            self._add(marks, 12)
        edges, tops = binned(plan, plan.samples.astype(np.float64))
        floor, ceiling = plan.recipe.samples_floor, plan.recipe.samples_ceiling
        peak = float(plan.samples.max())
        peak = peak if self.ghost is None else max(peak, float(self.ghost.samples.max()))
        top = peak * (1.3 if self.height() > 120 else 1.9)  # room for the figure on the peak
        if ceiling <= peak * 1.6:
            top = max(top, ceiling * 1.10)
        first, last = edges[0], edges[-1]
        flat = plan.flat_samples
        self._frame_range(plan, top)
        fill = QColor(theme.LAGOON)
        fill.setAlphaF(0.16)
        self._add(pg.PlotCurveItem(edges, tops, stepMode="center", fillLevel=0, brush=fill, pen=None), 1)
        self._add(pg.PlotCurveItem(edges, tops, stepMode="center", pen=pg.mkPen(theme.LAGOON, width=2)), 3)
        self._band(first, last, 0, floor)
        self._label(f"floor {floor}", last, 0, (1, 1))
        if ceiling <= top:
            self._band(first, last, ceiling, top)
            self._line(first, last, ceiling)
            self._label(f"ceiling {ceiling}", last, ceiling, (1, 0) if top - ceiling < peak * 0.05 else (1, 1))
        self._ghost_line(lambda p: p.samples)
        if self.ghost is not None:
            self.title.set_legend(GHOST)
        elif plan.samples.min() < plan.samples.max():
            pen = pg.mkPen(theme.INK3, width=1.2, style=Qt.PenStyle.DashLine)
            self._add(pg.PlotCurveItem([first, last], [flat, flat], pen=pen), 4)
            self.title.set_legend(f"flat {flat:.0f}, same time")
        else:
            self.title.set_legend("")
        for k in (int(plan.samples.argmax()), int(plan.samples.argmin())) if self.ghost is None else ():
            frame, value = int(plan.frames[k]), int(plan.samples[k])
            side = 0.0 if k < len(plan.samples) * 0.06 else 1.0 if k > len(plan.samples) * 0.94 else 0.5
            self._label(str(value), frame + 0.5, value, (side, 1.0), theme.INK)

    def _band(self, first: float, last: float, low: float, high: float) -> None:
        band = pg.QtWidgets.QGraphicsRectItem(QRectF(first, low, last - first, high - low))
        band.setPen(pg.mkPen(None))
        band.setBrush(theme.MAT_RULE)
        band.setOpacity(0.35)
        self._add(band, 0)

    def _line(self, first: float, last: float, value: float) -> None:
        self._add(pg.PlotCurveItem([first, last], [value, value], pen=pg.mkPen(theme.INK2, width=1)), 4)


class NoiseChart(PlanChart):
    """The noise the plan comes to, against flat samples."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(session, "Predicted noise after finishing, linear light", parent)

    def show_plan(self, plan: ShotPlan | None) -> None:
        """Draw a plan, or nothing."""
        self._clear()
        if plan is None:
            self.title.set_legend("")
            return
        x = plan.frames + 0.5
        flat = plan.flat_noise
        hold = plan.shot.hold
        target = hold.value if hold.kind == "noise" else None
        top = max(float(plan.noise.max()), float(flat.max()), target or 0) * 1.4
        self._frame_range(plan, top)
        pen = pg.mkPen(theme.INK3, width=1.2, style=Qt.PenStyle.DashLine)
        self._add(pg.PlotCurveItem(x, flat, pen=pen), 2)
        self._add(pg.PlotCurveItem(x, plan.noise, pen=pg.mkPen(theme.LAGOON, width=2)), 3)
        self.title.set_legend(f"flat {plan.flat_samples:.0f} would reach {flat.max():.4f}")
        if target is not None and target <= top:
            ends = [plan.frames[0], plan.frames[-1] + plan.shot.step]
            self._add(pg.PlotCurveItem(ends, [target, target], pen=pg.mkPen(theme.INK, width=1)), 4)
            below = plan.noise[0] > target  # the curve runs above the line there
            self._label(f"at most {target:.4g}", ends[0], target, (0, 0 if below else 1), theme.INK)


class SeenChart(PlanChart):
    """Seen flicker of the finished frames, with the band in which it falls nine times in ten."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(session, "Viewers who see its noise, %", parent, frames=True)

    def show_plan(self, plan: ShotPlan | None) -> None:
        """Draw a plan, or nothing."""
        self._clear()
        if plan is None:
            self.title.set_legend("")
            return
        low, high = (percent_who_see(seen) for seen in plan.seen_band)
        limit = 100.0 * seen_by(plan.eyes.limit)
        other = 0.0 if self.ghost is None else float(percent_who_see(self.ghost.seen_flicker).max())
        self._frame_range(plan, min(105.0, max(float(high.max()), limit, other) * 1.25))
        self._ghost_line(lambda p: percent_who_see(p.seen_flicker))
        edges, tops = binned(plan, high)
        _, lows = binned(plan, low)
        fill = QColor(theme.LAGOON)
        fill.setAlphaF(0.16)
        above = self._add(pg.PlotCurveItem(edges[:-1] + 0.5, tops, pen=None), 1)
        below = self._add(pg.PlotCurveItem(edges[:-1] + 0.5, lows, pen=None), 1)
        self._add(pg.FillBetweenItem(below, above, brush=fill), 1)
        self._add(pg.PlotCurveItem(plan.frames + 0.5, percent_who_see(plan.seen_flicker), pen=pg.mkPen(theme.LAGOON, width=2)), 3)
        sparks = percent_who_see(plan.seen_sparks)
        if self.ghost is not None:
            self.title.set_legend(GHOST)
        elif sparks.max() > 0:
            pen = pg.mkPen(theme.INK3, width=1.2, style=Qt.PenStyle.DashLine)
            self._add(pg.PlotCurveItem(plan.frames + 0.5, sparks, pen=pen), 2)
            self.title.set_legend(f"sparks alone; the band holds nine in ten; at most {who_sees(plan.eyes.limit)} may see it, the line")
        ends = [plan.frames[0], plan.frames[-1] + plan.shot.step]
        self._add(pg.PlotCurveItem(ends, [limit, limit], pen=pg.mkPen(theme.INK, width=1)), 4)
