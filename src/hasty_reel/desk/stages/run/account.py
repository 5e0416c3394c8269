"""The account of the night: what was done, what failed and why, each machine, and what follows from it."""

from __future__ import annotations

import math

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PlainButton
from hasty_reel.desk.follow import follow
from hasty_reel.desk.rowtable import RowTable
from hasty_reel.reel.durations import spoken
from hasty_reel.reel.frames import write_frames
from hasty_reel.studio.run.final import FinalFrames
from hasty_reel.studio.run.morning import MorningModel
from hasty_reel.studio.session import Session

MOST_SENTENCES, MOST_OBJECTS = 12, 12


class AccountPage(QWidget):
    """Sentences, a row for each machine, and buttons for what is to be done now."""

    def __init__(self, session: Session, final: FinalFrames, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.final, self.model = final, MorningModel(session, final)
        self.words = QLabel("")
        self.words.setFont(theme.words(14))
        self.words.setWordWrap(True)
        self.words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.words.setContentsMargins(16, 14, 16, 8)
        self.machines = RowTable(
            "Machines", (("frames", 440), ("hours", 320), ("real / planned", 180), ("tried again", 16)), self._paint_row, lambda k: None
        )
        self.objects = RowTable(
            "What takes time and memory", (("share", 440), ("hours", 320), ("MB at most", 180)), self._paint_object, lambda k: None
        )
        self.again = PlainButton("", final.set_aside, parent=self)
        self.again.setToolTip("Choose these frames: 'Go on' renders them.")
        self.pace = PlainButton("", self.model.take_pace, parent=self)
        self.pace.setToolTip("What is planned from now on counts with the speed that this machine had.")
        self.keep = PlainButton("Keep the times as a proof", self.model.keep, parent=self)
        self.keep.setToolTip("What the frames really took becomes evidence: the plan counts with it, frame by frame.")
        self.measure = PlainButton("Measure flicker", self.model.measure, parent=self)
        self.measure.setToolTip("Measure seen flicker of the finished frames, and hold it against the plan.")
        self.found = QLabel("")
        self.found.setFont(theme.words(13, 600))
        self.found.setWordWrap(True)
        self.found.setContentsMargins(16, 0, 16, 8)
        buttons = QHBoxLayout()
        buttons.setContentsMargins(16, 8, 16, 8)
        buttons.setSpacing(8)
        for button in (self.again, self.measure, self.keep, self.pace):
            buttons.addWidget(button)
        buttons.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.words)
        column.addWidget(self.machines)
        column.addWidget(self.objects)
        column.addLayout(buttons)
        column.addWidget(self.found)
        column.addStretch(1)
        follow(self, self.model.changed, self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the account as it is on disk."""
        found = self.final.account
        told = found.words
        more = [f"… and {len(told) - MOST_SENTENCES} more."] if len(told) > MOST_SENTENCES else []
        nothing = (
            "The run is under way; its account stands here when it ends."
            if self.final.busy
            else "No run has rendered into this folder yet."
        )
        self.words.setText("\n".join(told[:MOST_SENTENCES] + more) or nothing)
        self.machines.setVisible(bool(found.machines))
        self.machines.set_rows(len(found.machines), "")
        self.objects.setVisible(bool(found.objects))
        self.objects.set_rows(min(len(found.objects), MOST_OBJECTS), "")
        self.again.setVisible(bool(found.again) and not self.final.busy)
        self.again.setText(f"Choose {write_frames(found.again)}"[:60] if found.again else "")
        for button in (self.keep, self.measure):
            button.setVisible(self.model.may or self.model.busy)
            button.setEnabled(self.model.may)
        self.found.setText(self.model.words)
        told_pace = not math.isnan(found.pace) and not self.final.busy
        self.pace.setVisible(told_pace)
        self.pace.setText(f"Plan with the pace of this run ({found.pace:.2f} of the plan)" if told_pace else "")

    def _paint_object(self, painter: QPainter, k: int, box: QRectF) -> None:
        row = self.final.account.objects[k]
        painter.setFont(theme.words(13))
        painter.setPen(theme.INK)
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, row.name)
        share, hours = (f"{100 * row.share:.0f} %", f"{row.seconds / 3600:.2f}") if row.seconds > 0 else ("", "")
        self.objects.paint_cells(painter, box, (share, hours, f"{row.memory_bytes / 2**20:.1f}" if row.memory_bytes > 0 else ""))

    def _paint_row(self, painter: QPainter, k: int, box: QRectF) -> None:
        row = self.final.account.machines[k]
        painter.setFont(theme.words(13))
        painter.setPen(theme.INK)
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, row.name)
        pace = "" if math.isnan(row.pace) else f"{row.pace:.2f}"
        self.machines.paint_cells(painter, box, (f"{row.frames}", spoken(row.seconds), pace, f"{row.retried}"))
