"""Carry a positive quantity from proof frames to all frames of a shot."""

from __future__ import annotations

import numpy as np

LONE_ERROR = 0.25
"""Spread of the logarithm assumed with one or two proof frames: common practice, frames of a shot differ several-fold."""


def carry(frames: np.ndarray, values: np.ndarray, wanted: np.ndarray) -> np.ndarray:
    """Values at the wanted frames: monotone piecewise cubic of the logarithm (Fritsch and Carlson 1980).

    Parameters
    ----------
    frames : (n,) increasing; values : (n,) or (n, k) positive; wanted : (m,)

    Returns
    -------
    (m,) or (m, k); held at the ends
    """
    logs = np.log(np.maximum(values, 1e-300))
    if len(frames) == 1:
        return np.exp(np.broadcast_to(logs[0], (len(wanted), *logs.shape[1:]))).copy()
    from scipy.interpolate import PchipInterpolator  # slow to import, and not needed to open a window

    inside = np.clip(wanted, frames[0], frames[-1])
    return np.exp(PchipInterpolator(frames, logs, axis=0)(inside))


def leave_one_out(frames: np.ndarray, values: np.ndarray) -> np.ndarray:
    """Error of the logarithm at each inner frame when it is predicted from the others, (n - 2,)."""
    errors = []
    for k in range(1, len(frames) - 1):
        others = np.arange(len(frames)) != k
        guess = carry(frames[others], values[others], frames[k : k + 1])[0]
        errors.append(float(np.log(values[k] / guess)))
    return np.array(errors)


def spread_of(frames: np.ndarray, values: np.ndarray) -> float:
    """Standard deviation of the logarithm of a carried value halfway between proof frames.

    Leaving a frame out doubles the gap it is predicted over; a smooth curve's error
    grows with at least the first power of the gap, so half the error is kept.
    """
    errors = leave_one_out(frames, values)
    if len(errors) == 0:
        return LONE_ERROR
    return float(0.5 * np.sqrt(np.mean(errors**2)))
