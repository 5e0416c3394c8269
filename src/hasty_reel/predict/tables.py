"""Tables of noise over sample counts: read between their columns, and moved along when the variance changes."""

from __future__ import annotations

import numpy as np

from hasty_reel.evidence.seentable import SAMPLE_GRID

SHORT = 2000
"""Frames up to which it is done before the compiler is even loaded."""


def table_at(table: np.ndarray, samples: np.ndarray) -> np.ndarray:
    """Noise per frame at its sample count from a table (f, grid) over `SAMPLE_GRID`, on log axes.

    Parameters
    ----------
    table : (f, grid) over `SAMPLE_GRID`
    samples : (f,) per pixel, or one count for all; beyond the table its last slope goes on
    """
    samples = np.asarray(samples, np.float64)
    table = np.ascontiguousarray(table, np.float64)
    if len(table) > SHORT:
        from hasty_reel.predict.tablekernels import read_table  # brings the compiler along

        return read_table(table, samples if samples.ndim else np.full(len(table), samples))
    x = np.log2(np.maximum(samples, 1.0))
    k = np.minimum(x.astype(np.int64), table.shape[1] - 2)
    at, flat = np.arange(len(table)) * table.shape[1] + k, table.ravel()
    low = flat[at] + 1e-12
    return low * ((flat[at + 1] + 1e-12) / low) ** (x - k)


def with_variance(tables: np.ndarray, factors: np.ndarray) -> np.ndarray:
    """Return tables when the variance of each changes by a factor: noise at n is that at n/factor.

    Parameters
    ----------
    tables : (n, grid) over `SAMPLE_GRID`
    factors : (n,)
    """
    logs, grid = np.log(tables + 1e-12), np.log(SAMPLE_GRID)
    at = np.clip(grid - np.log(factors)[:, None], grid[0], grid[-1])
    low = np.clip(np.searchsorted(grid, at, side="right") - 1, 0, len(grid) - 2)
    share = (at - grid[low]) / (grid[low + 1] - grid[low])
    return np.exp(np.take_along_axis(logs, low, 1) * (1 - share) + np.take_along_axis(logs, low + 1, 1) * share)


def falling(table: np.ndarray) -> np.ndarray:
    """Return a table that nowhere rises with the samples: where it does, as much as any larger count shows is expected.

    Rare bright paths clip on the display, so that few samples may show less of them than more do; a plan that asked for fewer
    samples to see less would be of no use, and what is promised must hold.

    Parameters
    ----------
    table : (n, grid) over `SAMPLE_GRID`
    """
    return np.maximum.accumulate(table[..., ::-1], axis=-1)[..., ::-1]


def column_at(rows: np.ndarray, grid: np.ndarray, at: np.ndarray) -> np.ndarray:
    """Return of each column its value between the rows, (f,); beyond the grid that of its end.

    Parameters
    ----------
    rows : (grid, f) values
    grid : (grid,) where the rows stand, rising
    at : (f,) where each column is read
    """
    if len(at) > SHORT:
        from hasty_reel.predict.tablekernels import read_columns

        return read_columns(np.ascontiguousarray(rows, np.float64), np.asarray(grid, np.float64), np.asarray(at, np.float64))
    k = np.clip(np.searchsorted(grid, at, side="right") - 1, 0, len(grid) - 2)
    share = np.clip((at - grid[k]) / (grid[k + 1] - grid[k]), 0.0, 1.0)
    each = np.arange(rows.shape[1])
    return rows[k, each] * (1.0 - share) + rows[k + 1, each] * share
