"""Run: the final frames by the plan, as a wall by state; then the film."""

from __future__ import annotations

import time
from pathlib import Path

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QLabel, QProgressBar, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PlainButton, ValueField
from hasty_reel.desk.jobs import Job
from hasty_reel.desk.picture import PictureView, as_image
from hasty_reel.desk.session import Session
from hasty_reel.desk.stages.film import FilmPlayer
from hasty_reel.desk.stages.proofs.caption import Caption, bar_style
from hasty_reel.desk.stages.wall import FrameWall
from hasty_reel.errors import HastyReelError
from hasty_reel.farm.door import renderer_of
from hasty_reel.farm.folder import FAILED, FINISHED, OTHER, RENDERED, WAITING
from hasty_reel.farm.run import FrameEvent, Run
from hasty_reel.handover.deliver import deliver
from hasty_reel.pictures.colour import codes8
from hasty_reel.pictures.frame import read_picture
from hasty_reel.plan.shot import spoken
from hasty_reel.reel.frames import read_frames, write_frames


class RunStage(QWidget):
    """Folder, frames, wall, picture, film. frames_changed(Path): other frames are finished in this folder."""

    frames_changed = Signal(object)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._job: Job | None = None
        self._run: Run | None = None
        self._delivering: Job | None = None
        self._looking: Job | None = None
        self._look_again = False
        self._confirmed = False
        self._frames_text = ""
        self._finished: tuple = (session.shot_id, None, frozenset())
        self._film_words = ""
        self.folder = session.path.parent / "frames"
        self.player = FilmPlayer(self)
        self._build()
        session.shot_changed.connect(self._shot)
        session.plan_changed.connect(self.look)
        session.selection_changed.connect(self._selection)
        session.frame_changed.connect(self._frame)
        session.draft_changed.connect(self._refresh)
        self.player.showed.connect(self._film_frame)
        self.player.failed.connect(session.said)
        self.player.rate.connect(lambda r: self.caption.say(self._film_words, f"{r:.1f} of {float(session.reel.fps):g} fps"))
        self._shot()

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
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setRange(0, 1000)
        self.bar.setStyleSheet(bar_style())
        self.bar.setFixedHeight(6)
        self.bar.hide()
        self.wall = FrameWall(self)
        self.wall.clicked.connect(self._session.show_frame)
        self.view = PictureView(self)
        self.caption = Caption(self)
        self.film_button = PlainButton("Make film", self.make_film)
        self.film_button.setToolTip("Hand the finished frames over as H.264 in an MP4 file, through the sRGB view")
        self.play_button = PlainButton("Play film", self.toggle_film)
        self.play_button.setToolTip("Play the film in a loop (Space)")
        self.png_button = PlainButton("PNG 16 bit", self.make_png)
        self.png_button.setToolTip("Hand the finished frames over as PNG pictures of 16 bit, through the sRGB view")
        hand = QHBoxLayout()
        hand.setContentsMargins(12, 6, 16, 6)
        self.hand_label = QLabel("")
        self.hand_label.setFont(theme.words(12))
        self.hand_label.setStyleSheet(f"color: {theme.INK2.name()}")
        for button in (self.play_button, self.film_button, self.png_button):
            hand.addWidget(button)
        hand.addSpacing(8)
        hand.addWidget(self.hand_label, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(first)
        column.addLayout(second)
        column.addWidget(self.bar)
        column.addWidget(self.wall)
        column.addWidget(self.view, 1)
        column.addWidget(self.caption)
        column.addLayout(hand)

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.STAGE)

    # -- what and where

    @property
    def film_path(self) -> Path:
        """Where the film of the shot goes."""
        return self.folder / f"{self._session.shot_id}.mp4"

    @property
    def png_folder(self) -> Path:
        """Where the PNG pictures of the shot go."""
        return self.folder / f"{self._session.shot_id}-png"

    @property
    def busy(self) -> bool:
        """Whether frames are being rendered."""
        return self._job is not None

    def _shot(self) -> None:
        shot = self._session.shot
        self._frames_text = write_frames(shot.frames)
        self.player.stop()
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
        self.player.stop()

        def work(job: Job) -> Run:
            def listen(event: FrameEvent) -> None:
                picture = None if event.picture is None else codes8(event.picture)
                job.send((event.frame, event.state, event.words, picture))

            run.go(listen, job.cancel)
            return run

        self._began = time.monotonic()
        self._job = job = self._session.jobs.start(work)
        job.came.connect(self._came)
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
        whole = run is not None and finished == len(run.frames) and not busy
        there = self.film_path.is_file()
        self.film_button.setEnabled(bool(finished) and not busy and self._delivering is None)
        self.png_button.setEnabled(bool(finished) and not busy and self._delivering is None)
        self.play_button.setEnabled(there)
        # what is there already is replaced only by a button that says so
        self.film_button.setText("Make film again" if there else "Make film")
        self.png_button.setText("PNG 16 bit again" if any(self.png_folder.glob("*.png")) else "PNG 16 bit")
        self.play_button.setText("Stop film" if self.player.playing else "Play film")
        self.film_button.set_main(whole and not there)
        self.go_button.set_main(not whole)
        if not finished:
            self.hand_label.setText("Hand-over follows when frames are finished")
        elif self._delivering is None:
            self.hand_label.setText(
                f"Film: {self.film_path.name}" if there else f"{finished} finished {'frame' if finished == 1 else 'frames'} to hand over"
            )

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
        if run is None or self.busy or self.player.playing or not self.isVisible():
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
        if frame == self._session.frame and not self.busy and not self.player.playing:
            self.view.show_image(image)
            self.caption.say(f"Frame {frame}", state)

    def showEvent(self, event) -> None:
        super().showEvent(event)
        self.look()

    # -- hand-over

    def make_film(self) -> None:
        """Hand the finished frames over as a film; a film already there is replaced by the new one."""
        self._deliver(str(self.film_path))

    def make_png(self) -> None:
        """Hand the finished frames over as PNG 16 bit."""
        self._deliver(str(self.png_folder / f"{self._session.shot_id}.####.png"))

    def _deliver(self, target: str) -> None:
        run = self._run
        if run is None or self._delivering is not None:
            return
        self.player.stop()
        frames = [f for f, s in run.states.items() if s == FINISHED]
        gaps = [f for f in range(frames[0], frames[-1]) if f not in set(frames)]
        if gaps:
            self._session.said.emit(f"Frames {write_frames(gaps)} are not finished; a film with holes is not made.")
            return
        source, fps = run.folder.final, self._session.reel.fps
        # these are our own earlier hand-overs of the same frames, in the folder chosen for them
        job = self._session.jobs.start(
            lambda job: deliver(source, target, fps, overwrite=True, frames=frames, progress=job.tell, cancel=job.cancel)
        )
        self._delivering = job
        job.progressed.connect(lambda share, words: self.hand_label.setText(f"Handing over: {words}"))
        job.failed.connect(self._session.said)
        job.done.connect(lambda done: self.hand_label.setText(f"{len(done)} frames handed over: {Path(target).name}"))
        job.ended.connect(self._delivered)
        self._refresh()

    def _delivered(self) -> None:
        words = self.hand_label.text()
        self._delivering = None
        self._refresh()
        self.hand_label.setText(words)

    def toggle_film(self) -> None:
        """Play the film, or stop it."""
        if self.player.playing:
            self.player.stop()
            self._frame(self._session.frame)
        elif self.film_path.is_file():
            self.player.play(self.film_path)
        self._refresh()

    def _film_frame(self, image: QImage, number: int) -> None:
        self.view.show_image(image)
        self._film_words = f"{self.film_path.name}, frame {number + 1} of the film"
        if number == 0:
            self.caption.say(self._film_words, "")

    def hideEvent(self, event) -> None:
        self.player.stop()
        super().hideEvent(event)
