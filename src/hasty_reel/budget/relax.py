"""No pumping: frames much cleaner than their neighbours give samples up, down to the noise the ratio allows."""

from __future__ import annotations

import numpy as np

from hasty_reel.compiled import njit


@njit()
def relax(samples, variance, low, steps, ratio, strict):
    """One sweep forward and one back: a frame much cleaner than its neighbour gives samples up."""
    count = samples.shape[0]
    for sweep in range(2):
        for k in range(1, count):
            f = k if sweep == 0 else count - 1 - k
            other = f - 1 if sweep == 0 else f + 1
            wanted = min(strict, np.sqrt(variance[other] / samples[other]) / ratio)
            if wanted > 0 and variance[f] > 0 and np.sqrt(variance[f] / samples[f]) < wanted:
                fewer = variance[f] / (wanted * wanted)
                # to the next step that is no cleaner than wanted, but never past a strict promise
                n = int(fewer / steps) * steps
                if n < 1 or np.sqrt(variance[f] / n) > strict:
                    n += steps
                samples[f] = max(low[f], min(samples[f], n))
