"""All shots of a reel against the due time, in the free hours of its machines.

The total is drawn a thousand times from what is known of each shot (`spread`); for its quantiles the machines are played
through, unit by unit (`schedule`): frames cannot be divided, and the last one of each machine is waited for.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from datetime import datetime, timedelta

import numpy as np

from hasty_reel.plan.shot import ShotPlan
from hasty_reel.plan.time.capacity import capacity
from hasty_reel.plan.time.lanes import Layout, laid_out
from hasty_reel.plan.time.schedule import FAR
from hasty_reel.plan.time.spread import day_factors, total_draws
from hasty_reel.plan.time.units import played, units_of
from hasty_reel.reel.document import Reel
from hasty_reel.reel.shot import Shot

STEPS = 11
"""Amounts of work for which the machines are played through, between which the chance is told."""
LONGEST_SECONDS = 100 * 365 * 86400.0
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
    untold : those of which nothing tells how their seconds grow: nothing is promised then
    layout, late : which machine has which shot when, 5 in 10 and 9 in 10
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
    layout: Layout = field(default_factory=Layout)
    late: Layout = field(default_factory=Layout)
    untold: tuple[str, ...] = ()

    @property
    def promised(self) -> bool:
        """Whether the 9 in 10 time is one."""
        return not self.untold

    @property
    def ready(self) -> datetime:
        """The time that is told first: 9 in 10, or an even chance where nothing is promised."""
        return self.sure9 if self.promised else self.sure5

    @property
    def how_sure(self) -> str:
        """How sure that time is, in words."""
        return "9 in 10 sure" if self.promised else "even chance, no 9 in 10 yet"

    @property
    def never(self) -> bool:
        """Whether the free hours of the machines end before the frames are ready."""
        return not math.isfinite(self.seconds9)

    @property
    def sure5(self) -> datetime:
        """Ready with an even chance."""
        return self.start + timedelta(seconds=min(self.seconds5, LONGEST_SECONDS))

    @property
    def sure9(self) -> datetime:
        """Ready in nine of ten cases."""
        return self.start + timedelta(seconds=min(self.seconds9, LONGEST_SECONDS))

    @property
    def sure_work(self) -> float:
        """Seconds that all shots may be planned to take on a machine of speed 1, so that they are ready when due nine times in ten."""
        known = 0 < self.seconds5 < math.inf and self.seconds9 < math.inf
        return self.allowed / (max(1.0, self.seconds9 / self.seconds5) if known else 1.0)

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
    tasks = reel.queue if tasks is None else tuple(sorted(tasks, key=lambda t: -t.priority))
    found = [plans[t.id] for t in tasks if t.id in plans]
    missing = tuple(t.id for t in tasks if t.id not in plans)
    due = reel.due_time
    if not found:
        return Deadline(start, due, 0.0, 0.0, 0.0, missing)
    # how much work there may be, by draws over what is not known
    work = work_draws(found)
    median, late = (float(q) for q in np.quantile(work, (0.5, 0.9)))
    free_hours = capacity(reel.machines, start, late, due)
    until = (due - start).total_seconds()
    # played through the free hours at the median, the ninth of ten, and at steps between
    units = units_of(found, sum(m.workers for m in reel.machines))
    factors = np.concatenate([[median, late], np.quantile(work, np.linspace(0.02, 0.98, STEPS))]) / float(units.sum())
    runs = played(units, reel.machines, free_hours, factors)
    ready = np.where(runs.ready < FAR / 2, runs.ready, np.inf)
    in_time = np.flatnonzero(ready[2:] <= until)
    # the more work, the later: the chance is that of the work that is just ready when due
    chance = 0.0 if not len(in_time) else float(np.mean(work <= _just(factors[2:], ready[2:], until) * float(units.sum())))
    # what each machine works in the even case, and what that costs
    hours = runs.worked[0] / 3600.0 / np.array([m.workers for m in reel.machines])
    cost = float(sum(h * m.price_per_hour for h, m in zip(hours, reel.machines)))
    allowed = free_hours.by(until)
    layout, later = (laid_out(found, reel.machines, free_hours, float(f)) for f in factors[:2])
    return Deadline(
        start,
        due,
        float(ready[0]),
        float(ready[1]),
        chance,
        missing,
        median,
        allowed,
        tuple(hours.tolist()),
        cost,
        layout,
        later,
        tuple(p.shot.id for p in found if not p.frame_model.fixed.known),
    )


def _just(factors: np.ndarray, ready: np.ndarray, until: float) -> float:
    """The factor with which all is just ready by a time; the runs are sorted."""
    if ready[-1] <= until:
        return float(np.inf)
    k = int(np.searchsorted(ready, until, side="right"))
    if not np.isfinite(ready[k]):
        return float(factors[k - 1])
    share = (until - ready[k - 1]) / (ready[k] - ready[k - 1])
    return float(factors[k - 1] + share * (factors[k] - factors[k - 1]))


def allowed_seconds(reel: Reel, start: datetime, tasks: Iterable[Shot] | None = None) -> float:
    """Return the seconds a frame may take on a machine of speed 1 if all are to be ready when due.

    Parameters
    ----------
    reel : the reel
    start : when the work begins
    tasks : what is to be rendered; None for all of the reel
    """
    frames = sum(len(t.frames) for t in (reel.tasks if tasks is None else tasks))
    free_hours = capacity(reel.machines, start, 0.0, reel.due_time)
    return free_hours.by((reel.due_time - start).total_seconds()) / max(1, frames)
