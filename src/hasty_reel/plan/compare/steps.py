"""The smallest steps to a calm shot: there where it is not, back in time where it is late, calmer where time is spare.

Each step is one change, planned like everything else and held against the due time of the whole reel.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace

import msgspec

from hasty_reel.plan.compare.bundles import MOST_SAMPLES, denoise_ways
from hasty_reel.plan.shot import ShotPlan, plan_shot
from hasty_reel.plan.time.deadline import Deadline, deadline
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.calm import LEVELS, Calm
from hasty_reel.reel.document import Reel
from hasty_reel.reel.durations import spoken
from hasty_reel.settings.recipe import Recipe, Value, departing, differences
from hasty_reel.viewers import seen_by, viewers_words, who_sees

LARGER = (110.0, 125.0, 150.0)
"""Percent of the size of the recipe that are tried."""
MOST = 2
"""Steps that are offered."""
NEARER = 0.97
"""Share of the seen flicker that a step which does not lead there must come down to, so that it is told."""
ALIKE = 1.0
"""Percent of viewers within which two levels are one."""


@dataclass(frozen=True)
class Step:
    """One change of a plan that is to be calm.

    words : what changes; changes : settings of the shot's own recipe; calm : the shot's new level in percent of viewers; None: as it is
    reaches : every frame is as calm as it is to be then; seen : in the worst frame, in JND
    seconds : more than the plan takes, on a machine of speed 1; negative: less
    spare_seconds : before the due time with it, nine times in ten; negative: late
    """

    words: str
    changes: Mapping[str, Value] = field(default_factory=dict)
    calm: Calm | None = None
    reaches: bool = True
    seen: float = 0.0
    seconds: float = 0.0
    spare_seconds: float = 0.0

    def sentence(self, speed: float) -> str:
        """Return the same in words, with its price.

        Parameters
        ----------
        speed : frames rendered in the time one takes on a machine of speed 1
        """
        more = f"{'+' if self.seconds >= 0 else '−'}{spoken(abs(self.seconds) / speed)}"
        left = f"{spoken(self.spare_seconds)} to spare" if self.spare_seconds >= 0 else f"{spoken(-self.spare_seconds)} late"
        what = self.words if self.calm is not None else f"{self.words}: {'calm' if self.reaches else f'seen by {who_sees(self.seen)}'}"
        return f"{what[:1].upper()}{what[1:]}, {more}, {left}"


def calm_steps(reel: Reel, plan: ShotPlan, model: ShotModel, plans: Mapping[str, ShotPlan], when: Deadline) -> list[Step]:
    """Return the smallest steps from a plan, the cheapest first; none where nothing is held calm.

    Parameters
    ----------
    reel : says size, rate and machines
    plan : of the shot, as it stands
    model : what its proofs say
    plans : of all shots and layers
    when : the reel is ready, with the plans as they stand

    Returns
    -------
    list of Step
        Where the shot is not calm: changes that make it so, or the one that comes nearest. Where the reel is late: the strictest level
        that is ready when due. Where time is spare: the next stricter level, if it is ready when due.
    """
    if plan.shot.hold.kind != "clean" or when.never:
        return []
    if not plan.budget.solved:
        return _there(reel, plan, model, plans, when)
    if "." in plan.shot.id:
        return []  # a layer is as calm as its shot
    share = 100.0 * seen_by(plan.eyes.limit)
    if when.spare_seconds >= 0:
        stricter = [v for v in LEVELS.values() if v < share - ALIKE]
        found = [_to_level(reel, plan, model, plans, when, max(stricter))] if stricter else []
        return [s for s in found if s.reaches and s.spare_seconds >= 0]
    looser = sorted(v for v in LEVELS.values() if v > share + ALIKE)
    levels = (_to_level(reel, plan, model, plans, when, v) for v in looser)
    return [s for s in levels if s.spare_seconds >= 0][:1]


def _there(reel: Reel, plan: ShotPlan, model: ShotModel, plans: Mapping[str, ShotPlan], when: Deadline) -> list[Step]:
    """Changes that make a shot calm, or the one that comes nearest."""
    every = [_changed(reel, plan, model, changes) for changes in _changes(plan.recipe, plan, model)]
    reaching = sorted((pair for pair in every if pair[0].reaches), key=lambda pair: (pair[0].seconds, len(pair[0].changes)))
    by_kind: dict[frozenset[str], tuple[Step, ShotPlan]] = {}
    for step, other in reaching:  # the cheapest of denoising, of size, and of samples alone
        by_kind.setdefault(frozenset(step.changes) & {"denoise_window", "render_scale"}, (step, other))
    found = list(by_kind.values())[:MOST]
    if not found and every:
        nearest = min(every, key=lambda pair: pair[0].seen)
        found = [nearest] if nearest[0].seen <= NEARER * plan.worst_flicker else []
    return [_timed(reel, step, other, plans, when) for step, other in found]


def _changes(recipe: Recipe, plan: ShotPlan, model: ShotModel) -> Iterator[dict[str, Value]]:
    """More samples, denoising that proofs tried, a larger size; the latter two with as many samples as they take, too."""
    needed = plan.budget.needed
    most = float("inf") if needed is None else float(needed.max())
    if recipe.samples_ceiling < most <= MOST_SAMPLES:
        yield {"samples_ceiling": MOST_SAMPLES}
    ways = [w for w in denoise_ways(recipe, model) if any(recipe.value(f) != v for f, v in w.items())]
    sizes: list[dict[str, Value]] = [{"render_scale": s} for r in LARGER if (s := round(recipe.render_scale * r / 100.0)) <= 200]
    for change in [*ways, *sizes]:
        yield change
        yield {**change, "samples_ceiling": MOST_SAMPLES}


def _changed(reel: Reel, plan: ShotPlan, model: ShotModel, changes: dict[str, Value]) -> tuple[Step, ShotPlan]:
    other = plan_shot(reel, plan.shot, model, departing(plan.recipe, changes), plan.eyes)
    if "samples_ceiling" in changes:  # as high as it must be, not higher
        changes = {**changes, "samples_ceiling": max(plan.recipe.samples_ceiling, int(other.samples.max()))}
    words = ", ".join(differences(departing(plan.recipe, changes), plan.recipe))
    reaches = other.budget.solved and not set(other.unproven) - set(plan.unproven)
    return Step(words, changes, None, reaches, other.worst_flicker, other.total_seconds - plan.total_seconds), other


def _to_level(reel: Reel, plan: ShotPlan, model: ShotModel, plans: Mapping[str, ShotPlan], when: Deadline, percent: float) -> Step:
    """The same shot on another level."""
    other = plan_shot(reel, msgspec.structs.replace(plan.shot, calm=percent), model, plan.recipe, plan.eyes)
    words = f"calm for all but {viewers_words(percent / 100.0)}"
    step = Step(words, {}, percent, other.budget.solved, other.worst_flicker, other.total_seconds - plan.total_seconds)
    return _timed(reel, step, other, plans, when)


def _timed(reel: Reel, step: Step, other: ShotPlan, plans: Mapping[str, ShotPlan], when: Deadline) -> Step:
    """A step, with what is left before the whole reel is due."""
    tasks = [t for t in reel.tasks if t.id in plans]
    return replace(step, spare_seconds=deadline(reel, {**plans, other.shot.id: other}, when.start, tasks).spare_seconds)
