"""Despike: isolated too-bright pixels are brought down to their brightest but one neighbour."""

from __future__ import annotations

import numpy as np

from hasty_reel.compiled import FAST, njit, prange
from hasty_reel.image.pixels import pixel_luminance

STANDS_OUT = 3.0
"""A spark is brighter than its second brightest neighbour by this factor ..."""
ABOVE = 0.05
"""... and by this much linear light."""


@njit(parallel=True, fastmath=FAST)
def lower_sparks(rgb, out, factor, above):
    """Copy rgb (h, w, 3) to out with sparks lowered; the hue stays.

    Parameters
    ----------
    rgb : (h, w, 3) float32, scene-linear light
    out : (h, w, 3) float32, filled
    factor : by which a spark is brighter than its second brightest neighbour
    above : by how much, in linear light
    """
    h, w = rgb.shape[0], rgb.shape[1]
    for y in prange(h):
        for x in range(w):
            here = pixel_luminance(rgb[y, x, 0], rgb[y, x, 1], rgb[y, x, 2])
            first = 0.0
            second = 0.0
            for dy in range(-1, 2):
                for dx in range(-1, 2):
                    j, i = y + dy, x + dx
                    if (dx != 0 or dy != 0) and 0 <= j < h and 0 <= i < w:
                        v = pixel_luminance(rgb[j, i, 0], rgb[j, i, 1], rgb[j, i, 2])
                        if v > first:
                            second = first
                            first = v
                        elif v > second:
                            second = v
            s = 1.0
            if here > factor * second + above:
                s = max(second, 1e-6) / here
            for c in range(3):
                out[y, x, c] = rgb[y, x, c] * s


def despike(rgb: np.ndarray) -> np.ndarray:
    """Return a picture (h, w, 3) float32 without sparks: pixels alone far above their neighbours.

    Parameters
    ----------
    rgb : (h, w, 3) float32, scene-linear light
    """
    out = np.empty_like(rgb)
    lower_sparks(np.ascontiguousarray(rgb, np.float32), out, STANDS_OUT, ABOVE)
    return out
