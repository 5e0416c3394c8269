"""The machine kept awake while final frames are rendered, and a notice of the desktop when they are done or in trouble."""

from __future__ import annotations

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QWidget

from hasty_reel.desk.desktop import Desktop
from hasty_reel.desk.follow import follow
from hasty_reel.run.framestate import FAILED, FINISHED
from hasty_reel.studio.run.final import FinalFrames
from hasty_reel.studio.session import Session

CANNOT = "The desktop offers no way to be kept awake: see that this machine does not go to sleep."


class Awake(QObject):
    """Follows the run; a notice is shown where the window of `parent` is not the one that is looked at."""

    def __init__(self, session: Session, final: FinalFrames, parent: QWidget, desktop: Desktop | None = None) -> None:
        super().__init__(parent)
        self._session, self._work, self._parent = session, final.work, parent
        self.desktop = desktop or Desktop()
        self._busy = False
        follow(self, final.work.changed, self._changed)

    def _changed(self) -> None:
        work = self._work
        busy = work.busy and not work.rehearsal
        if busy == self._busy:
            return
        self._busy = busy
        background = self._session.background
        if busy:
            task = background.start(lambda task: self.desktop.stay_awake("Final frames are being rendered"))
            task.done.connect(self._told)
        else:
            words = "" if self._parent.isActiveWindow() else self.words
            background.start(lambda task: self._let_go(words))

    def _told(self, awake: bool) -> None:
        if not awake and self._work.record is not None:
            self._work.record.say(CANNOT)

    def _let_go(self, words: str) -> None:
        self.desktop.may_sleep()
        if words:
            self.desktop.notice("Hasty Reel", words)

    @property
    def words(self) -> str:
        """How the run stands, for a notice."""
        run = self._work.run
        if run is None:
            return ""
        finished, failed = run.count(FINISHED), run.count(FAILED)
        trouble = f", {failed} failed" if failed else ""
        left = len(run.frames) - finished - failed
        return f"{run.shot.id}: {finished} of {len(run.frames)} frames finished{trouble}{', stopped' if left else ''}."
