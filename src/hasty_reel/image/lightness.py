"""CIE 1976 lightness L* of relative luminance, its inverse and its slope (CIE 15:2004)."""

from __future__ import annotations

import numpy as np

SCALE, OFFSET = 116.0, 16.0
"""L* = 116 cbrt(Y) - 16 above the linear part."""
LINEAR_BELOW = 216.0 / 24389.0
"""Relative luminance up to which L* rises in a straight line."""
LINEAR_SLOPE = 24389.0 / 27.0
"""L* per unit of luminance there."""
_LINEAR_BELOW_L = 8.0


def lightness(luminance: np.ndarray) -> np.ndarray:
    """Return CIE L* of relative luminance.

    Parameters
    ----------
    luminance : array of any shape, relative to display white, 0 to 1

    Returns
    -------
    np.ndarray
        Array of the same shape, L* from 0 to 100.
    """
    y = np.asarray(luminance)
    return np.where(y > LINEAR_BELOW, SCALE * np.cbrt(y) - OFFSET, LINEAR_SLOPE * y)


def luminance_of_lightness(lightness_: np.ndarray) -> np.ndarray:
    """Return the relative luminance of CIE L*, the inverse of `lightness`.

    Parameters
    ----------
    lightness_ : array of any shape, L* from 0 to 100

    Returns
    -------
    np.ndarray
        Array of the same shape, relative luminance from 0 to 1.
    """
    root = (lightness_ + OFFSET) / SCALE
    return np.where(lightness_ > _LINEAR_BELOW_L, root * root * root, lightness_ / LINEAR_SLOPE)  # a power takes ten times as long


def lightness_slope(luminance: np.ndarray) -> np.ndarray:
    """Return dL*/d(ln Y), the change of lightness for a relative change of luminance, above the linear part.

    Parameters
    ----------
    luminance : array of any shape, relative luminance above 0

    Returns
    -------
    np.ndarray
        Array of the same shape, in L*.
    """
    return SCALE / 3.0 * np.cbrt(luminance)


def lightness_slope_at(lightness_: np.ndarray) -> np.ndarray:
    """Return dL*/d(ln Y) at pixels of a known lightness: a third of L* + 16, from 8 L* up.

    Parameters
    ----------
    lightness_ : array of any shape, L*

    Returns
    -------
    np.ndarray
        Array of the same shape, in L*.
    """
    return (lightness_ + OFFSET) / 3.0
