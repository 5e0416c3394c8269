"""Seen flicker of the noise of a frame over sample counts, as a table: as on an even grey, less what the picture hides of it."""

from __future__ import annotations

import numpy as np

from hasty_reel.measure.grainsight import at_height

SAMPLE_GRID = 2.0 ** np.arange(17)
"""Sample counts at which display noise is tabulated; between them it is interpolated on log axes."""
SIGHT_GRID = SAMPLE_GRID[::4]
"""Sample counts at which it is told what the picture leaves in sight: it hardly depends on them."""


def seen_table(contrast: np.ndarray, sight: np.ndarray, degrees: float) -> np.ndarray:
    """Return the contrast of grain on an even grey that is seen as much as noise is in its picture, (n, grid) over `SAMPLE_GRID`.

    Parameters
    ----------
    contrast : (n, grid) of the noise, as if on an even grey
    sight : (n, `DEGREES`, `SIGHT_GRID`) what the picture leaves of seen flicker, for several heights of it
    degrees : height of the picture as it is seen
    """
    left = at_height(np.moveaxis(sight, 1, 0), degrees)
    at = np.linspace(0.0, len(SIGHT_GRID) - 1.0, len(SAMPLE_GRID))  # both grids are even on a logarithmic axis
    low = np.minimum(at.astype(np.int64), len(SIGHT_GRID) - 2)
    return contrast * (left[:, low] * (1.0 - (at - low)) + left[:, low + 1] * (at - low))
