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
from hasty_reel.measure.framepair import FramePair, frame_pair

TILE = 32
"""Side in pixels of the tiles over which flicker is gathered."""
# in single precision: twice as quick, and finer than a thousandth of an L*
_H, _1 = np.float32(0.5), np.float32(1.0)


@njit(parallel=True, fastmath=FAST)
def _residual(here, before, at_before, found_before, after, at_after, found_after, sides, moves, squares, d, match):
    """Unrest `d` against the carried neighbours, and which of them match; see `Unrest`. `sides`, `moves`: bit 0 before, bit 1 after."""
    rows, columns = here.shape
    h, w = np.float32(rows), np.float32(columns)
    for r in prange(rows):
        for c in range(columns):
            first, second = sides & 1 != 0, sides & 2 != 0
            g0, g1 = _1, _1
            if first and moves & 1:
                first = found_before[r, c]
                g0 = max(bicubic_variance_at(at_before[r, c, 0], at_before[r, c, 1], w, h, squares), np.float32(0.0))
            if second and moves & 2:
                second = found_after[r, c]
                g1 = max(bicubic_variance_at(at_after[r, c, 0], at_after[r, c, 1], w, h, squares), np.float32(0.0))
            match[r, c] = (1 if first else 0) + (2 if second else 0)
            if sides == 3 and first and second:
                gain = np.sqrt(_1 + np.float32(0.25) * (g0 + g1))
                d[r, c] = (here[r, c] - _H * (before[r, c] + after[r, c])) / gain
            elif sides == 3:  # one neighbour alone would take a fade for unrest
                d[r, c] = 0.0
            elif first:
                d[r, c] = (here[r, c] - before[r, c]) / np.sqrt(_1 + g0)
            elif second:
                d[r, c] = (here[r, c] - after[r, c]) / np.sqrt(_1 + g1)
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
    def measured(self) -> np.ndarray:
        """Where `d` is known, (h, w) bool: found in every frame that stands beside."""
        wanted = (1 if self.before is not None else 0) + (2 if self.after is not None else 0)
        return (self.match == wanted) & (wanted > 0)

    @property
    def flicker(self) -> float:
        """RMS over the pixels that have a match; nan where none has."""
        count = int(np.count_nonzero(self.measured))
        return float(np.sqrt(np.dot(self.d.ravel(), self.d.ravel()) / count)) if count else float("nan")


def unrest_between(
    before: np.ndarray | None, here: np.ndarray, after: np.ndarray | None, pair_before: FramePair | None, pair: FramePair | None
) -> Unrest:
    """Return the unrest of a frame between its neighbours.

    Parameters
    ----------
    before, here, after : (h, w) L* or any other quantity; None where there is no such frame: then the one-sided difference counts
    pair_before, pair : what the frame shares with the one before and with the next; None beside a hole

    Returns
    -------
    Unrest
        In the unit of the frames.
    """
    here = np.ascontiguousarray(here, np.float32)
    sides, moves = 0, 0
    nowhere, nothing = np.zeros((1, 1, 2), np.float32), np.zeros((1, 1), np.bool_)
    where, carried, found = [nowhere, nowhere], [here, here], [nothing, nothing]
    for s, (frame, shared) in enumerate(((before, pair_before), (after, pair))):
        if frame is None or shared is None:
            continue
        sides |= 1 << s
        carried[s] = np.ascontiguousarray(frame, np.float32)
        place, match = (shared.back, shared.found_back) if s == 0 else (shared.there, shared.found_there)
        if place is not None and match is not None:
            moves |= 1 << s
            where[s], found[s] = place, match
            carried[s] = remap_bicubic(carried[s], place)
    d, matched = np.zeros_like(here), np.zeros((here.shape[0], here.shape[1]), np.uint8)
    if sides:
        _residual(here, carried[0], where[0], found[0], carried[1], where[1], found[1], sides, moves, CUBIC_VARIANCE, d, matched)
    return Unrest(d, matched, carried[0] if sides & 1 else None, carried[1] if sides & 2 else None)


def unrest(frames: Sequence[np.ndarray | None], vectors: Sequence[np.ndarray | None], at: int) -> Unrest:
    """Return the unrest of frame `at` of a run.

    Parameters
    ----------
    frames : (h, w) each: L* or any other quantity, over time; None beside `at` where one is missing
    vectors : (h, w, 2) each, pixels to the next frame; None where nothing moves
    at : index of the frame; at the ends of the run the one-sided difference counts
    """
    here = frames[at]
    assert here is not None
    before = frames[at - 1] if at > 0 else None
    after = frames[at + 1] if at + 1 < len(frames) else None
    pair_before = None if before is None else frame_pair(vectors[at - 1])
    return unrest_between(before, here, after, pair_before, None if after is None else frame_pair(vectors[at]))


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
