"""The end of a run as it was told on the way: a fan that narrows."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.plotting import pg
from hasty_reel.desk.stages.budget.charts import ChartTitle, quiet_plot
from hasty_reel.studio.run.record import RunRecord


class FanChart(QWidget):
    """Across: time since it began. Up: when all is ready, by then, with the band in which it falls eight times in ten."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.title = ChartTitle("All ready after, as it was told on the way", self)
        self.plot = quiet_plot()
        self._items: list[object] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.title)
        column.addWidget(self.plot, 1)

    def show_record(self, record: RunRecord | None) -> None:
        """Draw what was told so far."""
        for thing in self._items:
            self.plot.removeItem(thing)
        self._items = []
        self.title.set_legend("")
        if record is None or len(record.told) < 2:
            return
        told = record.told
        at = np.array([t.at for t in told])
        unit, name = (
            (3600.0, "h") if at[-1] + told[-1].left.middle > 5400 else (60.0, "min") if at[-1] + told[-1].left.middle > 90 else (1.0, "s")
        )
        middle, low, high = (np.array([t.at + getattr(t.left, f) for t in told]) / unit for f in ("middle", "low", "high"))
        x = at / unit
        planned = max(s.end for s in record.planned_spans) / unit if record.planned else 0.0
        fill = QColor(theme.LAGOON)
        fill.setAlphaF(0.18)
        below, above = (pg.PlotCurveItem(x, v, pen=None) for v in (low, high))
        line = pg.PlotCurveItem(x, middle, pen=pg.mkPen(theme.LAGOON, width=2))
        plan = pg.PlotCurveItem(
            [0, max(x[-1], middle[-1])], [planned, planned], pen=pg.mkPen(theme.INK3, width=1.2, style=Qt.PenStyle.DashLine)
        )
        for thing in (below, above, pg.FillBetweenItem(below, above, brush=fill), plan, line):
            self.plot.addItem(thing, ignoreBounds=True)
            self._items.append(thing)
        self.plot.setXRange(0, max(x[-1], middle[-1], planned), padding=0)
        least, most = min(float(low.min()), planned), max(float(high.max()), planned)
        self.plot.setYRange(max(0.0, least - 0.2 * (most - least)), most + 0.2 * (most - least), padding=0)
        self.title.set_legend(f"in {name}; as planned")
