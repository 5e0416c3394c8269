"""Proofs: choose test frames, see the picture grow, keep it as evidence."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QProgressBar, QScrollArea, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PlainButton, ValueField, read_number
from hasty_reel.desk.jobs import Job
from hasty_reel.desk.picture import PictureView, as_image
from hasty_reel.desk.session import Session
from hasty_reel.desk.stages.sheet import ProofSheet
from hasty_reel.desk.thumbs import Thumbnails
from hasty_reel.errors import HastyReelError
from hasty_reel.farm.proofs import Order, make_proof
from hasty_reel.pictures.colour import codes8
from hasty_reel.pictures.frame import read_picture
from hasty_reel.predict.evidence import ProofFrame
from hasty_reel.reel.frames import read_frames, write_frames

RUN_LENGTH = 9
SPREAD = 9
KEPT_PICTURES = 48


def bar_style() -> str:
    """The look of a progress bar."""
    return (
        f"QProgressBar {{ background: {theme.WELL.name()}; border: 0; height: 6px; }}"
        f"QProgressBar::chunk {{ background: {theme.INK2.name()}; }}"
    )


class ProofsStage(QWidget):
    """Order row, growing picture, proof sheet."""

    def __init__(self, session: Session, thumbs: Thumbnails, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._thumbs = session, thumbs
        self._job: Job | None = None
        self._asked: str | None = None
        self._pinned: str | None = None
        self._shown: ProofFrame | None = None
        self._images: dict[str, QImage] = {}
        self._samples, self._scale = 16, 25.0
        self._frames_text = ""
        self._build()
        session.evidence_changed.connect(self._evidence)
        session.frame_changed.connect(self._frame)
        session.selection_changed.connect(self._selection)
        session.shot_changed.connect(self._shot)
        session.draft_changed.connect(self._refresh_order)
        self._shot()

    # -- widgets

    def _build(self) -> None:
        self.frames = ValueField("", self)
        self.frames.setFixedWidth(190)
        self.frames.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.frames.setAccessibleName("Frames to render")
        self.frames.setToolTip("Frames to render: 1001, 1010-1016, 1001-1096x12. Shift-drag on the reel strip selects too.")
        self.frames.committed.connect(self._typed_frames)
        self.samples = ValueField("", self)
        self.samples.setFixedWidth(52)
        self.samples.setAccessibleName("Samples of the proof")
        self.samples.setToolTip("Samples per pixel of each picture. Two seeds are rendered, so that noise can be measured.")
        self.samples.committed.connect(lambda text: self._typed_number(text, "samples"))
        self.scale = ValueField("%", self)
        self.scale.setFixedWidth(56)
        self.scale.setAccessibleName("Size of the proof")
        self.scale.setToolTip("Size of the proof in percent of the delivered width.")
        self.scale.committed.connect(lambda text: self._typed_number(text, "scale"))
        self.render_button = PlainButton("Render proof", self.render_proof, main=True)
        self.cancel_button = PlainButton("Cancel", self.cancel)
        self.cancel_button.hide()
        self.here = PlainButton("This frame", lambda: self._choose((self._session.frame,)))
        self.here.setToolTip("The frame under the playhead")
        self.run = PlainButton(f"Run of {RUN_LENGTH} here", self._choose_run)
        self.run.setToolTip("Consecutive frames around the playhead: they also show what denoising over time does")
        self.spread = PlainButton(f"{SPREAD} over the shot", self._choose_spread)
        self.spread.setToolTip("Frames spread evenly from the first to the last")
        order = QHBoxLayout()
        order.setContentsMargins(16, 12, 16, 4)
        order.setSpacing(6)
        for text, widget in (("Frames", self.frames), ("Samples", self.samples), ("Size", self.scale)):
            label = QLabel(text)
            label.setFont(theme.words(13))
            order.addWidget(label)
            order.addWidget(widget)
            order.addSpacing(12)
        order.addStretch(1)
        order.addWidget(self.cancel_button)
        order.addWidget(self.render_button)
        picks = QHBoxLayout()
        picks.setContentsMargins(12, 0, 16, 8)
        picks.setSpacing(2)
        for button in (self.here, self.run, self.spread):
            picks.addWidget(button)
        picks.addSpacing(12)
        self.note = QLabel("")
        self.note.setFont(theme.words(12))
        self.note.setStyleSheet(f"color: {theme.INK2.name()}")
        picks.addWidget(self.note, 1)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setRange(0, 1000)
        self.bar.setStyleSheet(bar_style())
        self.bar.setFixedHeight(6)
        self.bar.hide()
        self.view = PictureView(self)
        self.caption = Caption(self)
        self.sheet = ProofSheet(self._session, self._thumbs, self)
        self.sheet.chosen.connect(self._show_proof)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(self.sheet)
        scroll.setFixedWidth(316)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        left = QVBoxLayout()
        left.setSpacing(0)
        left.addWidget(self.view, 1)
        left.addWidget(self.caption)
        body = QHBoxLayout()
        body.setSpacing(0)
        body.addLayout(left, 1)
        body.addWidget(scroll)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(order)
        column.addLayout(picks)
        column.addWidget(self.bar)
        column.addLayout(body, 1)

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.STAGE)

    # -- the order

    def order(self) -> Order:
        """What would be rendered now.

        Raises
        ------
        WrongInput
            When the frames or numbers make no sense.
        """
        order = Order(self._session.shot, self._session.recipe, read_frames(self._frames_text), self._samples, self._scale).checked()
        return order.under(self._session.cuts.current).checked() if self._session.draft_on else order

    def ask_for(self, frame: int) -> None:
        """Put one frame into the order."""
        self._session.show_frame(frame)
        self._choose((frame,))

    def _choose(self, frames: tuple[int, ...]) -> None:
        self._frames_text = write_frames(frames)
        self._refresh_order()

    def _choose_run(self) -> None:
        shot = self._session.shot
        first = min(max(self._session.frame - RUN_LENGTH // 2, shot.begin), max(shot.begin, shot.past - RUN_LENGTH))
        self._choose(tuple(range(first, min(shot.past, first + RUN_LENGTH))))

    def _choose_spread(self) -> None:
        shot = self._session.shot
        self._choose(tuple(sorted({round(f) for f in np.linspace(shot.begin, shot.past - 1, SPREAD)})))

    def _typed_frames(self, text: str) -> None:
        try:
            read_frames(text)
        except HastyReelError as error:
            self._session.said.emit(str(error))
            return
        self._frames_text = text
        self._refresh_order()

    def _typed_number(self, text: str, name: str) -> None:
        try:
            value = read_number(text)
            assert value is not None
        except (ValueError, AssertionError):
            self._session.said.emit(f"Proof: {name} '{text}' is no number; expected {'1 to 65536' if name == 'samples' else '1 to 200 %'}.")
            return
        old = self._samples, self._scale
        if name == "samples":
            self._samples = int(value)
        else:
            self._scale = float(value)
        try:
            self.order()
        except HastyReelError as error:
            self._session.said.emit(str(error))
            self._samples, self._scale = old
        self._refresh_order()

    def _refresh_order(self) -> None:
        self.frames.show_value(self._frames_text)
        self.samples.show_value(str(self._samples))
        self.scale.show_value(f"{self._scale:g}")
        try:
            order = self.order()
        except HastyReelError:
            self.note.setText("")
            return
        pixels = float(np.prod(self._session.reel.picture_size)) * (order.scale / 100) ** 2
        words = f"{len(order.frames)} frame" + ("s" if len(order.frames) > 1 else "")
        words += ", two seeds each" if order.seeds == 2 else ", one seed each"
        if order.draft:
            words += f", under '{order.draft}': {order.samples} samples, {order.scale:g} %"
        plan = self._session.plan
        if plan is not None:
            k = np.array([plan.index(f) for f in order.frames])
            cost = plan.sample[k] / plan.samples[k] / (plan.width * plan.height)
            seconds = float(order.seeds * np.sum(plan.load[k] + cost * pixels * order.samples))
            words += f", about {seconds:.0f} s" if seconds >= 1.5 else ", a second or two"
        self.note.setText(words)

    # -- rendering

    def render_proof(self) -> None:
        """Render what is ordered; the picture grows while it does."""
        if self._job is not None:
            return
        try:
            order = self.order()
        except HastyReelError as error:
            self._session.said.emit(str(error))
            return
        reel, root = self._session.reel, self._session.proofs_root

        def work(job: Job) -> object:
            def show(frame: int, rgb: np.ndarray) -> None:
                job.send((frame, codes8(rgb)))

            return make_proof(reel, root, order, job.tell, job.cancel, show)

        self._job = job = self._session.jobs.start(work)
        self._pinned = None
        job.progressed.connect(self._progress)
        job.came.connect(self._grow)
        job.failed.connect(self._session.said)
        job.stopped.connect(lambda: self.note.setText("Cancelled; the finished frames are kept."))
        job.ended.connect(self._ended)
        self.bar.setValue(0)
        self.bar.show()
        self.cancel_button.show()
        self.render_button.setEnabled(False)

    def cancel(self) -> None:
        """Stop rendering at once; what is finished stays."""
        if self._job is not None:
            self._job.cancel.cancel()

    @property
    def busy(self) -> bool:
        """Whether a proof is being rendered."""
        return self._job is not None

    def _progress(self, share: float, words: str) -> None:
        self.bar.setValue(round(share * 1000))
        self.note.setText(words)

    def _grow(self, thing: tuple[int, np.ndarray]) -> None:
        frame, codes = thing
        self.view.show_image(as_image(codes))
        self.caption.say(f"Frame {frame}, rendering", "")

    def _ended(self) -> None:
        self._job = None
        self.bar.hide()
        self.cancel_button.hide()
        self.render_button.setEnabled(True)
        self._session.read_evidence()

    # -- looking

    def _shot(self) -> None:
        self._pinned = None
        self._frames_text = str(self._session.frame)
        self._refresh_order()
        self._evidence()

    def _evidence(self) -> None:
        self.sheet.refresh()
        self._refresh_order()
        self._look()

    def _frame(self, frame: int) -> None:
        if self._frames_text.isdigit():
            self._frames_text = str(frame)
        self._refresh_order()
        self._look()

    def _selection(self) -> None:
        if self._session.selection is not None:
            self._choose(tuple(range(self._session.selection[0], self._session.selection[1] + 1)))

    def _show_proof(self, proof_id: str) -> None:
        self._pinned = None if self._pinned == proof_id else proof_id
        rows = [r for r in self._session.shot_evidence.frames if r.proof == proof_id]
        if self._pinned and rows:
            nearest = min(rows, key=lambda r: abs(r.frame - self._session.frame))
            self._session.show_frame(nearest.frame)
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
            row = evidence.newest(self._session.frame)
        self.sheet.set_shown(row.proof if row else None)
        self._shown = row
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


class Caption(QWidget):
    """What the picture is, under it, in neutral grey."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._left, self._right = "", ""
        self.setFixedHeight(28)

    def say(self, left: str, right: str) -> None:
        """Words at both ends."""
        self._left, self._right = left, right
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.MAT)
        painter.setPen(theme.MAT_INK)
        painter.setFont(theme.words(13, 600))
        box = QRectF(self.rect()).adjusted(16, 0, -16, 0)
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, self._left)
        painter.setPen(theme.MAT_INK2)
        painter.setFont(theme.words(12))
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, self._right)
