"""Proofs: choose test frames, see the picture grow, keep it as evidence, learn from it."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QHideEvent, QImage, QKeyEvent, QPainter, QPaintEvent, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.caption import Caption, thin_bar
from hasty_reel.desk.clip import clip_menu, enlarged
from hasty_reel.desk.fields import PickButton
from hasty_reel.desk.follow import follow
from hasty_reel.desk.picture import PictureView, as_image, image_of
from hasty_reel.desk.stages.proofs.findings import FindingsPage
from hasty_reel.desk.stages.proofs.firststeps import FirstSteps
from hasty_reel.desk.stages.proofs.orderbar import OrderBar
from hasty_reel.desk.stages.proofs.plot import TradeOffs
from hasty_reel.desk.stages.proofs.queue import QueuePage
from hasty_reel.desk.stages.proofs.sheet import SheetPage
from hasty_reel.desk.standing import StageSentence
from hasty_reel.desk.tabs import TabbedPages
from hasty_reel.studio.pictures import Wanted, of_file
from hasty_reel.studio.session import Session
from hasty_reel.studio.standing import proofs_words

PAGES = ("Sheet", "Trade-offs", "Findings", "Queue")
QUEUE = 3
SIDE = 408


class ProofsStage(QWidget):
    """Order bar, growing picture, and beside it sheet, plot, findings, queue."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.first = FirstSteps(session, self)
        self.order_bar = OrderBar(session, self)
        self.bar = thin_bar()
        self.view = PictureView(self)
        self.caption = Caption(self)
        self.sheet_page = SheetPage(session, self)
        self.sheet = self.sheet_page.sheet
        self.plot = TradeOffs(session, self)
        self.findings = FindingsPage(session, self)
        self.queue_page = QueuePage(session, self)
        pages = (self.sheet_page, self.plot, self.findings, self.queue_page)
        self.beside = TabbedPages(list(zip(PAGES, pages)), SIDE, self)
        self.show_page = self.beside.show_page
        self.tabs = self.beside.choices
        self._lay_out()
        self.sheet.picked.connect(self._pick)
        self.plot.picked.connect(self._pick)
        self.findings.ordered.connect(lambda: self.show_page(QUEUE))
        follow(self, session.on_view.changed, self._look)
        follow(self, session.pictures.came, self._came)
        follow(self, session.proofs.grown, self._grown)
        follow(self, session.proofs.changed, self._queue_changed)
        follow(self, session.rough_pass.drawn, self._pass_drawn)
        follow(self, session.rough_pass.changed, self._pass_changed)
        self.show_page(0)
        self._queue_changed()
        self._look()

    def _lay_out(self) -> None:
        session = self._session
        left = QVBoxLayout()
        left.setSpacing(0)
        left.addWidget(self.view, 1)
        self.clip = PickButton(lambda: clip_menu(self, session, f"{session.playhead.shot_id}-rough-pass", self.clip_frames), self)
        self.clip.show_value("Write clip")
        self.clip.setToolTip("The pass as it plays here, as a small film or as pictures")
        self.clip.hide()
        under = QHBoxLayout()
        under.setContentsMargins(0, 0, 0, 0)
        under.setSpacing(0)
        under.addWidget(self.caption, 1)
        under.addWidget(self.clip)
        left.addLayout(under)
        body = QHBoxLayout()
        body.setSpacing(0)
        body.addLayout(left, 1)
        body.addWidget(self.beside)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(StageSentence(session, proofs_words, (session.trust.changed,), self))
        column.addWidget(self.first)
        column.addWidget(self.order_bar)
        column.addWidget(self.bar)
        column.addLayout(body, 1)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.STAGE)
        top = self.order_bar.geometry().bottom()
        painter.fillRect(self.rect().adjusted(self.width() - SIDE, top, 0, 0), theme.MAT)

    def ask_for(self, frame: int) -> None:
        """Put one frame into the order."""
        self._session.playhead.show_frame(frame)
        self._session.request.choose((frame,))

    # -- the queue

    def _queue_changed(self) -> None:
        work = self._session.proofs
        self.bar.setVisible(work.busy)
        self.bar.setValue(round(work.share * 1000))
        tab = self.tabs[QUEUE]
        tab.setText(f"Queue {work.left}" if work.left else "Queue")
        tab.updateGeometry()

    def _grown(self, frame: int | float, codes: np.ndarray) -> None:
        if self._session.rough_pass.shown:
            return  # it plays by itself
        self.view.show_image(as_image(codes))
        self.caption.say(f"Frame {frame}, rendering", "")

    def _pass_drawn(self) -> None:
        rough = self._session.rough_pass
        codes = rough.picture
        if codes is not None and rough.shown and self.isVisible():
            self.view.show_image(as_image(codes))
            self.caption.say(rough.words, "Space plays, a card leaves it")

    def clip_frames(self) -> list[tuple[QImage, list[str]]]:
        """The pass as it plays, frame by frame."""
        return [(enlarged(as_image(codes)), lines) for codes, lines in self._session.rough_pass.clip]

    def _pass_changed(self) -> None:
        self.clip.setVisible(self._session.rough_pass.shown and self._session.rough_pass.picture is not None)
        if self._session.rough_pass.shown:
            self._pass_drawn()
        else:
            self._look()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space and self._session.rough_pass.shown:
            self._session.rough_pass.toggle()
        else:
            super().keyPressEvent(event)

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._session.rough_pass.watch(False)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._session.rough_pass.watch(True)

    # -- looking

    def _pick(self, proof_id: str) -> None:
        self._session.rough_pass.close()
        self._session.on_view.pick(proof_id)
        self._session.request.vary(self._session.on_view.picked)

    def _came(self, wanted: Wanted) -> None:
        row = self._session.on_view.row
        if row is not None and wanted == of_file(row.picture):
            self._look()

    def _look(self) -> None:
        session = self._session
        if session.proofs.busy or session.rough_pass.shown:
            return
        row = session.on_view.row
        self.sheet.set_shown(row.proof if row else None)
        if row is None:
            self.view.show_image(None, session.on_view.empty_words)
            self.caption.say("", "")
            return
        self.caption.say(*session.on_view.words(row, session.playhead.frame))
        shown = session.pictures.get(of_file(row.picture))
        if shown is not None:
            self.view.show_image(image_of(shown))
