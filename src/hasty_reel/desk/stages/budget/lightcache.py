"""Where light caches belong by how fast the view changes, and where they are."""

from __future__ import annotations

import numpy as np
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PlainButton, text_field
from hasty_reel.desk.follow import follow
from hasty_reel.desk.plotting import pg
from hasty_reel.desk.rows import field_row
from hasty_reel.desk.stages.budget.charts import PlanChart
from hasty_reel.desk.stages.budget.watched import WatchedPage, sentences
from hasty_reel.studio.budget.lightcaches import LightCacheModel
from hasty_reel.studio.budget.motionsize import MotionSizeModel
from hasty_reel.studio.session import Session


class FreshChart(PlanChart):
    """What came together since the last cache, frame by frame: as the caches are, and dashed as they would be."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(session, "Change since the last cache, % of what takes one", parent, frames=True)

    def show_placing(self, model: LightCacheModel) -> None:
        """Draw it."""
        self._clear()
        plan, placing = self._session.plan, model.placing
        if placing is None or plan is None or len(plan.frames) != len(placing.frames):
            return
        rows = [(list(placing.placed), theme.INK2, True)] + ([(model.owners, theme.LAGOON, False)] if model.on else [])
        tops = []
        for owners, colour, dashed in rows:
            owns = np.isin(placing.frames, owners)
            since = 100.0 * placing.since(owners)
            tops.append(float(since.max()))
            pen = pg.mkPen(colour, width=1.4, dash=[4, 3]) if dashed else pg.mkPen(colour, width=2)
            edges = np.append(placing.frames, placing.frames[-1] + plan.shot.step).astype(float)
            self._add(pg.PlotCurveItem(edges, since, stepMode="center", pen=pen), 4 if dashed else 3)
            dots = pg.ScatterPlotItem(placing.frames[owns] + 0.5, np.zeros(int(owns.sum())), size=7, pen=pg.mkPen(colour), symbol="t1")
            dots.setBrush(pg.mkBrush(None if dashed else colour))
            self._add(dots, 5)
        self._frame_range(plan, max(100.0, *tops) * 1.2)
        ends = [plan.frames[0], plan.frames[-1] + plan.shot.step]
        self._add(pg.PlotCurveItem(ends, [100.0, 100.0], pen=pg.mkPen(theme.INK, width=1)), 2)
        self.title.set_legend("placed by the view")


class LightCachePage(WatchedPage):
    """What there is, what placing comes to, what it risks; the chart below."""

    def __init__(self, session: Session, motion: MotionSizeModel) -> None:
        model = LightCacheModel(session, motion)
        super().__init__(model)
        self.model, self._session = model, session
        self.words, self.offer, self.risk = QLabel(""), QLabel(""), QLabel("")
        sentences(self.words, self.offer, self.risk)
        self.share = text_field(self, 64, "Share of the picture that may be new", model.type_share, "%")
        self.place = PlainButton("Place by the view", model.place, parent=self)
        self.place.setToolTip("A light cache on each of the frames marked below, instead of on every so many.")
        self.by_step = PlainButton("Back to the step", model.by_step, parent=self)
        self.chart = FreshChart(session, self)
        row = field_row("New from one to the next, at most", self.share, None, self.by_step, self.place)
        row.setContentsMargins(16, 0, 16, 0)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 14, 0, 0)
        column.setSpacing(8)
        for label in (self.words, self.offer, self.risk):
            column.addWidget(label)
        column.addLayout(row)
        column.addSpacing(8)
        column.addWidget(self.chart, 1)
        for signal in (model.changed, session.reel_changed, session.planner.plan_changed):
            follow(self, signal, self._refresh)
        follow(self, session.playhead.frame_changed, self.chart.set_frame)
        self._refresh()

    def _show(self) -> None:
        model = self.model
        for label, text in ((self.words, model.words), (self.offer, model.offer), (self.risk, model.risk)):
            label.setText(text)
            label.setVisible(bool(text))
        self.share.show_value(f"{100 * model.share:g}")
        self.place.setVisible(model.on and model.placing is not None and not model.stands)
        self.by_step.setVisible(model.placed)
        self.chart.show_placing(model)
