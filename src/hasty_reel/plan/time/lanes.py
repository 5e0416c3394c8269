"""Which machine has which shot when: the work of a reel laid out in free hours, each free worker taking the next piece of the queue."""

from __future__ import annotations

import heapq
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hasty_reel.plan.frames.chunks import chunk_starts
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.plan.time.capacity import Capacity
from hasty_reel.reel.machine import Machine

MOST_PIECES = 64
"""Pieces of a shot that are laid out; of longer shots neighbours go together."""


@dataclass(frozen=True)
class LaneSpan:
    """Work of one shot on one machine. machine : its place; begin, end : seconds since the work begins"""

    machine: int
    shot: str
    begin: float
    end: float


@dataclass(frozen=True)
class Layout:
    """The work of a reel on its machines. spans : by machine, in their order; ready : seconds after which each shot is ready, by shot"""

    spans: tuple[LaneSpan, ...] = ()
    ready: tuple[tuple[str, float], ...] = ()

    def ready_of(self, shot: str) -> float:
        """Return the seconds after which a shot is ready; inf where it never is.

        Parameters
        ----------
        shot : its id, or that of a layer
        """
        return dict(self.ready).get(shot, math.inf)


def laid_out(plans: Sequence[ShotPlan], machines: Sequence[Machine], hours: Capacity, factor: float = 1.0) -> Layout:
    """Return how shots are rendered on machines in their free hours.

    Parameters
    ----------
    plans : of shots and layers, in the order in which they are rendered
    machines : of the reel; each of their workers takes pieces by itself
    hours : their free hours, laid out
    factor : on all seconds
    """
    free = [(float(_clock(hours, m, 0.0)), m, 0.0) for m, machine in enumerate(machines) for _ in range(machine.workers)]
    heapq.heapify(free)
    spans: list[LaneSpan] = []
    ready: list[tuple[str, float]] = []
    for plan in plans:
        last = 0.0
        for seconds in _pieces(plan) * factor:
            at, m, worked = free[0]
            speed = machines[m].frame_speed / machines[m].workers
            done = worked + seconds / speed
            end = _clock(hours, m, done, "left")
            begin = max(at, _clock(hours, m, worked))
            heapq.heapreplace(free, (max(end, _clock(hours, m, done)), m, done))
            spans.append(LaneSpan(m, plan.shot.id, begin, end))
            last = max(last, end)
        ready.append((plan.shot.id, last))
    return Layout(tuple(_joined(spans)), tuple(ready))


def _pieces(plan: ShotPlan) -> np.ndarray:
    seconds = plan.seconds
    return np.add.reduceat(seconds, chunk_starts(len(seconds), min(len(seconds), MOST_PIECES)))


def _clock(hours: Capacity, machine: int, worked: float, side: str = "right") -> float:
    """The time at which a machine has been free for so long: the first such ('left'), or the last, when it goes on; inf for never."""
    free = hours.free[machine]
    if worked > free[-1] or (side == "right" and worked >= free[-1]):
        return math.inf
    k = int(np.searchsorted(free, worked, side=side))  # type: ignore[call-overload]
    if k == 0:
        return float(hours.at[0])
    share = (worked - free[k - 1]) / (free[k] - free[k - 1])
    return float(hours.at[k - 1] + share * (hours.at[k] - hours.at[k - 1]))


def _joined(spans: list[LaneSpan]) -> list[LaneSpan]:
    """Neighbours of one shot on one machine as one."""
    out: list[LaneSpan] = []
    for span in sorted(spans, key=lambda s: (s.machine, s.begin)):
        if not math.isfinite(span.end):
            continue
        before = out[-1] if out else None
        if before is not None and (before.machine, before.shot) == (span.machine, span.shot):
            out[-1] = LaneSpan(span.machine, span.shot, before.begin, max(before.end, span.end))
        else:
            out.append(span)
    return out
