"""What every comparison of settings is made against: prices, levers, savings."""

from __future__ import annotations

import msgspec

from hasty_reel.plan.shot import ShotPlan, plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.document import Reel
from hasty_reel.reel.shot import Hold


def baseline(reel: Reel, plan: ShotPlan, model: ShotModel, as_noise: bool = False) -> ShotPlan:
    """Return the plan that settings are compared at: what is held must leave the seconds free to differ.

    With the time held every setting would cost nothing, so the worst noise that it buys is held instead; the same where
    bounds keep a shot from playing clean.

    Parameters
    ----------
    reel : says size and rate
    plan : of the shot, as it stands
    model : what its proofs say
    as_noise : hold noise also where the shot plays clean
    """
    hold = plan.shot.hold
    if hold.kind == "noise" or (hold.kind == "clean" and plan.budget.solved and not as_noise):
        return plan
    shot = msgspec.structs.replace(plan.shot, hold=Hold(kind="noise", value=float(plan.noise.max())))
    return plan_shot(reel, shot, model, plan.recipe, plan.eyes)
