"""The Laplacian residual from which the noise of a single picture is estimated.

Immerkaer 1996 (Computer Vision and Image Understanding 64, 300-302; from memory): the difference
of two Laplacians vanishes on planes, and white noise of spread s comes out of it with 6 s.
"""

from __future__ import annotations

import cv2
import numpy as np

from hasty_reel.compiled import njit, prange

NORM = 6.0
"""Root of the sum of the squared weights of the kernel."""
_KERNEL = np.array([[1, -2, 1], [-2, 4, -2], [1, -2, 1]], np.float32) / NORM
_MAD = 1.4826
"""Standard deviation of normal noise over the median of its size (Hampel 1974)."""
_BINS, _FINE = 2048, 256.0
"""Bins of the root of a residual: fine where it is small, a twentieth of a unit wide at 50."""


def laplacian_residual(plane: np.ndarray) -> np.ndarray:
    """Return the residual, scaled so that white noise keeps its spread.

    Parameters
    ----------
    plane : (h, w) float32

    Returns
    -------
    np.ndarray
        (h, w) float32, in the unit of the plane.
    """
    return cv2.filter2D(plane, cv2.CV_32F, _KERNEL)


@njit(parallel=True)
def tile_residual_spread(plane, side, out):
    """Estimate the noise of each tile: 1.4826 times the median size of its residuals, so that edges do not count.

    Parameters
    ----------
    plane : (h, w) float32, C-contiguous
    side : int, of a tile in pixels
    out : (down, across) float64, filled with standard deviations in the unit of the plane; left alone where a tile has no inside
    """
    h, w = plane.shape
    fine, last = np.float32(_FINE), np.float32(_BINS - 1)
    for tile in prange(out.size):
        j, i = tile // out.shape[1], tile % out.shape[1]
        bins = np.zeros(_BINS, np.int32)
        count = 0
        for r in range(max(1, j * side), min(h - 1, (j + 1) * side)):
            # every second one does for a median
            for c in range(max(1, i * side) + r % 2, min(w - 1, (i + 1) * side), 2):
                near = plane[r - 1, c] + plane[r + 1, c] + plane[r, c - 1] + plane[r, c + 1]
                far = plane[r - 1, c - 1] + plane[r - 1, c + 1] + plane[r + 1, c - 1] + plane[r + 1, c + 1]
                size = abs(np.float32(4.0) * plane[r, c] - np.float32(2.0) * near + far) * np.float32(1.0 / NORM)
                bins[int(min(np.sqrt(size) * fine, last))] += 1
                count += 1
        if count == 0:
            continue
        passed, k = 0, 0
        while 2 * (passed + bins[k]) < count:
            passed += bins[k]
            k += 1
        edge = k + (0.5 * count - passed) / max(1, bins[k])
        out[j, i] = _MAD * (edge / _FINE) ** 2
