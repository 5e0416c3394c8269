"""How sure the seconds of a plan are: joint draws of its curves, and of what all frames share.

A day on a machine makes all its frames slower or faster together (Student's t with four degrees of freedom, since a
busy machine is not a rare thing); curves and what each frame has of its own come from the model of the shot.
"""

from __future__ import annotations

import zlib
from functools import lru_cache

import numpy as np

from hasty_reel.plan.shot import ShotPlan

DRAWS = 1000
DAY, DEGREES = 0.04, 4
"""Scale of the logarithm of what a day does to a machine, and degrees of freedom of its Student's t."""
FINISHING = 0.10
"""The same of finishing, whose seconds were measured on a few frames."""


@lru_cache(maxsize=1)
def day_factors() -> np.ndarray:
    """Return the factors on all seconds of a reel that a day may bring, (draws,)."""
    factors = np.exp(DAY * np.random.default_rng(8).standard_t(DEGREES, DRAWS))
    factors.setflags(write=False)
    return factors


def total_draws(plan: ShotPlan) -> np.ndarray:
    """Return the seconds of a shot as they may be, without what the day brings, (draws,).

    Parameters
    ----------
    plan : of the shot
    """
    at = plan.frame_model
    rng = np.random.default_rng(zlib.crc32(plan.shot.id.encode()))
    work = (plan.mean_samples * plan.pixels).astype(np.float32)
    sampled = np.resize(at.cost_draws @ work, DRAWS).astype(np.float64)
    if at.unproven_spread:
        sampled *= np.exp(at.unproven_spread * rng.standard_t(DEGREES, DRAWS) - 0.5 * at.unproven_spread**2)
    fixed = np.resize(at.fixed_draws - at.fixed.mean, DRAWS) * len(plan.frames)
    finishing = float(plan.denoise.sum()) * np.exp(FINISHING * rng.standard_normal(DRAWS))
    return sampled + fixed + finishing + float(plan.load.sum() + plan.cache.sum() + plan.write.sum())


def frame_band(plan: ShotPlan, low: float = 5.0, high: float = 95.0) -> tuple[np.ndarray, np.ndarray]:
    """Return the seconds between which each frame falls nine times in ten, (f,) both.

    Parameters
    ----------
    plan : of the shot
    low, high : percentiles

    Returns
    -------
    low, high : np.ndarray
        (f,) seconds on a machine of speed 1.
    """
    at = plan.frame_model
    count = len(at.cost_draws)
    rng = np.random.default_rng(len(plan.frames))
    work = (plan.mean_samples * plan.pixels).astype(np.float32)
    seconds = at.cost_draws * work
    if at.unproven_spread:
        seconds = seconds * np.exp(at.unproven_spread * rng.standard_t(DEGREES, (count, 1))).astype(np.float32)
    finishing = plan.denoise * np.exp(FINISHING * rng.standard_normal((count, 1)))
    seconds = seconds + (at.fixed_draws - at.fixed.mean)[:, None] + finishing + plan.load + plan.cache + plan.write
    seconds = seconds * np.resize(day_factors(), count)[:, None]
    below, above = np.percentile(seconds, (low, high), axis=0)
    return below, above
