"""8-bit sRGB codes of pictures that are shown without a tone curve, compiled: for what is redrawn while something is dragged."""

from __future__ import annotations

import numpy as np

from hasty_reel.compiled import FAST, njit, prange
from hasty_reel.image.srgb import srgb_encode

_STEPS = 4096
_CODES = np.append(255.0 * srgb_encode(np.linspace(0.0, 1.0, _STEPS + 1) ** 2), 255.0).astype(np.float32)
"""Codes over the root of the light, with one step more than is asked for, so that white has a next one."""


def plain_codes(rgb: np.ndarray, dither: np.ndarray) -> np.ndarray:
    """Return 8-bit sRGB codes of a picture, clipped, (h, w, 3) uint8.

    Parameters
    ----------
    rgb : (h, w, 3) float32, scene-linear light
    dither : (h, w) float32, from 0 to 1, what is added to each pixel before it is cut to a whole code
    """
    out = np.empty(rgb.shape, np.uint8)
    _plain_codes(np.ascontiguousarray(rgb, np.float32), _CODES, dither, out)
    return out


@njit(parallel=True, fastmath=FAST)
def _plain_codes(rgb, table, dither, out):
    h, w, channels = rgb.shape
    steps = np.float32(table.shape[0] - 2)
    zero, one, most = np.float32(0.0), np.float32(1.0), np.float32(255.0)
    for y in prange(h):
        for x in range(w):
            for c in range(channels):
                at = np.sqrt(min(max(rgb[y, x, c], zero), one)) * steps
                k = np.int32(at)
                code = table[k] + (table[k + 1] - table[k]) * (at - np.float32(k)) + dither[y, x]
                out[y, x, c] = np.uint8(min(code, most))
