"""Bundles that play clean, and single changes that buy time: looked for beside everything else, taken with one click."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from hasty_reel.evidence.looks import Looks, looks_of
from hasty_reel.evidence.rows import Evidence
from hasty_reel.plan.compare.bundles import Alternatives, Bundle, allowed_work, alternatives
from hasty_reel.plan.compare.savings import Saving, savings
from hasty_reel.plan.compare.steps import Step, calm_steps
from hasty_reel.reel.document import Reel
from hasty_reel.reel.durations import spoken
from hasty_reel.reel.edits import departed, rejoined, with_calm, with_held, with_hold, with_line
from hasty_reel.reel.shot import CLEAN
from hasty_reel.studio.lookedfor import LookedFor

if TYPE_CHECKING:
    from hasty_reel.studio.context import ShotContext


@dataclass(frozen=True)
class Weighed:
    """Bundles, single changes that buy time, what buys most first, and steps of calm. evidence, looks : they were weighed by."""

    alternatives: Alternatives
    savings: list[Saving]
    steps: list[Step]
    evidence: Evidence
    looks: Looks


class AlternativesModel(LookedFor[Weighed]):
    """The bundles and changes as they were found last.

    Parameters
    ----------
    session : the open reel
    """

    def __init__(self, session: ShotContext) -> None:
        super().__init__(session)
        self._looks: tuple[Evidence, Looks] | None = None

    def _work(self) -> Callable[[], Weighed] | None:
        session, known = self._session, self._looks
        plan, model = session.plan, session.planner.outlook.models.get(session.playhead.shot_id)
        when, reel, plans = session.planner.outlook.deadline, session.reel, session.planner.outlook.plans
        if plan is None or model is None or when is None:
            return None
        allowed = allowed_work(when, plan)

        def _find() -> Weighed:
            looks = known[1] if known is not None and known[0] is model.evidence else looks_of(model.evidence)
            self._looks = model.evidence, looks
            bundles, buys = alternatives(reel, plan, model, looks, allowed), savings(reel, plan, model, looks)
            return Weighed(bundles, buys, calm_steps(reel, plan, model, plans, when), model.evidence, looks)

        return _find

    @property
    def choice(self) -> Alternatives:
        """The bundles; none while they are looked for the first time."""
        return Alternatives() if self.found is None else self.found.alternatives

    @property
    def savings(self) -> list[Saving]:
        """Single changes, what buys most first."""
        return [] if self.found is None else self.found.savings

    @property
    def steps(self) -> list[Step]:
        """The smallest steps: calm where it is not, in time where it is late, calmer where time is spare."""
        return [] if self.found is None else self.found.steps

    def step_words(self, step: Step) -> str:
        """Return a step with its price, in words.

        Parameters
        ----------
        step : one of the steps
        """
        return step.sentence(self._session.reel.frame_speed)

    def take_step(self, step: Step) -> None:
        """Plan the shot with a step from now on; other shots stay as they are.

        Parameters
        ----------
        step : one of the steps
        """
        shot = self._session.playhead.shot_id

        def _edit(reel: Reel) -> Reel:
            if step.calm is not None:
                reel = with_calm(reel, shot, step.calm)
            for setting, value in step.changes.items():
                reel = departed(reel, shot, setting, value)
            return reel

        self._session.do(step.words[:1].upper() + step.words[1:], _edit)

    @property
    def words(self) -> str:
        """What there is besides the bundles, in a sentence; '' for nothing."""
        if self.found is None:
            return "Looking for settings that are calm enough …" if self._session.plan is not None else ""
        choice = self.choice
        told = [choice.why[:1].upper() + choice.why[1:]] if choice.why else []
        told += [f"More could be weighed with {choice.missing}"] if choice.missing else []
        return ". ".join(told)

    def price(self, bundle: Bundle) -> str:
        """Return what a bundle takes, in words.

        Parameters
        ----------
        bundle : one of the bundles
        """
        late = "" if bundle.in_time else ", late"
        return f"{spoken(bundle.seconds / self._session.reel.frame_speed)}{late}"

    def take(self, bundle: Bundle) -> None:
        """Plan the shot with a bundle from now on; other shots of its recipe stay as they are.

        Parameters
        ----------
        bundle : one of the bundles
        """
        shot = self._session.playhead.shot_id

        self._session.do(f"Take the {bundle.name}", lambda reel: with_bundle(reel, shot, bundle))

    def change(self, saving: Saving) -> None:
        """Make a single change, for every shot of the recipe, as in the ledger; a crop is the shot's own.

        Parameters
        ----------
        saving : one of the changes
        """
        shot = self._session.playhead.shot_id

        def _edit(reel: Reel) -> Reel:
            if saving.held is not None:
                return with_held(reel, shot, saving.held)
            for field, value in saving.changes.items():
                reel = departed(reel, shot, field, value) if saving.own else with_line(reel, shot, field, value)
            return reel

        plain = saving.held is None and not saving.own
        self._session.do(f"Set {saving.words}" if plain else saving.words[0].upper() + saving.words[1:], _edit)

    def hours(self, seconds: float) -> float:
        """Return hours on the machines of the reel.

        Parameters
        ----------
        seconds : on a machine of speed 1
        """
        return seconds / self._session.reel.frame_speed / 3600.0

    def taken(self, bundle: Bundle) -> bool:
        """Whether the shot is planned with a bundle already.

        Parameters
        ----------
        bundle : one of the bundles
        """
        now = self._session.recipe
        shot = self._session.shot
        return (
            shot.hold.kind == "clean"
            and shot.calm == bundle.calm
            and all(now.value(x.field) == bundle.recipe.value(x.field) for x in now.settings)
        )


def with_bundle(reel: Reel, shot: str, bundle: Bundle) -> Reel:
    """Return the reel with a shot that is planned with a bundle; other shots of its recipe stay as they are.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot : id of the shot, or of the layer as SHOT.LAYER
    bundle : its settings, and how calm it is

    Returns
    -------
    Reel
        The changed reel.
    """
    common = reel.recipe(reel.shot(shot).recipe).declared(reel.settings)
    for line in common.settings:
        value = bundle.recipe.value(line.field)
        follows = value == common.value(line.field)
        reel = rejoined(reel, shot, line.field) if follows else departed(reel, shot, line.field, value)
    reel = with_hold(reel, shot, CLEAN)
    return reel if reel.shot(shot).calm == bundle.calm else with_calm(reel, shot, bundle.calm)
