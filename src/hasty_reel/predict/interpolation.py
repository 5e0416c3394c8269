"""Carry a positive quantity from proof frames to all frames of a shot."""

from __future__ import annotations

import numpy as np

LONE_ERROR = 0.25
"""Spread of the logarithm assumed with one or two proof frames: common practice, frames of a shot differ several-fold."""


def interpolate_log(frames: np.ndarray, values: np.ndarray, wanted: np.ndarray) -> np.ndarray:
    """Values at the wanted frames: monotone piecewise cubic of the logarithm (Fritsch and Carlson 1980).

    Parameters
    ----------
    frames : (n,) increasing
    values : (n,) or (n, k) positive
    wanted : (m,)

    Returns
    -------
    np.ndarray
        (m,) or (m, k); held at the ends
    """
    logs = np.log(np.maximum(values, 1e-300))
    if len(frames) == 1:
        return np.exp(np.broadcast_to(logs[0], (len(wanted), *logs.shape[1:]))).copy()
    return np.exp(monotone_cubic(np.asarray(frames, np.float64), logs, np.clip(wanted, frames[0], frames[-1])))


def monotone_cubic(x: np.ndarray, y: np.ndarray, at: np.ndarray) -> np.ndarray:
    """Interpolate with piecewise cubics that stay monotone where the values are.

    The method of Fritsch and Butland (SIAM J. Sci. Stat. Comput. 5, 1984), as scipy's PchipInterpolator has it;
    written out since importing that takes longer than opening the window.

    Parameters
    ----------
    x : (n,) increasing, n of 2 or more
    y : (n,) or (n, k)
    at : (m,) within x

    Returns
    -------
    np.ndarray
        (m,) or (m, k)
    """
    flat = y.reshape(len(y), -1)
    h = np.diff(x)[:, None]
    slope = np.diff(flat, axis=0) / h
    d = np.zeros_like(flat)
    if len(x) == 2:
        d[:] = slope[0]
    else:
        before, after = slope[:-1], slope[1:]
        w1, w2 = 2 * h[1:] + h[:-1], h[1:] + 2 * h[:-1]
        with np.errstate(divide="ignore", invalid="ignore"):
            mean = (w1 + w2) / (w1 / before + w2 / after)
        d[1:-1] = np.where(before * after > 0, mean, 0.0)
        for end, first, second, near, far in ((0, slope[0], slope[1], h[0], h[1]), (-1, slope[-1], slope[-2], h[-1], h[-2])):
            edge = ((2 * near + far) * first - near * second) / (near + far)
            edge = np.where(np.sign(edge) != np.sign(first), 0.0, edge)
            steep = (np.sign(first) != np.sign(second)) & (np.abs(edge) > 3 * np.abs(first))
            d[end] = np.where(steep, 3 * first, edge)
    k = np.clip(np.searchsorted(x, at, side="right") - 1, 0, len(x) - 2)
    step = h[k]
    t = ((at - x[k])[:, None]) / step
    out = (
        flat[k] * (1 + 2 * t) * (1 - t) ** 2
        + flat[k + 1] * t**2 * (3 - 2 * t)
        + step * (d[k] * t * (1 - t) ** 2 + d[k + 1] * t**2 * (t - 1))
    )
    return out.reshape(len(at), *y.shape[1:])


def leave_one_out(frames: np.ndarray, values: np.ndarray) -> np.ndarray:
    """Error of the logarithm at each inner frame when it is predicted from the others, (n - 2,).

    Parameters
    ----------
    frames : (n,) numbers of the proof frames, increasing
    values : (n,) or (n, k), positive
    """
    errors = []
    for k in range(1, len(frames) - 1):
        others = np.arange(len(frames)) != k
        guess = interpolate_log(frames[others], values[others], frames[k : k + 1])[0]
        errors.append(float(np.log(values[k] / guess)))
    return np.array(errors)


def spread_of(frames: np.ndarray, values: np.ndarray) -> float:
    """Return the standard deviation of the logarithm of a carried value halfway between proof frames.

    Leaving a frame out doubles the gap it is predicted over; a smooth curve's error
    grows with at least the first power of the gap, so half the error is kept.

    Parameters
    ----------
    frames : (n,) numbers of the proof frames, increasing
    values : (n,) or (n, k), positive
    """
    errors = leave_one_out(frames, values)
    if len(errors) == 0:
        return LONE_ERROR
    return float(0.5 * np.sqrt(np.mean(errors**2)))
