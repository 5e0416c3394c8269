"""The finished frames checked before they are handed over; what is wrong can be rendered again with one click."""

from __future__ import annotations

from typing import TYPE_CHECKING

from psygnal import Signal

from hasty_reel.errors import reason
from hasty_reel.farm.finals.folder import FINISHED
from hasty_reel.handover.foldercheck import FolderCheck, check_frames
from hasty_reel.pictures.footage import Footage
from hasty_reel.reel.frames import write_frames
from hasty_reel.studio.background import BackgroundTask
from hasty_reel.studio.run.final import FinalFrames

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session


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

    def __init__(self, session: Session, final: FinalFrames) -> None:
        self._session, self._final = session, final
        self.found: FolderCheck | None = None
        self.words = ""
        self._task: BackgroundTask | None = None
        self._about: tuple = ()
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
        if about != self._about and not self.busy:
            self._about, self.found, self.words = about, None, ""
        self.changed.emit()

    def check(self) -> None:
        """Look at all frames of the run, beside everything else."""
        run = self._final.run
        if run is None or not self.may:
            return
        footage, frames, size, states = Footage(run.folder.final), run.frames, self._session.reel.picture_size, dict(run.states)

        def _work(task: BackgroundTask) -> FolderCheck:
            return check_frames(footage, frames, size, None, lambda path, frame: states.get(frame) == FINISHED, task.tell, task.cancel)

        self._task = task = self._session.background.start(_work)
        task.progressed.connect(lambda share, words: self._say(f"Looking at {words} …"))
        task.done.connect(self._checked)
        task.failed.connect(self._session.said)
        task.ended.connect(self._ended)
        self._say("Looking at the frames …")

    def _checked(self, found: FolderCheck) -> None:
        self.found = found
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

    def _say(self, words: str) -> None:
        self.words = words
        self.changed.emit()

    def _ended(self) -> None:
        self._task = None
        self.changed.emit()
