"""Despike: pixels that stand alone far above their neighbours and that other pictures of the same place contradict.

Only where the frames beside (or another seed) are there to contradict is anything removed: a small lamp is bright in
all of them. The light that is taken stays in its tile, spread around the place, so that no place gets darker.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from hasty_reel.compiled import FAST, njit, prange
from hasty_reel.image.luminance import luminance
from hasty_reel.image.pixels import pixel_luminance

STANDS_OUT = 3.0
"""A spark is brighter than its second brightest neighbour, and than all around the place in other pictures, by this factor ..."""
ABOVE = 0.05
"""... and by this much linear light."""
TILE, REACH = 20, 4.0
"""Side in pixels of the tile that the light of a spark stays in, and standard deviation of how it is spread there."""


@dataclass(frozen=True)
class Despiked:
    """A picture without sparks.

    rgb : (h, w, 3) float32
    sparks : how many were taken out
    moved : share of all light that was moved, 0 to 1; worst : the same in the tile with the most
    """

    rgb: np.ndarray
    sparks: int
    moved: float
    worst: float


def despike(rgb: np.ndarray, beside: Sequence[np.ndarray]) -> Despiked:
    """Take sparks out of a picture.

    Parameters
    ----------
    rgb : (h, w, 3) float32, scene-linear light
    beside : (h, w, 3) each, the same places in the frames beside or with another seed; without any nothing is removed

    Returns
    -------
    Despiked
        The picture, with all of its light.
    """
    rgb = np.ascontiguousarray(rgb, np.float32)
    if not beside:
        return Despiked(rgb, 0, 0.0, 0.0)
    around = np.ones((3, 3), np.uint8)
    planes = [np.ascontiguousarray(luminance(np.asarray(p, np.float32))) for p in beside]
    most = np.max([cv2.dilate(p, around) for p in planes], axis=0)
    usual = np.mean([cv2.blur(p, (3, 3)) for p in planes], axis=0)
    share = np.ones(rgb.shape[:2], np.float32)
    _find(rgb, most, usual.astype(np.float32), share)
    places = np.argwhere(share < 1.0)
    if not len(places):
        return Despiked(rgb, 0, 0.0, 0.0)
    out = rgb * share[..., None]
    _give_back(rgb, share, places, out)
    taken = luminance(rgb) * (1.0 - share)
    whole = luminance(rgb)
    h, w = (np.arange(0, n, TILE) for n in rgb.shape[:2])
    by_tile, light = (np.add.reduceat(np.add.reduceat(p.astype(np.float64), h, axis=0), w, axis=1) for p in (taken, whole))
    return Despiked(
        out, len(places), float(taken.sum() / max(whole.sum(), 1e-12)), float(np.max(by_tile / np.maximum(light, 1e-12)))
    )  # fmt: skip


@njit(parallel=True, fastmath=FAST)
def _find(rgb, most, usual, share):
    """Into `share`, (h, w): by which a pixel is to be multiplied, 1 where it is no spark."""
    h, w = share.shape
    for y in prange(h):
        for x in range(w):
            here = pixel_luminance(rgb[y, x, 0], rgb[y, x, 1], rgb[y, x, 2])
            if here <= STANDS_OUT * most[y, x] + ABOVE:
                continue
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
            if here > STANDS_OUT * second + ABOVE:
                share[y, x] = max(min(second, most[y, x]), usual[y, x], 1e-6) / here


@njit()
def _give_back(rgb, share, places, out):
    """Spread the light of each spark over its tile, in place."""
    h, w = share.shape
    weights = np.empty((TILE, TILE), np.float32)
    for k in range(places.shape[0]):
        y, x = places[k, 0], places[k, 1]
        r0, c0 = y // TILE * TILE, x // TILE * TILE
        r1, c1 = min(h, r0 + TILE), min(w, c0 + TILE)
        total = 0.0
        for r in range(r0, r1):
            for c in range(c0, c1):
                weights[r - r0, c - c0] = np.exp(-0.5 * ((r - y) ** 2 + (c - x) ** 2) / REACH**2)
                total += weights[r - r0, c - c0]
        for r in range(r0, r1):
            for c in range(c0, c1):
                part = weights[r - r0, c - c0] / total * (1.0 - share[y, x])
                for channel in range(3):
                    out[r, c, channel] += rgb[y, x, channel] * part
