"""The sizes a shot can be rendered at: at equal seen flicker, in equal time, with the same samples; a click takes one."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QVBoxLayout

from hasty_reel.desk import theme
from hasty_reel.desk.fields import Choice, PickButton
from hasty_reel.desk.follow import follow
from hasty_reel.desk.menus import choice_menu
from hasty_reel.desk.rowtable import RowTable
from hasty_reel.desk.stages.budget.charts import SamplesChart
from hasty_reel.desk.stages.budget.watched import WatchedPage
from hasty_reel.plan.compare.sizes import SizeRow
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.studio.budget.motionsize import BASES, MotionSizeModel
from hasty_reel.studio.session import Session
from hasty_reel.viewers import who_sees

PAIRS = (50.0, 75.0, 125.0, 150.0)
"""Sizes that are offered for a proof against the delivered one, in percent."""


class SizesTable(RowTable):
    """Rows of render scales. pointed : the plan with the one that is pointed at, or None."""

    pointed = Signal(object)

    def __init__(self, session: Session, model: MotionSizeModel) -> None:
        heads = (
            ("rendered", 800), ("samples", 690), ("hours", 580), ("hours saved", 450), ("seen by", 310),
            ("sharp", 205), ("shimmer", 110), ("look ± L*", 16),
        )  # fmt: skip
        super().__init__("Render scales", heads, self._paint_row, self._picked, self._point_at)
        self._session, self._model = session, model
        self.setToolTip(
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
        samples, seconds, seen = self._model.at_basis(row)
        # sizes are planned against each other: where a total is held the plan's own hours are those for any size
        whole = next((r.seconds for r in self._model.found.sizes if r.now), seconds)
        speed = self._session.reel.frame_speed * 3600.0
        hours, saved = seconds / speed, (whole - seconds) / speed
        none = samples <= 0
        cells = (
            f"{row.width}×{row.height}", "none" if none else f"{samples:.0f}", "" if none else f"{hours:.2f}",
            "" if none or abs(saved) < 0.005 else f"{saved:+.2f}", "" if none else who_sees(seen), _percent(row.sharpness),
            _percent(row.shimmer), "–" if row.loss is None else f"{row.loss:.1f}",
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
    """The sizes, an equal-time trade in words, and below them the plan with the one that is pointed at.

    compare_wanted : a proven pair of sizes is to be seen in Compare
    """

    compare_wanted = Signal()

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
        self.play = PickButton(self.play_menu, self)
        self.play.show_value("Play a pair")
        self.play.setToolTip("The loops of the delivered size and of a proven one side by side, in Compare")
        self.bases = {basis: Choice(text, self) for basis, text, _ in BASES}
        bases = QHBoxLayout()
        bases.setContentsMargins(16, 8, 16, 0)
        bases.setSpacing(12)
        for basis, _, tip in BASES:
            self.bases[basis].setToolTip(tip)
            self.bases[basis].clicked.connect(partial(model.compare_by, basis))
            bases.addWidget(self.bases[basis])
        bases.addStretch(1)
        bases.addWidget(self.play)
        bases.addWidget(self.prove)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(bases)
        column.addSpacing(6)
        column.addWidget(self.trade)
        column.addWidget(self.sizes)
        column.addWidget(self.chart, 1)
        follow(self, session.playhead.frame_changed, self.chart.set_frame)
        for signal in (model.changed, session.planner.plan_changed):
            follow(self, signal, self._refresh)
        self._refresh()

    def pair_menu(self) -> QMenu:
        """The sizes that can be proven against the delivered one, with what each takes."""
        return choice_menu(self, [(s, self.model.pair_words(s)) for s in PAIRS], None, self.model.prove_pair)

    def play_menu(self) -> QMenu:
        """The proven sizes, whose loops can be seen beside that of the delivered size."""
        found = self.model.found
        rows = [row for row in found.sizes if row.pair is not None] if found is not None else []
        return choice_menu(self, [(row, f"{row.scale:g} % against 100 %") for row in rows], None, self._play)

    def _play(self, row: SizeRow) -> None:
        if self.model.play_pair(row):
            self.compare_wanted.emit()

    def _show(self) -> None:
        for basis, choice in self.bases.items():
            choice.setChecked(basis == self.model.basis)
        found = self.model.found
        self.play.setEnabled(found is not None and any(row.pair is not None for row in found.sizes))
        self.trade.setText(self.model.trade)
        self._preview(None)

    def _preview(self, plan: ShotPlan | None) -> None:
        self.chart.ghost = plan
        self.chart.show_plan(self._session.plan)
