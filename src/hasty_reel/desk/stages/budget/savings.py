"""What buys the most time: single changes with the hours they buy and what they cost in look; a click makes one."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QFontMetrics, QPainter
from PySide6.QtWidgets import QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.follow import follow
from hasty_reel.desk.rowtable import ROW, RowTable
from hasty_reel.desk.stages.budget.charts import SamplesChart, SeenChart
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.studio.budget.alternatives import AlternativesModel
from hasty_reel.studio.session import Session


class SavingsTable(RowTable):
    """Rows of changes, what buys most first. pointed : the plan with the change that is pointed at, or None."""

    pointed = Signal(object)

    def __init__(self, session: Session, model: AlternativesModel) -> None:
        super().__init__(
            "What buys the most time",
            (("buys, h", 230), ("nine times in ten", 110), ("look ± L*", 16)),
            self._paint_row,
            self._picked,
            self._pointed,
        )
        self._model = model
        self.setToolTip(
            "Hours over the shot at equal seen flicker. Look: what it changes besides noise, root mean square.\nClick to make it."
        )
        follow(self, model.changed, self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show what was found."""
        self.pointed.emit(None)
        self.set_rows(len(self._model.savings), "Nothing that proofs tried buys time at equal seen flicker.")

    def _paint_row(self, painter: QPainter, k: int, box: QRectF) -> None:
        saving, hours = self._model.savings[k], self._model.hours
        most = max(s.seconds for s in self._model.savings)
        bar = QRectF(box.right() - 470, box.top() + 8, 120 * saving.seconds / most, ROW - 16)
        painter.fillRect(bar, theme.OFF if self._model.stale else theme.LAGOON)
        painter.setFont(theme.words(13, 600))
        painter.setPen(theme.OFF if self._model.stale else theme.INK)
        fits = QFontMetrics(painter.font()).elidedText(saving.words, Qt.TextElideMode.ElideRight, int(box.width()) - 490)
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, fits)
        cells = (f"{hours(saving.seconds):.2f}", f"{hours(saving.low):.2f} to {hours(saving.high):.2f}", f"{saving.loss:+.1f}")
        self.paint_cells(painter, box, cells)

    def _pointed(self, k: int) -> None:
        self.pointed.emit(self._model.savings[k].plan if 0 <= k < len(self._model.savings) else None)

    def _picked(self, k: int) -> None:
        if not self._model.stale:
            self._model.change(self._model.savings[k])


class SavingsPage(QWidget):
    """The table, and below it the plan with the change that is pointed at, dashed."""

    def __init__(self, session: Session, model: AlternativesModel) -> None:
        super().__init__()
        self._session = session
        self.table = SavingsTable(session, model)
        self.charts = SamplesChart(session, self), SeenChart(session, self)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.table)
        column.addStretch(1)
        for chart in self.charts:
            column.addWidget(chart, 4)
            follow(self, session.playhead.frame_changed, chart.set_frame)
        self.table.pointed.connect(self.preview)
        for signal in (session.planner.plan_changed, session.trial.changed):
            follow(self, signal, lambda: self.preview(None))

    def preview(self, plan: ShotPlan | None) -> None:
        """Draw the plan, and another one dashed; None: the one that stands while settings are tried."""
        if self.isVisible():
            for chart in self.charts:
                chart.ghost = self._session.trial.stands if plan is None else plan
                chart.show_plan(self._session.plan)

    def showEvent(self, event) -> None:
        super().showEvent(event)
        self.preview(None)
