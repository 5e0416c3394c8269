"""How far the plan of the shot can be trusted, and which proof would make it surer: looked for beside everything else."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from hasty_reel.farm.nextproof import NextProof, next_proof
from hasty_reel.plan.heldback import HeldBack, held_back
from hasty_reel.studio.lookedfor import LookedFor

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session


@dataclass(frozen=True)
class Trust:
    """The held-back check of a shot's proofs, and the proof that narrows its total most; None where none is worth it."""

    held: HeldBack = field(default_factory=HeldBack)
    next: NextProof | None = None


class TrustModel(LookedFor[Trust]):
    """Trust in the shot that is looked at. changed() : it is known anew.

    Parameters
    ----------
    session : the open reel
    """

    _session: Session

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        session.machine_speed.changed.connect(self.changed)

    def _work(self) -> Callable[[], Trust] | None:
        session = self._session
        plan, model, reel = session.plan, session.planner.outlook.models.get(session.playhead.shot_id), session.reel
        if plan is None or model is None:
            return None
        crops = session.own.links.current.crops
        return lambda: Trust(held_back(model.evidence, model.frames.tolist(), plan.degrees), next_proof(reel, plan, model, crops))

    @property
    def known(self) -> Trust:
        """What is known; nothing while it is looked for the first time."""
        return self.found or Trust()

    @property
    def words(self) -> str:
        """The check in a sentence, and what was never looked at."""
        plan = self._session.plan
        unseen = "" if plan is None else "; ".join(w for w in (plan.untold_words, plan.unseen_words) if w)
        said = self.known.held.words
        told = said[:1].upper() + said[1:] if said else "Nothing can be held back yet: proofs of three frames or more tell how sure this is"
        speed = self._session.machine_speed.words
        return "; ".join(w for w in (told, unseen, speed) if w) + "."

    def order_next(self) -> None:
        """Put the next best proof into the queue."""
        if self.known.next is not None:
            self._session.proofs.enqueue(list(self.known.next.orders))
