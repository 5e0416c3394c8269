"""The size of a picture at a scale, in whole pixels."""

from __future__ import annotations

LEAST_SIDE = 8
"""Pixels a side at least, unless the picture itself is smaller: less shows nothing."""


def scaled_size(size: tuple[int, int], percent: float) -> tuple[int, int]:
    """Return the size of a picture at a scale.

    Parameters
    ----------
    size : width and height in pixels at 100 %
    percent : scale, in percent of the width

    Returns
    -------
    width, height : int
        In pixels
    """
    width, height = (max(min(LEAST_SIDE, side), round(side * percent / 100.0)) for side in size)
    return width, height
