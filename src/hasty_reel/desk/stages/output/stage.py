"""Output: what finished frames are handed over as, and whether they are whole."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from functools import partial
from pathlib import Path

from PySide6.QtCore import QUrl, Signal
from PySide6.QtGui import QDesktopServices, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.asking import ask_target
from hasty_reel.desk.fields import PlainButton
from hasty_reel.desk.stages.output.checkpage import CheckPage
from hasty_reel.desk.stages.output.handover import HandOverPage
from hasty_reel.desk.tabs import TabbedPages
from hasty_reel.studio.background import BackgroundTask
from hasty_reel.studio.output.foldercheck import CheckModel
from hasty_reel.studio.output.outputs import OutputsModel
from hasty_reel.studio.output.reportfile import write_report, write_sheet
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
        self.report.setToolTip("One HTML page that stands by itself, or a PDF: plan and run with graphs, settings and pictures.")
        self.sheet = PlainButton("Contact sheet", self._sheet, parent=self)
        self.sheet.setToolTip("Finished frames of the shot as small pictures with their numbers, on one picture.")
        head = QLabel("Finished frames of the shot, checked and handed over")
        head.setFont(theme.words(17, 700))
        row = QHBoxLayout()
        row.setContentsMargins(16, 12, 16, 2)
        row.addWidget(head, 1)
        row.setSpacing(8)
        row.addWidget(self.sheet)
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
        path = self._session.path
        start = path.with_name(f"{path.stem}-report.html")
        self._write("Write the report as", start, {".html": "Pages", ".pdf": "PDF"}, partial(write_report, now=datetime.now().astimezone()))

    def _sheet(self) -> None:
        start = self._session.path.with_name(f"{self._session.playhead.shot_id}-contact.png")
        self._write("Write the contact sheet as", start, {".png": "Pictures", ".jpg": "Pictures"}, write_sheet)

    def _write(self, title: str, start: Path, kinds: dict[str, str], act: Callable[[Session, Path], BackgroundTask]) -> None:
        target = ask_target(self, title, start, kinds)
        if target is not None:
            task = act(self._session, target)
            task.done.connect(lambda path: QDesktopServices.openUrl(QUrl.fromLocalFile(str(path))))
            task.failed.connect(self._session.said)
