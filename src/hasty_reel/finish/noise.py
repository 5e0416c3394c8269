"""Variance of the noise of a pixel, told by the pixels around it and by what the frames beside leave of it."""

from __future__ import annotations

import cv2
import numpy as np

from hasty_reel.finish.sparkspread import around
from hasty_reel.finish.surfaces import DARK

NEAR = (7, 7)
"""Pixels over which noise and errors are averaged."""
LINES = tuple(
    np.array(rows, np.float32) / 2.0
    for rows in (
        [[0, 0, 0], [-1, 2, -1], [0, 0, 0]], [[0, -1, 0], [0, 2, 0], [0, -1, 0]],
        [[-1, 0, 0], [0, 2, 0], [0, 0, -1]], [[0, 0, -1], [0, 2, 0], [-1, 0, 0]],
    )
)  # fmt: skip
"""Differences of a pixel from the mean of the two at its sides, four ways."""
FROM_LINES = np.float32(2.391)
"""Variance of white noise / the mean of the least of their squares."""
FROM_AROUND = np.float32(8.0 / 9.0)
"""Variance of a pixel / that of its difference from the mean of the eight around it."""
FEW = 0.1
"""Share of the pixels around that must be found in a frame beside, so that time tells the noise."""
WORTH_ANOTHER = 1.5
"""Weight of a mean from which on another frame is in it for the better part."""
LEAST_SHARE = 0.05
"""Share of the pixels around below which none counts as found."""


def unevenness(lum: np.ndarray) -> np.ndarray:
    """Return the variance of a pixel by what it differs from those at its sides, the way it differs least, (h, w) float32.

    A straight edge is no noise, texture is.

    Parameters
    ----------
    lum : (h, w) float32, luminance
    """
    apart = [cv2.filter2D(lum, -1, across, borderType=cv2.BORDER_REFLECT) ** 2 for across in LINES]
    return cv2.blur(np.minimum.reduce(apart) * FROM_LINES, NEAR).astype(np.float32)


def noise_of(lum: np.ndarray, uneven: np.ndarray, mean: np.ndarray, weights: np.ndarray) -> np.ndarray:
    """Return the variance of a pixel's light by what the frames beside leave of it; where there are none by the pixels around, (h, w).

    Parameters
    ----------
    lum : (h, w) float32, luminance of the frame
    uneven : (h, w) float32, variance of a pixel by those around it, as `unevenness` tells it
    mean : (h, w) float32, of its mean with the frames beside
    weights : (h, w) float32, sums of weights of that mean
    """
    left, known = _left_by_others(lum, mean, weights)
    share = cv2.blur(known, NEAR)
    over_time = cv2.blur(left, NEAR) / np.maximum(share, np.float32(1e-3))
    return np.where(share > FEW, np.minimum(over_time, uneven), uneven).astype(np.float32)


def albedo_noise(albedo: np.ndarray, mean: np.ndarray, weights: np.ndarray) -> np.ndarray:
    """Return the variance of the luminance of an albedo, relative to its square, (h, w): an aliased or noisy one would print through.

    Parameters
    ----------
    albedo : (h, w) float32, its luminance
    mean : (h, w) float32, of its mean with the frames beside
    weights : (h, w) float32, sums of weights of that mean
    """
    left, known = _left_by_others(albedo, mean, weights)
    uneven = (albedo - around(albedo)) ** 2 * FROM_AROUND
    share, square = cv2.blur(known, NEAR), cv2.blur(albedo, NEAR) ** 2
    over_time = cv2.blur(np.minimum(left, uneven * known), NEAR) / np.maximum(share, LEAST_SHARE)
    return np.where(share > FEW, over_time, cv2.blur(uneven, NEAR)) / np.maximum(square, DARK**2)


def _left_by_others(plane: np.ndarray, mean: np.ndarray, weights: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Variance of a pixel by how far it lies from its mean with the frames beside, and where there are any, (h, w) float32 both.

    A mean with weight w has the pixel itself in it with 1/w: what is left of its variance is 1 - 1/w.
    """
    known = weights > WORTH_ANOTHER
    left = np.where(known, (plane - mean) ** 2 / np.maximum(1.0 - 1.0 / weights, 1.0 - 1.0 / WORTH_ANOTHER), 0.0)
    return left.astype(np.float32), known.astype(np.float32)
