"""Seconds that grow with pixels and samples, told from those that do not, where a renderer tells one number only.

Taking the fixed part for growing makes a small proof of 5 s with 4 s of loading 16 times 5 s. Every share of the
shortest time is weighed by how well the rest then follows a curve over the frames (a sum over a grid, as for the
curve itself). Without proofs of different size or samples nothing tells them apart, and the answer is as wide as that.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hasty_reel.evidence.rows import ProofFrame
from hasty_reel.predict.process import COST

SHARES = np.concatenate([np.linspace(0.0, 0.85, 30), np.linspace(0.86, 1.08, 34)])
"""Of the time of the frames that did least that may be fixed: more than all of it too, since times err."""
ATOMS = 9
"""Equally likely values of the fixed part that stand for all."""
CURVE, LENGTH, OWN, MEASURED, LEVEL = 0.3, 15.0, 0.06, 0.03, 20.0
"""Scale, length in frames and own part of the curve of the growing seconds, error of a time, and what is known of their level before
any was seen, in logarithms."""
MOST_ROWS, ROUNDS = 60, 12
"""Frames that are looked at, and how often the curve is set right."""
STRAYS = 2.5
"""Deviations from which on a time counts for less."""
TOLD_APART = 0.15
"""Standard deviation of the logarithm of the seconds at another size from which on they are not told apart."""


@dataclass(frozen=True)
class FixedPart:
    """Seconds a frame takes without a single sample.

    values : (atoms,) equally likely; one value where the renderer tells its parts
    known : whether proofs tell them apart from seconds that grow
    """

    values: np.ndarray
    known: bool = True

    @property
    def mean(self) -> float:
        """Expected seconds."""
        return float(self.values.mean())


NOTHING_FIXED = FixedPart(np.zeros(1))


def parts_told(rows: Sequence[ProofFrame]) -> bool:
    """Whether a renderer tells its parts: else all of a time stands in one of them. The seconds of writing are told by ourselves.

    Parameters
    ----------
    rows : proof frames
    """
    return any(r.load_seconds > 0 or r.cache_seconds > 0 for r in rows) and not any(r.one_number for r in rows)


def fixed_part(rows: Sequence[ProofFrame], log_cost: np.ndarray, error: float = MEASURED) -> FixedPart:
    """Return the fixed seconds of frames whose parts are not told.

    A time is the fixed seconds, the same for all, and growing ones, work times a cost that follows a curve over the frames; it errs by
    a share of all of it. So a frame that is nearly all start may come out below the fixed seconds, and tells nothing of its cost. For
    every fixed part on a grid the curve is fitted to the times as they are and integrated out (Laplace's approximation: C. E. Rasmussen
    and C. K. I. Williams, Gaussian Processes for Machine Learning, section 3.4, from memory).

    Parameters
    ----------
    rows : proof frames, those of scans too: at the smallest size nearly all seconds are fixed
    log_cost : (n,) logarithm by which the cost of each differs from the planned settings', by the factors of its settings
    error : standard deviation of the logarithm of a time

    Returns
    -------
    FixedPart
        With no fixed part where the renderer tells its parts.
    """
    if parts_told(rows) or not rows:
        return NOTHING_FIXED
    pick = np.unique(np.linspace(0, len(rows) - 1, min(len(rows), MOST_ROWS)).round().astype(int))
    rows, log_cost = [rows[k] for k in pick], log_cost[pick] - log_cost[pick].mean()
    seconds = np.array([r.sample_seconds for r in rows])
    work = np.log([float(r.pixels) * r.samples for r in rows])
    frames = np.array([r.frame for r in rows], np.float64)
    few = 1.0 / np.array([float(r.samples) for r in rows])
    size = np.log([float(r.pixels) for r in rows])
    size -= size.max()
    curve = CURVE**2 * np.exp(-np.abs(np.subtract.outer(frames, frames)) / LENGTH) + LEVEL**2
    curve += COST.count**2 * np.outer(few, few) + COST.size**2 * np.outer(size, size) + OWN**2 * np.eye(len(rows))
    least = float(np.median(seconds[work <= work.min() + np.log(2.0)]))  # of the frames that did least
    level = float(np.median(np.log(seconds) - work - log_cost))
    precision = np.linalg.inv(curve)
    spread = np.maximum(error, MEASURED) * seconds
    fits = [_fitted(seconds - share * least, work + log_cost, spread, precision, level) for share in SHARES]
    best = fits[int(np.argmax([f[0] for f in fits]))][1]
    # times that stray far, as of a frame that found the machine busy, count for less
    spread = spread * np.sqrt(np.maximum(1.0, np.abs(best) / STRAYS))
    logs = np.array([_fitted(seconds - share * least, work + log_cost, spread, precision, level)[0] for share in SHARES])
    ends = np.cumsum(np.exp(logs - logs.max()) * np.gradient(SHARES))
    at = np.searchsorted(ends / ends[-1], (np.arange(ATOMS) + 0.5) / ATOMS)
    values = SHARES[np.minimum(at, len(SHARES) - 1)] * least
    largest = float(np.log(4.0) + work.max())
    told = seconds[np.argsort(work)[-1 - len(work) // 4 :]], work[np.argsort(work)[-1 - len(work) // 4 :]]
    growing = np.maximum(np.mean(told[0] * np.exp(largest - told[1])) - values * np.mean(np.exp(largest - told[1])), 1e-9)
    return FixedPart(values, bool(np.log(values + growing).std() <= TOLD_APART))


def _fitted(growing: np.ndarray, work: np.ndarray, spread: np.ndarray, precision: np.ndarray, level: float) -> tuple[float, np.ndarray]:
    """How likely times without their fixed part are, and how many deviations each lies from the curve that fits them.

    Parameters
    ----------
    growing : (n,) seconds, which may be below nothing
    work : (n,) logarithm of pixels times samples
    spread : (n,) standard deviation of each
    precision : (n, n) inverse covariance of the curve, around its level
    level : of the logarithm of the cost
    """
    off = np.clip(np.log(np.maximum(growing, 0.02 * np.abs(growing) + 1e-9)) - work - level, -6.0, 6.0)
    certain = (np.maximum(growing, 0.0) / spread) ** 2
    kept = off = np.linalg.solve(precision + np.diag(certain), certain * off)
    best, away, bend, step = -np.inf, np.zeros(len(growing)), precision, 1.0
    for _ in range(ROUNDS):
        expected = np.exp(np.minimum(work + level + off, 60.0))
        now = (growing - expected) / spread
        height = -0.5 * float(now @ now) - 0.5 * float(off @ precision @ off)
        if height < best - 1e-6:  # too far: half the way back
            step *= 0.5
            off = kept + step * (off - kept)
            continue
        gain, best, kept, away, step = height - best, height, off, now, 1.0
        slope = expected / spread
        bend = precision + np.diag(slope**2)
        if gain < 1e-3:
            break
        off = kept + np.clip(np.linalg.solve(bend, slope * away - precision @ kept), -2.0, 2.0)
    _, determinant = np.linalg.slogdet(bend)
    # of the level nothing is known: every share of a time is as likely to grow
    return best - 0.5 * float(determinant) + float(kept.mean()), away
