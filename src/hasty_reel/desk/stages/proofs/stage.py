"""Proofs: choose test frames, see the picture grow, keep it as evidence, learn from it."""

from __future__ import annotations

import numpy as np
from PySide6.QtGui import QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.caption import Caption, thin_bar
from hasty_reel.desk.fields import Choice
from hasty_reel.desk.jobs import Job
from hasty_reel.desk.picture import PictureView, as_image
from hasty_reel.desk.session import Session
from hasty_reel.desk.stages.proofs.found import FoundPage
from hasty_reel.desk.stages.proofs.orderbar import OrderBar
from hasty_reel.desk.stages.proofs.plot import TradeOffs
from hasty_reel.desk.stages.proofs.queue import QueuePage
from hasty_reel.desk.stages.proofs.sheet import SheetPage
from hasty_reel.desk.thumbs import Thumbnails
from hasty_reel.evidence.rows import ProofFrame
from hasty_reel.farm.door import renderer_of
from hasty_reel.farm.forecast import order_seconds
from hasty_reel.farm.proofs import Order, make_proof
from hasty_reel.farm.queue import Entry
from hasty_reel.pictures.colour import codes8
from hasty_reel.pictures.frame import read_picture
from hasty_reel.reel.recipe import Recipe

KEPT_PICTURES = 48
PAGES = ("Sheet", "Trade-offs", "Found", "Queue")
SIDE = 408


class ProofsStage(QWidget):
    """Order bar, growing picture, and beside it sheet, plot, findings, queue."""

    def __init__(self, session: Session, thumbs: Thumbnails, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._job: Job | None = None
        self._asked: str | None = None
        self._pinned: str | None = None
        self._images: dict[str, QImage] = {}
        self.order_bar = OrderBar(session, self)
        self.bar = thin_bar()
        self.view = PictureView(self)
        self.caption = Caption(self)
        self.sheet_page = SheetPage(session, thumbs, self)
        self.sheet = self.sheet_page.sheet
        self.plot = TradeOffs(session, self)
        self.found = FoundPage(session, self)
        self.queue_page = QueuePage(session, self)
        self.pages = QStackedWidget(self)
        for page in (self.sheet_page, self.plot, self.found, self.queue_page):
            self.pages.addWidget(page)
        self.tabs = [Choice(name, self) for name in PAGES]
        self._lay_out()
        self.order_bar.ordered.connect(self.enqueue)
        self.sheet.picked.connect(self._show_proof)
        self.plot.picked.connect(self._show_proof)
        session.wanted_proof.connect(self._wanted)
        session.evidence_changed.connect(self._evidence)
        session.cards_changed.connect(self._cards)
        session.frame_changed.connect(self._frame)
        session.selection_changed.connect(self._selection)
        session.shot_changed.connect(self._shot)
        session.queue_changed.connect(self._queue_changed)
        session.preparing.connect(self.order_bar.refresh)
        self.show_page(0)
        self._shot()
        self._selection()

    def _lay_out(self) -> None:
        tabs = QHBoxLayout()
        tabs.setContentsMargins(12, 6, 8, 0)
        tabs.setSpacing(12)
        for k, tab in enumerate(self.tabs):
            tab.clicked.connect(lambda _=False, k=k: self.show_page(k))
            tabs.addWidget(tab)
        tabs.addStretch(1)
        side = QWidget(self)
        side.setFixedWidth(SIDE)
        beside = QVBoxLayout(side)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.setSpacing(0)
        beside.addLayout(tabs)
        beside.addWidget(self.pages, 1)
        left = QVBoxLayout()
        left.setSpacing(0)
        left.addWidget(self.view, 1)
        left.addWidget(self.caption)
        body = QHBoxLayout()
        body.setSpacing(0)
        body.addLayout(left, 1)
        body.addWidget(side)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.order_bar)
        column.addWidget(self.bar)
        column.addLayout(body, 1)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.STAGE)
        painter.fillRect(self.rect().adjusted(self.width() - SIDE, self.order_bar.height(), 0, 0), theme.MAT)

    def show_page(self, index: int) -> None:
        """Show sheet, trade-offs, findings or queue."""
        self.pages.setCurrentIndex(index)
        for k, tab in enumerate(self.tabs):
            tab.setChecked(k == index)

    # -- ordering

    def ask_for(self, frame: int) -> None:
        """Put one frame into the order."""
        self._session.show_frame(frame)
        self.order_bar.choose((frame,))

    def enqueue(self, orders: list[Order]) -> None:
        """Put orders into the queue and work it off."""
        session = self._session
        for order in orders:
            plan = session.outlook.plans.get(order.shot.id)
            session.queue.add(order, None if plan is None else order_seconds([order], plan, session.reel.picture_size))
        self._session.queue_changed.emit()
        if self._job is None:
            self._begin()

    def _begin(self) -> None:
        session = self._session
        reel, root, queue, link = session.reel, session.proofs_root, session.queue, session.links.current
        renderer = renderer_of(link)

        def work(job: Job) -> None:
            def make(entry: Entry, tell) -> str:
                def show(frame: int | float, rgb: np.ndarray) -> None:
                    job.send(("picture", frame, codes8(rgb)))

                def wait(words: str) -> None:
                    tell(0.0, words)
                    entry.cancel.check()

                try:
                    session.wait_until_prepared(wait)
                    proof = make_proof(reel, root, entry.order, tell, entry.cancel, show, renderer, entry.faults.__setitem__)
                finally:
                    job.send(("ended", 0, None))
                return proof.id

            def notify(entry: Entry) -> None:
                job.tell(entry.share, entry.words)

            queue.work(make, notify, job.cancel)

        self._job = job = session.jobs.start(work)
        self._pinned = None
        job.progressed.connect(self._progress)
        job.came.connect(self._came)
        job.failed.connect(session.said)
        job.ended.connect(self._ended)
        self.bar.setValue(0)
        self.bar.show()
        session.queue_changed.emit()

    def cancel(self) -> None:
        """Stop everything at once; what is finished stays."""
        self._session.queue.cancel_all()
        self._session.queue_changed.emit()

    @property
    def busy(self) -> bool:
        """Whether proofs are being rendered."""
        return self._job is not None

    def _progress(self, share: float, words: str) -> None:
        self.bar.setValue(round(share * 1000))
        self._session.queue_changed.emit()

    def _came(self, thing: tuple[str, int | float, np.ndarray | None]) -> None:
        what, frame, codes = thing
        if what == "picture" and codes is not None:
            self.view.show_image(as_image(codes))
            self.caption.say(f"Frame {frame}, rendering", "")
            return
        self._session.queue_changed.emit()
        for entry in self._session.queue.entries:
            if entry.ended and entry.faults and not getattr(entry, "told", False):
                entry.told = True  # type: ignore[attr-defined]
                self._session.said.emit(f"Proof of {entry.order.shot.id}: {entry.words} The rest goes on.")
        self._session.read_evidence()

    def _ended(self) -> None:
        self._job = None
        self.bar.hide()
        failed = [e for e in self._session.queue.entries if e.state == "failed" and not getattr(e, "told", False)]
        for entry in failed:
            entry.told = True  # type: ignore[attr-defined]
            self._session.said.emit(f"Proof of {entry.order.shot.id}: {entry.words}")
        self._session.queue_changed.emit()
        self._session.read_evidence()
        if self._session.queue.waiting:
            self._begin()

    def _queue_changed(self) -> None:
        waiting = sum(1 for e in self._session.queue.entries if not e.ended)
        tab = self.tabs[3]
        tab.setText(f"Queue {waiting}" if waiting else "Queue")
        tab.updateGeometry()
        self.order_bar.refresh()

    def _wanted(self, recipe: Recipe) -> None:
        """A proof that tells two changes apart: rendered like the first one, with one of them alone."""
        evidence = self._session.shot_evidence.without(self._session.shot.put_away)
        if not evidence.frames:
            return
        row = evidence.frames[0]
        first = next(p for p in evidence.proofs if p.id == row.proof)
        scale = 100.0 * first.width / self._session.reel.picture_size[0]
        self.enqueue([Order(self._session.shot, recipe, (row.frame,), first.samples, scale, parent=first.id)])
        self.show_page(3)

    # -- looking

    def _shot(self) -> None:
        self._pinned = None
        self.order_bar.other_shot()
        self._evidence()

    def _evidence(self) -> None:
        self._cards()
        self.order_bar.refresh()
        self._look()

    def _cards(self) -> None:
        self.sheet_page.refresh()
        self.plot.changed()
        self.found.refresh()

    def _frame(self, frame: int) -> None:
        self.order_bar.follow(frame)
        self._look()

    def _selection(self) -> None:
        if self._session.selection is not None:
            self.order_bar.choose(tuple(range(self._session.selection[0], self._session.selection[1] + 1)))

    def _show_proof(self, proof_id: str) -> None:
        self._pinned = None if self._pinned == proof_id else proof_id
        self.order_bar.vary(self._pinned or "")
        rows = [r for r in self._session.shot_evidence.frames if r.proof == proof_id]
        if self._pinned and rows:
            nearest = min(rows, key=lambda r: abs(r.frame - self._session.frame))
            self._session.show_frame(int(nearest.frame))
        self._look()

    def _look(self) -> None:
        if self._job is not None:
            return
        evidence = self._session.shot_evidence
        rows = [r for r in evidence.frames if r.proof == self._pinned] if self._pinned else []
        row: ProofFrame | None
        if rows:
            row = min(rows, key=lambda r: abs(r.frame - self._session.frame))
        else:
            row = evidence.without(self._session.shot.put_away).newest(self._session.frame)
        self.sheet.set_shown(row.proof if row else None)
        if row is None:
            empty = "No proof of this shot yet. Choose frames above and render one: seconds, noise and the plan follow from it."
            self.view.show_image(None, empty if self._session.evidence else "Reading the proofs …")
            self.caption.say("", "")
            return
        self._say(row)
        key = str(row.picture)
        self._asked = key
        if key in self._images:
            self.view.show_image(self._images[key])
            return
        path = row.picture
        job = self._session.jobs.start(lambda job: (str(path), as_image(codes8(read_picture(path).rgb))))
        job.done.connect(self._loaded)
        job.failed.connect(self._session.said)

    def _loaded(self, thing: tuple[str, QImage]) -> None:
        key, image = thing
        while len(self._images) >= KEPT_PICTURES:
            self._images.pop(next(iter(self._images)))
        self._images[key] = image
        if key == self._asked and self._job is None:
            self.view.show_image(image)

    def _say(self, row: ProofFrame) -> None:
        away = "" if row.frame == self._session.frame else f", nearest to {self._session.frame}"
        noise = f"noise {row.noise_linear:.4f} ({row.noise_L:.1f} L*)" if np.isfinite(row.noise_linear) else "one seed, noise not measured"
        self.caption.say(f"Proof {row.proof}, frame {row.frame}{away}", f"{row.samples} samples, {row.seconds:.2f} s, {noise}")
