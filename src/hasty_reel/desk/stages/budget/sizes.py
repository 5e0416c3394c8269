"""The sizes a shot can be rendered at: at equal seen flicker, and in equal time; a click takes one."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QLabel, QMenu, QVBoxLayout

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton
from hasty_reel.desk.follow import follow
from hasty_reel.desk.menus import choice_menu
from hasty_reel.desk.rows import field_row
from hasty_reel.desk.rowtable import RowTable
from hasty_reel.desk.stages.budget.charts import SamplesChart
from hasty_reel.desk.stages.budget.watched import WatchedPage
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.studio.budget.motionsize import MotionSizeModel
from hasty_reel.studio.session import Session
from hasty_reel.viewers import who_sees

PAIRS = (50.0, 75.0, 125.0, 150.0)
"""Sizes that are offered for a proof against the delivered one, in percent."""


class SizesTable(RowTable):
    """Rows of render scales. pointed : the plan with the one that is pointed at, or None."""

    pointed = Signal(object)

    def __init__(self, session: Session, model: MotionSizeModel) -> None:
        heads = (
            ("rendered", 720), ("hours, as calm", 590), ("samples", 500), ("samples, same time", 360), ("seen by", 260),
            ("sharp", 185), ("shimmer", 100), ("look ± L*", 16),
        )  # fmt: skip
        super().__init__("Render scales", heads, self._paint_row, self._picked, self._point_at)
        self._session, self._model = session, model
        self.setToolTip(
            "As calm: hours and samples at the seen flicker of the plan as it stands.\n"
            "Same time: samples with which it takes as long as now, and what is seen then.\n"
            "Sharp, shimmer: contrast of edges, and unrest besides noise, against the delivered size, where a pair of proofs tells.\n"
            "Look: what changes besides noise, by the pair, else what enlarging loses.\nClick to render at that scale."
        )
        follow(self, model.changed, self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show what was found."""
        self.pointed.emit(None)
        found = self._model.found
        self.set_rows(
            0 if found is None else len(found.sizes), "Planning the sizes …" if self._session.plan is not None else "No plan yet."
        )

    def _paint_row(self, painter: QPainter, k: int, box: QRectF) -> None:
        assert self._model.found is not None
        row = self._model.found.sizes[k]
        if row.now:
            painter.fillRect(box.adjusted(-8, 0, 8, 0), theme.RAISED)
        painter.setFont(theme.words(13, 700 if row.now else 500))
        painter.setPen(theme.OFF if self._model.stale else theme.INK)
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, f"{row.scale:g} %")
        hours = row.seconds / self._session.reel.frame_speed / 3600.0
        cells = (
            f"{row.width}×{row.height}", f"{hours:.2f}", f"{row.samples:.0f}", f"{row.same_time:.0f}" if row.same_time > 0 else "none",
            who_sees(row.seen) if row.same_time > 0 else "", _percent(row.sharpness), _percent(row.shimmer),
            "–" if row.loss is None else f"{row.loss:.1f}",
        )  # fmt: skip
        self.paint_cells(painter, box, cells)

    def _point_at(self, k: int) -> None:
        found = self._model.found
        self.pointed.emit(None if found is None or not 0 <= k < len(found.sizes) else found.sizes[k].plan)

    def _picked(self, k: int) -> None:
        if self._model.found is not None and not self._model.stale:
            self._model.take_size(self._model.found.sizes[k])


def _percent(share: float | None) -> str:
    return "–" if share is None else f"{100 * share:.0f} %"


class SizePage(WatchedPage):
    """The sizes, an equal-time trade in words, and below them the plan with the one that is pointed at."""

    def __init__(self, session: Session, model: MotionSizeModel) -> None:
        super().__init__(model)
        self.model, self._session = model, session
        self.trade = QLabel("")
        self.trade.setFont(theme.words(13, 600))
        self.trade.setContentsMargins(16, 0, 16, 0)
        self.sizes = SizesTable(session, model)
        self.sizes.pointed.connect(self._preview)
        self.chart = SamplesChart(session, self)
        self.prove = PickButton(self.pair_menu, self)
        self.prove.show_value("Prove a pair of sizes")
        self.prove.setToolTip("Three frames about this one at the delivered size and at another: what size does to sharpness and shimmer.")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        head = field_row(self.trade, None, self.prove)
        head.setContentsMargins(0, 8, 16, 0)
        column.addLayout(head)
        column.addWidget(self.sizes)
        column.addWidget(self.chart, 1)
        follow(self, session.playhead.frame_changed, self.chart.set_frame)
        for signal in (model.changed, session.planner.plan_changed):
            follow(self, signal, self._refresh)
        self._refresh()

    def pair_menu(self) -> QMenu:
        """The sizes that can be proven against the delivered one, with what each takes."""
        return choice_menu(self, [(s, self.model.pair_words(s)) for s in PAIRS], None, self.model.prove_pair)

    def _show(self) -> None:
        self.trade.setText(self.model.trade)
        self._preview(None)

    def _preview(self, plan: ShotPlan | None) -> None:
        self.chart.ghost = plan
        self.chart.show_plan(self._session.plan)
