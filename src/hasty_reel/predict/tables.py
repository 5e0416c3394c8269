"""Tables of noise over sample counts: read between their columns, and moved along when the variance changes."""

from __future__ import annotations

import numpy as np

from hasty_reel.compiled import njit
from hasty_reel.evidence.rows import SAMPLE_GRID


def table_at(table: np.ndarray, samples: np.ndarray) -> np.ndarray:
    """Noise per frame at its sample count from a table (f, grid) over `SAMPLE_GRID`, on log axes.

    Parameters
    ----------
    table : (f, grid) over `SAMPLE_GRID`
    samples : (f,) per pixel, or one count for all; beyond the table its last slope goes on
    """
    samples = np.asarray(samples, np.float64)
    if samples.shape != (len(table),):
        samples = np.full(len(table), samples)
    return _read_table(np.ascontiguousarray(table, np.float64), samples, np.empty(len(table)))


def with_variance(tables: np.ndarray, factors: np.ndarray) -> np.ndarray:
    """Return tables when the variance of each changes by a factor: noise at n is that at n/factor.

    Parameters
    ----------
    tables : (n, grid) over `SAMPLE_GRID`
    factors : (n,)
    """
    logs, grid = np.log(tables + 1e-12), np.log(SAMPLE_GRID)
    out = np.empty_like(logs)
    changes, which = np.unique(factors, return_inverse=True)
    for k, change in enumerate(changes):
        rows = which == k
        at = np.clip(grid - np.log(change), grid[0], grid[-1])
        low = np.clip(np.searchsorted(grid, at, side="right") - 1, 0, len(grid) - 2)
        share = (at - grid[low]) / (grid[low + 1] - grid[low])
        out[rows] = logs[rows][:, low] * (1 - share) + logs[rows][:, low + 1] * share
    return np.exp(out)


def column_at(rows: np.ndarray, grid: np.ndarray, at: np.ndarray) -> np.ndarray:
    """Return of each column its value between the rows, (f,); beyond the grid that of its end.

    Parameters
    ----------
    rows : (grid, f) values
    grid : (grid,) where the rows stand, rising
    at : (f,) where each column is read
    """
    return _read_columns(np.ascontiguousarray(rows, np.float64), np.asarray(grid, np.float64), np.asarray(at, np.float64))


@njit()
def _read_table(table, samples, out):
    """See `table_at`."""
    last = table.shape[1] - 2
    for f in range(len(table)):
        x = np.log2(max(samples[f], 1.0))
        k = min(int(x), last)
        low = table[f, k] + 1e-12
        out[f] = low * ((table[f, k + 1] + 1e-12) / low) ** (x - k)
    return out


@njit()
def _read_columns(rows, grid, at):
    """See `column_at`."""
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
