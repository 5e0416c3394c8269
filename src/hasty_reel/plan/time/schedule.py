"""When frames are ready that cannot be divided: each free worker takes the next chunk, in many runs at once.

A worker that is free takes the next chunk of frames, in their order (list scheduling, Graham 1969, from memory). Machines work
in their free hours; a chunk that would not end with them is taken by whoever ends it soonest, and goes on in the next ones if
it must. What is not known of the seconds is drawn: shared by all frames of a run, and each frame's own. A frame that fails is
rendered again, at most `playing.ATTEMPTS` times in all.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

FAR = 1e12
"""Seconds: never."""
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

    Examples
    --------
    Ten frames of a minute on two machines that are always free, the second one half as fast: the fast one takes seven of them.

    >>> frames = Ahead(np.full(10, 60.0), np.zeros(10), 0.0, np.zeros(10))
    >>> always = Hours(np.array([0.0, 1e6]), np.array([[0.0, 1e6], [0.0, 1e6]]))
    >>> found = scheduled(frames, (Worker(0), Worker(1, speed=0.5)), always, chunk=1, runs=1)
    >>> float(found.ready[0]), found.frames[0].tolist()
    (420.0, [7.0, 3.0])
    """
    from hasty_reel.plan.time.playing import play  # brings the compiler along

    rng = np.random.default_rng(seed)
    count, machines = len(ahead.seconds), len(hours.free)
    own = rng.standard_normal((runs, count), np.float32) if np.any(ahead.own) else np.empty((0, 0), np.float32)
    shared = np.exp(ahead.shared * rng.standard_normal(runs)) if factors is None else np.asarray(factors, np.float64)
    lost_by = rng.random((runs, count), np.float32) if any(w.fails for w in workers) else np.empty((0, 0), np.float32)
    at, free = (np.ascontiguousarray(part, np.float64) for part in (hours.at, hours.free))
    slope = np.diff(free, axis=1) / np.diff(at)
    tables = (at, free, np.concatenate([slope, slope[:, -1:]], axis=1))
    render = (np.array([w.machine for w in workers]), np.array([w.speed for w in workers]), np.array([w.fails for w in workers]))
    work = tuple(np.ascontiguousarray(part, np.float64) for part in (ahead.seconds, ahead.own, ahead.load))
    ready, worked, frames = np.zeros(runs), np.zeros((runs, machines)), np.zeros((runs, machines))
    play(work, shared, own, lost_by, render, tables, chunk, ready, worked, frames)
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
