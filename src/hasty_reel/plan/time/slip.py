"""A run that slips: the chance of being late, and fewer samples for the frames not rendered yet, so that it is ready when due.

The samples that are left out are those above a ceiling, the highest with which nine in ten hold again. Beside frames that
are rendered already samples come down no faster than the ratio limit lets noise grow from frame to frame: no step shows.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Collection
from dataclasses import dataclass

import numpy as np
from scipy.stats import norm

from hasty_reel.plan.shot import RATIO, ShotPlan
from hasty_reel.plan.time.timeleft import TimeLeft
from hasty_reel.reel.durations import spoken

SLIPS, HOLDS = 0.2, 0.1
"""Chance of being late above which a run slips, and below which it holds again: between them nothing changes."""


def chance_late(left: TimeLeft, seconds_left: float) -> float:
    """Return the chance that a run takes longer than there is.

    Parameters
    ----------
    left : how long it still takes
    seconds_left : seconds of the clock that there are
    """
    if left.middle <= 0:
        return 0.0
    if seconds_left <= 0 or not math.isfinite(left.middle):
        return 1.0
    return float(norm.sf(math.log(seconds_left / left.middle) / max(left.spread, 1e-6)))


class SlipWatch:
    """Whether a run slips; what was said is not taken back before it clearly holds."""

    def __init__(self) -> None:
        self.slips = False

    def look(self, chance: float) -> bool:
        """Take in the chance of being late, and return whether the run slips.

        Parameters
        ----------
        chance : of being late, 0 to 1
        """
        if chance > SLIPS:
            self.slips = True
        elif chance < HOLDS:
            self.slips = False
        return self.slips


@dataclass(frozen=True)
class NewPlan:
    """Samples for the frames that are not rendered yet.

    samples : (f,) of all frames; ceiling : the most of those that change
    frames : how many change; left : how long it takes then; missing : seconds by which nine in ten still fail, 0 where they hold
    noise : factor on the noise of the frame that changes most
    """

    samples: np.ndarray
    ceiling: int
    frames: int
    left: TimeLeft
    missing: float
    noise: float

    @property
    def words(self) -> str:
        """What changes and what it comes to, in a sentence."""
        if not self.frames:
            return f"Fewer samples make it no sooner: {spoken(self.missing)} are missing nine times in ten."
        what = (
            f"{self.ceiling} samples at most in {self.frames} frames that are not rendered yet, noise up to {self.noise:.2f} times the plan"
        )
        if self.missing > 0:
            return f"{what}; even so {spoken(self.missing)} are missing nine times in ten."
        return f"{what}: ready when due, nine times in ten."


def new_plan(plan: ShotPlan, done: Collection[int], seconds_left: float, told: Callable[[np.ndarray], TimeLeft]) -> NewPlan:
    """Return the highest ceiling of samples with which the frames that are left are ready in time, nine times in ten.

    Parameters
    ----------
    plan : of the shot, as it is rendered
    done : frames that are rendered, or under way: they stay as they are
    seconds_left : seconds of the clock that there are
    told : gives how long it takes with seconds (f,) of rendering for each frame

    Returns
    -------
    NewPlan
        With the floor of the recipe for a ceiling where none is enough.
    """
    steps = plan.recipe.sample_step
    fixed = np.array([int(f) in done for f in plan.frames])
    lowest = -(-max(plan.recipe.samples_floor, 1) // steps)
    highest = max(lowest, int(plan.samples.max()) // steps)
    bound = _joined(plan.samples, fixed)

    def _samples(ceiling: int) -> np.ndarray:
        wanted = np.maximum(np.minimum(plan.samples, ceiling), np.minimum(bound, plan.samples))
        whole = np.maximum(steps, np.ceil(wanted / steps - 1e-9) * steps).astype(np.int64)
        return np.where(fixed, plan.samples, np.minimum(whole, plan.samples))

    def _left(samples: np.ndarray) -> TimeLeft:
        each = plan.sample / plan.samples  # what stops at noise costs no more with fewer samples
        return told(plan.seconds - plan.denoise + each * (samples - plan.samples))

    low, high = lowest, highest
    if _left(_samples(high * steps)).high > seconds_left:
        while high - low > 1:
            middle = (low + high) // 2
            low, high = (middle, high) if _left(_samples(middle * steps)).high <= seconds_left else (low, middle)
        high = low
    samples = _samples(high * steps)
    left = _left(samples)
    changed = samples < plan.samples
    noise = float(np.sqrt((plan.samples / samples)[changed].max())) if changed.any() else 1.0
    most = int(samples[changed].max()) if changed.any() else int(plan.samples.max())
    return NewPlan(samples, most, int(changed.sum()), left, max(0.0, left.high - seconds_left), noise)


def _joined(samples: np.ndarray, fixed: np.ndarray) -> np.ndarray:
    """The fewest samples that the ratio limit allows beside frames that are rendered already, (f,); 0 where none is near."""
    out = np.where(fixed, samples, 0).astype(np.float64)
    fall = RATIO**2
    for order in (range(1, len(out)), range(len(out) - 2, -1, -1)):
        step = 1 if order.start == 1 else -1
        for k in order:
            out[k] = max(out[k], out[k - step] / fall)
    return out
