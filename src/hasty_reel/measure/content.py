"""How much detail and change a picture holds: sharpness, spatial and temporal information, flicker of its mean."""

from __future__ import annotations

import numpy as np

from hasty_reel.compiled import FAST, njit, prange
from hasty_reel.image.lightness import luminance_of_lightness
from hasty_reel.image.srgb import srgb_encode


def gradient_energy(lightness: np.ndarray, noise: float = 0.0) -> float:
    """Return the mean squared gradient of a picture (h, w) by central differences, without the part of white noise of that spread.

    A central difference of white noise of variance s^2 has s^2/2, two directions s^2. 0 where the picture is too small.

    Parameters
    ----------
    lightness : (h, w) L*
    noise : its standard deviation in L*
    """
    if min(lightness.shape) < 3:
        return 0.0
    return max(0.0, float(_gradient(np.ascontiguousarray(lightness, np.float32))) - noise * noise)


@njit(parallel=True, fastmath=FAST)
def _gradient(plane):
    h, w = plane.shape
    total = 0.0
    for r in prange(1, h - 1):
        line = 0.0
        for c in range(1, w - 1):
            gx, gy = plane[r, c + 1] - plane[r, c - 1], plane[r + 1, c] - plane[r - 1, c]
            line += gx * gx + gy * gy
        total += line
    return 0.25 * total / ((h - 2) * (w - 2))


def sharpness_kept(energy: float, reference: float) -> float:
    """Return the share of a reference's gradient energy, 1 where both are as sharp; nan where the reference is flat.

    Parameters
    ----------
    energy : gradient energy
    reference : that of the reference
    """
    return energy / reference if reference > 0 else float("nan")


def spatial_information(luma: np.ndarray) -> float:
    """SI of one frame: standard deviation of its Sobel gradient (ITU-T P.910), (h, w) luma 0..255; nan below 3 pixels.

    Parameters
    ----------
    luma : (h, w), 0 to 255
    """
    if min(luma.shape) < 3:
        return float("nan")
    p = np.asarray(luma, np.float64)
    smooth_y, smooth_x = p[:-2] + 2 * p[1:-1] + p[2:], p[:, :-2] + 2 * p[:, 1:-1] + p[:, 2:]
    return float(np.hypot(smooth_y[:, 2:] - smooth_y[:, :-2], smooth_x[2:] - smooth_x[:-2]).std())


def temporal_information(luma: np.ndarray, before: np.ndarray) -> float:
    """TI of one frame: standard deviation of its difference from the frame before (ITU-T P.910).

    A change of all of the picture alike has none: see `percent_flicker` for that.

    Parameters
    ----------
    luma : (h, w), 0 to 255
    before : (h, w), the frame before
    """
    return float((np.asarray(luma, np.float64) - before).std())


def displayed_luma(lightness: np.ndarray) -> np.ndarray:
    """sRGB luma 0..255 of a grey of L*, (h, w) (IEC 61966-2-1).

    Parameters
    ----------
    lightness : (h, w) L*
    """
    return 255.0 * srgb_encode(luminance_of_lightness(lightness))


def percent_flicker(levels: np.ndarray) -> float:
    """100 (max - min)/(max + min) of levels over time (IES Lighting Handbook, from memory); 0 where all is dark.

    Parameters
    ----------
    levels : (n,) of light over time
    """
    high, low = float(np.max(levels)), float(np.min(levels))
    return 100.0 * (high - low) / (high + low) if high + low > 0 else 0.0


def flicker_index(levels: np.ndarray) -> float:
    """Return the share of the light above its mean (IES Lighting Handbook, from memory); 0 where all is dark.

    Parameters
    ----------
    levels : (n,) of light over time
    """
    levels = np.asarray(levels, np.float64)
    total = float(levels.sum())
    return float(np.maximum(levels - levels.mean(), 0.0).sum() / total) if total > 0 else 0.0
