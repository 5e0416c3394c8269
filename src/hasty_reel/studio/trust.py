"""How far the plan of the shot can be trusted, and which proof would make it surer: looked for beside everything else."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from psygnal import Signal

from hasty_reel.farm.nextproof import NextProof, next_proof
from hasty_reel.plan.heldback import HeldBack, held_back

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session


@dataclass(frozen=True)
class Trust:
    """The held-back check of a shot's proofs, and the proof that narrows its total most; None where none is worth it."""

    held: HeldBack = field(default_factory=HeldBack)
    next: NextProof | None = None


class TrustModel:
    """Trust in the shot that is looked at. changed() : it is known anew.

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()

    def __init__(self, session: Session) -> None:
        self._session = session
        self.found = Trust()
        self._outdated, self._looking, self._watchers = True, False, 0
        for signal in (session.planner.plan_changed, session.playhead.shot_changed):
            signal.connect(self._outdate)
        session.machine_speed.changed.connect(self.changed)

    def watch(self, watched: bool) -> None:
        """Say whether anybody looks at it: else it waits. Each who came tells when they go.

        Parameters
        ----------
        watched : whether it is in sight
        """
        self._watchers = max(0, self._watchers + (1 if watched else -1))
        self._look()

    @property
    def words(self) -> str:
        """The check in a sentence, and what was never looked at."""
        plan = self._session.plan
        unseen = "" if plan is None else plan.unseen_words
        said = self.found.held.words
        told = said[:1].upper() + said[1:] if said else "Nothing can be held back yet: proofs of three frames or more tell how sure this is"
        speed = self._session.machine_speed.words
        return "; ".join(w for w in (told, unseen, speed) if w) + "."

    def order_next(self) -> None:
        """Put the next best proof into the queue."""
        if self.found.next is not None:
            self._session.proofs.enqueue([self.found.next.order])

    def _outdate(self) -> None:
        self._outdated = True
        self._look()

    def _look(self) -> None:
        if self._looking or not (self._outdated and self._watchers):
            return
        session, shot = self._session, self._session.playhead.shot_id
        plan, model = session.plan, session.planner.outlook.models.get(shot)
        self._outdated = False
        if plan is None or model is None:
            self.found = Trust()
            self.changed.emit()
            return
        self._looking = True
        reel = session.reel
        task = session.background.start(
            lambda task: (shot, Trust(held_back(model.evidence, model.frames.tolist()), next_proof(reel, plan, model)))
        )
        task.done.connect(self._came)
        task.failed.connect(session.said)
        task.ended.connect(self._looked)

    def _came(self, thing: tuple[str, Trust]) -> None:
        shot, found = thing
        if shot == self._session.playhead.shot_id:
            self.found = found
            self.changed.emit()

    def _looked(self) -> None:
        self._looking = False
        self._look()
