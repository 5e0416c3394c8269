"""What is looked for beside everything else, while somebody looks at it: for the shot that is looked at, anew when its plan changes."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable
from typing import TYPE_CHECKING, Generic, TypeVar

from psygnal import Signal

if TYPE_CHECKING:
    from hasty_reel.studio.context import ShotContext

Found = TypeVar("Found")


class LookedFor(ABC, Generic[Found]):
    """Something that takes a while to find. changed() : it is known anew, or looked for.

    found : as it was found last for this shot; None while it is looked for the first time, or where there is nothing to find

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()

    def __init__(self, session: ShotContext) -> None:
        self._session = session
        self.found: Found | None = None
        self._outdated, self._looking, self._watchers = True, False, 0
        self._shot = session.playhead.shot_id
        for signal in (session.planner.plan_changed, session.playhead.shot_changed):
            signal.connect(self._outdate)

    @abstractmethod
    def _work(self) -> Callable[[], Found] | None:
        """What finds it, called in a thread of its own; None where there is nothing to find it by."""

    def watch(self, watched: bool) -> None:
        """Say whether anybody looks at it: else it waits. Each who came tells when they go.

        Parameters
        ----------
        watched : whether it is in sight
        """
        self._watchers = max(0, self._watchers + (1 if watched else -1))
        self._look()

    @property
    def stale(self) -> bool:
        """Whether it is looked for."""
        return self._outdated or self._looking

    def _outdate(self) -> None:
        self._outdated = True
        if self._shot != self._session.playhead.shot_id:
            self._shot, self.found = self._session.playhead.shot_id, None
        self.changed.emit()
        self._look()

    def _look(self) -> None:
        session = self._session
        if self._looking or not (self._outdated and self._watchers) or session.planner.stale:
            return  # where a new plan is on its way, that tells
        self._outdated = False
        work = self._work()
        if work is None:
            self.found = None
            self.changed.emit()
            return
        self._looking = True
        shot = session.playhead.shot_id
        task = session.background.start(lambda task: (shot, work()))
        task.done.connect(self._came)
        task.failed.connect(session.said)
        task.ended.connect(self._looked)

    def _came(self, thing: tuple[str, Found]) -> None:
        shot, found = thing
        if shot == self._session.playhead.shot_id:
            self.found = found

    def _looked(self) -> None:
        self._looking = False
        self.changed.emit()
        self._look()
