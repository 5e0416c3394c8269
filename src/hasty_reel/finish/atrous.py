"""An edge-aware filter over space: a-trous levels (Dammertz et al. 2010, from memory), steered by guides and by the variance that is left.

Each level averages pixels twice as far apart as the one before, as far as they lie on the same surface and their light
differs by no more than its noise explains. The variance is carried along from level to level, so what is clean is left alone.

Several lights of one frame are filtered together: which pixels lie on one surface is asked once for all of them. The picture is gone
through in strips, each with the rows around it that its levels reach, so that memory does not grow with the number of lights.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

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
STRIP = 192
"""Rows of the picture that are filtered at a time."""
_SMALL = np.array([0.25, 0.5, 0.25], np.float32)
_WIDE = np.array([0.0625, 0.25, 0.375, 0.25, 0.0625], np.float32)
"""Weights across, of 3 x 3 and 5 x 5 pixels: linear and cubic B-splines."""


@dataclass(frozen=True)
class Lit:
    """One light of a frame that is to be filtered.

    light : (h, w, 3) float32
    variance : (h, w) float32, of its luminance; where it is nothing, nothing is changed
    strength : how many standard deviations apart two pixels still agree for the better part
    """

    light: np.ndarray
    variance: np.ndarray
    strength: float


@njit(fastmath=FAST)
def _add_tap(weight, own, y, j, p, q, n, lum, variance, strength, guided, low, high, guides, slack, light, sums, near, off):
    """Add one tap to a row of sums: each loop runs over pixels that lie side by side, which a compiler does many at a time."""
    one, zero = np.float32(1.0), np.float32(0.0)
    # how far the other pixel's guides lie outside of what this pixel's surroundings span, summed over the guides: the same for all lights
    if not own:
        for x in range(n):
            near[x] = zero
        if guided:
            for c in range(low.shape[0]):
                a, b, v = low[c, y, p : p + n], high[c, y, p : p + n], guides[c, j, q : q + n]
                for x in range(n):
                    near[x] += max(zero, max(a[x] - v[x], v[x] - b[x]) - (b[x] - a[x]) * slack)
        for x in range(n):
            surface = max(zero, one - near[x])
            near[x] = surface * surface
    for m in range(light.shape[0]):
        spread_there = variance[m, j, q : q + n]
        if own:  # a pixel always agrees with itself
            for x in range(n):
                off[x] = weight
        else:
            # the more two luminances differ against the noise of both, the less alike they are; the tail is cut off
            here, there, spread = lum[m, y, p : p + n], lum[m, j, q : q + n], variance[m, y, p : p + n]
            for x in range(n):
                apart = there[x] - here[x]
                like = one / (one + apart * apart / (strength[m] * (spread[x] + spread_there[x]) + TINY))
                alike = max(zero, like - LEAST_ALIKE) / (one - LEAST_ALIKE)
                off[x] = weight * near[x] * (alike * alike)
        for c in range(3):
            total, values = sums[m, c, p : p + n], light[m, c, j, q : q + n]
            for x in range(n):
                total[x] += off[x] * values[x]
        # sums of weights, and of their squares times the variance: the variance of a weighted mean
        total, left = sums[m, 3, p : p + n], sums[m, 4, p : p + n]
        for x in range(n):
            total[x] += off[x]
            left[x] += off[x] * off[x] * spread_there[x]


@njit(parallel=True, fastmath=FAST)
def atrous_level(light, lum, variance, low, high, guides, guided, step, taps, strength, out, out_variance, centre):
    """One level.

    Parameters
    ----------
    light : (m, 3, h, w) float32, of m lights
    lum : (m, h, w) float32, their luminance
    variance : (m, h, w) float32, of their luminance
    low, high, guides : (7, h, w) float32, see `Surfaces`
    guided : whether there are guides
    step : int, pixels between taps
    taps : (3,) or (5,) float32, weights across
    strength : (m,) float32, how many times the variance a squared difference may be
    out : (m, 3, h, w) float32, filled
    out_variance : (m, h, w) float32, filled
    centre : (m, h, w) float32, share of the pixel itself in the result; multiplied
    """
    lights, h, w = lum.shape
    r = len(taps) // 2
    for y in prange(h):
        sums = np.zeros((lights, 5, w), np.float32)
        near, off = np.empty(w, np.float32), np.empty(w, np.float32)
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
                    low, high, guides, slack, light, sums, near, off,
                )  # fmt: skip
        own = taps[r] * taps[r]
        for m in range(lights):
            for x in range(w):
                k = np.float32(1.0) / sums[m, 3, x]
                for c in range(3):
                    out[m, c, y, x] = sums[m, c, x] * k
                out_variance[m, y, x] = sums[m, 4, x] * k * k
                centre[m, y, x] *= own * k


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
    return atrous_together([Lit(light, variance, strength)], surfaces, wide, levels)[0]


def atrous_together(
    lights: Sequence[Lit], surfaces: Surfaces, wide: bool = True, levels: int = LEVELS
) -> list[tuple[np.ndarray, np.ndarray]]:
    """Filter several lights of a frame over space, each as if it were alone.

    Parameters
    ----------
    lights : of the frame
    surfaces : of the frame
    wide : 5 x 5 taps a level, else 3 x 3
    levels : how many

    Returns
    -------
    list of tuple
        Of each light what `atrous` returns.
    """
    h, w = lights[0].variance.shape
    taps = _WIDE if wide else _SMALL
    # rows that a strip is reached by: taps of all levels, and a row around each for the variance
    reach = (len(taps) // 2) * ((1 << levels) - 1) + levels
    made = [(np.empty((h, w, 3), np.float32), np.empty((h, w), np.float32)) for _ in lights]
    low, high = surfaces.span
    for top in range(0, h, STRIP):
        past = min(h, top + STRIP)
        first, last = max(0, top - reach), min(h, past + reach)
        rows = slice(first, last)
        guides = (low[:, rows], high[:, rows], surfaces.guides[:, rows]) if surfaces.known else (low, high, surfaces.guides)
        planes, centre = _strip([(i.light[rows], i.variance[rows], i.strength) for i in lights], guides, surfaces.known, taps, levels)
        inner = slice(top - first, past - first)
        for m, (filtered, share) in enumerate(made):
            filtered[top:past] = np.moveaxis(planes[m, :, inner], 0, -1)
            share[top:past] = centre[m, inner]
    return made


def _strip(lights, guides, guided: bool, taps: np.ndarray, levels: int) -> tuple[np.ndarray, np.ndarray]:
    """All levels over some rows: planes of the lights, (m, 3, h, w), and the share of each pixel in its own result, (m, h, w)."""
    planes = np.array([np.moveaxis(light, -1, 0) for light, _, _ in lights], np.float32, order="C")
    variance = np.array([v for _, v, _ in lights], np.float32, order="C")  # copied: both are written over
    lum = np.ascontiguousarray([luminance(light) for light, _, _ in lights], np.float32)
    strength = np.array([s * s for _, _, s in lights], np.float32)
    out, left, centre = np.empty_like(planes), np.empty_like(variance), np.ones_like(variance)
    around = np.empty_like(variance)
    low, high, others = (np.ascontiguousarray(g) for g in guides)
    for level in range(levels):
        for m, plane in enumerate(variance):
            cv2.blur(plane, (3, 3), around[m])
        atrous_level(planes, lum, around, low, high, others, guided, 1 << level, taps, strength, out, left, centre)
        planes, out, variance, left = out, planes, left, variance
        lum = np.float32(RED) * planes[:, 0] + np.float32(GREEN) * planes[:, 1] + np.float32(BLUE) * planes[:, 2]
    return planes, centre
