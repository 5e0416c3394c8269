"""How sure the plan is: the held-back check in a sentence and over the frames of the shot, and memory."""

from __future__ import annotations

import numpy as np
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.follow import follow
from hasty_reel.desk.plotting import pg
from hasty_reel.desk.stages.budget.charts import PlanChart
from hasty_reel.desk.trust import EDGE, TrustBar
from hasty_reel.plan.frames.memory import memory_words
from hasty_reel.plan.heldback import HeldFrame
from hasty_reel.studio.session import Session

NEAR = 10.0
"""Percent that are shaded as near."""
MOST_PERCENT = 100.0 * EDGE


class HeldChart(PlanChart):
    """How far from what was measured each held-back frame was predicted, where it lies in the shot."""

    def __init__(self, session: Session, name: str, title: str, parent: QWidget | None = None, frames: bool = False) -> None:
        super().__init__(session, title, parent, frames)
        self._name = name
        self.dots: list[dict] = []
        self.plot.setToolTip(
            "Predicted / measured. Round: single frames. Square: frames of a run. Hollow: outside of the band, or of the axis."
        )

    def show_held(self, held: tuple[HeldFrame, ...]) -> None:
        """Draw a check."""
        self._clear()
        plan = self._session.plan
        if plan is None:
            return
        self._frame_range(plan, MOST_PERCENT)
        self.plot.setYRange(-MOST_PERCENT * 1.1, MOST_PERCENT * 1.1, padding=0)
        self.plot.getPlotItem().getAxis("left").setTicks([[(-2 * NEAR, f"−{2 * NEAR:.0f} %"), (0, "0"), (2 * NEAR, f"+{2 * NEAR:.0f} %")]])
        band = pg.LinearRegionItem((-NEAR, NEAR), "horizontal", pg.mkBrush(theme.MAT_RULE), pg.mkPen(None), movable=False)
        self._add(band, -5)
        told = [f for f in held if np.isfinite(getattr(f, self._name)) and getattr(f, self._name) > 0]
        self.dots = []
        for frame in told:
            off = 100.0 * (getattr(frame, self._name) - 1.0)
            outside = self._name == "seconds" and not frame.inside
            colour = theme.CORAL if outside else theme.LAGOON
            self.dots.append(
                {
                    "pos": (frame.frame + 0.5, float(np.clip(off, -MOST_PERCENT, MOST_PERCENT))),
                    "symbol": "s" if frame.run else "o",
                    "pen": pg.mkPen(colour, width=1.4),
                    "brush": pg.mkBrush(None) if outside or abs(off) > MOST_PERCENT else pg.mkBrush(colour),
                }
            )
        self._add(pg.ScatterPlotItem(self.dots, size=8, pxMode=True), 8)
        if not told:
            self._label("not measured on any frame that was held back", float(plan.frames[0]) + 0.5, 0.0, (0.0, 0.5))


class SurePage(QWidget):
    """The check, its frames, and the memory that the shot takes."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.trust = TrustBar(session, True, self)
        self.charts = (
            HeldChart(session, "seconds", "Seconds, predicted against measured", self),
            HeldChart(session, "noise", "Noise", self),
            HeldChart(session, "seen", "Seen flicker", self, frames=True),
        )
        self.memory = QLabel("", self)
        self.memory.setWordWrap(True)
        self.memory.setFont(theme.words(13))
        self.memory.setContentsMargins(16, 8, 16, 0)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 12, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.trust)
        for chart in self.charts:
            column.addWidget(chart, 1)
            follow(self, session.playhead.frame_changed, chart.set_frame)
        column.addWidget(self.memory)
        for signal in (session.trust.changed, session.planner.plan_changed):
            follow(self, signal, self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the frames of the check, and what memory the plan takes."""
        session = self._session
        if self.isVisible():
            for chart in self.charts:
                chart.show_held(session.trust.known.held.frames)
            words = "" if session.plan is None else memory_words(session.reel, session.plan, session.evidence.proofs)
            self.memory.setText(words or "Memory: no proof tells how much a frame takes; renderers that are started by a command do.")

    def showEvent(self, event) -> None:
        super().showEvent(event)
        self._session.trust.watch(True)
        self.refresh()

    def hideEvent(self, event) -> None:
        super().hideEvent(event)
        self._session.trust.watch(False)
