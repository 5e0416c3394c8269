"""Light of rare bright paths spread over their surroundings, so that one of them does not outweigh a whole neighbourhood."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np

from hasty_reel.image.luminance import luminance

TIMES = 2.5
"""How many times as bright as the pixels around it, here and in the frames beside, a pixel may be."""
TIMES_ALONE = 2.0
"""The same of a still, which no frame beside speaks for, and whose sparks would stand out of what is smooth around them."""
SIGMA = 4.0
"""Standard deviation of the Gaussian, in pixels, over which the rest of its light goes."""
FAINT = 1e-3


def around(plane: np.ndarray) -> np.ndarray:
    """Return the mean of the eight pixels around each, (h, w).

    Parameters
    ----------
    plane : (h, w) float32
    """
    return (cv2.blur(plane, (3, 3)) * np.float32(9.0) - plane) / np.float32(8.0)


def spread_sparks(rgb: np.ndarray, beside: Sequence[np.ndarray], times: float = TIMES) -> np.ndarray:
    """Return a picture in which what is far brighter than its surroundings is spread; its light is kept, (h, w, 3) float32.

    Parameters
    ----------
    rgb : (h, w, 3) float32, scene-linear light
    beside : luminance of frames beside, means over 3 x 3 pixels, carried to this one, (h, w) each
    times : how many times as bright as its surroundings a pixel may be
    """
    lum = np.ascontiguousarray(luminance(rgb), np.float32)
    most = np.float32(times) * np.mean([around(lum), *beside], axis=0, dtype=np.float32) + np.float32(FAINT)
    kept = np.minimum(np.float32(1.0), most / np.maximum(lum, np.float32(1e-9)))[..., None]
    spread = cv2.GaussianBlur(rgb * (np.float32(1.0) - kept), (0, 0), SIGMA, borderType=cv2.BORDER_REFLECT)
    return np.ascontiguousarray(rgb * kept + spread, np.float32)
