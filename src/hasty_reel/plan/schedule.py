"""When frames are ready that cannot be divided: each free worker takes the next chunk, in many runs at once.

A worker that is free takes the next chunk of frames, in their order (list scheduling, Graham 1969, from memory). Machines work
in their free hours; a chunk that would not end with them is taken by whoever ends it soonest, and goes on in the next ones if
it must. What is not known of the seconds is drawn: shared by all frames of a run, and each frame's own. A frame that fails is
rendered again, at most `ATTEMPTS` times in all.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

ATTEMPTS = 3
FAR = 1e12
"""Seconds: never."""
PAUSE = 1e-3
"""Seconds of a pause that is one."""
ALIKE = 6.0
"""Seconds by which ends count as alike, a tenth of the minute that is shown: then the longer chunk is taken, which starts less often."""


@dataclass(frozen=True)
class Worker:
    """One worker of a machine.

    machine : its place in the list; speed : relative to the machine whose seconds are told
    fails : chance that a frame fails
    """

    machine: int
    speed: float = 1.0
    fails: float = 0.0


@dataclass(frozen=True)
class Hours:
    """Free time of machines: (m, n) seconds each was free until `at`, (n,) seconds from the start, increasing from 0.

    Beyond the last time a machine works on, where it was free just before it.
    """

    at: np.ndarray
    free: np.ndarray


@dataclass(frozen=True)
class Ahead:
    """What is to be rendered, in its order, (f,) each.

    seconds : of a frame at speed 1; own : standard deviation of its logarithm; shared : the same of what all frames have in common
    load : seconds that a worker pays before a chunk that begins with this frame
    """

    seconds: np.ndarray
    own: np.ndarray
    shared: float
    load: np.ndarray


@dataclass(frozen=True)
class Schedule:
    """Many runs of the same work.

    ready : (runs,) seconds from the start until all frames are there, `FAR` where they never are
    worked : (runs, m) seconds each machine worked; frames : (runs, m) frames it rendered
    """

    ready: np.ndarray
    worked: np.ndarray
    frames: np.ndarray

    def quantile(self, share: float) -> float:
        """Return the seconds by which all is ready in a share of the runs; inf where it never is.

        Parameters
        ----------
        share : 0 to 1
        """
        found = float(np.quantile(self.ready, share, method="higher"))
        return found if found < FAR / 2 else float("inf")

    def chance(self, due: float) -> float:
        """Return the share of runs that are ready by then.

        Parameters
        ----------
        due : seconds from the start
        """
        return float(np.mean(self.ready <= due))


def scheduled(
    ahead: Ahead, workers: Sequence[Worker], hours: Hours, chunk: int, runs: int = 1000, seed: int = 1, factors: np.ndarray | None = None
) -> Schedule:
    """Return when all frames are ready.

    Parameters
    ----------
    ahead : what is to be rendered
    workers : who render; at least one
    hours : when their machines are free
    chunk : frames that a worker takes at once
    runs : how often it is played through; with no spread and no failures once is enough
    seed : of what is drawn
    factors : (runs,) on all seconds of each run, instead of drawn ones
    """
    rng = np.random.default_rng(seed)
    count = len(ahead.seconds)
    own = rng.standard_normal((runs, count)).astype(np.float32) * ahead.own - 0.5 * ahead.own**2
    shared = np.exp(ahead.shared * rng.standard_normal((runs, 1))) if factors is None else factors[:, None]
    took = ahead.seconds * np.exp(own) * shared
    machine = np.array([w.machine for w in workers])
    speed, fails = np.array([w.speed for w in workers]), np.array([w.fails for w in workers])
    tables = _Tables(hours)
    every = np.arange(runs)
    next_start = np.stack([tables.opening(m, np.zeros(1))[0] * np.ones(runs) for m in machine], axis=1)
    machines = len(hours.free)
    worked, frames = np.zeros((runs, machines)), np.zeros((runs, machines))
    ready = np.zeros(runs)
    lost_by = rng.random((runs, count), np.float32) if fails.any() else None
    for first in range(0, count, chunk):
        past = min(first + chunk, count)
        who = np.argmin(next_start, axis=1)
        part = took[:, first:past]
        if lost_by is not None:
            part = part * (1.0 + _failures(lost_by[:, first:past], fails[who][:, None]))
        whole = part.sum(axis=1) + ahead.load[first] * shared[:, 0]
        begun = next_start[every, who]
        ended = tables.after(machine[who], begun, whole / speed[who])
        cut = np.flatnonzero(ended > begun + whole / speed[who] + PAUSE)
        if len(cut) and len(workers) > 1:  # the hours end before the chunk does: whoever ends it soonest takes it
            ends = [tables.after(np.full(len(cut), m), next_start[cut, w], whole[cut] / s) for w, (m, s) in enumerate(zip(machine, speed))]
            who[cut] = np.argmin(ends, axis=0)
            ended[cut] = np.min(ends, axis=0)
        work = whole / speed[who]
        next_start[every, who] = tables.opening(machine[who], ended)
        worked[every, machine[who]] += work  # each run once, so that nothing is lost
        frames[every, machine[who]] += past - first
        ready = np.maximum(ready, ended)
    return Schedule(np.minimum(ready, FAR), worked, frames)


def best_chunk(ahead: Ahead, workers: Sequence[Worker], hours: Hours, seed: int = 1) -> int:
    """Return the frames that a worker should take at once, so that all are ready soonest nine times in ten.

    Parameters
    ----------
    ahead : what is to be rendered
    workers : who render
    hours : when their machines are free
    seed : of what is drawn
    """
    most = max(1, math.ceil(len(ahead.seconds) / len(workers)))
    tried = sorted({most, *(n for k in range(12) for n in (1 << k, 3 << k) if n < most)})
    found = {n: scheduled(ahead, workers, hours, n, 60, seed).quantile(0.9) for n in tried}
    soonest = min(found.values())
    return max(n for n in tried if found[n] <= soonest + ALIKE)


def _failures(drawn: np.ndarray, chance: np.ndarray) -> np.ndarray:
    """How often a frame fails before it comes, `ATTEMPTS` - 1 at most."""
    with np.errstate(divide="ignore"):
        lost = np.floor(np.log(drawn) / np.log(np.maximum(chance, 1e-300)))
    return np.where(chance > 0, np.minimum(lost, ATTEMPTS - 1), 0.0)


class _Tables:
    """Clock and free time of all machines as one table: a step reads it for all runs at once."""

    def __init__(self, hours: Hours) -> None:
        self._at, self._free = hours.at, hours.free
        span = np.diff(self._at)
        self._slope = np.concatenate([np.diff(self._free, axis=1) / span, np.zeros((len(self._free), 1))], axis=1)
        self._slope[:, -1] = self._slope[:, -2]
        self._apart = float(self._free.max()) * 2.0 + 1.0
        self._keys = (self._free + self._apart * np.arange(len(self._free))[:, None]).ravel()

    def worked(self, machine: np.ndarray, clock: np.ndarray) -> np.ndarray:
        """Seconds that machines were free until a time."""
        k = np.searchsorted(self._at, clock, side="right") - 1
        return self._free[machine, k] + (clock - self._at[k]) * self._slope[machine, k]

    def clock(self, machine: np.ndarray, free: np.ndarray, side: str) -> np.ndarray:
        """The time at which machines have been free for so long: the first such, or ('right') the last, when they go on."""
        wide = len(self._at)
        low = np.minimum(free, self._free[machine, -1]) + self._apart * machine
        k = np.searchsorted(self._keys, low, side=side) - 1 - wide * machine  # type: ignore[call-overload]
        k = np.where(free > self._free[machine, -1], wide - 1, np.maximum(k, 0))
        slope = self._slope[machine, k]
        gone = free - self._free[machine, k]
        return np.where(gone <= 0, self._at[k], np.where(slope > 0, self._at[k] + gone / np.where(slope > 0, slope, 1.0), FAR))

    def after(self, machine: np.ndarray, begun: np.ndarray, work: np.ndarray) -> np.ndarray:
        """When work is done that machines begin at a time."""
        done = self.clock(machine, self.worked(machine, np.minimum(begun, FAR)) + work, "left")
        return np.where(begun >= FAR / 2, FAR, np.minimum(done, FAR))

    def opening(self, machine: np.ndarray | int, clock: np.ndarray) -> np.ndarray:
        """When machines can begin, from a time on."""
        which = np.broadcast_to(np.asarray(machine), clock.shape)
        found = self.clock(which, self.worked(which, np.minimum(clock, FAR)), "right")
        return np.where(clock >= FAR / 2, FAR, np.maximum(found, clock))
