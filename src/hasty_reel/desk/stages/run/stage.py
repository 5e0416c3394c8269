"""Run: the final frames by the plan, as a wall by state; then the film."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.caption import Caption, thin_bar
from hasty_reel.desk.fields import PlainButton, ValueField
from hasty_reel.desk.jobs import Job
from hasty_reel.desk.picture import PictureView, as_image
from hasty_reel.desk.session import Session
from hasty_reel.desk.stages.run.handover import HandOver
from hasty_reel.desk.stages.run.wall import FrameWall
from hasty_reel.errors import HastyReelError
from hasty_reel.farm.door import renderer_of
from hasty_reel.farm.folder import FAILED, FINISHED, OTHER, RENDERED, WAITING
from hasty_reel.farm.run import FrameEvent, Run
from hasty_reel.pictures.colour import codes8
from hasty_reel.pictures.frame import read_picture
from hasty_reel.reel.durations import spoken
from hasty_reel.reel.frames import read_frames, write_frames


class RunStage(QWidget):
    """Folder, frames, wall, picture, film. frames_changed(Path): other frames are finished in this folder."""

    frames_changed = Signal(object)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._job: Job | None = None
        self._run: Run | None = None
        self._looking: Job | None = None
        self._look_again = False
        self._confirmed = False
        self._frames_text = ""
        self._finished: tuple = (session.shot_id, None, frozenset())
        self._film_words = ""
        self.folder = self._usual_folder()
        self.hand = HandOver(session, self)
        self._build()
        session.shot_changed.connect(self._shot)
        session.path_changed.connect(self._moved)
        session.plan_changed.connect(self.look)
        session.selection_changed.connect(self._selection)
        session.frame_changed.connect(self._frame)
        session.draft_changed.connect(self._refresh)
        self.hand.stopped.connect(lambda: self._frame(session.frame))
        self.hand.player.showed.connect(self._film_frame)
        self.hand.player.rate.connect(lambda r: self.caption.say(self._film_words, f"{r:.1f} of {float(session.reel.fps):g} fps"))
        self._shot()
        if session.selection is not None:
            self._selection()

    def _build(self) -> None:
        self.folder_label = QLabel()
        self.folder_label.setFont(theme.words(13, 600))
        self.folder_label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.choose_button = PlainButton("Choose folder", self._choose_folder)
        self.frames = ValueField("", self)
        self.frames.setFixedWidth(150)
        self.frames.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.frames.setAccessibleName("Frames to run")
        self.frames.setToolTip("Frames to render; all of the shot unless you say otherwise. Shift-drag on the reel strip selects too.")
        self.frames.committed.connect(self._typed_frames)
        self.go_button = PlainButton("Render frames", self.go, main=True)
        self.stop_button = PlainButton("Stop", self.stop)
        self.stop_button.hide()
        first = QHBoxLayout()
        first.setContentsMargins(16, 12, 16, 4)
        first.setSpacing(8)
        for text, widget in (("Frames", self.frames), ("into", self.folder_label)):
            label = QLabel(text)
            label.setFont(theme.words(13))
            first.addWidget(label)
            first.addWidget(widget)
        first.addWidget(self.choose_button)
        first.addStretch(1)
        first.addWidget(self.stop_button)
        first.addWidget(self.go_button)
        self.note = QLabel("")
        self.note.setFont(theme.words(14, 700))
        self.note.setWordWrap(True)
        second = QHBoxLayout()
        second.setContentsMargins(16, 2, 16, 8)
        second.addWidget(self.note, 1)
        self.again_button = PlainButton("Render them again", self._confirm)
        self.again_button.hide()
        second.addWidget(self.again_button)
        self.bar = thin_bar()
        self.wall = FrameWall(self)
        self.wall.clicked.connect(self._session.show_frame)
        self.view = PictureView(self)
        self.caption = Caption(self)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(first)
        column.addLayout(second)
        column.addWidget(self.bar)
        column.addWidget(self.wall)
        column.addWidget(self.view, 1)
        column.addWidget(self.caption)
        column.addWidget(self.hand)

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.STAGE)

    # -- what and where

    @property
    def busy(self) -> bool:
        """Whether frames are being rendered."""
        return self._job is not None

    def _shot(self) -> None:
        shot = self._session.shot
        self._frames_text = write_frames(shot.frames)
        self.hand.player.stop()
        self._confirmed = False
        self.look()

    def _selection(self) -> None:
        if self._session.selection is not None:
            low, high = self._session.selection
            chosen = [f for f in self._session.shot.frames if low <= f <= high]
            self._frames_text = write_frames(chosen or [self._session.shot.nearest(low)])
        else:
            shot = self._session.shot
            self._frames_text = write_frames(shot.frames)
        self.look()

    def _typed_frames(self, text: str) -> None:
        shot = self._session.shot
        try:
            frames = read_frames(text) if text else tuple(shot.frames)
            outside = [f for f in frames if f not in shot.frames]
            if outside:
                raise HastyReelError(f"Frame {outside[0]} is not in {shot.id}; expected {write_frames(shot.frames)}.")
        except HastyReelError as error:
            self._session.said.emit(str(error))
            return
        self._frames_text = write_frames(frames)
        self.look()

    def _usual_folder(self) -> Path:
        """Where frames go unless another folder is chosen: beside the reel, or with the person while it has no name."""
        self._usual = Path.home() / "hasty-reel-frames" if self._session.untitled else self._session.path.parent / "frames"
        return self._usual

    def _moved(self) -> None:
        """The reel lies elsewhere now: its usual folder goes with it, a chosen one stays."""
        usual = self._usual
        if self.folder == usual and not self.busy and not usual.exists():
            self.set_folder(self._usual_folder())

    def _choose_folder(self) -> None:
        chosen = QFileDialog.getExistingDirectory(self, "Folder of the frames", str(self.folder.parent))
        if chosen:
            self.set_folder(Path(chosen))

    def set_folder(self, folder: Path) -> None:
        """Render into another folder."""
        self.folder = folder
        self._confirmed = False
        self.look()

    def look(self) -> None:
        """Look into the folder beside the window's thread: which frames are there, in which state."""
        self.frames.show_value(self._frames_text)
        name = str(self.folder)
        self.folder_label.setText(f"…/{self.folder.parent.name}/{self.folder.name}"[-46:])
        self.folder_label.setToolTip(name)
        plan = self._session.plan
        if self.busy:
            return
        if self._looking is not None:
            self._look_again = True
            return
        if plan is None:
            self._run = None
            self.wall.show_states({}, {})
            self._refresh()
            return
        reel, folder, frames = self._session.reel, self.folder, self._frames_text
        renderer = renderer_of(self._session.links.current)
        self._looking = job = self._session.jobs.start(lambda job: Run(reel, plan, folder, list(read_frames(frames)), renderer))
        job.done.connect(self._looked)
        job.failed.connect(self._session.said)
        job.ended.connect(self._look_ended)

    def _looked(self, run: Run) -> None:
        if self.busy:
            return
        self._run = run
        self.wall.show_states(run.states, run.faults)
        self._refresh()
        self._frame(self._session.frame)
        self._tell_finished(run)

    def _tell_finished(self, run: Run) -> None:
        finished = (self._session.shot_id, self.folder, frozenset(f for f, s in run.states.items() if s == FINISHED))
        if finished != self._finished:
            self._finished = finished
            self.frames_changed.emit(self.folder)

    def _look_ended(self) -> None:
        self._looking = None
        if self._look_again:
            self._look_again = False
            self.look()

    # -- rendering

    def go(self) -> None:
        """Render what is not finished yet."""
        run = self._run
        if self.busy or run is None or self._session.draft_on:
            return
        if run.count(OTHER) and not self._confirmed:
            self._refresh()
            return
        self._confirmed = False
        self.hand.player.stop()
        session = self._session

        def work(job: Job) -> Run:
            def listen(event: FrameEvent) -> None:
                picture = None if event.picture is None else codes8(event.picture)
                job.send((event.frame, event.state, event.words, picture))

            def wait(words: str) -> None:
                job.tell(0.0, words)
                job.cancel.check()

            session.wait_until_prepared(wait)
            run.go(listen, job.cancel)
            return run

        self._job = job = self._session.jobs.start(work)
        job.came.connect(self._came)
        job.progressed.connect(lambda share, words: self.note.setText(words))
        job.failed.connect(self._session.said)
        job.ended.connect(self._ended)
        self.bar.show()
        self._refresh()

    def stop(self) -> None:
        """Stop at once; finished frames stay, the rest can be gone on with."""
        if self._job is not None:
            self._job.cancel.cancel()
            self.note.setText("Stopping …")

    def _confirm(self) -> None:
        self._confirmed = True
        self.go()

    def _came(self, thing: tuple[int, str, str, np.ndarray | None]) -> None:
        frame, state, words, picture = thing
        run = self._run
        if run is None:
            return
        self.wall.show_states(run.states, run.faults)
        if state == FAILED:
            self._session.said.emit(f"Frame {frame} failed: {words} The rest goes on.")
        elif words:
            self._session.said.emit(f"Frame {frame}: {words}")
        if picture is not None:
            self.view.show_image(as_image(picture))
            self.caption.say(f"Frame {frame}", state)
        self._refresh()

    def _ended(self) -> None:
        self._job = None
        self.bar.hide()
        self.look()

    def _refresh(self) -> None:
        run, busy = self._run, self.busy
        self.stop_button.setVisible(busy)
        self.go_button.setVisible(not busy)
        self.choose_button.setEnabled(not busy)
        self.frames.setEnabled(not busy)
        self.again_button.hide()
        self.go_button.setEnabled(run is not None)
        finished = 0 if run is None else run.count(FINISHED)
        if run is None:
            self.note.setText(self._session.outlook.lacks.get(self._session.shot_id, "Reading the proofs …"))
        else:
            self._say_run(run, finished, busy)
        self.go_button.set_main(run is None or busy or finished < len(run.frames))
        self.hand.show_run(run, self.folder, busy)

    def _say_run(self, run: Run, finished: int, busy: bool) -> None:
        count, other = len(run.frames), run.count(OTHER)
        left = run.count(WAITING) + run.count(RENDERED) + other + run.count(FAILED)
        self.go_button.setText("Go on" if finished or run.count(RENDERED) else "Render frames")
        self.go_button.setEnabled(left > 0 and not other)
        if busy:
            self.bar.setValue(round(1000 * run.share_done))
            self.note.setText(f"{finished} of {count} frames finished, about {spoken(run.seconds_left)} left")
        elif other:
            what = "frame was" if other == 1 else "frames were"
            self.note.setText(f"{other} {what} made with other settings and would be overwritten.")
            self.again_button.show()
        elif left == 0:
            self.note.setText(f"All {count} frames are finished.")
        elif finished:
            self.note.setText(
                f"{finished} of {count} frames finished; the other {left} take about {spoken(run.seconds_left)} on this machine."
            )
        else:
            self.note.setText(f"{count} frames, about {spoken(run.seconds_left)} on this machine alone.")
        if self._session.draft_on and not busy:
            self.go_button.setEnabled(False)
            self.again_button.hide()
            self.note.setText("Draft cuts are on: finals cannot start. Switch them off at the recipe.")
        if run.faults and not busy:
            self.note.setText(self.note.text() + f" {len(run.faults)} failed.")

    # -- looking

    def _frame(self, frame: int) -> None:
        run = self._run
        if run is None or self.busy or self.hand.player.playing or not self.isVisible():
            return
        state = run.states.get(frame)
        pattern = run.folder.final if state == FINISHED else run.folder.rendered if state == RENDERED else None
        if pattern is None:
            self.view.show_image(None, f"Frame {frame} is not rendered yet.")
            self.caption.say("", "")
            return
        path = pattern.path(frame)
        job = self._session.jobs.start(lambda job: as_image(codes8(read_picture(path).rgb)))
        job.done.connect(lambda image, f=frame, s=state: self._loaded(image, f, s))
        job.failed.connect(self._session.said)

    def _loaded(self, image: QImage, frame: int, state: str) -> None:
        if frame == self._session.frame and not self.busy and not self.hand.player.playing:
            self.view.show_image(image)
            self.caption.say(f"Frame {frame}", state)

    def showEvent(self, event) -> None:
        super().showEvent(event)
        self.look()

    # -- the film

    def _film_frame(self, image: QImage, number: int) -> None:
        self.view.show_image(image)
        self._film_words = f"{self.hand.film_path.name}, frame {number + 1} of the film"
        if number == 0:
            self.caption.say(self._film_words, "")

    def hideEvent(self, event) -> None:
        self.hand.player.stop()
        super().hideEvent(event)
