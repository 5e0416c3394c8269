"""Light that lags: what time brought is given up where it lies further from the frame's own light than its noise explains.

Motion that was found wrongly, a shadow that wanders, a highlight that changes: there the mean over the frames is calm, and wrong. Around a
pixel it is off to one side, while noise is off to both; so the mean difference over the pixels around tells a small lag from much noise.
"""

from __future__ import annotations

import cv2
import numpy as np

from hasty_reel.compiled import FAST, njit, prange
from hasty_reel.finish.gather import Mean
from hasty_reel.image.pixels import pixel_luminance_single

AROUND = (7, 7)
"""Pixels over which a lag is told."""
EXPLAINED = np.float32(9.0 / (AROUND[0] * AROUND[1]))
"""Of the variance of a pixel: a squared mean difference over the pixels around that noise explains, three standard deviations."""
LATER = np.float32(0.15)
"""Share of a pixel's variance that a lag outweighs: the filter over space takes most of the noise, and none of the lag."""
UNSEEN = np.float32(0.01)
"""Of the light: by so little nobody sees that it lags, and so much is lost where a frame is fetched between its pixels."""
NO_LAG = np.float32(1e-12)


def share_of_lag(mean: np.ndarray, own: np.ndarray, variance: np.ndarray) -> np.ndarray:
    """Return how much of what time brought is to be given up, (h, w) float32, 0 to 1.

    Parameters
    ----------
    mean : (h, w, 3) float32, light averaged over frames
    own : (h, w, 3) float32, of the frame itself
    variance : (h, w) float32, of the luminance of a pixel of it
    """
    off, light = np.empty((2, *variance.shape), np.float32)
    _apart(mean, own, off, light)
    around = cv2.blur(variance, AROUND)
    lag = np.maximum(cv2.blur(off, AROUND) ** 2 - EXPLAINED * around - (UNSEEN * light) ** 2, np.float32(0.0))
    return np.asarray(lag / (lag + LATER * around + NO_LAG), np.float32)


def without_lag(mean: Mean, own: np.ndarray, variance: np.ndarray) -> Mean:
    """Return a mean that goes back to the frame's own light as far as it lags; in place.

    Parameters
    ----------
    mean : over the frames
    own : (h, w, 3) float32, light of the frame itself
    variance : (h, w) float32, of the luminance of a pixel of it
    """
    _go_back(mean.light, own, share_of_lag(mean.light, own, variance), mean.weights, mean.worth)
    return mean


@njit(parallel=True, fastmath=FAST)
def _apart(mean, own, off, light):
    """Difference in luminance, and that of the mean, into (h, w) both."""
    h, w = off.shape
    for y in prange(h):
        for x in range(w):
            m, o = mean[y, x], own[y, x]
            light[y, x] = pixel_luminance_single(m[0], m[1], m[2])
            off[y, x] = light[y, x] - pixel_luminance_single(o[0], o[1], o[2])


@njit(parallel=True, fastmath=FAST)
def _go_back(light, own, share, weights, worth):
    """Mix light with a frame's own by its share, in place; sums of weights (its own light has 1) and how many frames it is worth follow."""
    h, w = share.shape
    for y in prange(h):
        for x in range(w):
            s = share[y, x]
            if s <= 0:
                continue
            kept = np.float32(1.0) - s
            for k in range(3):
                light[y, x, k] = kept * light[y, x, k] + s * own[y, x, k]
            # variances of both add up, and what they have in common counts twice
            left = kept * kept / worth[y, x] + s * s + np.float32(2.0) * kept * s / weights[y, x]
            worth[y, x] = np.float32(1.0) / left
            weights[y, x] = np.float32(1.0) / (kept / weights[y, x] + s)
