"""A picture as it is seen: one plane of lightness, and what in it is no number.

Everything here is measured on L* of the display picture. A pixel that is no finite
number is taken as black and counted, so that one of them cannot spoil a whole frame.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hasty_reel.compiled import FAST, njit, prange
from hasty_reel.pictures.colour import lightness, seen_luminance

_CURVE_STEPS = 4096
_ROOTS = np.linspace(0.0, 1.0, _CURVE_STEPS + 1)
# L* over the fourth root of Y is smooth enough for linear steps, the dark end included
_CURVE = np.append(lightness(_ROOTS**4), 100.0).astype(np.float32)
"""With one step more than is asked for, so that white has a next one."""


@dataclass(frozen=True)
class SeenFrame:
    """A frame as it is seen.

    lightness : (h, w) float32, L* 0..100
    mean_light : mean display luminance 0..1
    bad : pixels that are not finite numbers
    """

    lightness: np.ndarray
    mean_light: float
    bad: int


def seen_frame(rgb: np.ndarray, view: str | None = None) -> SeenFrame:
    """L* of a scene-linear picture (h, w, 3) through a view; None is the plain one.

    Raises
    ------
    WrongInput
        When there is no view of that name.
    """
    rgb = np.ascontiguousarray(rgb, np.float32)
    if view is None:
        out = np.empty(rgb.shape[:2], np.float32)
        bad_count, light_sum = _plain(rgb, _CURVE, out)
        return SeenFrame(out, float(light_sum) / out.size, int(bad_count))
    bad = ~np.isfinite(rgb).all(axis=-1)
    light = seen_luminance(np.where(bad[..., None], 0.0, rgb).astype(np.float32), view)
    return SeenFrame(lightness(light).astype(np.float32), float(light.mean()), int(bad.sum()))


@njit(parallel=True)
def _plain(rgb, curve, out):
    """L* of luminance clipped to 0..1, from a table over its fourth root; how many pixels are not finite, and the sum of the light."""
    h, w = out.shape
    bad, light = 0, np.float64(0.0)
    steps = np.float32(curve.shape[0] - 2)
    zero, one = np.float32(0.0), np.float32(1.0)
    red, green, blue = np.float32(0.2126), np.float32(0.7152), np.float32(0.0722)
    for r in prange(h):
        line = zero
        for c in range(w):
            y = red * rgb[r, c, 0] + green * rgb[r, c, 1] + blue * rgb[r, c, 2]
            # what is no number compares with nothing, and what is infinite leaves nan here
            if y - y != zero:
                bad += 1
                y = zero
            y = min(max(y, zero), one)
            line += y
            x = np.sqrt(np.sqrt(y)) * steps
            k = np.int32(x)
            out[r, c] = curve[k] + (curve[k + 1] - curve[k]) * (x - np.float32(k))
        light += line
    return bad, light


@njit(parallel=True, fastmath=FAST)
def tile_sums(plane, weight, side, sums, weights):
    """Sums of `plane` squared and of `weight` (h, w) over tiles of `side`, where `weight` is not 0; into (tiles down, tiles across)."""
    h, w = plane.shape
    for j in prange(sums.shape[0]):
        for i in range(sums.shape[1]):
            total, count = np.float32(0.0), 0
            for r in range(j * side, min(h, (j + 1) * side)):
                for c in range(i * side, min(w, (i + 1) * side)):
                    if weight[r, c] != 0:
                        total += plane[r, c] * plane[r, c]
                        count += 1
            sums[j, i] = total
            weights[j, i] = count


def tile_rms(plane: np.ndarray, counts: np.ndarray, side: int, least: float = 0.25) -> np.ndarray:
    """Root mean square of (h, w) over tiles of `side` pixels; nan where less than a share `least` of a tile counts.

    Parameters
    ----------
    counts : (h, w) uint8, 0 where a pixel does not count
    """
    h, w = plane.shape
    shape = (-(-h // side), -(-w // side))
    sums, weights = np.empty(shape), np.empty(shape)
    tile_sums(plane, counts, side, sums, weights)
    rows, columns = np.minimum(side, h - np.arange(shape[0]) * side), np.minimum(side, w - np.arange(shape[1]) * side)
    enough = weights >= np.maximum(1.0, least * np.outer(rows, columns))
    return np.where(enough, np.sqrt(sums / np.maximum(weights, 1.0)), np.nan)
