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
STRIP = 360
"""Rows of the picture that are filtered at a time."""
PIECE = 512
"""Pixels of a row whose sums are held at a time."""
_RED, _GREEN, _BLUE = np.float32(RED), np.float32(GREEN), np.float32(BLUE)
TAPS = np.array([0.25, 0.5, 0.25], np.float32)
"""Weights across, of 3 x 3 pixels: a linear B-spline. The cubic one of 5 x 5 pixels costs nearly three times as much; seven eighths as
many deviations make up for it."""


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
def _add_tap(weight, own, y, j, p, q, n, at, lum, variance, strength, guided, above, low, high, guides, slack, light, sums, near, off):
    """Add one tap to a piece of a row: each loop runs over pixels that lie side by side, which a compiler does many at a time."""
    one, zero, gain = np.float32(1.0), np.float32(0.0), np.float32(1.0) / (np.float32(1.0) - LEAST_ALIKE)
    # unsigned, so that no index has to be asked whether it counts from the end
    y, j, p, q, n, at = np.uint64(y), np.uint64(j), np.uint64(p), np.uint64(q), np.uint64(n), np.uint64(at)
    if not own:
        for x in range(n):
            near[x] = zero
        if guided:
            here, there = np.uint64(above) + y, np.uint64(above) + j
            for c in range(np.uint64(low.shape[0])):
                for x in range(n):
                    a, b, v = low[c, here, p + x], high[c, here, p + x], guides[c, there, q + x]
                    near[x] += max(zero, max(a - v, v - b) - (b - a) * slack)
        for x in range(n):
            surface = max(zero, one - near[x])
            near[x] = weight * gain * gain * (surface * surface)
    for m in range(np.uint64(light.shape[0])):
        if own:  # a pixel always agrees with itself
            for x in range(n):
                off[x] = weight
        else:
            s = strength[m]
            for x in range(n):
                apart = lum[m, j, q + x] - lum[m, y, p + x]
                allowed = s * (variance[m, y, p + x] + variance[m, j, q + x]) + TINY
                alike = max(zero, allowed / (allowed + apart * apart) - LEAST_ALIKE)
                off[x] = near[x] * (alike * alike)
        for c in range(np.uint64(3)):
            for x in range(n):
                sums[m, c, at + x] += off[x] * light[m, c, j, q + x]
        three, four = np.uint64(3), np.uint64(4)
        for x in range(n):
            sums[m, three, at + x] += off[x]
        for x in range(n):
            sums[m, four, at + x] += off[x] * off[x] * variance[m, j, q + x]


@njit(parallel=True, fastmath=FAST)
def atrous_level(
    light, lum, variance, above, low, high, guides, guided, step, taps, strength, top, past, out, out_lum, out_variance, centre,
):  # fmt: skip
    """One level.

    Parameters
    ----------
    light : (m, 3, h, w) float32, of m lights
    lum : (m, h, w) float32, their luminance
    variance : (m, h, w) float32, of their luminance
    above : int, rows of the picture above these
    low, high, guides : (7, rows of the picture, w) float32, see `Surfaces`
    guided : whether there are guides
    step : int, pixels between taps
    taps : (3,) or (5,) float32, weights across
    strength : (m,) float32, how many times the variance a squared difference may be
    top, past : int, the rows that are wanted, the last one not among them
    out : (m, 3, h, w) float32, filled
    out_lum, out_variance : (m, h, w) float32, filled
    centre : (m, h, w) float32, share of the pixel itself in the result; multiplied
    """
    lights, h, w = lum.shape
    r = len(taps) // 2
    own = taps[r] * taps[r]
    for y in prange(top, past):
        sums = np.empty((lights, 5, PIECE), np.float32)
        near, off = np.empty(PIECE, np.float32), np.empty(PIECE, np.float32)
        # piece by piece of the row, so that the sums stay in the nearest cache while all taps are added
        for first in range(0, w, PIECE):
            past = min(w, first + PIECE)
            sums[:] = np.float32(0.0)
            for dj in range(-r, r + 1):
                j = y + dj * step
                if j < 0 or j >= h:
                    continue
                for di in range(-r, r + 1):
                    shift = di * step
                    # the pixels of this piece that have a neighbour there: from p on here, from q on there
                    p = max(first, -shift)
                    n = min(past, w - shift) - p
                    if n <= 0:
                        continue
                    # a slope may go on between taps that are farther apart
                    slack = np.float32(0.5 * max(0, step * max(abs(di), abs(dj)) - 1))
                    _add_tap(
                        taps[dj + r] * taps[di + r], di == 0 and dj == 0, y, j, p, p + shift, n, p - first, lum, variance, strength,
                        guided, above, low, high, guides, slack, light, sums, near, off,
                    )  # fmt: skip
            for m in range(lights):
                for x in range(first, past):
                    k = np.float32(1.0) / sums[m, 3, x - first]
                    for c in range(3):
                        out[m, c, y, x] = sums[m, c, x - first] * k
                    out_lum[m, y, x] = _RED * out[m, 0, y, x] + _GREEN * out[m, 1, y, x] + _BLUE * out[m, 2, y, x]
                    out_variance[m, y, x] = sums[m, 4, x - first] * k * k
                    centre[m, y, x] *= own * k


def atrous(
    light: np.ndarray, variance: np.ndarray, surfaces: Surfaces, strength: float, levels: int = LEVELS
) -> tuple[np.ndarray, np.ndarray]:
    """Filter a frame over space.

    Parameters
    ----------
    light : (h, w, 3) float32
    variance : (h, w) float32, of its luminance; where it is nothing, nothing is changed
    surfaces : of the frame
    strength : how many standard deviations apart two pixels still agree for the better part
    levels : how many

    Returns
    -------
    filtered : np.ndarray
        (h, w, 3) float32.
    centre : np.ndarray
        (h, w) float32, the share each pixel has in its own result: by it the error can be told (Stein 1981, from memory).
    """
    return atrous_together([Lit(light, variance, strength)], surfaces, levels)[0]


def atrous_together(lights: Sequence[Lit], surfaces: Surfaces, levels: int = LEVELS) -> list[tuple[np.ndarray, np.ndarray]]:
    """Filter several lights of a frame over space, each as if it were alone.

    Parameters
    ----------
    lights : of the frame
    surfaces : of the frame
    levels : how many

    Returns
    -------
    list of tuple
        Of each light what `atrous` returns.
    """
    h, w = lights[0].variance.shape
    # rows that a strip is reached by: taps of all levels, and a row around each for the variance
    reach = (len(TAPS) // 2) * ((1 << levels) - 1) + levels
    made = [(np.empty((h, w, 3), np.float32), np.empty((h, w), np.float32)) for _ in lights]
    for top in range(0, h, STRIP):
        past = min(h, top + STRIP)
        first, last = max(0, top - reach), min(h, past + reach)
        rows = slice(first, last)
        inner = slice(top - first, past - first)
        planes, centre = _strip([(i.light[rows], i.variance[rows], i.strength) for i in lights], surfaces, first, levels, inner)
        for m, (filtered, share) in enumerate(made):
            filtered[top:past] = np.moveaxis(planes[m, :, inner], 0, -1)
            share[top:past] = centre[m, inner]
    return made


def _strip(lights, surfaces: Surfaces, above: int, levels: int, inner: slice) -> tuple[np.ndarray, np.ndarray]:
    """All levels over some rows, of which the inner ones are wanted: planes of the lights, (m, 3, h, w), and the share of each pixel in
    its own result, (m, h, w)."""
    planes = np.array([np.moveaxis(light, -1, 0) for light, _, _ in lights], np.float32, order="C")
    variance = np.array([v for _, v, _ in lights], np.float32, order="C")  # copied: both are written over
    lum = np.ascontiguousarray([luminance(light) for light, _, _ in lights], np.float32)
    strength = np.array([s * s for _, _, s in lights], np.float32)
    out, left, centre = np.empty_like(planes), np.empty_like(variance), np.ones_like(variance)
    around, out_lum = np.empty_like(variance), np.empty_like(variance)
    low, high = surfaces.span
    made = slice(0, lum.shape[1])
    for level in range(levels):
        for m in range(len(lights)):
            cv2.blur(variance[m, made], (3, 3), around[m, made])
        # rows that later levels reach, and one around each for the variance
        beyond = sum((len(TAPS) // 2) * (1 << later) + 1 for later in range(level + 1, levels))
        made = slice(max(0, inner.start - beyond), min(lum.shape[1], inner.stop + beyond))
        atrous_level(
            planes, lum, around, above, low, high, surfaces.guides, surfaces.known, 1 << level, TAPS, strength, made.start, made.stop,
            out, out_lum, left, centre,
        )  # fmt: skip
        planes, out, lum, out_lum, variance, left = out, planes, out_lum, lum, left, variance
    return planes, centre
