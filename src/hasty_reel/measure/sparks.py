"""Sparks (fireflies): pixels far above their neighbourhood that are not there in the frames beside.

A spark stands alone: most of the ring of 16 pixels around it is far below it. The
renderer's pixel filter may spread it, so only the brightest pixel of a spark counts.
"""

from __future__ import annotations

import numpy as np

from hasty_reel.compiled import njit, prange

RISE = 10.0
"""How far above its ring a spark must stand at least, in L*."""
RISE_IN_NOISE = 6.0
"""And in standard deviations of the noise around it."""


def find_sparks(here: np.ndarray, noise: np.ndarray, before: np.ndarray | None, after: np.ndarray | None) -> np.ndarray:
    """Return where sparks are, (h, w) bool.

    Parameters
    ----------
    here : (h, w) L*
    noise : (down, across) noise of its tiles in L*, as `noise.noise_of_one` gives it
    before, after : (h, w) the frames beside, the brighter of as they are and carried here along the motion; None where there is none.
        Another seed of the same frame does as well. Without either, what stands alone counts.
    """
    found = np.zeros(here.shape, np.bool_)
    side = -(-here.shape[0] // noise.shape[0])
    none = np.zeros((1, 1), np.float32)
    _find(here, noise, max(side, 1), none if before is None else before, none if after is None else after, found)
    return found


@njit(parallel=True)
def _find(here, noise, side, before, after, found):
    h, w = here.shape
    for r in prange(2, h - 2):
        ring = np.empty(16, np.float32)
        for c in range(2, w - 2):
            top = here[r, c]
            # cheap first: the brightest of its eight, of equals the first
            if here[r, c - 1] >= top or here[r, c + 1] > top or here[r - 1, c] >= top or here[r + 1, c] > top:
                continue
            rise = max(RISE, RISE_IN_NOISE * noise[min(r // side, noise.shape[0] - 1), min(c // side, noise.shape[1] - 1)])
            if (here[r - 2, c] > top - rise) + (here[r + 2, c] > top - rise) + (here[r, c - 2] > top - rise) > 1:
                continue
            if max(max(here[r - 1, c - 1], here[r - 1, c + 1]), max(here[r + 1, c - 1], here[r + 1, c + 1])) > top:
                continue
            k = 0
            for y in range(r - 2, r + 3):
                step = 1 if abs(y - r) == 2 else 4
                for x in range(c - 2, c + 3, step):
                    ring[k] = here[y, x]
                    k += 1
            around = np.sort(ring)
            if top - around[8] < rise or top - around[14] < 0.6 * rise or top - around[15] < 0.25 * rise:
                continue
            limit = top - 0.5 * rise
            found[r, c] = _below(before, r, c, limit) and _below(after, r, c, limit)


@njit()
def _below(plane, r, c, limit):
    """Whether the 25 pixels around a place stay below a limit; they do where there is no plane."""
    if plane.shape[0] > 1:
        for y in range(max(0, r - 2), min(plane.shape[0], r + 3)):
            for x in range(max(0, c - 2), min(plane.shape[1], c + 3)):
                if plane[y, x] > limit:
                    return False
    return True
