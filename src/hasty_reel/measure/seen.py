"""Seen flicker: unrest weighted by the eye's contrast sensitivity, in just noticeable differences.

Kelly 1979 (J. Opt. Soc. Am. 69, 1340-1349), formula from memory: sensitivity for a
grating of fs cycles/degree that moves or flickers at ft Hz.
"""

from __future__ import annotations

import math

import numpy as np

VISIBLE = 1.0
"""Seen flicker from here on is visible to the standard observer."""
AT_RISK = 0.6
"""From here on a keen eye may see it."""
PICTURE_HEIGHTS = 3.0
"""Viewing distance, in picture heights."""


def sensitivity(fs: np.ndarray, ft: float) -> np.ndarray:
    """Contrast sensitivity (1/threshold contrast) at fs cycles/degree and ft Hz (Kelly 1979)."""
    fs = np.maximum(np.asarray(fs, np.float64), 1e-3)
    v = ft / fs
    a = 2.0 * np.pi * fs
    return (6.1 + 7.3 * np.abs(np.log10(v / 3.0)) ** 3) * v * a * a * np.exp(-2.0 * a * (v + 2.0) / 45.9)


def pixels_per_degree(rows: int, heights: float = PICTURE_HEIGHTS) -> float:
    """Pixels a degree of a picture of `rows` rows, seen from `heights` picture heights away."""
    return rows * heights * math.tan(math.radians(1.0))


def grain_weight(pixels_a_degree: float, fps: float) -> float:
    """JND per unit of contrast of white noise whose finest grain is one pixel.

    The spectrum is even up to half a cycle a pixel in both directions; it is weighted
    by the squared sensitivity at a third of the frame rate and averaged. For noise
    enlarged k times, divide `pixels_a_degree` by k: the sinc keeps the band it had.
    """
    f = (np.arange(256) + 0.5) / 256.0 - 0.5
    fx, fy = np.meshgrid(f, f)
    weight = sensitivity(np.hypot(fx, fy) * pixels_a_degree, fps / 3.0)
    return float(np.sqrt(np.mean(weight**2)))
