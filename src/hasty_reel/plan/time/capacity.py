"""How much the machines of a reel can do by when: their free hours as one piecewise linear curve.

Work is counted in seconds of a machine of speed 1. The curve takes work as divisible: what fits before a time, at the most.
When frames are ready that cannot be divided is what `schedule` tells, in the same hours.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np

from hasty_reel.reel.hours import Weekly
from hasty_reel.reel.machine import Machine

DAY = 86400.0
HORIZONS = (14 * DAY, 120 * DAY, 3 * 365 * DAY)
"""How far ahead windows are laid out: as far as the work needs, so that a night is planned in no time."""


@dataclass(frozen=True)
class Capacity:
    """Work done by a time, all machines together.

    at : (n,) seconds from the start, increasing; work : (n,) done by then; free : (machines, n) seconds each was free
    goes_on : free hours come again beyond what was laid out
    """

    start: float
    at: np.ndarray
    work: np.ndarray
    free: np.ndarray
    goes_on: bool = True

    def by(self, seconds: float) -> float:
        """Work done that many seconds after the start; at the mean pace beyond what was laid out.

        Parameters
        ----------
        seconds : after the start
        """
        if seconds <= 0:
            return 0.0
        if seconds > self.at[-1] > 0 and self.goes_on:
            return float(self.work[-1] * seconds / self.at[-1])
        return float(np.interp(seconds, self.at, self.work))


def capacity(machines: Sequence[Machine], start: datetime, work: float = 0.0, until: datetime | None = None) -> Capacity:
    """Return the capacity of machines from a time on, laid out as far as some work or a due time needs.

    Parameters
    ----------
    machines : that work
    start : when the work begins
    work : seconds of a machine of speed 1
    until : time it is laid out to at least; None for none
    """
    begin = start.timestamp()
    least = max(0.0, until.timestamp() - begin) if until is not None else 0.0
    found = _laid_out(machines, begin, max(HORIZONS[0], min(least, HORIZONS[-1])))
    for horizon in HORIZONS[1:]:
        if found.work[-1] < work and found.at[-1] < horizon:
            found = _laid_out(machines, begin, horizon)
    return found


def _laid_out(machines: Sequence[Machine], begin: float, horizon: float) -> Capacity:
    of_same_hours: dict[tuple, list[tuple[float, float]]] = {}
    spans = []
    for machine in machines:
        key = (machine.free, machine.zone)
        if key not in of_same_hours:
            of_same_hours[key] = machine.windows(begin, begin + horizon)
        spans.append(of_same_hours[key])
    edges = {0.0, horizon}
    for windows in of_same_hours.values():
        edges.update(t - begin for w in windows for t in w)
    at = np.array(sorted(edges))
    kept = {}
    for key, windows in of_same_hours.items():
        middle = begin + (at[:-1] + at[1:]) / 2
        starts = np.array([w[0] for w in windows])
        ends = np.array([w[1] for w in windows])
        k = np.searchsorted(starts, middle, side="right") - 1
        inside = (k >= 0) & (middle < ends[np.maximum(k, 0)]) if len(starts) else np.zeros(len(middle), bool)
        kept[key] = np.concatenate([[0.0], np.cumsum(np.diff(at) * inside)])
    free = np.array([kept[(m.free, m.zone)] for m in machines])
    speeds = np.array([m.frame_speed for m in machines])
    goes_on = any(not m.free or any(isinstance(h, Weekly) for h in m.free) for m in machines)
    return Capacity(begin, at, speeds @ free, free, goes_on)
