"""Price tags: what a line costs or saves over the shot against leaving it out, and what it does to flicker."""

from __future__ import annotations

from dataclasses import dataclass

import msgspec

from hasty_reel.evidence.settings import SETTINGS
from hasty_reel.plan.shot import ShotPlan, plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.document import Reel
from hasty_reel.reel.recipe import LINES, Line
from hasty_reel.reel.shot import Hold, Shot

SAME = 0.05
"""A change of seen flicker below this share of it is none: two seeds do not tell more."""


@dataclass(frozen=True)
class Price:
    """One tag.

    seconds : total with the line minus total without it; None: not proven yet
    flicker : change of seen flicker (95th percentile of the frames) in JND; None: not proven yet
    base : seen flicker with the line, in JND
    """

    line: Line
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


def priced_hold(plan: ShotPlan) -> Hold:
    """Return what prices hold: the noise that is held, or the worst noise reached where time is held.

    With the time held every setting would cost nothing; at the noise it buys, it has a price.

    Parameters
    ----------
    plan : of the shot
    """
    if plan.shot.hold.kind == "noise":
        return plan.shot.hold
    return Hold(kind="noise", value=float(plan.noise.max()))


def price_tags(reel: Reel, shot: Shot, model: ShotModel, plan: ShotPlan) -> dict[str, Price]:
    """Return the price of every line of the shot's recipe, by field.

    Parameters
    ----------
    reel : the reel
    shot : the shot or layer
    model : what its proofs say
    plan : of the shot
    """
    held = msgspec.structs.replace(shot, hold=priced_hold(plan))
    with_all = plan if held.hold == shot.hold else plan_shot(reel, held, model, plan.recipe, plan.eyes)
    return {line.field: _price(reel, held, model, with_all, line) for line in LINES}


def _price(reel: Reel, shot: Shot, model: ShotModel, plan: ShotPlan, line: Line) -> Price:
    value = getattr(plan.recipe, line.field)
    if value == line.neutral:
        return Price(line, 0.0, 0.0)
    known = line.field not in plan.unproven
    if line.field in SETTINGS:
        known = known and model.proven(line.field, line.neutral)
    if not known:
        return Price(line, None, None)
    without = msgspec.structs.replace(plan.recipe, **{line.field: line.neutral})
    other = plan_shot(reel, shot, model, without, plan.eyes)
    return Price(line, plan.total_seconds - other.total_seconds, plan.worst_flicker - other.worst_flicker, plan.worst_flicker)
