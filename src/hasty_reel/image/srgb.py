"""The transfer function of sRGB displays, both ways (IEC 61966-2-1:1999)."""

from __future__ import annotations

from functools import cache

import numpy as np

LINEAR_CODE, LINEAR_LIGHT, LINEAR_SLOPE = 0.04045, 0.0031308, 12.92
"""Code and light up to which the curve is a straight line, and its slope."""
EXPONENT, STRETCH = 2.4, 0.055
_DARKEST = 1e-9
"""Keeps the power of nothing out of the part of the curve that is not taken."""


def srgb_decode(code: np.ndarray) -> np.ndarray:
    """Return the display-linear light of sRGB code values.

    Parameters
    ----------
    code : array of any shape, code values from 0 to 1

    Returns
    -------
    np.ndarray
        Array of the same shape, light from 0 to 1.
    """
    return np.where(code <= LINEAR_CODE, code / LINEAR_SLOPE, ((np.maximum(code, 0) + STRETCH) / (1.0 + STRETCH)) ** EXPONENT)


def srgb_encode(light: np.ndarray) -> np.ndarray:
    """Return the sRGB code values of display-linear light.

    Parameters
    ----------
    light : array of any shape, light from 0 to 1

    Returns
    -------
    np.ndarray
        Array of the same shape, code values from 0 to 1.
    """
    curved = (1.0 + STRETCH) * np.maximum(light, _DARKEST) ** (1.0 / EXPONENT) - STRETCH
    return np.where(light > LINEAR_LIGHT, curved, LINEAR_SLOPE * light)


@cache
def _light_of_code() -> np.ndarray:
    return srgb_decode(np.arange(256) / 255.0).astype(np.float32)


def light_of_codes8(codes: np.ndarray) -> np.ndarray:
    """Return the display-linear light of 8-bit sRGB codes.

    Parameters
    ----------
    codes : uint8 array of any shape

    Returns
    -------
    np.ndarray
        Array of the same shape, light from 0 to 1.
    """
    found: np.ndarray = _light_of_code()[codes]
    return found
