"""No pumping: frames much cleaner than their neighbours give samples up, down to the noise the ratio allows."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import lru_cache

import numpy as np

SHORT = 4000
"""Frames up to which it is done before the compiler is even loaded."""


def sweeps(samples, variance, low, steps, ratio, strict):
    """One sweep forward and one back: a frame much cleaner than its neighbour gives samples up.

    Parameters
    ----------
    samples : (f,) int64, changed
    variance : (f,) at one sample
    low : (f,) int64, the fewest
    steps : samples come in multiples of this
    ratio : the most by which noise may differ between neighbours
    strict : noise that no frame may exceed; None for none
    """
    count = len(samples)
    for sweep in range(2):
        for k in range(1, count):
            f = k if sweep == 0 else count - 1 - k
            other = f - 1 if sweep == 0 else f + 1
            wanted = min(strict, math.sqrt(variance[other] / samples[other]) / ratio)
            if wanted > 0 and variance[f] > 0 and math.sqrt(variance[f] / samples[f]) < wanted:
                fewer = variance[f] / (wanted * wanted)
                # to the next step that is no cleaner than wanted, but never past a strict promise
                n = int(fewer / steps) * steps
                if n < 1 or math.sqrt(variance[f] / n) > strict:
                    n += steps
                samples[f] = max(low[f], min(samples[f], n))


@lru_cache(maxsize=1)
def fast_sweeps() -> Callable[..., None]:
    """Return `sweeps` compiled, for shots of many thousand frames; the compiler is loaded only then."""
    from hasty_reel.compiled import njit

    return njit()(sweeps)


def relax(samples: np.ndarray, variance: np.ndarray, low: np.ndarray, steps: int, ratio: float, strict: float) -> None:
    """Let cleaner frames give samples up, in place, so that noise changes by at most a ratio from frame to frame.

    Parameters
    ----------
    samples : (f,) int64, changed in place
    variance : (f,) at one sample per pixel
    low : (f,) int64, the least samples of a frame
    steps : samples come in multiples of this
    ratio : the most by which noise may differ between neighbours
    strict : noise that no frame may exceed by it; inf for none
    """
    if len(samples) <= SHORT:
        taken = samples.tolist()  # plain numbers: several times as fast without a compiler
        sweeps(taken, variance.tolist(), low.tolist(), steps, ratio, strict)
        samples[:] = taken
        return
    fast_sweeps()(samples, variance, low, steps, ratio, strict)
