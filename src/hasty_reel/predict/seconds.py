"""The cost model: a fixed part and a part per pixel and sample, fitted to measured times."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hasty_reel.errors import CannotSolve

HUBER = 1.345
"""Residuals beyond this many robust deviations lose weight (Huber 1964; 95 % efficient for normal errors)."""


@dataclass(frozen=True)
class CostFit:
    """seconds = fixed + cost[frame] * pixels * samples.

    fixed : seconds
    cost : frame -> seconds per pixel and sample
    spread : standard deviation of the relative residuals
    """

    fixed: float
    cost: dict[int, float]
    spread: float


def fit_seconds(frames: np.ndarray, pixels: np.ndarray, samples: np.ndarray, seconds: np.ndarray, rounds: int = 12) -> CostFit:
    """Fit times that are not split into parts.

    Non-negative least squares weighted by 1/seconds (errors are relative), with
    Huber's weights against the odd outlier.

    Parameters
    ----------
    frames, pixels, samples, seconds : (n,)

    Raises
    ------
    CannotSolve
        When no frame has times at two different pixels x samples: the fixed part cannot be told then.
    """
    from scipy.optimize import nnls  # slow to import, and not needed to open a window

    frames = np.asarray(frames)
    work = np.asarray(pixels, np.float64) * np.asarray(samples, np.float64)
    seconds = np.asarray(seconds, np.float64)
    different, index = np.unique(frames, return_inverse=True)
    if all(len(np.unique(work[index == k])) < 2 for k in range(len(different))):
        raise CannotSolve(
            "Seconds: no frame was timed at two sample counts or sizes, so the fixed part cannot be told; "
            "expected one proof with fewer samples at a frame already proven."
        )
    scale = work.mean()
    design = np.zeros((len(work), 1 + len(different)))
    design[:, 0] = 1.0
    design[np.arange(len(work)), 1 + index] = work / scale
    weight = 1.0 / seconds
    trust = np.ones(len(work))
    for _ in range(rounds):
        w = weight * np.sqrt(trust)
        found, _ = nnls(design * w[:, None], seconds * w)
        relative = (seconds - design @ found) / seconds
        robust = 1.4826 * float(np.median(np.abs(relative)))
        if robust < 1e-9:
            break
        trust = np.minimum(1.0, HUBER * robust / np.maximum(np.abs(relative), 1e-12))
    spread = float(np.sqrt(np.mean(relative**2 * trust)))
    return CostFit(float(found[0]), {int(f): float(c / scale) for f, c in zip(different, found[1:])}, spread)
