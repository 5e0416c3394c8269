"""Noise from two renders a, b of the same frame with different seeds; from one picture an estimate.

Var(a - b) = 2 Var(a). Where the light stands above display white there is no noise to be seen (the slope
of the plain view is zero there), and it is not counted: else the rim of one lamp outweighs the whole picture.
"""

from __future__ import annotations

import cv2
import numpy as np

from hasty_reel.image.laplacian import tile_residual_spread
from hasty_reel.image.lightness import lightness
from hasty_reel.image.luminance import luminance

_MASK = np.array([[1.0, -2.0, 1.0], [-2.0, 4.0, -2.0], [1.0, -2.0, 1.0]])
ESTIMATE_TILE = 32
"""Side of the tiles of an estimate from one picture, in pixels."""


def noise_linear(a: np.ndarray, b: np.ndarray) -> float:
    """Return the standard deviation of linear luminance of one render below display white, over the frame; a, b (h, w, 3).

    Parameters
    ----------
    a : (h, w, 3) float32, scene-linear light of one picture
    b : (h, w, 3) float32, of the other

    Examples
    --------
    >>> a, b = (0.2 + 0.01 * np.random.default_rng(seed).standard_normal((90, 160, 1)) for seed in (1, 2))
    >>> round(noise_linear(np.repeat(a, 3, axis=2), np.repeat(b, 3, axis=2)), 3)
    0.01
    """
    return float(np.sqrt(np.mean(pixel_variance(a, b))))


def left_out(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """Where light stands above display white, (h, w) bool: there no noise is seen.

    Told by the median of a pixel and those around it in both renders, which a rare bright light path does not move:
    told by the pixel pair itself, such paths would vanish from the noise.

    Parameters
    ----------
    a, b : (h, w) linear luminance of two renders
    """
    middle = [cv2.medianBlur(np.ascontiguousarray(p, np.float32), 3) for p in (a, b)]
    return middle[0] + middle[1] >= 2.0


def pixel_variance(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """Return the variance of linear luminance of one render per pixel, (h, w); 0 where the light stands above display white.

    Parameters
    ----------
    a : (h, w, 3) float32, scene-linear light of one picture
    b : (h, w, 3) float32, of the other
    """
    ya, yb = luminance(a).astype(np.float64), luminance(b).astype(np.float64)
    return np.where(left_out(ya, yb), 0.0, (ya - yb) ** 2 / 2.0)


def noise_lightness(a: np.ndarray, b: np.ndarray) -> float:
    """Return the standard deviation of L* in the plain view of one render, over the frame; a, b (h, w, 3).

    Parameters
    ----------
    a : (h, w, 3) float32, scene-linear light of one picture
    b : (h, w, 3) float32, of the other
    """
    return noise_between(lightness(np.clip(luminance(a), 0, 1)), lightness(np.clip(luminance(b), 0, 1)))


def noise_between(a: np.ndarray, b: np.ndarray) -> float:
    """Return the standard deviation of one of two planes (h, w) that differ in their seed alone, in their unit.

    Parameters
    ----------
    a, b : (h, w), in any unit
    """
    d = a - b
    return float(np.sqrt(np.mean(d * d) / 2.0))


def noise_guess(rgb: np.ndarray) -> float:
    """Return the noise of one picture judged by itself: what `noise_linear` would measure with another seed, about.

    The root mean square of Immerkaer's mask (1996, CVIU 64, 300-302; from memory), which vanishes on planes; light above display
    white counts as white. Against two seeds .87 to 1.13 of it on nine of ten renderings by both stand-ins, 1.6 on a finely
    textured one: texture reads as noise.

    Parameters
    ----------
    rgb : (h, w, 3) float32, scene-linear light
    """
    plane = np.minimum(luminance(rgb), 1.0).astype(np.float64)
    if min(plane.shape) < 3:
        return float("nan")
    residual = cv2.filter2D(plane, -1, _MASK)[1:-1, 1:-1]
    return float(np.sqrt(np.mean(residual**2) / 36.0))


def noise_of_one(plane: np.ndarray) -> np.ndarray:
    """Noise estimated from one picture (h, w), per tile of 32 x 32 pixels, (down, across), in its unit.

    The Laplacian residual of Immerkaer (1996, CVIU 64, 300-302; from memory), which
    vanishes on planes; its spread by the median, so that edges do not count as noise.
    Fine texture reads as noise: an estimate, not a measurement.

    Parameters
    ----------
    plane : (h, w), in any unit
    """
    h, w = plane.shape
    out = np.zeros((-(-h // ESTIMATE_TILE), -(-w // ESTIMATE_TILE)))
    if h >= 3 and w >= 3:
        tile_residual_spread(np.ascontiguousarray(plane, np.float32), ESTIMATE_TILE, out)
    return out
