"""All shots of the reel: where its hours go, and how each plays; a click looks at one."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PlainButton
from hasty_reel.desk.follow import follow
from hasty_reel.desk.rowtable import ROW, RowTable
from hasty_reel.studio.budget.reelbundle import ReelBundleModel
from hasty_reel.studio.budget.shottable import ShotRow, raised, shot_rows
from hasty_reel.studio.session import Session
from hasty_reel.viewers import who_sees


class ShotsTable(RowTable):
    """The shots of the reel: where its hours go, and how each plays."""

    def __init__(self, session: Session) -> None:
        heads = (("frames", 560), ("samples", 440), ("hours", 290), ("first", 225), ("ready, 9 in 10", 105), ("seen by", 16))
        super().__init__("All shots", heads, self._paint_row, self._picked)
        self._session = session
        self.rows: list[ShotRow] = []
        self.setToolTip("Click a shot to plan it")
        for signal in (session.planner.plan_changed, session.reel_changed, session.playhead.shot_changed):
            follow(self, signal, self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the shots as they are planned."""
        self.rows = shot_rows(self._session)
        self.set_rows(len(self.rows), "")

    def _paint_row(self, painter: QPainter, k: int, box: QRectF) -> None:
        row, stale = self.rows[k], self._session.planner.stale
        here = row.shot == self._session.playhead.shot_id
        if here:
            painter.fillRect(box.adjusted(-8, 0, 8, 0), theme.RAISED)
        painter.setFont(theme.words(13, 700 if here else 500))
        painter.setPen(theme.OFF if stale else theme.INK)
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, f"{row.shot}  {row.name}".strip())
        if not row.shot:
            painter.drawLine(box.topLeft(), box.topRight())
        if row.why:
            painter.setPen(theme.INK3)
            painter.drawText(box.adjusted(220, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, row.why)
            return
        painter.fillRect(QRectF(box.right() - 410, box.top() + 8, 70 * row.share, ROW - 16), theme.OFF if stale else theme.NEUTRAL_STRONG)
        first = f"{row.priority:+d}" if row.priority else ""
        cells = f"{row.frames}", row.samples, f"{row.seconds / 3600:.2f}", first, row.ready, who_sees(row.seen)
        self.paint_cells(painter, box, cells, coral=4 if row.late else -1 if row.clean else 5)

    def _picked(self, k: int) -> None:
        if self.rows[k].shot:
            self._session.playhead.show_shot(self.rows[k].shot)


class ReelPage(QWidget):
    """The table, and below it what would have all shots clean and in time for the least change of look."""

    def __init__(self, session: Session, table: ShotsTable) -> None:
        super().__init__()
        self.model = model = ReelBundleModel(session)
        self.words = QLabel("")
        self.words.setWordWrap(True)
        self.words.setFont(theme.words(13))
        self.weigh = PlainButton("Weigh all shots", model.find, parent=self)
        self.weigh.setToolTip("Of what proofs tried: a bundle for each shot, so that all are calm in time and lose least of the look")
        self.take = PlainButton("Use for all shots", model.take, parent=self)
        self.sooner = PlainButton("Render sooner", lambda: raised(session, session.playhead.shot_id, 1), parent=self)
        self.later = PlainButton("Later", lambda: raised(session, session.playhead.shot_id, -1), parent=self)
        for button in (self.sooner, self.later):
            button.setToolTip("Shots of a higher priority are rendered before the others; the film stays as it is.")
        row = QHBoxLayout()
        row.setContentsMargins(16, 8, 16, 8)
        row.setSpacing(12)
        row.addWidget(self.sooner)
        row.addWidget(self.later)
        row.addWidget(self.weigh)
        row.addWidget(self.take)
        row.addWidget(self.words, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(table)
        column.addLayout(row)
        self.helps = QLabel("")
        self.helps.setFont(theme.words(13))
        self.helps.setContentsMargins(16, 6, 16, 0)
        column.addWidget(self.helps)
        column.addStretch(1)
        follow(self, model.changed, self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show what was found."""
        self.words.setText(self.model.words)
        self.helps.setText("\n".join(["What would have it ready sooner:", *(h.told for h in self.model.helps)]) if self.model.helps else "")
        self.weigh.setEnabled(not self.model.looking)
        self.take.setVisible(self.model.found is not None)
