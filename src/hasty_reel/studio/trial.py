"""Settings that are only tried: the plan as it stood beside the plan with them, until they are kept or dropped."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING

from psygnal import Signal

from hasty_reel.plan.answer import span
from hasty_reel.plan.outlook import Outlook, PlanMemory
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.reel.durations import spoken
from hasty_reel.settings.recipe import differences
from hasty_reel.viewers import who_sees

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session


class TrialModel:
    """What is tried, against what stands. changed() : a trial begins, ends, or is planned anew.

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()

    def __init__(self, session: Session) -> None:
        self._session = session
        self._stands = Outlook()
        session.trial_changed.connect(self._turned)
        session.planner.plan_changed.connect(self._planned)
        session.planner.evidence_changed.connect(self._plan_what_stands)
        session.own.eyes_changed.connect(self._plan_what_stands)

    @property
    def trying(self) -> bool:
        """Whether settings are only tried."""
        return self._session.history.trying

    @property
    def stands(self) -> ShotPlan | None:
        """The plan of the shot as it stands without what is tried; None while nothing is tried."""
        return self._stands.plans.get(self._session.playhead.shot_id) if self.trying else None

    @property
    def words(self) -> str:
        """What is tried and what it comes to, in a sentence; '' while nothing is."""
        session, now, stood = self._session, self._session.plan, self.stands
        if not self.trying:
            return ""
        if now is None or stood is None:
            return "Trying settings: nothing is changed until you keep them."
        tried = differences(now.recipe, stood.recipe)
        if not tried and now.shot.hold == stood.shot.hold and now.shot.pins == stood.shot.pins:
            return "Trying settings: change what you like; the plan as it stands stays in sight, dashed."
        speed = session.reel.frame_speed
        what = ", ".join(tried) if len(tried) < 3 else f"{len(tried)} settings"
        took, takes = spoken(stood.total_seconds / speed), spoken(now.total_seconds / speed)
        seen = f"seen by {who_sees(now.worst_flicker)} instead of {who_sees(stood.worst_flicker)}"
        samples = f"{span(now)} samples instead of {span(stood)}"
        return f"Trying {what or 'another hold'}: {takes} instead of {took}, {seen}, {samples}."

    def _planned(self) -> None:
        if self.trying:
            self.changed.emit()

    def _turned(self) -> None:
        self._stands = self._session.planner.outlook if self.trying else Outlook()
        self.changed.emit()

    def _plan_what_stands(self) -> None:
        """Plan what stands anew when what it rests on changes: what is tried is planned by the planner."""
        session = self._session
        if not self.trying:
            return
        reel, shot, evidence, eyes = session.kept, session.playhead.shot_id, session.planner.evidence, session.own.eyes
        task = session.background.start(lambda task: PlanMemory(eyes).outlook(reel, shot, evidence, datetime.now().astimezone()))
        task.done.connect(self._stood)
        task.failed.connect(session.said)

    def _stood(self, outlook: Outlook) -> None:
        if self.trying:
            self._stands = outlook
            self.changed.emit()
