"""Sharpening by an unsharp mask."""

from __future__ import annotations

import math

import cv2
import numpy as np

from hasty_reel.image.resize import WHITE

SIGMA = 1.0
"""Standard deviation of the Gaussian whose blur is taken away, in pixels."""
REACH = 9
"""Pixels a side that it reaches over."""


def sharpen(rgb: np.ndarray, amount: float) -> np.ndarray:
    """Return a picture with its finest detail raised: rgb + amount (rgb - blurred), (h, w, 3).

    Beside light above display white the result is held within the 3 x 3 pixels around, so that a lamp gets no dark ring;
    no light turns negative anywhere, and an even surface stays as it is.

    Parameters
    ----------
    rgb : (h, w, 3) float32, scene-linear light
    amount : 0 for none; 0.1 after enlarging (common practice, no source)
    """
    rgb = np.ascontiguousarray(rgb, np.float32)
    raised = rgb + np.float32(amount) * (rgb - cv2.GaussianBlur(rgb, (0, 0), SIGMA, borderType=cv2.BORDER_REFLECT))
    around = np.ones((3, 3), np.uint8)
    low, high = cv2.erode(rgb, around), cv2.dilate(rgb, around)
    bright = cv2.dilate(high.max(axis=2), np.ones((REACH, REACH), np.uint8))[..., None] > WHITE
    return np.maximum(np.where(bright, np.clip(raised, low, high), raised), np.minimum(rgb, 0.0))


def sharpened_noise(amount: float) -> float:
    """Return how much sharpening raises the standard deviation of white noise; of coarser noise less, so it is the most.

    Parameters
    ----------
    amount : as in `sharpen`

    Notes
    -----
    The root of the sum of the squares of the filter (1 + a) delta - a g, g a Gaussian with g(0) = 1 / (2 pi sigma^2)
    and a sum of squares of 1 / (4 pi sigma^2).
    """
    middle, squares = 1.0 / (2.0 * math.pi * SIGMA**2), 1.0 / (4.0 * math.pi * SIGMA**2)
    return math.sqrt((1.0 + amount) ** 2 - 2.0 * (1.0 + amount) * amount * middle + amount**2 * squares)
