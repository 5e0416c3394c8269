"""A yardstick: a tiny frame that is always the same, rendered to tell how fast this machine is just now.

Its seconds are kept with every proof. So a proof that was made while the machine was busy is not taken for a dear frame,
and machines are compared by what they do, not by what they are called.
"""

from __future__ import annotations

import threading
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import numpy as np

from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.renderers.bench import render_on_bench
from hasty_reel.settings.recipe import Recipe
from hasty_reel.work import CancelToken

JOB = FrameJob("soft_corner", 1010, 160, 90, 64, Recipe(name="Yardstick", bounces=4), guides=False)
PARTS, TIMES = 4, 3
"""In how many short ones it is rendered, each with its share of the samples, and how often all of them."""
KEPT = 20.0
"""Seconds for which a yardstick counts as taken now."""
OFTEN = 60.0
"""Seconds after which it is taken again within a long proof."""
_PART = replace(JOB, samples=JOB.samples // PARTS)

_lock = threading.Lock()
_last: tuple[float, tuple[float, ...]] = (-KEPT, ())


def short_yardsticks(cancel: CancelToken | None = None, times: int = TIMES) -> tuple[float, ...]:
    """Return the seconds of the yardstick as each of several short ones tells them, about two thirds of a second of work each time.

    Parameters
    ----------
    cancel : looked at while it renders; None: it cannot be stopped
    times : how often it is rendered, in parts
    """
    render_on_bench(FrameJob("soft_corner", 1010, 16, 9, 1, JOB.recipe, guides=False))  # compiled before it is timed
    return tuple(PARTS * render_on_bench(_PART, cancel=cancel).sample_seconds for _ in range(PARTS * times))


def yardstick_seconds(cancel: CancelToken | None = None) -> float:
    """Return the seconds of the yardstick now, about two seconds of work in all: the mean, since what is busy at times is slower at times.

    Parameters
    ----------
    cancel : looked at while it renders; None: it cannot be stopped
    """
    return float(np.mean(short_yardsticks(cancel)))


def recent_yardsticks(cancel: CancelToken | None = None) -> tuple[float, ...]:
    """Return the seconds of short yardsticks, those of the last seconds where some were taken.

    Parameters
    ----------
    cancel : looked at while it renders; None: it cannot be stopped
    """
    global _last
    with _lock:
        if time.monotonic() - _last[0] > KEPT:
            _last = time.monotonic(), short_yardsticks(cancel, 1)
        return _last[1]


def together(workers: int, cancel: CancelToken | None = None) -> float:
    """Return how many frames some workers render on this machine in the time one takes that has it to itself.

    Parameters
    ----------
    workers : frames rendered at once, 1 to 64
    cancel : looked at while they render; None: they cannot be stopped
    """
    if workers == 1:
        return 1.0
    alone = yardstick_seconds(cancel)

    def _one(_: int) -> None:
        import numba

        numba.set_num_threads(max(1, numba.get_num_threads() // workers))
        for _ in range(TIMES):
            render_on_bench(JOB, cancel=cancel)

    with ThreadPoolExecutor(workers) as pool:
        began = time.perf_counter()
        list(pool.map(_one, range(workers)))
        took = time.perf_counter() - began
    return workers * TIMES * alone / took
