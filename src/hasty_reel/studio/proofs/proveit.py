"""Prove it in two minutes: proofs of the shot one after another, each what tells most, until the time is over."""

from __future__ import annotations

import time
from typing import TYPE_CHECKING

from hasty_reel.errors import WrongInput
from hasty_reel.farm.queue import DONE, Entry
from hasty_reel.reel.durations import spoken
from hasty_reel.studio.proofs.giventime import GivenTime

if TYPE_CHECKING:
    from hasty_reel.farm.provewithin import ProveWithin, Step
    from hasty_reel.studio.session import Session

TIMES = (120.0, 300.0, 900.0)
"""Seconds that are offered; another is typed."""


class ProveIt(GivenTime):
    """What is proven by itself now. changed() : it is another, or the time.

    words : what is rendered and why, or what came of it; '' before it was ever asked for

    Parameters
    ----------
    session : the open reel
    """

    def __init__(self, session: Session) -> None:
        super().__init__(session, TIMES[0], "Prove it in")
        self.words = ""
        self._work: ProveWithin | None = None
        self._shot = ""
        self._turn = self._began = 0.0
        self._entries: list[Entry] = []
        self._count = 0
        session.proofs.ended.connect(self._rendered)
        session.planner.plan_changed.connect(self._planned)
        session.planner.evidence_changed.connect(self.changed)

    @property
    def running(self) -> bool:
        """Whether proofs are chosen and rendered by themselves."""
        return self._work is not None

    @property
    def wanted(self) -> bool:
        """Whether it is what to do next: the shot has no proof."""
        return not self.running and bool(self._session.planner.evidence) and not self._session.evidence.proofs

    def start(self) -> None:
        """Begin with the shot that is looked at; the time is said where it makes no sense."""
        from hasty_reel.farm.provewithin import ProveWithin

        session = self._session
        if self.running or session.proofs.busy:
            return
        try:
            self._work = ProveWithin(session.reel, session.shot, self.seconds, session.own.links.current.crops)
        except WrongInput as error:
            session.said.emit(str(error))
            return
        self._shot, self._count = session.playhead.shot_id, 0
        self._turn = self._began = time.monotonic()
        self._next()

    def stop(self) -> None:
        """End it; what is finished stays."""
        self._work = None
        self.words = f"Stopped after {spoken(time.monotonic() - self._began)}."
        self._session.proofs.cancel_all()
        self.changed.emit()

    def _next(self) -> None:
        outlook = self._session.planner.outlook
        assert self._work is not None
        step = self._work.next(outlook.plans.get(self._shot), outlook.models.get(self._shot))
        if step is None:
            self._end()
            return
        self._count += len(step.orders)
        self.words = self._told(step)
        self._session.proofs.enqueue(list(step.orders))
        self._entries = self._session.proofs.queue.entries[-len(step.orders) :]
        self.changed.emit()

    def _told(self, step: Step) -> str:
        assert self._work is not None
        about = "" if step.seconds is None else f", about {spoken(step.seconds)}"
        return f"{step.words[:1].upper()}{step.words[1:]}{about}; {spoken(self._work.left)} left"

    def _end(self) -> None:
        planned = self._shot in self._session.planner.outlook.plans
        took = spoken(time.monotonic() - self._began)
        self.words = f"{self._count} proofs in {took}." if planned else f"No proof came of it in {took}: see the queue."
        self._work = None
        self.changed.emit()

    def _rendered(self) -> None:
        if self.running and all(entry.ended and entry.state != DONE for entry in self._entries):
            self._end()

    def _planned(self) -> None:
        planner = self._session.planner
        if self._work is None or self._session.proofs.busy or planner.stale or not all(entry.ended for entry in self._entries):
            return
        known = {proof.id for proof in planner.evidence[self._shot].proofs} if self._shot in planner.evidence else set()
        if not {entry.proof for entry in self._entries if entry.state == DONE} <= known:
            return  # read before the last of them ended: another plan is on its way
        now = time.monotonic()
        self._work.took(now - self._turn)
        self._turn = now
        self._next()
