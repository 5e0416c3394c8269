"""The tables of a long shot read in compiled code: a loop over its frames without arrays between."""

from __future__ import annotations

import numpy as np

from hasty_reel.compiled import njit, prange


@njit(parallel=True)
def read_table(table: np.ndarray, samples: np.ndarray) -> np.ndarray:
    """Noise per frame at its sample count, as `tables.table_at` tells it.

    Parameters
    ----------
    table : (f, grid) over `SAMPLE_GRID`
    samples : (f,) per pixel
    """
    out = np.empty(len(table))
    last = table.shape[1] - 2
    for f in prange(len(table)):
        # the grid doubles: the logarithm to base two is the place in it, and noise falls as a power in between
        x = np.log2(max(samples[f], 1.0))
        k = min(int(x), last)
        low = table[f, k] + 1e-12
        out[f] = low * ((table[f, k + 1] + 1e-12) / low) ** (x - k)
    return out


@njit()
def read_columns(rows: np.ndarray, grid: np.ndarray, at: np.ndarray) -> np.ndarray:
    """Return of each column its value between the rows, as `tables.column_at` tells it.

    Parameters
    ----------
    rows : (grid, f) values
    grid : (grid,) where the rows stand, rising
    at : (f,) where each column is read
    """
    out = np.empty(rows.shape[1])
    last = len(grid) - 2
    k = 0
    for f in range(len(out)):
        while k < last and grid[k + 1] <= at[f]:  # a frame's place is near that of the frame before
            k += 1
        while k > 0 and grid[k] > at[f]:
            k -= 1
        share = min(max((at[f] - grid[k]) / (grid[k + 1] - grid[k]), 0.0), 1.0)
        out[f] = rows[k, f] * (1.0 - share) + rows[k + 1, f] * share
    return out
