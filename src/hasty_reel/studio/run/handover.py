"""Finished frames handed over: as a film, and as PNG pictures."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from psygnal import Signal

from hasty_reel.handover.deliver import Delivered, deliver
from hasty_reel.pictures.finite import replaced_words
from hasty_reel.reel.frames import write_frames
from hasty_reel.run.framestate import FINISHED
from hasty_reel.studio.background import BackgroundTask
from hasty_reel.studio.run.final import FinalFrames

if TYPE_CHECKING:
    from hasty_reel.studio.context import ShotContext


class HandOverModel:
    """Hand-over of the finished frames of a run; words : how it stands. changed() : otherwise.

    Parameters
    ----------
    session : the open reel
    final : the run
    """

    changed = Signal()

    def __init__(self, session: ShotContext, final: FinalFrames) -> None:
        self._session, self._final = session, final
        self._task: BackgroundTask | None = None
        self._words = ""
        self._asked: tuple[str, tuple[int, ...]] | None = None
        final.changed.connect(self.changed)

    @property
    def film_path(self) -> Path:
        """Where the film of the shot goes."""
        return self._final.folder / f"{self._session.playhead.shot_id}.mp4"

    @property
    def png_folder(self) -> Path:
        """Where the PNG pictures of the shot go."""
        return self._final.folder / f"{self._session.playhead.shot_id}-png"

    @property
    def busy(self) -> bool:
        """Whether frames are being handed over."""
        return self._task is not None

    @property
    def ready(self) -> bool:
        """Whether there are frames to hand over now."""
        return bool(self._final.finished) and not self._final.busy and not self.busy

    @property
    def complete(self) -> bool:
        """Whether all frames of the run are finished."""
        run = self._final.run
        return run is not None and self._final.finished == len(run.frames) and not self._final.busy

    @property
    def words(self) -> str:
        """How it stands."""
        finished = self._final.finished
        if not finished:
            return "Hand-over follows when frames are finished"
        if self._words:
            return self._words
        if self.film_path.is_file():
            return f"Film: {self.film_path.name}"
        return f"{finished} finished {'frame' if finished == 1 else 'frames'} to hand over"

    def make_film(self) -> None:
        """Hand the finished frames over as a film; a film already there is replaced by the new one."""
        self._deliver(str(self.film_path))

    def make_png(self) -> None:
        """Hand the finished frames over as PNG pictures of 16 bit."""
        self._deliver(str(self.png_folder / f"{self._session.playhead.shot_id}.####.png"))

    def _deliver(self, target: str) -> None:
        run = self._final.run
        if run is None or self.busy:
            return
        frames = [f for f, s in run.states.items() if s == FINISHED]
        missing = [f for f, s in run.states.items() if s != FINISHED]
        if missing and self._asked != (target, tuple(missing)):
            self._asked = target, tuple(missing)
            one = len(missing) == 1
            lacking = f"{len(missing)} of {len(run.frames)} frames {'is' if one else 'are'} not finished ({write_frames(missing)})"
            self._session.said.emit(f"{lacking}: nothing was made. The same button once more leaves {'it' if one else 'them'} out.")
            return
        self._asked = None
        source, fps = run.folder.final, self._session.reel.fps
        # these are our own earlier hand-overs of the same frames, in the folder chosen for them
        self._task = task = self._session.background.start(
            lambda task: deliver(source, target, fps, overwrite=True, frames=frames, progress=task.tell, cancel=task.cancel)
        )
        task.progressed.connect(lambda share, words: self._say(f"Handing over: {words}"))
        task.failed.connect(self._session.said)
        task.done.connect(lambda done: self._handed_over(done, Path(target), missing))
        task.ended.connect(self._ended)
        self._say("")

    def _say(self, words: str) -> None:
        self._words = words
        self.changed.emit()

    def _handed_over(self, done: Delivered, target: Path, missing: list[int]) -> None:
        without = f", without {write_frames(missing)}" if missing else ""
        self._say(f"{len(done.frames)} frames handed over: {target.name}{without}")
        if done.replaced:
            self._session.said.emit(replaced_words(done.replaced))

    def _ended(self) -> None:
        self._task = None
        self.changed.emit()
