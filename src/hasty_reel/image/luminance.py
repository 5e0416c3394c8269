"""Relative luminance of scene-linear Rec. 709 colour."""

from __future__ import annotations

import numpy as np

RED, GREEN, BLUE = 0.2126, 0.7152, 0.0722
"""Luminance weights of the Rec. 709 primaries (ITU-R BT.709-6)."""
_WEIGHTS = np.array([RED, GREEN, BLUE])


def luminance(rgb: np.ndarray) -> np.ndarray:
    """Return the relative luminance of scene-linear Rec. 709 colour.

    Parameters
    ----------
    rgb : (..., 3) scene-linear light

    Returns
    -------
    np.ndarray
        (...) relative luminance in the type of `rgb`, 1 at display white.
    """
    return rgb @ _WEIGHTS.astype(rgb.dtype)
