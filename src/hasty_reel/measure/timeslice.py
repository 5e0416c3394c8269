"""One line of the picture drawn over time: steady light runs straight, unrest breaks it into streaks."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from hasty_reel.image.sampling import remap_bilinear


def time_slice(frames: Sequence[np.ndarray], start: tuple[float, float], end: tuple[float, float], length: int | None = None) -> np.ndarray:
    """Return the pixels along a line in each frame, (frames, length, channels), the first frame on top.

    Parameters
    ----------
    frames : (h, w, channels) each, of one size
    start, end : x, y in pixels, pixel centres at whole numbers; what lies outside takes the pixel at the border
    length : how many pixels; None: one for each pixel of the line
    """
    (x0, y0), (x1, y1) = start, end
    count = max(2, round(math.hypot(x1 - x0, y1 - y0)) + 1) if length is None else max(2, length)
    x = np.linspace(x0, x1, count, dtype=np.float32)[None]
    y = np.linspace(y0, y1, count, dtype=np.float32)[None]
    at = np.stack([x, y], axis=-1)
    rows = [remap_bilinear(np.ascontiguousarray(f), at) for f in frames]
    return np.concatenate(rows, axis=0)
