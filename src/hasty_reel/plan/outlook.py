"""The plans of all shots of a reel, each made anew only when something it rests on changed."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime

from hasty_reel.errors import CannotSolve
from hasty_reel.evidence.quiet import as_quiet, quiet_yardstick
from hasty_reel.evidence.rows import Evidence
from hasty_reel.measure.seen import STANDARD, Eyes
from hasty_reel.plan.compare.prices import Price, price_tags
from hasty_reel.plan.shot import ShotPlan, plan_shot
from hasty_reel.plan.time.deadline import Deadline, allowed_seconds, deadline
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.document import Reel
from hasty_reel.reel.shot import Shot


@dataclass(frozen=True)
class Outlook:
    """What the views read: plans and models by shot or layer, prices of the current one, the deadline, why one has no plan.

    quiet : seconds of the yardstick on this machine when it was quiet, as its seconds are planned; 0 where it was never taken
    """

    plans: dict[str, ShotPlan] = field(default_factory=dict)
    prices: dict[str, Price] = field(default_factory=dict)
    deadline: Deadline | None = None
    allowed: float = 0.0
    lacks: dict[str, str] = field(default_factory=dict)
    models: dict[str, ShotModel] = field(default_factory=dict)
    quiet: float = 0.0

    def seconds_of(self, shot: Shot) -> float | None:
        """Planned seconds of a shot with its layers; None where a part has no plan.

        Parameters
        ----------
        shot : the shot or layer
        """
        parts = [self.plans.get(t.id) for t in shot.as_layers()]
        return None if any(p is None for p in parts) else sum(p.total_seconds for p in parts if p is not None)


class PlanMemory:
    """Keeps models and plans between one edit and the next, for the eyes that count.

    Parameters
    ----------
    eyes : who looks, and from where
    """

    def __init__(self, eyes: Eyes = STANDARD) -> None:
        self.eyes = eyes
        self._models: dict[str, tuple[Evidence, Shot, ShotModel | str, float]] = {}
        self._plans: dict[str, tuple[tuple, ShotPlan]] = {}

    def model(
        self, shot: Shot, evidence: Mapping[str, Evidence], shared: dict[tuple, ShotModel | str] | None = None, quiet: float = 0.0
    ) -> ShotModel | str:
        """Return the model of a shot from its evidence, or why there is none.

        Parameters
        ----------
        shot : the shot or layer
        evidence : by shot
        shared : models made in this turn, for shots that share their evidence and frames
        quiet : seconds of the yardstick on the quiet machine, 0 where that is not known
        """
        shared = {} if shared is None else shared
        found = evidence.get(shot.id) or NOTHING
        kept = self._models.get(shot.id)
        if kept is not None and kept[0] is found and kept[3] == quiet and (kept[1] is shot or _same_frames(kept[1], shot)):
            return kept[2]
        rests_on = (id(found), quiet, (shot.begin, shot.past, shot.step), tuple(sorted(shot.put_away)))
        model: ShotModel | str | None = shared.get(rests_on)
        if model is None:
            try:
                model = ShotModel(as_quiet(found.without(shot.put_away), quiet), shot.frames)
            except CannotSolve as error:
                model = str(error)
            shared[rests_on] = model
        self._models[shot.id] = (found, shot, model, quiet)
        return model

    def plan(self, reel: Reel, shot: Shot, model: ShotModel) -> ShotPlan:
        """Return the plan of a shot with a model.

        Parameters
        ----------
        reel : the reel
        shot : the shot or layer
        model : what its proofs say
        """
        recipe = reel.recipe_of(shot)
        rests_on = (shot, recipe, reel.picture_size, reel.rate, reel.calm, reel.viewing, model, self.eyes)
        kept = self._plans.get(shot.id)
        if kept is not None and _same(kept[0], rests_on):
            return kept[1]
        plan = plan_shot(reel, shot, model, recipe, self.eyes)
        _ = plan.caution_seconds  # one more solve: here, not where it is first read
        self._plans[shot.id] = (rests_on, plan)
        return plan

    def outlook(
        self, reel: Reel, current: str, evidence: Mapping[str, Evidence], now: datetime, tell: Callable[[Outlook], None] | None = None
    ) -> Outlook:
        """Plans, prices of the current shot or layer, deadline.

        Parameters
        ----------
        reel : the reel
        current : id of the shot or layer whose prices are wanted
        evidence : by shot or layer
        now : when the work begins
        tell : called with the same before the deadline is known; None: nobody waits for it
        """
        looked_at = reel.shot(current)
        also = [] if looked_at.layers or looked_at in reel.tasks else [looked_at]  # a disabled shot has a plan while it is looked at
        plans, lacks = self.plans(reel, [*reel.tasks, *also], evidence)
        prices: dict[str, Price] = {}
        if current in plans:
            model = self.model(looked_at, evidence, quiet=quiet_of(evidence))
            assert isinstance(model, ShotModel)
            prices = price_tags(reel, model, plans[current])
        if looked_at.layers:
            lacks[current] = f"Rendered as its layers {', '.join(y.id for y in looked_at.layers)}: choose one in the menu of shots."
        found = Outlook(plans, prices, None, allowed_seconds(reel, now), lacks, self._known(plans), quiet_of(evidence))
        if tell is not None:
            tell(found)
        return replace(found, deadline=deadline(reel, plans, now))

    def outlook_of_tasks(self, reel: Reel, tasks: Sequence[Shot], evidence: Mapping[str, Evidence], now: datetime) -> Outlook:
        """Return plans and deadline of some shots and layers, without prices.

        Parameters
        ----------
        reel : they belong to
        tasks : shots and layers
        evidence : by shot or layer
        now : when the work begins

        Returns
        -------
        Outlook
            When all frames are ready, and what stands in the way.
        """
        plans, lacks = self.plans(reel, tasks, evidence)
        return Outlook(
            plans, {}, deadline(reel, plans, now, tasks), allowed_seconds(reel, now, tasks), lacks, self._known(plans), quiet_of(evidence)
        )

    def _known(self, plans: Iterable[str]) -> dict[str, ShotModel]:
        found = {name: self._models[name][2] for name in plans if name in self._models}
        return {name: model for name, model in found.items() if isinstance(model, ShotModel)}

    def plans(self, reel: Reel, tasks: Iterable[Shot], evidence: Mapping[str, Evidence]) -> tuple[dict[str, ShotPlan], dict[str, str]]:
        """Plans by shot or layer, and why one has none.

        Parameters
        ----------
        reel : the reel
        tasks : shots and layers
        evidence : by shot or layer
        """
        plans: dict[str, ShotPlan] = {}
        lacks: dict[str, str] = {}
        shared: dict[tuple, ShotModel | str] = {}
        quiet = quiet_of(evidence)
        for task in tasks:
            model = self.model(task, evidence, shared, quiet)
            if isinstance(model, str):
                lacks[task.id] = model
            else:
                plans[task.id] = self.plan(reel, task, model)
        return plans, lacks


NOTHING = Evidence()


def quiet_of(evidence: Mapping[str, Evidence]) -> float:
    """Return the seconds of the yardstick on the quiet machine; 0 where no proof has one.

    Parameters
    ----------
    evidence : by shot or layer
    """
    return quiet_yardstick(p for found in {id(e): e for e in evidence.values()}.values() for p in found.proofs)


def _same_frames(a: Shot, b: Shot) -> bool:
    return a.frames == b.frames and a.put_away == b.put_away


def _same(a: tuple, b: tuple) -> bool:
    # the shot is most often the very same object; the model is compared as one
    return (a[0] is b[0] or a[0] == b[0]) and a[1:6] == b[1:6] and a[6] is b[6] and a[7] == b[7]
