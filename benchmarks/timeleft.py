"""The time left of simulated nights: does '9 in 10' hold, how near is it, does it jump? Beside elapsed / done, and beside one who knows.

Who knows is told the true level of the night and the truth of each machine at that moment, but not what is still to come: no estimate can
be expected to be nearer.

Each night has a true level that all frames share, one for each machine, frames that stray by themselves and alike in
stretches, and a drift; none of it is told to the estimate. `python benchmarks/timeleft.py [NIGHTS]` prints a table.
"""

from __future__ import annotations

import sys
from dataclasses import dataclass, replace
from types import SimpleNamespace

import numpy as np

from hasty_reel.plan.time.timeleft import MACHINE, SHARED, Pace, time_left
from hasty_reel.run.crew import FrameTask
from hasty_reel.run.simulated import SimulatedCrew, SimulatedMachine
from hasty_reel.work import CancelToken

FRAMES = 160
MARKS = (0.0, 0.25, 0.5, 0.75)


@dataclass
class Night:
    """At each mark: real seconds left, and what was told; naive : elapsed / done; known : by one who knows the level."""

    real: np.ndarray
    middle: np.ndarray
    high: np.ndarray
    low: np.ndarray
    naive: np.ndarray
    known: np.ndarray
    jump: float


def night(seed: int, alike: float, drift: float = 0.01) -> Night:
    """Play one night and record what is told on the way."""
    rng = np.random.default_rng(seed)
    planned = np.exp(rng.normal(3.0, 0.15) + 0.5 * np.sin(np.linspace(0, rng.uniform(2, 7), FRAMES)))
    own = np.empty(FRAMES)
    own[0] = rng.normal()
    for k in range(1, FRAMES):
        own[k] = alike * own[k - 1] + np.sqrt(1 - alike**2) * rng.normal()
    level = np.exp(rng.normal(0, SHARED) + np.cumsum(rng.normal(0, drift, FRAMES)))
    strays = level * np.exp(rng.uniform(0.05, 0.14) * own)
    machines = [
        SimulatedMachine(f"m{k}", speed=s, truth=float(np.exp(rng.normal(0, MACHINE))), workers=w)
        for k, (s, w) in enumerate([(1.0, 1), (1.6, 2), (0.7, 1)][: rng.integers(1, 4)])
    ]
    truth = {m.name: m.truth for m in machines}
    crew = SimulatedCrew(machines, lambda task: SimpleNamespace(), strays=lambda f: float(strays[f]))  # type: ignore[arg-type, return-value]
    pace, queue, token = Pace(), list(range(FRAMES)), CancelToken()
    told, done, seen = [], 0.0, 0
    while queue or crew.under_way():
        while queue and crew.free_hands():
            k = queue.pop(0)
            crew.begin(FrameTask(k, None, float(planned[k]), 1e9), token)  # type: ignore[arg-type]
        left = time_left(pace, [float(planned[k]) for k in queue], crew.hands(), list(crew.under_way().values()))
        share = done / planned.sum()
        naive = crew.clock / share * (1 - share) if share else np.nan
        now = level[min(seen, FRAMES - 1)]
        hands = [(machine, speed * truth[machine] / now) for machine, speed in crew.hands()]
        busy = [replace(u, speed=u.speed * truth[u.machine] / now) for u in crew.under_way().values()]
        known = time_left(Pace(own=0.0), [float(planned[k]) for k in queue], hands, busy)
        told.append((share, crew.clock, left.middle, left.low, left.high, naive, known.middle, left.spread))
        for outcome in crew.wait(1.0):
            pace.ended(outcome.seconds, outcome.task.planned / outcome.speed, outcome.machine)
            done += outcome.task.planned
            seen += 1
    table = np.array(told)
    at = [int(np.searchsorted(table[:, 0], m)) for m in MARKS]
    end = crew.clock
    # a jump: the change of the end from one frame to the next, in standard deviations that were shown, with 5 % or more left
    ends = table[:, 1] + table[:, 2]
    enough = table[1:, 0] < 0.95
    jumps = np.abs(np.diff(ends)) / np.maximum(table[:-1, 7] * table[:-1, 2], 1e-9)
    rows = table[at]
    return Night(end - rows[:, 1], rows[:, 2], rows[:, 4], rows[:, 3], rows[:, 5], rows[:, 6], float(jumps[enough].max()))


def main(nights: int = 300) -> None:
    """Print coverage and nearness at each mark."""
    for alike in (0.0, 0.5):
        found = [night(s, alike) for s in range(nights)]
        real, middle, low, high, naive, known = (
            np.array([getattr(n, f) for n in found]) for f in ("real", "middle", "low", "high", "naive", "known")
        )
        print(f"frames stray alike by {alike}: {nights} nights of {FRAMES} frames on 1 to 3 machines")
        print("  done   '9 in 10' holds   8 in 10 inside   within 10 %   who knows   elapsed / done   typical miss, and of elapsed / done")
        for k, mark in enumerate(MARKS):
            off, rough, best = (np.abs(x[:, k] / real[:, k] - 1) for x in (middle, naive, known))
            inside = np.mean((real[:, k] >= low[:, k]) & (real[:, k] <= high[:, k]))
            shares = (100 * np.mean(x) for x in (real[:, k] <= high[:, k], inside, off < 0.1, best < 0.1, rough < 0.1))
            misses = 100 * np.median(off), 100 * np.nanmedian(rough) if mark else np.nan
            print(
                "  {:3.0f} %  {:8.0f} %  {:15.0f} %  {:12.0f} %  {:9.0f} %  {:12.0f} %  {:12.1f} %  {:8.1f} %".format(
                    100 * mark, *shares, *misses
                )
            )
        print(f"  largest jump of the end, in standard deviations shown: median {np.median([n.jump for n in found]):.2f}, "
              f"largest {max(n.jump for n in found):.2f}")  # fmt: skip


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 300)
