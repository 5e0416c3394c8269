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
    return float(np.percentile(found, WORST_PERCENTILE)) if found.size else float("nan")
