"""Light of pixels one by one, compiled: luminance for kernels, and lightness of whole displayed pictures."""

from __future__ import annotations

import numpy as np

from hasty_reel.compiled import FAST, njit, prange
from hasty_reel.image.lightness import lightness
from hasty_reel.image.luminance import BLUE, GREEN, RED

_RED32, _GREEN32, _BLUE32 = np.float32(RED), np.float32(GREEN), np.float32(BLUE)
_TABLE_STEPS = 4096
_FOURTH_ROOTS = np.linspace(0.0, 1.0, _TABLE_STEPS + 1)
# L* over the fourth root of Y is smooth enough for linear steps, the dark end included
_TABLE = np.append(lightness(_FOURTH_ROOTS**4), 100.0).astype(np.float32)
"""With one step more than is asked for, so that white has a next one."""


@njit(fastmath=FAST)
def pixel_luminance(red, green, blue):
    """Return the relative luminance of one pixel in double precision.

    Parameters
    ----------
    red, green, blue : float, scene-linear light

    Returns
    -------
    object
        Relative luminance, 1 at display white.
    """
    return RED * red + GREEN * green + BLUE * blue


@njit
def pixel_luminance_single(red, green, blue) -> np.float32:
    """Return the relative luminance of one pixel in single precision, twice as quick over a picture.

    Parameters
    ----------
    red, green, blue : float32, scene-linear light

    Returns
    -------
    np.float32
        Relative luminance, 1 at display white; not a number where a channel is none.
    """
    return _RED32 * red + _GREEN32 * green + _BLUE32 * blue


def display_lightness(rgb: np.ndarray) -> tuple[np.ndarray, float, int]:
    """Return L* of a scene-linear picture on a display that clips at white, and what in it is no number.

    Parameters
    ----------
    rgb : (h, w, 3) float32, C-contiguous, scene-linear light

    Returns
    -------
    lightness : np.ndarray
        (h, w) float32, L* from 0 to 100, 0 where a pixel is no finite number
    mean_luminance : float
        Mean of the clipped luminance
    bad : int
        Pixels that are no finite numbers
    """
    out = np.empty(rgb.shape[:2], np.float32)
    bad, total = _display_lightness(rgb, _TABLE, out)
    return out, float(total) / out.size, int(bad)


@njit(parallel=True)
def _display_lightness(rgb, table, out):
    h, w = out.shape
    bad, light = 0, np.float64(0.0)
    steps = np.float32(table.shape[0] - 2)
    zero, one = np.float32(0.0), np.float32(1.0)
    for r in prange(h):
        line = zero
        for c in range(w):
            y = pixel_luminance_single(rgb[r, c, 0], rgb[r, c, 1], rgb[r, c, 2])
            # what is no number compares with nothing, and what is infinite leaves nan here
            if y - y != zero:
                bad += 1
                y = zero
            y = min(max(y, zero), one)
            line += y
            x = np.sqrt(np.sqrt(y)) * steps
            k = np.int32(x)
            out[r, c] = table[k] + (table[k + 1] - table[k]) * (x - np.float32(k))
        light += line
    return bad, light
