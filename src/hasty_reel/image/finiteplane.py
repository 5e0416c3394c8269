"""Planes without what is no number: renderers write infinity where a ray hit nothing, and nan where a vector could not be told."""

from __future__ import annotations

import numpy as np

from hasty_reel.compiled import njit, prange


def finite_plane(plane: np.ndarray, instead: float) -> np.ndarray:
    """Return a plane in which everything is a finite number, in one pass over memory.

    Parameters
    ----------
    plane : any shape
    instead : what stands for infinity and nan

    Returns
    -------
    np.ndarray
        float32, of the same shape; a copy.
    """
    whole = np.ascontiguousarray(plane, np.float32)
    out = np.empty_like(whole)
    rows = whole.reshape(whole.shape[0], -1) if whole.size else whole.reshape(0, 1)
    _fill(rows, np.float32(instead), out.reshape(rows.shape))
    return out


@njit(parallel=True)
def _fill(plane, instead, out):
    for r in prange(plane.shape[0]):
        for c in range(plane.shape[1]):
            value = plane[r, c]
            out[r, c] = value if np.isfinite(value) else instead
