"""Noise that denoising leaves, band by band: what must be put back so that a picture has the noise of more samples than were rendered.

Both renders of a frame are denoised by themselves. Half the difference of the results is what denoising leaves, C; half the
difference of the renders is all noise, E; R = E - C is what it took out. What is shown is the mean of the results plus k R: its
variance in a band is var C + 2 k cov(C, R) + k^2 var R, and k is chosen so that this is the wanted share of var E, around each place.
Denoising leaves coarse noise and takes fine noise out; with one factor for both there would be too much of the coarse.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import cv2
import numpy as np

from hasty_reel.compiled import FAST, njit, prange
from hasty_reel.image.luminance import luminance

SIGMAS = (1.0, 2.0, 4.0)
"""Deviations in pixels of the Gaussians between which bands lie: octaves, as those in which vision is told."""
AROUND = (33, 33)
"""Pixels over which variances are told."""
CELL = 8
"""Pixels a side that share one factor."""
NONE = np.float32(1e-20)


@dataclass(frozen=True)
class BandsLeft:
    """A frame without noise, and what denoising took out of it.

    calm : (h, w, 3) float32, mean of both results
    taken : (bands, h, w, 3) float32, what was taken out of the mean of both renders, fine bands first
    left, both, out, whole : (bands, rows, columns) float32, of each cell: var C, cov(C, R), var R and var E
    """

    calm: np.ndarray
    taken: np.ndarray
    left: np.ndarray
    both: np.ndarray
    out: np.ndarray
    whole: np.ndarray

    def with_share(self, share: float) -> np.ndarray:
        """Return the frame with this share of the variance of the mean of both renders, (h, w, 3) float32.

        Parameters
        ----------
        share : 0 to 1; where denoising leaves more than that, what it leaves
        """
        made = self.calm.copy()
        _put_back(made, self.taken, self.left, self.both, self.out, self.whole, np.float32(share))
        return made


def bands_left(mean: np.ndarray, half: np.ndarray, a: np.ndarray, b: np.ndarray) -> BandsLeft:
    """Return what denoising left of a frame, and what it took out.

    Parameters
    ----------
    mean : (h, w, 3) float32, light of both renders
    half : (h, w, 3) float32, half their difference
    a : (h, w, 3) float32, the first render denoised
    b : (h, w, 3) float32, the second
    """
    calm = np.asarray((a + b) / 2.0, np.float32)
    left = luminance((a - b) / 2.0).astype(np.float32)
    out = luminance(half).astype(np.float32) - left
    products = [(c * c, c * r, r * r, (c + r) ** 2) for c, r in zip(_bands(left), _bands(out))]
    return BandsLeft(calm, np.stack(_bands(mean - calm)), *(_cells(planes) for planes in zip(*products)))


def _bands(plane: np.ndarray) -> list[np.ndarray]:
    """A plane as the sum of its bands, fine ones first."""
    smooth = [plane, *(cv2.GaussianBlur(plane, (0, 0), sigma, borderType=cv2.BORDER_REFLECT) for sigma in SIGMAS)]
    return [*(fine - coarse for fine, coarse in pairwise(smooth)), smooth[-1]]


def _cells(planes: Sequence[np.ndarray]) -> np.ndarray:
    """Means around the middle of each cell."""
    around = [cv2.blur(np.asarray(plane, np.float32), AROUND, borderType=cv2.BORDER_REFLECT) for plane in planes]
    rows, columns = (np.minimum(np.arange(CELL // 2, n + CELL // 2, CELL), n - 1) for n in around[0].shape)
    return np.ascontiguousarray([plane[np.ix_(rows, columns)] for plane in around])


@njit(parallel=True, fastmath=FAST)
def _put_back(made, taken, left, both, out, whole, share):
    """Put back as much of what was taken out as the share asks for, into (h, w, 3)."""
    bands, h, w, channels = taken.shape
    cells = left.shape[2]
    for row in prange(left.shape[1]):
        factors = np.empty(cells, np.float32)
        for band in range(bands):
            for cell in range(cells):
                c, r = both[band, row, cell], out[band, row, cell] + NONE
                missing = share * whole[band, row, cell] - left[band, row, cell]
                factors[cell] = max(np.float32(0.0), (np.sqrt(max(c * c + r * missing, np.float32(0.0))) - c) / r)
            for y in range(row * CELL, min(h, (row + 1) * CELL)):
                for x in range(w):
                    for k in range(channels):
                        made[y, x, k] += factors[x // CELL] * taken[band, y, x, k]
