"""Flicker: what is left of a frame when the mean of its neighbours is taken away, along the motion.

d_t = L_t - (L_{t-1} + L_{t+1})/2, flicker = RMS(d)/sqrt(1.5): a linear fade gives 0,
white noise of standard deviation s gives s, a held pattern before a still camera 0.

A neighbour fetched between its pixels (a cubic, Keys 1981) is calmer than its pixels are:
white noise loses variance by the sum of the squared weights. The scale takes this into
account pixel by pixel, so that grain has the same flicker at rest and in motion.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hasty_reel.compiled import FAST, njit, prange
from hasty_reel.image.sampling import CUBIC_VARIANCE, bicubic_variance_at, remap_bicubic
from hasty_reel.image.warp import places_in_next, places_in_previous

MISMATCH = 4.0
"""A neighbour further off than this many robust deviations of its tile (and 10 L*) is another surface, not flicker."""
LEAST_MISMATCH, MOST_MISMATCH = 10.0, 25.0
"""In L*. Above the second all of the frame must be off, as in a flash: else something moved that was not found."""
TILE = 32
_BINS, _WIDTH = 256, 0.1
# in single precision: twice as quick, and finer than a thousandth of an L*
_H, _1 = np.float32(0.5), np.float32(1.0)


@njit(fastmath=FAST)
def _side(here, beside, moves, most, at, squares, r0, r1, c0, c1, off, gain):
    """How far a carried neighbour is off in one tile, with the gain of its fetching; returns where a mismatch begins."""
    h, w = np.float32(here.shape[0]), np.float32(here.shape[1])
    bins = np.zeros(_BINS, np.int32)
    count = 0
    for r in range(r0, r1):
        for c in range(c0, c1):
            g = bicubic_variance_at(at[r, c, 0], at[r, c, 1], w, h, squares) if moves else _1
            o = beside[r, c] - here[r, c]
            off[r - r0, c - c0] = o
            gain[r - r0, c - c0] = g
            if g >= 0 and (r + c) & 1:  # every second one does for a median
                bins[int(min(abs(o) * np.float32(1.0 / _WIDTH), _BINS - 1.0))] += 1
                count += 1
    passed, k = 0, 0
    while k < _BINS - 1 and 2 * (passed + bins[k]) < count:
        passed += bins[k]
        k += 1
    return min(max(LEAST_MISMATCH, MISMATCH * 1.4826 * (k + 0.5) * _WIDTH), most)


@njit(parallel=True, fastmath=FAST)
def _residual(here, before, at_before, after, at_after, sides, moves, most, squares, d, match):
    """Unrest `d` against the carried neighbours, and which of them match; see `Unrest`. `sides`, `moves`: bit 0 before, bit 1 after."""
    h, w = here.shape
    down, across = -(-h // TILE), -(-w // TILE)
    for j in prange(down):
        off0, gain0 = np.zeros((TILE, TILE), np.float32), np.full((TILE, TILE), np.float32(-1.0))
        off1, gain1 = np.zeros((TILE, TILE), np.float32), np.full((TILE, TILE), np.float32(-1.0))
        for i in range(across):
            r0, c0 = j * TILE, i * TILE
            r1, c1 = min(h, r0 + TILE), min(w, c0 + TILE)
            limit0, limit1 = 0.0, 0.0
            if sides & 1:
                limit0 = _side(here, before, moves & 1, most[0], at_before, squares, r0, r1, c0, c1, off0, gain0)
            if sides & 2:
                limit1 = _side(here, after, moves & 2, most[1], at_after, squares, r0, r1, c0, c1, off1, gain1)
            for r in range(r0, r1):
                for c in range(c0, c1):
                    o0, o1 = off0[r - r0, c - c0], off1[r - r0, c - c0]
                    g0, g1 = gain0[r - r0, c - c0], gain1[r - r0, c - c0]
                    first, second = g0 >= 0 and abs(o0) <= limit0, g1 >= 0 and abs(o1) <= limit1
                    match[r, c] = (1 if first else 0) + (2 if second else 0)
                    if first and second:
                        d[r, c] = -_H * (o0 + o1) / np.sqrt(_1 + np.float32(0.25) * (g0 + g1))
                    elif first:
                        d[r, c] = -o0 / np.sqrt(_1 + g0)
                    elif second:
                        d[r, c] = -o1 / np.sqrt(_1 + g1)
                    else:
                        d[r, c] = 0.0


@dataclass(frozen=True)
class Unrest:
    """The unrest of one frame.

    d : (h, w) float32, scaled so that its RMS is the flicker
    match : (h, w) uint8, where the pixel was found again: bit 0 in the frame before, bit 1 in the next
    before, after : (h, w) float32, the frames beside, carried here along the motion; None where there is none
    """

    d: np.ndarray
    match: np.ndarray
    before: np.ndarray | None
    after: np.ndarray | None

    @property
    def flicker(self) -> float:
        """RMS over the pixels that have a match; nan where none has."""
        count = int(np.count_nonzero(self.match))
        return float(np.sqrt(np.dot(self.d.ravel(), self.d.ravel()) / count)) if count else float("nan")


def unrest(frames: Sequence[np.ndarray | None], vectors: Sequence[np.ndarray | None], at: int) -> Unrest:
    """Return the unrest of frame `at` of a run.

    Parameters
    ----------
    frames : (h, w) each: L* or any other quantity, over time; None beside `at` where one is missing
    vectors : (h, w, 2) each, pixels to the next frame; None where nothing moves
    at : index of the frame; at the ends of the run the one-sided difference counts
    """
    here = np.ascontiguousarray(frames[at], np.float32)
    shape = (here.shape[0], here.shape[1])
    sides, moves = 0, 0
    nowhere = np.zeros((1, 1, 2), np.float32)
    where, carried = [nowhere, nowhere], [here, here]
    for s, k in enumerate((at - 1, at + 1)):
        if 0 <= k < len(frames) and frames[k] is not None:
            sides |= 1 << s
            carried[s] = np.ascontiguousarray(frames[k], np.float32)
            field = vectors[min(k, at)]
            if field is not None:
                moves |= 1 << s
                where[s] = places_in_previous(field) if k < at else places_in_next(field)
                carried[s] = remap_bicubic(carried[s], where[s])
    d, match = np.zeros_like(here), np.zeros(shape, np.uint8)
    thin = (slice(None, None, max(1, shape[0] // 128)), slice(None, None, max(1, shape[1] // 128)))
    most = np.array([max(MOST_MISMATCH, MISMATCH * 1.4826 * float(np.median(np.abs(c[thin] - here[thin])))) for c in carried])
    if sides:
        _residual(here, carried[0], where[0], carried[1], where[1], sides, moves, most, CUBIC_VARIANCE, d, match)
    return Unrest(d, match, carried[0] if sides & 1 else None, carried[1] if sides & 2 else None)


def flicker(frames: Sequence[np.ndarray], vectors: Sequence[np.ndarray | None], at: int) -> float:
    """Flicker of frame `at` of a run, in the unit of the frames; 0 where no pixel has a match. See `unrest`.

    Parameters
    ----------
    frames : (h, w) each, over time
    vectors : (h, w, 2) each, pixels to the next frame; None where nothing moves
    at : index of the frame
    """
    value = unrest(frames, vectors, at).flicker
    return value if np.isfinite(value) else 0.0
