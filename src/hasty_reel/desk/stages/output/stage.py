"""Output: what finished frames are handed over as, and whether they are whole."""

from __future__ import annotations

from datetime import datetime

from PySide6.QtCore import QUrl, Signal
from PySide6.QtGui import QDesktopServices, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.asking import ask_target
from hasty_reel.desk.fields import PlainButton
from hasty_reel.desk.stages.output.checkpage import CheckPage
from hasty_reel.desk.stages.output.handover import HandOverPage
from hasty_reel.desk.tabs import TabbedPages
from hasty_reel.studio.output.foldercheck import CheckModel
from hasty_reel.studio.output.outputs import OutputsModel
from hasty_reel.studio.output.reportfile import write_report
from hasty_reel.studio.session import Session


class OutputStage(QWidget):
    """Hand-over and folder check as pages; a report of the reel beside them. run_wanted : the person goes on to Run"""

    run_wanted = Signal()

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.outputs, self.checks = OutputsModel(session, session.final), CheckModel(session, session.final)
        self.hand, self.check = HandOverPage(self.outputs), CheckPage(self.checks)
        self.check.wanted.connect(self.run_wanted)
        self.pages = TabbedPages([("Hand-over", self.hand), ("Folder check", self.check)], None, self)
        self.pages.show_page(0)
        self.report = PlainButton("Write report", self._report, parent=self)
        self.report.setToolTip("One HTML page that stands by itself: plan and run with graphs, settings and pictures.")
        head = QLabel("Finished frames of the shot, checked and handed over")
        head.setFont(theme.words(17, 700))
        row = QHBoxLayout()
        row.setContentsMargins(16, 12, 16, 2)
        row.addWidget(head, 1)
        row.addWidget(self.report)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(row)
        column.addWidget(self.pages, 1)

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.STAGE)

    def showEvent(self, event) -> None:
        super().showEvent(event)
        self._session.final.look()

    def _report(self) -> None:
        session = self._session
        start = session.path.with_name(f"{session.path.stem}-report.html")
        target = ask_target(self, "Write the report as", start, {".html": "Pages"})
        if target is None:
            return
        task = write_report(session, target, datetime.now().astimezone())
        task.done.connect(lambda path: QDesktopServices.openUrl(QUrl.fromLocalFile(str(path))))
        task.failed.connect(session.said)
