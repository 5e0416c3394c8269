"""A shot with the same samples in every frame: what it costs, when the reel is ready, what is seen; and where that meets the limits."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

import numpy as np
from msgspec import structs

from hasty_reel.measure.seen import STANDARD, Eyes
from hasty_reel.plan.shot import ShotPlan, plan_shot
from hasty_reel.plan.time.deadline import Deadline, deadline
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.calm import LEVELS
from hasty_reel.reel.document import Reel
from hasty_reel.reel.shot import Shot
from hasty_reel.viewers import limit_of

LEAST, GRID = 4, 30
"""The fewest samples of the dial, and the counts between these and the ceiling at which is looked."""
HALVINGS = 6
"""How often the stretch in which the deadline lies is halved: to a hundredth of the dial."""


@dataclass(frozen=True)
class AtSamples:
    """A shot with the same samples in every frame.

    samples : per pixel, as they come out with shutter steps
    seconds : of the shot, on a machine of speed 1
    seen : seen flicker of the frame where it is most, in JND
    deadline : of the reel with this shot so
    """

    samples: float
    seconds: float
    seen: float
    deadline: Deadline


@dataclass(frozen=True)
class DialMarks:
    """Where the dial meets what is promised, in samples per pixel.

    least, most : its ends
    planned : samples of the plan, the mean of all frames
    calm : by the name of a level, where it is reached; those that are not reached on the dial are left out
    in_time : the most with which the reel is ready when it is due; None where no count is in time
    """

    least: float
    most: float
    planned: float
    calm: dict[str, float]
    in_time: float | None


class SampleDialPlans:
    """Plans of a shot with the same samples in every frame, others as they stand.

    Parameters
    ----------
    reel : the reel
    shot : the shot or layer
    model : what its proofs say
    plans : of the reel, by shot or layer
    now : when the work begins
    finished : with denoising; else as rendered
    eyes : who looks
    """

    def __init__(
        self, reel: Reel, shot: Shot, model: ShotModel, plans: Mapping[str, ShotPlan], now: datetime, finished: bool = True,
        eyes: Eyes = STANDARD,
    ) -> None:  # fmt: skip
        recipe = reel.recipe_of(shot)
        self._recipe = recipe if finished else structs.replace(recipe, denoise_window=1, despike=0)
        self._reel, self._shot, self._model, self._plans, self._now, self._eyes = reel, shot, model, plans, now, eyes

    def at(self, samples: float) -> AtSamples:
        """Return the shot with so many samples.

        Parameters
        ----------
        samples : per pixel
        """
        plan = self._plan(samples)
        found = deadline(self._reel, {**self._plans, self._shot.id: plan}, self._now)
        return AtSamples(float(plan.samples.mean()), plan.total_seconds, plan.worst_flicker, found)

    def marks(self) -> DialMarks:
        """Return where the dial meets what is promised."""
        most = float(max(self._reel.recipe_of(self._shot).samples_ceiling, 16 * LEAST))
        counts = np.geomspace(LEAST, most, GRID)
        logs, seen = np.log(counts), np.log([max(self._plan(n).worst_flicker, 1e-6) for n in counts])
        calm = {}
        for name, percent in LEVELS.items():
            wanted = np.log(limit_of(percent / 100.0))
            if seen.min() <= wanted <= seen.max():
                calm[name] = float(np.exp(np.interp(-wanted, -np.maximum.accumulate(seen[::-1])[::-1], logs)))
        planned = self._plans[self._shot.id].samples
        return DialMarks(float(LEAST), most, float(planned.mean()), calm, self._most_in_time(float(LEAST), most))

    def _plan(self, samples: float) -> ShotPlan:
        count = max(1, round(samples))
        recipe = structs.replace(self._recipe, samples_floor=count, samples_ceiling=count)
        return plan_shot(self._reel, self._shot, self._model, recipe, self._eyes)

    def _in_time(self, samples: float) -> bool:
        found = self.at(samples).deadline
        return found.ready <= found.due

    def _most_in_time(self, low: float, high: float) -> float | None:
        if self._in_time(high):
            return high
        if not self._in_time(low):
            return None
        for _ in range(HALVINGS):
            middle = float(np.sqrt(low * high))
            low, high = (middle, high) if self._in_time(middle) else (low, middle)
        return low
