"""A frame filtered by itself, by its light alone."""

from __future__ import annotations

import numpy as np

from hasty_reel.finish.atrous import LEVELS, atrous
from hasty_reel.finish.noise import unevenness
from hasty_reel.finish.surfaces import NO_SURFACES
from hasty_reel.image.lightness import lightness
from hasty_reel.image.luminance import luminance

STRENGTH = 4.0
"""Standard deviations apart at which light still agrees for the better part."""


def alone(rgb: np.ndarray, levels: int = LEVELS, variance: np.ndarray | None = None) -> np.ndarray:
    """Return the luminance of a frame filtered by itself, (h, w) float32.

    Parameters
    ----------
    rgb : (h, w, 3) float32, scene-linear light
    levels : of the filter: pixels are averaged over twice as far with each
    variance : (h, w) float32, of a pixel's luminance; None: told by the pixels around
    """
    if variance is None:
        variance = unevenness(np.ascontiguousarray(luminance(rgb), np.float32))
    return np.ascontiguousarray(luminance(atrous(rgb, variance, NO_SURFACES, STRENGTH, levels)[0]), np.float32)


def lightness_alone(rgb: np.ndarray) -> np.ndarray:
    """Return L* of a frame filtered by itself, (h, w) float32, 0 to 100.

    Parameters
    ----------
    rgb : (h, w, 3) float32, scene-linear light
    """
    return lightness(np.clip(alone(rgb), 0.0, 1.0)).astype(np.float32)
