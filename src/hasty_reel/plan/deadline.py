"""All shots of a reel against the due time.

The spread of a total has a shared part, which hits all frames alike, and an own
part, which averages out over the frames; the total is taken as log-normal.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from statistics import NormalDist

import numpy as np

from hasty_reel.plan.shot import ShotPlan
from hasty_reel.reel.document import Reel

NORMAL = NormalDist()
LONGEST = 100 * 365 * 86400.0
"""Times further away are shown as a hundred years."""


@dataclass(frozen=True)
class Deadline:
    """When the frames are ready.

    start : when the work begins; sure5, sure9 : ready 5 in 10 and 9 in 10
    seconds5, seconds9 : of the clock, from start; chance : of being ready when due
    missing : shots without a plan; they are not counted
    """

    start: datetime
    due: datetime
    seconds5: float
    seconds9: float
    chance: float
    missing: tuple[str, ...]

    @property
    def sure5(self) -> datetime:
        """Ready with an even chance."""
        return self.start + timedelta(seconds=min(self.seconds5, LONGEST))

    @property
    def sure9(self) -> datetime:
        """Ready in nine of ten cases."""
        return self.start + timedelta(seconds=min(self.seconds9, LONGEST))

    @property
    def spare_seconds(self) -> float:
        """Between the 9 in 10 time and the due time; negative when late."""
        return (self.due - self.sure9).total_seconds()


def total_spread(plans: list[ShotPlan]) -> float:
    """Standard deviation of the logarithm of the total of some shots.

    Shared parts of different shots go together too: they come from one machine and one night.
    """
    totals = np.array([p.total_seconds for p in plans])
    shared = float(np.sum(totals * [p.shared_spread for p in plans]) / totals.sum())
    own = sum(float(np.sum((p.seconds * p.own_spread) ** 2)) for p in plans) / totals.sum() ** 2
    return float(np.sqrt(shared**2 + own))


def deadline(reel: Reel, plans: Mapping[str, ShotPlan], start: datetime) -> Deadline:
    """Ready times of a reel whose machines work from `start` without a break."""
    found = [plans[s.id] for s in reel.shots if s.id in plans]
    missing = tuple(s.id for s in reel.shots if s.id not in plans)
    if not found:
        return Deadline(start, reel.due_time, 0.0, 0.0, 0.0, missing)
    median = sum(p.total_seconds for p in found) / reel.frame_speed
    spread = total_spread(found)
    allowed = (reel.due_time - start).total_seconds()
    chance = NORMAL.cdf(float(np.log(allowed / median)) / spread) if allowed > 0 else 0.0
    return Deadline(start, reel.due_time, median, float(median * np.exp(spread * NORMAL.inv_cdf(0.9))), chance, missing)


def allowed_seconds(reel: Reel, start: datetime) -> float:
    """Seconds a frame may take on a machine of speed 1 if all are to be ready when due."""
    frames = sum(len(s.frames) for s in reel.shots)
    return max(0.0, (reel.due_time - start).total_seconds() * reel.frame_speed / frames)
