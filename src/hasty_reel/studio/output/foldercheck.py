"""The finished frames checked before they are handed over; what is wrong can be rendered again with one click."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING

from psygnal import Signal

from hasty_reel.errors import reason
from hasty_reel.handover.content import FrameContent
from hasty_reel.handover.foldercheck import FolderCheck, check_frames
from hasty_reel.pictures.footage import Footage
from hasty_reel.reel.frames import write_frames
from hasty_reel.run.framestate import FINISHED
from hasty_reel.run.shotrun import Run
from hasty_reel.studio.background import BackgroundTask
from hasty_reel.studio.eventloop import Timer
from hasty_reel.studio.run.final import FinalFrames

if TYPE_CHECKING:
    from hasty_reel.studio.context import ShotContext


LOOK_SECONDS = 3.0
"""How often it is looked whether frames have arrived, while that is watched."""
ASIDE = "set-aside"
"""Folder beside the finished frames for those that are to be rendered again."""


class CheckModel:
    """The last check of the finished frames. changed() : it is known anew, or under way.

    found : None before the first, and where other frames are finished since; words : how it stands

    Parameters
    ----------
    session : the open reel
    final : the run whose frames are checked
    """

    changed = Signal()

    def __init__(self, session: ShotContext, final: FinalFrames) -> None:
        self._session, self._final = session, final
        self.found: FolderCheck | None = None
        self.words = ""
        self._spare = 0
        self.watching = False
        self._task: BackgroundTask | None = None
        self._about: tuple = ()
        self._known: dict[int, tuple[int, FrameContent]] = {}
        self._seen: frozenset[tuple[int, int]] = frozenset()
        self._looking = False
        self._timer = Timer(session.loop, LOOK_SECONDS, self._look, again=True)
        final.changed.connect(self._changed)

    @property
    def busy(self) -> bool:
        """Whether frames are being looked at."""
        return self._task is not None

    @property
    def may(self) -> bool:
        """Whether there are finished frames to check now."""
        return not self.busy and not self._final.busy and self._final.finished > 0

    def _changed(self) -> None:
        run = self._final.run
        about = () if run is None else (run.shot.id, run.folder.root, tuple(run.states.items()))
        if about[:2] != self._about[:2]:
            self._known, self._seen = {}, frozenset()
        if about != self._about and not self.busy and not self.watching:
            self.found, self.words = None, ""
        self._about = about
        self.changed.emit()

    def watch(self, on: bool) -> None:
        """Check frames as they arrive, while they are rendered, or no longer.

        Parameters
        ----------
        on : whether
        """
        self.watching = on
        if on:
            self._timer.start()
        else:
            self._timer.stop()
        self.changed.emit()

    def _look(self) -> None:
        """Look beside everything else whether a file came, went or changed, and check what is there now."""
        run = self._final.shown
        if run is None or self.busy or self._looking or self._final.work.rehearsal:
            return
        self._looking = True
        task = self._session.background.start(lambda task: arrived(run))
        task.done.connect(lambda seen: self._arrived(run, seen))
        task.failed.connect(self._session.said)
        task.ended.connect(self._looked)

    def _arrived(self, run: Run, seen: frozenset[tuple[int, int]]) -> None:
        if seen and seen != self._seen and self.watching and not self.busy:
            self._seen = seen
            self._start(run, sorted(f for f, _ in seen))

    def _looked(self) -> None:
        self._looking = False

    def check(self) -> None:
        """Look at all frames of the run, beside everything else."""
        if self._final.run is not None and self.may:
            self._start(self._final.run, self._final.run.frames)

    def _start(self, run: Run, frames: list[int]) -> None:
        footage, size, states, known = Footage(run.folder.final), self._session.reel.picture_size, dict(run.states), self._known

        def _fits(path: Path, frame: int) -> bool:
            return states.get(frame) == FINISHED

        def _work(task: BackgroundTask) -> tuple[FolderCheck, int]:
            found = check_frames(footage, frames, size, None, _fits, task.tell, task.cancel, known)
            return found, _bytes_of([run.folder.rendered.path(f) for f in run.frames]) if run.folder.finishes else 0

        self._task = task = self._session.background.start(_work)
        task.progressed.connect(lambda share, words: self._say(f"Looking at {words} …"))
        task.done.connect(self._checked)
        task.failed.connect(self._session.said)
        task.ended.connect(self._ended)
        self._say("Looking at the frames …")

    def _checked(self, found: tuple[FolderCheck, int]) -> None:
        self.found, self._spare = found
        self._say("")

    def again(self) -> None:
        """Set the frames that are wrong aside and choose them for the next run; nothing is deleted."""
        run = self._final.run
        if run is None or self.found is None or not self.found.again:
            return
        aside = run.folder.final.folder / ASIDE
        try:
            for frame in self.found.again:
                for path, name in ((run.folder.final.path(frame), ""), (run.folder.rendered.path(frame), "rendered.")):
                    if path.is_file():
                        aside.mkdir(exist_ok=True)
                        path.replace(aside / f"{name}{path.name}")
        except OSError as error:
            self._session.said.emit(f"{aside}: frames cannot be set aside there ({reason(error)}).")
            return
        self._final.type_frames(write_frames(self.found.again))

    @property
    def spare_bytes(self) -> int:
        """Bytes of the frames as they were rendered, which a whole sequence of finished frames does not need any more; 0 where it does."""
        run, found = self._final.run, self.found
        if run is None or self.busy or self._final.busy or found is None or found.faults:
            return 0
        return self._spare

    def clear_rendered(self) -> None:
        """Remove the frames as they were rendered, once all finished ones were found whole."""
        run = self._final.run
        if run is None or not self.spare_bytes:
            return
        try:
            for frame in run.frames:
                run.folder.rendered.path(frame).unlink(missing_ok=True)
        except OSError as error:
            self._session.said.emit(f"{run.folder.rendered.folder}: cannot be cleared ({reason(error)}).")
        self._spare = 0
        self._final.look()

    def _say(self, words: str) -> None:
        self.words = words
        self.changed.emit()

    def _ended(self) -> None:
        self._task = None
        self.changed.emit()


def arrived(run: Run) -> frozenset[tuple[int, int]]:
    """Return which finished frames of a run are on disk, each with the time of its file in nanoseconds since 1970.

    Parameters
    ----------
    run : whose folder is looked at
    """
    out = set()
    for frame in set(run.frames).intersection(run.folder.final.frames()):
        try:
            out.add((frame, run.folder.final.path(frame).stat().st_mtime_ns))
        except OSError:
            continue  # it went meanwhile
    return frozenset(out)


def _bytes_of(paths: list[Path]) -> int:
    """Bytes of the files that are there; one may go while they are counted."""
    total = 0
    for path in paths:
        with suppress(FileNotFoundError):
            total += path.stat().st_size
    return total
