"""Motion blur with the gaps that the steps of the shutter leave in it, and the steps that close them."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PlainButton, text_field
from hasty_reel.desk.follow import follow
from hasty_reel.desk.plotting import pg
from hasty_reel.desk.rows import field_row
from hasty_reel.desk.stages.budget.charts import PlanChart
from hasty_reel.desk.stages.budget.watched import WatchedPage, sentences
from hasty_reel.plan.frames.shutter import Shutter, strobed_line
from hasty_reel.studio.budget.motionsize import MotionSizeModel
from hasty_reel.studio.session import Session

WIDEST = 160
"""Delivered pixels of the picture of a blur: of a longer one the beginning is shown."""
HELD = 8.0
"""Grey of the picture where the line is not, in codes of 255 above black."""


class BlurPicture(QWidget):
    """A bright line of one pixel as the open shutter sees it in the fastest frame: with the steps there are, and with those it takes."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._rows: list[tuple[str, np.ndarray]] = []
        self.setFixedHeight(72)
        self.setAccessibleName("A thin bright line as the open shutter sees it in the fastest frame")
        self.setToolTip("A bright line of one pixel in the fastest frame, pixel by pixel; each row as bright as it can be.")

    def show_shutter(self, shutter: Shutter | None, needed: int) -> None:
        """Draw the blur of the fastest frame."""
        self._rows = []
        if shutter is not None:
            blur = min(float(shutter.blur.max()), WIDEST - 8.0)
            pixels = int(np.ceil(blur)) + 8
            share = blur / max(1e-9, float(shutter.blur.max()))
            for words, steps in (("as planned", shutter.steps), ("without gaps", needed)):
                name = f"{words}, {steps} steps" if steps else f"{words}, random times"
                self._rows.append((name, strobed_line(blur, max(1, round(steps * share)) if steps else 0, pixels)))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        left = theme.PLOT_LEFT + 120.0
        for k, (name, light) in enumerate(self._rows):
            y = 6.0 + 34.0 * k
            painter.setFont(theme.words(12))
            painter.setPen(theme.INK2)
            painter.drawText(QRectF(16, y, left - 24, 24), Qt.AlignmentFlag.AlignVCenter, name)
            cell = min(10.0, (self.width() - left - 16) / len(light))
            codes = HELD + (255.0 - HELD) * (light / light.max()) ** (1.0 / 2.2)
            for p, code in enumerate(codes):
                painter.fillRect(QRectF(left + p * cell, y, cell + 0.5, 24), QColor.fromRgb(*[round(code)] * 3))


class GapChart(PlanChart):
    """The gaps that the steps leave in the blur, frame by frame."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(session, "Gaps between the steps of the shutter, delivered pixels", parent, frames=True)

    def show_gaps(self, shutter: Shutter | None, gap: float) -> None:
        """Draw them, and the longest that does not show."""
        self._clear()
        plan = self._session.plan
        if shutter is None or plan is None or len(plan.frames) != len(shutter.frames):
            return
        gaps = shutter.gaps
        self._frame_range(plan, max(float(gaps.max()), gap) * 1.3)
        self._add(pg.PlotCurveItem(shutter.frames + 0.5, gaps, pen=pg.mkPen(theme.LAGOON, width=2)), 3)
        ends = [plan.frames[0], plan.frames[-1] + plan.shot.step]
        self._add(pg.PlotCurveItem(ends, [gap, gap], pen=pg.mkPen(theme.INK, width=1)), 4)
        inside = [f + 0.5 for f in shutter.told if plan.frames[0] <= f <= plan.frames[-1]]
        dots = pg.ScatterPlotItem(inside, list(np.interp(inside, shutter.frames + 0.5, gaps)), size=6)
        dots.setBrush(pg.mkBrush(theme.INK2))
        dots.setPen(pg.mkPen(None))
        self._add(dots, 5)
        self.title.set_legend("")


class MotionPage(WatchedPage):
    """The blur in words and as it looks, the gaps over the frames, and what closes them."""

    def __init__(self, session: Session, model: MotionSizeModel) -> None:
        super().__init__(model)
        self.model, self._session = model, session
        self.words, self.product = QLabel(""), QLabel("")
        sentences(self.words, self.product)
        self.gap = text_field(self, 64, "Longest gap that does not show", model.type_gap, "px")
        self.take = PlainButton("", model.take_steps, parent=self)
        self.random = PlainButton("Random times", model.take_random, parent=self)
        self.random.setToolTip("Each sample at a time of its own: no gaps, but noise instead.")
        self.picture = BlurPicture(self)
        self.chart = GapChart(session, self)
        buttons = field_row("Gap that does not show", self.gap, None, self.random, self.take)
        buttons.setContentsMargins(16, 0, 16, 0)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 14, 0, 0)
        column.setSpacing(8)
        column.addWidget(self.words)
        column.addWidget(self.product)
        column.addLayout(buttons)
        column.addSpacing(8)
        column.addWidget(self.picture)
        column.addWidget(self.chart, 1)
        for signal in (model.changed, session.reel_changed, session.planner.plan_changed):
            follow(self, signal, self._refresh)
        follow(self, session.playhead.frame_changed, self.chart.set_frame)
        self._refresh()

    def _show(self) -> None:
        model = self.model
        shutter = None if model.found is None else model.found.shutter
        self.words.setText(model.words)
        self.product.setText("" if shutter is None else shutter.product)
        self.gap.show_value(f"{model.gap:g}")
        now = self._session.recipe.shutter_steps
        self.take.setVisible(bool(model.needed) and model.needed != now)
        self.take.setText(f"Set {model.needed} steps")
        self.random.setVisible(shutter is not None and now != 0)
        self.picture.show_shutter(shutter, model.needed)
        self.chart.show_gaps(shutter, model.gap)
