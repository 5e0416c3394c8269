"""What a change does besides noise, by two seeds.

What both seeds change alike is no noise: noise of one seed knows nothing of the other's, so the product of both changes has the square
of the change for its mean. A single product may be negative by chance; means are drawn from products, and roots from means.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np


def common_squares(before: Sequence[np.ndarray], after: Sequence[np.ndarray]) -> np.ndarray:
    """Return the square of what changes alike in both seeds, (h, w) in the square of the unit; its mean is right, single pixels are noisy.

    Parameters
    ----------
    before, after : (h, w) of each of two seeds, before and after a change
    """
    one, two = (b - a for a, b in zip(before, after, strict=True))
    return one * two


def common_square(before: Sequence[np.ndarray], after: Sequence[np.ndarray]) -> float:
    """Return the mean square of what changes alike in both seeds, in the square of the unit of the planes; by chance below 0.

    Parameters
    ----------
    before, after : (h, w) of each of two seeds, before and after a change
    """
    return float(np.mean(common_squares([np.asarray(a, np.float64) for a in before], [np.asarray(b, np.float64) for b in after])))


def common_change(squares: Sequence[float]) -> float:
    """Return the root mean square of a change from the mean squares of its parts, in the unit of the planes; 0 where chance is larger.

    Parameters
    ----------
    squares : of frames or tiles, as of `common_square`
    """
    return float(np.sqrt(max(0.0, float(np.mean(squares)))))
