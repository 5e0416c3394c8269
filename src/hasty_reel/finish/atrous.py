"""An edge-aware filter over space: a-trous levels (Dammertz et al. 2010, from memory), steered by guides and by the variance that is left.

Each level averages pixels twice as far apart as the one before, as far as they lie on the same surface and their light
differs by no more than its noise explains. The variance is carried along from level to level, so what is clean is left alone.
"""

from __future__ import annotations

import cv2
import numpy as np

from hasty_reel.compiled import FAST, njit, prange
from hasty_reel.finish.surfaces import Surfaces
from hasty_reel.image.luminance import BLUE, GREEN, RED, luminance

LEVELS = 4
TINY = np.float32(1e-8)
"""Variance of luminance that is none."""
LEAST_ALIKE = np.float32(0.1)
"""Likeness that counts as none, so that a filter has no long tail: light three deviations apart is not averaged."""
_SMALL = np.array([0.25, 0.5, 0.25], np.float32)
_WIDE = np.array([0.0625, 0.25, 0.375, 0.25, 0.0625], np.float32)
"""Weights across, of 3 x 3 and 5 x 5 pixels: linear and cubic B-splines."""


@njit(fastmath=FAST)
def _add_tap(weight, own, y, j, p, q, n, lum, variance, strength, guided, low, high, guides, slack, light, sums, off):
    """Add one tap to a row of sums: each loop runs over pixels that lie side by side, which a compiler does many at a time."""
    one, zero = np.float32(1.0), np.float32(0.0)
    spread_there = variance[j, q : q + n]
    if own:  # a pixel always agrees with itself
        for x in range(n):
            off[x] = weight
    else:
        for x in range(n):
            off[x] = zero
        # how far the other pixel's guides lie outside of what this pixel's surroundings span, summed over the guides
        if guided:
            for c in range(low.shape[0]):
                a, b, v = low[c, y, p : p + n], high[c, y, p : p + n], guides[c, j, q : q + n]
                for x in range(n):
                    off[x] += max(zero, max(a[x] - v[x], v[x] - b[x]) - (b[x] - a[x]) * slack)
        # the more two luminances differ against the noise of both, the less alike they are; the tail is cut off
        here, there, spread = lum[y, p : p + n], lum[j, q : q + n], variance[y, p : p + n]
        for x in range(n):
            apart = there[x] - here[x]
            near = max(zero, one - off[x])
            like = one / (one + apart * apart / (strength * (spread[x] + spread_there[x]) + TINY))
            alike = max(zero, like - LEAST_ALIKE) / (one - LEAST_ALIKE)
            off[x] = weight * near * near * alike * alike
    for c in range(3):
        total, values = sums[c, p : p + n], light[c, j, q : q + n]
        for x in range(n):
            total[x] += off[x] * values[x]
    # sums of weights, and of their squares times the variance: the variance of a weighted mean
    total, left = sums[3, p : p + n], sums[4, p : p + n]
    for x in range(n):
        total[x] += off[x]
        left[x] += off[x] * off[x] * spread_there[x]


@njit(parallel=True, fastmath=FAST)
def atrous_level(light, lum, variance, low, high, guides, guided, step, taps, strength, out, out_variance, centre):
    """One level.

    Parameters
    ----------
    light : (3, h, w) float32
    lum : (h, w) float32, its luminance
    variance : (h, w) float32, of its luminance
    low, high, guides : (7, h, w) float32, see `Surfaces`
    guided : whether there are guides
    step : int, pixels between taps
    taps : (3,) or (5,) float32, weights across
    strength : float32, how many times the variance a squared difference may be
    out : (3, h, w) float32, filled
    out_variance : (h, w) float32, filled
    centre : (h, w) float32, share of the pixel itself in the result; multiplied
    """
    h, w = lum.shape
    r = len(taps) // 2
    for y in prange(h):
        sums = np.zeros((5, w), np.float32)
        off = np.empty(w, np.float32)
        for dj in range(-r, r + 1):
            j = y + dj * step
            if j < 0 or j >= h:
                continue
            for di in range(-r, r + 1):
                shift = di * step
                # the pixels of this row that have a neighbour there: from p on here, from q on there
                n = w - abs(shift)
                if n <= 0:
                    continue
                p, q = max(0, -shift), max(0, shift)
                # a slope may go on between taps that are farther apart
                slack = np.float32(0.5 * max(0, step * max(abs(di), abs(dj)) - 1))
                _add_tap(
                    taps[dj + r] * taps[di + r], di == 0 and dj == 0, y, j, p, q, n, lum, variance, strength, guided,
                    low, high, guides, slack, light, sums, off,
                )  # fmt: skip
        own = taps[r] * taps[r]
        for x in range(w):
            k = np.float32(1.0) / sums[3, x]
            for c in range(3):
                out[c, y, x] = sums[c, x] * k
            out_variance[y, x] = sums[4, x] * k * k
            centre[y, x] *= own * k


def atrous(
    light: np.ndarray, variance: np.ndarray, surfaces: Surfaces, strength: float, wide: bool = True, levels: int = LEVELS
) -> tuple[np.ndarray, np.ndarray]:
    """Filter a frame over space.

    Parameters
    ----------
    light : (h, w, 3) float32
    variance : (h, w) float32, of its luminance; where it is nothing, nothing is changed
    surfaces : of the frame
    strength : how many standard deviations apart two pixels still agree for the better part
    wide : 5 x 5 taps a level, else 3 x 3
    levels : how many

    Returns
    -------
    filtered : np.ndarray
        (h, w, 3) float32.
    centre : np.ndarray
        (h, w) float32, the share each pixel has in its own result: by it the error can be told (Stein 1981, from memory).
    """
    low, high = surfaces.span
    planes = np.array(np.moveaxis(light, -1, 0), np.float32, order="C")
    variance = np.array(variance, np.float32, order="C")  # copied: both are written over
    lum, centre = np.ascontiguousarray(luminance(light), np.float32), np.ones(variance.shape, np.float32)
    out, left = np.empty_like(planes), np.empty_like(variance)
    for level in range(levels):
        atrous_level(
            planes, lum, cv2.blur(variance, (3, 3)), low, high, surfaces.guides, surfaces.known,
            1 << level, _WIDE if wide else _SMALL, np.float32(strength**2), out, left, centre,
        )  # fmt: skip
        planes, out, variance, left = out, planes, left, variance
        lum = np.float32(RED) * planes[0] + np.float32(GREEN) * planes[1] + np.float32(BLUE) * planes[2]
    return np.ascontiguousarray(np.moveaxis(planes, 0, -1)), centre
