"""What the samples of the dial come to: hours, ready-by, viewers, and where it meets what is promised; found beside everything else."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING

from psygnal import Signal

from hasty_reel.plan.compare.dial import AtSamples, DialMarks, SampleDialPlans
from hasty_reel.studio.background import BackgroundTask

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session

Wanted = tuple[float, bool]
"""Samples per pixel, and whether finished."""


class DialPrice:
    """Prices of sample counts of the shot that is looked at. changed() : another is known.

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()

    def __init__(self, session: Session) -> None:
        self._session = session
        self._found: tuple[Wanted, AtSamples] | None = None
        self._last: dict[bool, AtSamples] = {}
        self._marks: dict[bool, DialMarks] = {}
        self._wanted: Wanted | None = None
        self._busy = False
        self._turn = 0

    def forget(self) -> None:
        """What was found holds no longer: the shot, its proofs or the plan are others."""
        self._found, self._marks = None, {}
        self._turn += 1

    def forget_shot(self) -> None:
        """Another shot is looked at: nothing of the one before is shown meanwhile."""
        self.forget()
        self._last.clear()

    def find(self, samples: float, finished: bool) -> None:
        """Look for the price of a sample count, after what is looked for now.

        Parameters
        ----------
        samples : per pixel
        finished : with the finishing chain
        """
        self._wanted = samples, finished
        self._next()

    def exact(self, samples: float, finished: bool) -> AtSamples | None:
        """The price of just these samples; None while it is not known.

        Parameters
        ----------
        samples : per pixel
        finished : with the finishing chain
        """
        return self._found[1] if self._found is not None and self._found[0] == (samples, finished) else None

    def last(self, finished: bool) -> AtSamples | None:
        """The price that was found last: what is shown while the dial moves.

        Parameters
        ----------
        finished : with the finishing chain
        """
        return self._last.get(finished)

    def marks(self, finished: bool) -> DialMarks | None:
        """Where the dial meets what is promised; None while it is looked for.

        Parameters
        ----------
        finished : with the finishing chain
        """
        return self._marks.get(finished)

    def _next(self) -> None:
        session, wanted = self._session, self._wanted
        planner = session.planner
        model = planner.outlook.models.get(session.playhead.shot_id)
        if self._busy or wanted is None or session.plan is None or model is None or planner.stale:
            return
        samples, finished = wanted
        if self.exact(*wanted) is not None and finished in self._marks:
            return
        turn = self._turn
        plans, wants_marks = planner.outlook.plans, finished not in self._marks
        reel, shot, now, eyes = session.reel, session.shot, datetime.now().astimezone(), session.own.eyes

        def _work(task: BackgroundTask) -> tuple[AtSamples, DialMarks | None]:
            found = SampleDialPlans(reel, shot, model, plans, now, finished, eyes)
            return found.at(samples), found.marks() if wants_marks else None

        def _done(found: tuple[AtSamples, DialMarks | None]) -> None:
            if turn == self._turn and session.shot is shot and session.reel is reel:
                self._found = wanted, found[0]
                self._last[finished] = found[0]
                if found[1] is not None:
                    self._marks[finished] = found[1]
                self.changed.emit()

        def _ended() -> None:
            self._busy = False
            self._next()

        self._busy = True
        task = session.background.start(_work)
        task.done.connect(_done)
        task.failed.connect(session.said)
        task.ended.connect(_ended)
