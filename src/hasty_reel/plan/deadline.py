"""All shots of a reel against the due time, in the free hours of its machines.

The total is drawn a thousand times from what is known of each shot (`spread`), and its quantiles are taken.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np

from hasty_reel.plan.capacity import capacity
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.plan.spread import day_factors, total_draws
from hasty_reel.reel.document import Reel
from hasty_reel.reel.shot import Shot

LONGEST = 100 * 365 * 86400.0
"""Times further away are shown as a hundred years."""


@dataclass(frozen=True)
class Deadline:
    """When the frames are ready.

    start : when the work begins; sure5, sure9 : ready 5 in 10 and 9 in 10
    seconds5, seconds9 : of the clock, from start; inf where the machines never get there
    chance : of being ready when due
    work : median seconds of work on a machine of speed 1; allowed : work that fits before the due time
    hours : each machine works in the 5 in 10 case; cost : of these hours
    missing : shots and layers without a plan; they are not counted
    """

    start: datetime
    due: datetime
    seconds5: float
    seconds9: float
    chance: float
    missing: tuple[str, ...]
    work: float = 0.0
    allowed: float = 0.0
    hours: tuple[float, ...] = ()
    cost: float = 0.0

    @property
    def never(self) -> bool:
        """Whether the free hours of the machines end before the frames are ready."""
        return not math.isfinite(self.seconds9)

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


def work_draws(plans: Iterable[ShotPlan]) -> np.ndarray:
    """Return the seconds of some shots together as they may be, (draws,): what the day brings hits all of them alike.

    Parameters
    ----------
    plans : by shot or layer
    """
    return np.sum([total_draws(p) for p in plans], axis=0) * day_factors()


def deadline(reel: Reel, plans: Mapping[str, ShotPlan], start: datetime, tasks: Iterable[Shot] | None = None) -> Deadline:
    """Ready times of a reel whose machines begin at `start` and work in their free hours.

    Parameters
    ----------
    reel : the reel
    plans : by shot or layer
    start : when the work begins
    tasks : what is to be rendered; None for all of the reel
    """
    tasks = reel.tasks if tasks is None else tuple(tasks)
    found = [plans[t.id] for t in tasks if t.id in plans]
    missing = tuple(t.id for t in tasks if t.id not in plans)
    due = reel.due_time
    if not found:
        return Deadline(start, due, 0.0, 0.0, 0.0, missing)
    work = work_draws(found)
    median, late = (float(q) for q in np.quantile(work, (0.5, 0.9)))
    room = capacity(reel.machines, start, late, due)
    allowed = room.by((due - start).total_seconds())
    chance = float(np.mean(work <= allowed))
    seconds5 = room.seconds_for(median)
    hours = room.hours(min(seconds5, LONGEST))
    cost = float(sum(h * m.price_per_hour for h, m in zip(hours, reel.machines)))
    return Deadline(start, due, seconds5, room.seconds_for(late), chance, missing, median, allowed, tuple(hours.tolist()), cost)


def allowed_seconds(reel: Reel, start: datetime, tasks: Iterable[Shot] | None = None) -> float:
    """Return the seconds a frame may take on a machine of speed 1 if all are to be ready when due.

    Parameters
    ----------
    reel : the reel
    start : when the work begins
    tasks : what is to be rendered; None for all of the reel
    """
    frames = sum(len(t.frames) for t in (reel.tasks if tasks is None else tasks))
    room = capacity(reel.machines, start, 0.0, reel.due_time)
    return room.by((reel.due_time - start).total_seconds()) / max(1, frames)
