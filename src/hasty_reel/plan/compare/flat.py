"""The same samples in every frame against even noise: what a shot gives away where some frames are noisier than others."""

from __future__ import annotations

import numpy as np

from hasty_reel.plan.shot import ShotPlan


def even_saves(plan: ShotPlan) -> float:
    """Return the seconds that even noise would save at the noise of the worst frame, on a machine of speed 1.

    Variance falls with the samples, so a frame with a share q of the worst variance comes to it with a share q of its samples;
    whole steps and the floor count, pins stay.

    Parameters
    ----------
    plan : of the shot
    """
    step, floor = plan.recipe.sample_step, plan.recipe.samples_floor
    share = (plan.noise / max(float(plan.noise.max()), 1e-12)) ** 2
    wanted = np.ceil(plan.samples * share / step - 1e-9) * step
    pinned = np.isin(plan.frames, list(plan.shot.pins))
    even = np.where(pinned, plan.samples, np.minimum(plan.samples, np.maximum(wanted, floor)))
    return float(np.sum(plan.sample * (1.0 - even / plan.samples)))
