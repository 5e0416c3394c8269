"""Price tags: what a line costs or saves over the shot against leaving it out, and what it does to flicker.

Seconds are compared at equal seen flicker: a setting that saves time and shows more has to pay for it in samples.
Flicker is compared at equal samples.
"""

from __future__ import annotations

from dataclasses import dataclass

import msgspec
import numpy as np

from hasty_reel.plan.compare.baseline import baseline
from hasty_reel.plan.shot import MARGIN, ShotPlan, plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.document import Reel
from hasty_reel.reel.shot import Shot
from hasty_reel.settings.recipe import departing
from hasty_reel.settings.setting import Setting

ROUNDS, CLOSE = 2, 0.02
"""How often the noise is set right until flicker is alike, and by how much it may still differ."""
SAME = 0.05
"""A change of seen flicker below this share of it is none: two seeds do not tell more."""


@dataclass(frozen=True)
class Price:
    """One tag.

    seconds : total with the line minus total without it, at equal seen flicker; None: not proven yet
    flicker : change of seen flicker (95th percentile of the frames) in JND at equal samples; None: not proven yet
    base : seen flicker with the line, in JND
    """

    line: Setting
    seconds: float | None
    flicker: float | None
    base: float = 0.0

    @property
    def effect(self) -> str:
        """'calmer', 'same', 'more' or 'unproven'."""
        return flicker_effect(self.flicker, self.base)


def flicker_effect(change: float | None, base: float) -> str:
    """Return what a setting does to flicker in a word.

    Parameters
    ----------
    change : of seen flicker, in JND; None where it is not proven
    base : seen flicker that it changes, in JND

    Returns
    -------
    str
        'calmer', 'same', 'more' or 'unproven'.
    """
    if change is None:
        return "unproven"
    if abs(change) <= SAME * base:
        return "same"
    return "calmer" if change < 0 else "more"


def price_tags(reel: Reel, model: ShotModel, plan: ShotPlan) -> dict[str, Price]:
    """Return the price of every line of the shot's recipe, by field.

    Parameters
    ----------
    reel : the reel
    model : what the proofs of the shot say
    plan : of the shot
    """
    base = baseline(reel, plan, model)
    return {line.field: _price(reel, base.shot, model, base, line) for line in plan.recipe.settings}


def _price(reel: Reel, shot: Shot, model: ShotModel, plan: ShotPlan, line: Setting) -> Price:
    value = plan.recipe.value(line.field)
    if value == line.neutral:
        return Price(line, 0.0, 0.0)
    known = line.field not in plan.unproven
    if line.axis is not None:
        known = known and model.proven(line.field, line.neutral)
    if not known:
        return Price(line, None, None)
    without = departing(plan.recipe, {line.field: line.neutral})
    alike = plan_shot(reel, shot, model, without, plan.eyes, plan.samples)
    other = plan_seen_alike(reel, shot, model, alike, plan)
    return Price(line, plan.total_seconds - other.total_seconds, plan.worst_flicker - alike.worst_flicker, plan.worst_flicker)


def plan_seen_alike(reel: Reel, shot: Shot, model: ShotModel, alike: ShotPlan, plan: ShotPlan) -> ShotPlan:
    """Return the plan of another recipe whose seen flicker is that of a plan, as far as its floor and ceiling allow.

    Parameters
    ----------
    reel : the reel
    shot : the shot or layer, which holds a noise or seen flicker
    model : what its proofs say
    alike : the plan of the other recipe with the samples of the first
    plan : whose seen flicker is to be met
    """
    if np.array_equal(alike.seen_flicker, plan.seen_flicker) and np.array_equal(alike.noise, plan.noise):
        return alike  # what differs is seconds alone
    if shot.hold.kind == "clean":
        return plan_shot(reel, shot, model, alike.recipe, plan.eyes)
    # what is held has a margin over what is expected
    level = float((alike.noise * np.exp(MARGIN * alike.frame_model.variance_spread / 2.0)).max())
    other = alike
    for _ in range(ROUNDS):
        if not other.worst_flicker > 0 or level <= 0:
            return other
        level *= float(np.clip(plan.worst_flicker / other.worst_flicker, 0.1, 10.0))
        held = msgspec.structs.replace(shot, hold=msgspec.structs.replace(shot.hold, kind="noise", of="mean", value=level))
        other = plan_shot(reel, held, model, alike.recipe, plan.eyes, about=plan.typical_samples)
        if abs(other.worst_flicker - plan.worst_flicker) <= CLOSE * plan.worst_flicker:
            break
    return other
