"""Hand-over of finished frames: as a film, which can be played, and as PNG pictures."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PlainButton
from hasty_reel.desk.jobs import Job
from hasty_reel.desk.session import Session
from hasty_reel.desk.stages.run.film import FilmPlayer
from hasty_reel.farm.folder import FINISHED
from hasty_reel.farm.run import Run
from hasty_reel.handover.deliver import Delivered, deliver
from hasty_reel.pictures.finite import replaced_words
from hasty_reel.reel.frames import write_frames


class HandOver(QWidget):
    """Buttons and a line of words under the wall. stopped: the film was stopped, another picture can be shown."""

    stopped = Signal()

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._run: Run | None = None
        self._folder = Path()
        self._rendering = False
        self._delivering: Job | None = None
        self.player = FilmPlayer(self)
        self.player.failed.connect(session.said)
        self.film_button = PlainButton("Make film", self.make_film)
        self.film_button.setToolTip("Hand the finished frames over as H.264 in an MP4 file, through the sRGB view")
        self.play_button = PlainButton("Play film", self.toggle_film)
        self.play_button.setToolTip("Play the film in a loop (Space)")
        self.png_button = PlainButton("PNG 16 bit", self.make_png)
        self.png_button.setToolTip("Hand the finished frames over as PNG pictures of 16 bit, through the sRGB view")
        self.words = QLabel("")
        self.words.setFont(theme.words(12))
        self.words.setStyleSheet(f"color: {theme.INK2.name()}")
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 6, 16, 6)
        for button in (self.play_button, self.film_button, self.png_button):
            row.addWidget(button)
        row.addSpacing(8)
        row.addWidget(self.words, 1)

    @property
    def film_path(self) -> Path:
        """Where the film of the shot goes."""
        return self._folder / f"{self._session.shot_id}.mp4"

    @property
    def png_folder(self) -> Path:
        """Where the PNG pictures of the shot go."""
        return self._folder / f"{self._session.shot_id}-png"

    @property
    def busy(self) -> bool:
        """Whether frames are being handed over."""
        return self._delivering is not None

    def show_run(self, run: Run | None, folder: Path, rendering: bool) -> None:
        """The frames there are to hand over, and where; rendering : more of them are on their way."""
        self._run, self._folder, self._rendering = run, folder, rendering
        finished = 0 if run is None else run.count(FINISHED)
        ready = bool(finished) and not rendering and not self.busy
        there = self.film_path.is_file()
        self.film_button.setEnabled(ready)
        self.png_button.setEnabled(ready)
        self.play_button.setEnabled(there)
        # what is there already is replaced only by a button that says so
        self.film_button.setText("Make film again" if there else "Make film")
        self.png_button.setText("PNG 16 bit again" if any(self.png_folder.glob("*.png")) else "PNG 16 bit")
        self.play_button.setText("Stop film" if self.player.playing else "Play film")
        self.film_button.set_main(run is not None and finished == len(run.frames) and not rendering and not there)
        if not finished:
            self.words.setText("Hand-over follows when frames are finished")
        elif not self.busy:
            frames = f"{finished} finished {'frame' if finished == 1 else 'frames'} to hand over"
            self.words.setText(f"Film: {self.film_path.name}" if there else frames)

    def _refresh(self) -> None:
        self.show_run(self._run, self._folder, self._rendering)

    def make_film(self) -> None:
        """Hand the finished frames over as a film; a film already there is replaced by the new one."""
        self._deliver(str(self.film_path))

    def make_png(self) -> None:
        """Hand the finished frames over as PNG 16 bit."""
        self._deliver(str(self.png_folder / f"{self._session.shot_id}.####.png"))

    def _deliver(self, target: str) -> None:
        run = self._run
        if run is None or self.busy:
            return
        self.player.stop()
        frames = [f for f, s in run.states.items() if s == FINISHED]
        gaps = sorted(set(range(frames[0], frames[-1])) - set(frames))
        if gaps:
            self._session.said.emit(f"Frames {write_frames(gaps)} are not finished; a film with holes is not made.")
            return
        source, fps = run.folder.final, self._session.reel.fps
        # these are our own earlier hand-overs of the same frames, in the folder chosen for them
        job = self._session.jobs.start(
            lambda job: deliver(source, target, fps, overwrite=True, frames=frames, progress=job.tell, cancel=job.cancel)
        )
        self._delivering = job
        job.progressed.connect(lambda share, words: self.words.setText(f"Handing over: {words}"))
        job.failed.connect(self._session.said)
        job.done.connect(lambda done: self._handed_over(done, Path(target)))
        job.ended.connect(self._delivered)
        self._refresh()

    def _handed_over(self, done: Delivered, target: Path) -> None:
        self.words.setText(f"{len(done.frames)} frames handed over: {target.name}")
        if done.replaced:
            self._session.said.emit(replaced_words(done.replaced))

    def _delivered(self) -> None:
        words = self.words.text()
        self._delivering = None
        self._refresh()
        self.words.setText(words)

    def toggle_film(self) -> None:
        """Play the film, or stop it."""
        if self.player.playing:
            self.player.stop()
            self.stopped.emit()
        elif self.film_path.is_file():
            self.player.play(self.film_path)
        self._refresh()
