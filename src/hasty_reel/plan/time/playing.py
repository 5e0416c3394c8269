"""Runs of a schedule played in compiled code, each by itself: who takes which chunk, and when it ends."""

from __future__ import annotations

import numpy as np

from hasty_reel.compiled import njit, prange
from hasty_reel.plan.time.schedule import FAR

ATTEMPTS = 3
PAUSE = 1e-3
"""Seconds of a pause that is one."""


@njit(parallel=True)
def play(work, shared, own, lost_by, render, tables, chunk, ready, worked, frames):
    """Play all runs, each by itself: the last three arrays are filled.

    Parameters
    ----------
    work : (f,) seconds of the frames, standard deviations of their logarithms, and seconds of loading before each
    shared : (runs,) factors on all seconds of a run
    own : (runs, f) standard normal, drawn for each frame; empty where no frame has a spread
    lost_by : (runs, f) 0 to 1, drawn for failures; empty where none fails
    render : (w,) machine, speed and chance of a failure of each worker
    tables : (n,) clock, and (m, n) free seconds until then and their slope
    chunk : frames that a worker takes at once
    ready, worked, frames : (runs,) and (runs, m), filled as `Schedule` has them
    """
    seconds, spread, load = work
    machine, speed, fails = render
    at, free, slope = tables
    count, workers = len(seconds), len(machine)
    for run in prange(len(ready)):
        # of each worker: when it may begin, how long its machine has worked for it so far, and where in the table of hours that is
        begins, done, entry = np.empty(workers), np.zeros(workers), np.zeros(workers, np.int64)
        for w in range(workers):
            entry[w], begins[w] = _clock(at, free[machine[w]], slope[machine[w]], 0, 0.0, True)
        for first in range(0, count, chunk):
            # the worker that is free first takes the chunk
            who = 0
            for w in range(1, workers):
                if begins[w] < begins[who]:
                    who = w
            # what the chunk takes: loading, then its frames as they are drawn; exp(s z - s^2/2) has a mean of 1
            whole = load[first]
            for f in range(first, min(first + chunk, count)):
                took = seconds[f]
                if spread[f] > 0:
                    took *= np.exp(spread[f] * (own[run, f] - 0.5 * spread[f]))
                if fails[who] > 0:
                    took *= 1.0 + _failures(lost_by[run, f], fails[who])
                whole += took
            whole *= shared[run]
            begun, m = begins[who], machine[who]
            k, ended = _clock(at, free[m], slope[m], entry[who], done[who] + whole / speed[who], False)
            if workers > 1 and ended > begun + whole / speed[who] + PAUSE:
                for w in range(workers):  # the hours end before the chunk does: whoever ends it soonest takes it
                    j, ends = _clock(at, free[machine[w]], slope[machine[w]], entry[w], done[w] + whole / speed[w], False)
                    if ends < ended or (ends == ended and w < who):
                        who, k, ended = w, j, ends
            # the chunk is worked off, and the worker begins again where its hours go on
            m, took = machine[who], whole / speed[who]
            done[who] += took
            entry[who], begins[who] = _clock(at, free[m], slope[m], k, done[who], True)
            worked[run, m] += took
            frames[run, m] += min(first + chunk, count) - first
            ready[run] = max(ready[run], ended)


@njit()
def _failures(drawn, chance):
    """How often a frame fails before it comes, `ATTEMPTS` - 1 at most."""
    return min(np.floor(np.log(max(drawn, 1e-30)) / np.log(chance)), ATTEMPTS - 1.0)


@njit()
def _clock(at, free, slope, k, done, on):
    """The entry of its table and the time at which a machine has been free for so long: the first such, or the last, when it goes on.

    It is looked for from entry `k` on.
    """
    while k + 1 < len(at) and (free[k + 1] < done or (on and free[k + 1] == done)):
        k += 1
    gone = done - free[k]
    if gone <= 0:
        return k, at[k]
    return k, (min(at[k] + gone / slope[k], FAR) if slope[k] > 0 else FAR)
