"""The root behind every budget: find x with sum(cost * clip(shape * x, low, high)) = total.

Even noise gives n = v/sigma^2 (shape v, x = 1/sigma^2); least noise in total gives
n = sqrt(w v/c)/lambda (Neyman 1934 for the unbounded case; shape sqrt(w v/c)). The sum
is piecewise linear in x, so the root is exact: no iteration, no tolerance.
"""

from __future__ import annotations

import numpy as np


def scale_to_total(shape: np.ndarray, cost: np.ndarray, low: np.ndarray, high: np.ndarray, total: float) -> tuple[float, np.ndarray]:
    """Scale and values n = clip(shape * x, low, high) that spend `total`.

    Parameters
    ----------
    shape, cost, low, high : (f,), shape and cost not negative, low <= high
    total : what sum(cost * n) should be; met exactly between its least and its most

    Returns
    -------
    x
        The scale; 0 when even `low` costs more, infinity when `high` costs less
    n : np.ndarray
        (f,)
    """
    moving = (shape > 0) & (cost > 0) & (high > low)
    base = float(np.sum(cost * low))
    if total <= base:
        return 0.0, low.astype(np.float64)
    most = np.where(moving, high, low).astype(np.float64)
    if total >= float(np.sum(cost * most)):
        return np.inf, most
    s, c, lo, hi = shape[moving], cost[moving], low[moving], high[moving]
    # frames with no variance stay at their low; the others start and stop growing at these scales
    marks = np.concatenate([lo / s, hi / s])
    slopes = np.concatenate([c * s, -c * s])
    order = np.argsort(marks, kind="stable")
    marks, slopes = marks[order], np.cumsum(slopes[order])
    spent = base + np.concatenate([[0.0], np.cumsum(np.diff(marks) * slopes[:-1])])
    k = int(np.searchsorted(spent, total, side="right")) - 1
    k = min(max(k, 0), len(marks) - 1)
    x = float(marks[k] + (total - spent[k]) / slopes[k]) if slopes[k] > 0 else float(marks[k])
    return x, np.where(moving, np.clip(shape * x, low, high), low).astype(np.float64)
