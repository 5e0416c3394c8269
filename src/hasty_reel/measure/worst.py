"""What stands for many frames or tiles: nearly the worst of them, since what is bad somewhere for a while is seen."""

from __future__ import annotations

import numpy as np

WORST_PERCENTILE = 95
"""Of frames and tiles; the worst one alone may be an accident."""


def worst(values: np.ndarray) -> float:
    """Return the 95th percentile of what was measured.

    Parameters
    ----------
    values : array of any shape; what is not finite was not measured and is left out

    Returns
    -------
    float
        In the unit of the values; nan where nothing was measured.
    """
    found = np.asarray(values, np.float64).ravel()
    found = found[np.isfinite(found)]
    if not found.size:
        return float("nan")
    place = (found.size - 1) * WORST_PERCENTILE / 100.0  # as numpy.percentile has it, which takes five times as long to begin
    low = int(place)
    high = min(low + 1, found.size - 1)
    around = np.partition(found, (low, high))
    return float(around[low] + (around[high] - around[low]) * (place - low))
