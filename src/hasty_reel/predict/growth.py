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

SHARES = np.concatenate([np.linspace(0.0, 0.9, 46), 1.0 - np.geomspace(0.09, 0.002, 16)])
"""Of the shortest time that may be fixed."""
ATOMS = 9
"""Equally likely values of the fixed part that stand for all."""
CURVE, LENGTH, OWN, MEASURED = 0.3, 15.0, 0.06, 0.03
"""Scale, length in frames and own part of the curve of the growing seconds, and error of a time, in logarithms."""
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


def fixed_part(rows: Sequence[ProofFrame], log_cost: np.ndarray) -> FixedPart:
    """Return the fixed seconds of frames whose parts are not told.

    Parameters
    ----------
    rows : proof frames, those of scans too: at the smallest size nearly all seconds are fixed
    log_cost : (n,) logarithm by which the cost of each differs from the planned settings', by the factors of its settings

    Returns
    -------
    FixedPart
        With no fixed part where the renderer tells its parts.
    """
    if parts_told(rows) or not rows:
        return NOTHING_FIXED
    pick = np.unique(np.linspace(0, len(rows) - 1, min(len(rows), 60)).round().astype(int))
    rows, log_cost = [rows[k] for k in pick], log_cost[pick]
    seconds = np.array([r.sample_seconds for r in rows])
    work = np.log([float(r.pixels) * r.samples for r in rows])
    frames = np.array([r.frame for r in rows], np.float64)
    apart = np.abs(np.subtract.outer(frames, frames))
    few = 1.0 / np.array([float(r.samples) for r in rows])
    size = np.log([float(r.pixels) for r in rows])
    size -= size.max()
    curve = CURVE**2 * np.exp(-apart / LENGTH) + OWN**2 * (apart == 0) + 4.0
    curve += COST.count**2 * np.outer(few, few) + COST.size**2 * np.outer(size, size)
    logs = np.empty(len(SHARES))
    for k, share in enumerate(SHARES):
        growing = seconds - share * seconds.min()
        y = np.log(growing) - work - log_cost
        y = y - y.mean()
        root = np.linalg.cholesky(curve + np.diag((MEASURED * seconds / growing) ** 2))
        white = np.linalg.solve(root, y)
        # the error is one of the whole time: its density is that of the growing part over its share; of the level nothing is known
        logs[k] = -0.5 * white @ white - np.log(np.diag(root)).sum() - np.log(growing).sum() + np.log(growing).mean()
    widths = np.gradient(SHARES)
    ends = np.cumsum(np.exp(logs - logs.max()) * widths)
    at = np.searchsorted(ends / ends[-1], (np.arange(ATOMS) + 0.5) / ATOMS)
    values = SHARES[np.minimum(at, len(SHARES) - 1)] * seconds.min()
    largest = float(np.log(4.0) + work.max())
    typical = int(np.argsort(work)[len(work) // 2])
    guesses = np.log(values + (seconds[typical] - values) * np.exp(largest - work[typical]))
    return FixedPart(values, bool(guesses.std() <= TOLD_APART))
