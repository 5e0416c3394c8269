"""The logarithm of a quantity over the frames of a shot as a Gaussian process, from the frames that have a proof.

y = m + x + g(frame) + e(frame): a level, a scan where there is one, a curve whose scale and length are not
known, and what each frame has of its own (Rasmussen and Williams 2006, Gaussian Processes for Machine Learning,
chapters 2 and 5). Scale, length and own part are summed over on a grid instead of being fitted: with few proofs a fit is too sure.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np

from hasty_reel.predict.paths import drawn_paths

MOST_FITTED, MOST_OBSERVED = 24, 300
"""Observations that the grid is weighed on, and that are carried to the other frames; of more, neighbours are taken together."""
MOST_CELLS = 24
LEVEL, SCAN = 2.0, 0.3
"""Standard deviations of the level, and of the slope of the scan around 1."""
HUMP_GAP, HUMP_CHANCE, HUMP_HEIGHT, HUMP_WIDTH = 20.0, 0.1, (0.2, 1.0), 0.12
"""Between two proofs further apart than the first and without a scan, something dear may pass unseen: how likely,
how high (of the logarithm, evenly between), and its standard deviation as a share of the gap."""


@dataclass(frozen=True)
class Priors:
    """What is thought of curves before any proof: mean and standard deviation of the logarithms of three numbers.

    scale : standard deviation of the curve; length : frames over which it changes; own : standard deviation of a frame by itself
    size, count : standard deviations of the change per logarithm of pixels, and of that of a single sample a pixel against many
    """

    scale: tuple[float, float]
    length: tuple[float, float]
    own: tuple[float, float]
    size: float
    count: float


COST = Priors((math.log(0.25), 0.8), (math.log(12.0), 1.0), (math.log(0.04), 0.7), 0.022, 0.3)
"""Of seconds per pixel and sample. Rendered at a sixteenth of the pixels, four scenes of the bench renderer were off by 0.02 to 0.07."""
VARIANCE = Priors((math.log(0.5), 0.8), (math.log(25.0), 1.0), (math.log(0.12), 0.7), 0.18, 0.12)
"""Of variance at one sample. At a sixteenth of the pixels it was off by up to 1.0; with one sample at full size by 0.02 to 0.19."""


@dataclass(frozen=True)
class Observed:
    """What is known, arrays (n,).

    frames : numbers, rising; the same may stand more than once
    noise : standard deviation of the logarithm with which each was measured
    scan : the scan there, centred; zeros without one
    size : logarithm of pixels, less that of those planned; count : one over the samples: what a pixel takes without any
        weighs less the more there are
    """

    frames: np.ndarray
    noise: np.ndarray
    scan: np.ndarray
    size: np.ndarray
    count: np.ndarray

    @property
    def key(self) -> tuple[bytes, ...]:
        """By which it is known again."""
        return tuple(a.tobytes() for a in (self.frames, self.noise, self.scan, self.size, self.count))


@dataclass(frozen=True)
class Cells:
    """Curves that are likely, arrays (cells,): scale, length, own part, whether smooth (Matern 3/2, else 1/2), and weight."""

    scale: np.ndarray
    length: np.ndarray
    own: np.ndarray
    smooth: np.ndarray
    weight: np.ndarray
    priors: Priors


@lru_cache(maxsize=4)
def _grid(priors: Priors) -> tuple[np.ndarray, ...]:
    axes = (np.geomspace(0.02, 1.4, 10), np.geomspace(3.0, 90.0, 8), np.geomspace(0.005, 0.16, 6))
    logs = [-0.5 * ((np.log(a) - m) / s) ** 2 for a, (m, s) in zip(axes, (priors.scale, priors.length, priors.own))]
    scale, length, own, smooth = (g.ravel() for g in np.meshgrid(*axes, [False, True], indexing="ij"))
    weight = (logs[0][:, None, None, None] + logs[1][:, None, None] + logs[2][:, None] + np.zeros(2)).ravel()
    return scale, length, own, smooth, weight


def _correlation(apart: np.ndarray, length: np.ndarray, smooth: np.ndarray) -> np.ndarray:
    """Of frames some way apart: (cells, ..) from (..) frames."""
    shape = (-1, *(1,) * apart.ndim)
    length, smooth = length.reshape(shape), smooth.reshape(shape)
    r = np.where(smooth, math.sqrt(3.0), 1.0) * (apart / length)
    return np.where(smooth, 1.0 + r, 1.0) * np.exp(-r)


def _covariance(seen: Observed, cells: Cells) -> np.ndarray:
    """Of the observations, (cells, n, n)."""
    apart = np.abs(np.subtract.outer(seen.frames, seen.frames))
    shared = (
        LEVEL**2
        + SCAN**2 * np.outer(seen.scan, seen.scan)
        + cells.priors.size**2 * np.outer(seen.size, seen.size)
        + cells.priors.count**2 * np.outer(seen.count, seen.count)
        + np.diag(seen.noise**2)
    )
    # many cells share length and smoothness
    kinds, kind = np.unique(np.stack([cells.length, cells.smooth]), axis=1, return_inverse=True)
    correlation = _correlation(apart, kinds[0], kinds[1] > 0)
    curve = correlation[kind.ravel()]
    curve *= cells.scale[:, None, None] ** 2
    rows, columns = np.nonzero(apart == 0)
    curve[:, rows, columns] += cells.own[:, None] ** 2
    curve += shared
    return curve


def likely_cells(seen: Observed, logs: np.ndarray, priors: Priors) -> Cells:
    """Return the curves that are likely, given what was observed.

    Parameters
    ----------
    seen : where and how well
    logs : (n,) logarithms that were observed, less the scan
    priors : what is thought of curves before

    Returns
    -------
    Cells
        At most `MOST_CELLS`; their weights sum up to 1.
    """
    if len(logs) > MOST_FITTED:
        pick = np.unique(np.linspace(0, len(logs) - 1, MOST_FITTED).round().astype(int))
        seen, logs = _some(seen, pick), logs[pick]
    scale, length, own, smooth, weight = _grid(priors)
    every = Cells(scale, length, own, smooth, weight, priors)
    root = np.linalg.cholesky(_covariance(seen, every))
    y, white = logs - logs.mean(), np.zeros(root.shape[:2])
    for k in range(len(logs)):  # forward substitution, in all cells at once
        white[:, k] = (y[k] - np.einsum("cj,cj->c", root[:, k, :k], white[:, :k])) / root[:, k, k]
    likelihood = -0.5 * (white**2).sum(axis=1) - np.log(np.diagonal(root, axis1=1, axis2=2)).sum(axis=1)
    posterior = np.exp(likelihood + weight - (likelihood + weight).max())
    posterior /= posterior.sum()
    # an even stride through the weights: every region of the grid keeps its share
    ends = np.cumsum(posterior)
    picks = np.searchsorted(ends, (np.arange(4 * MOST_CELLS) + 0.5) / (4 * MOST_CELLS))
    chosen, counts = np.unique(np.minimum(picks, len(ends) - 1), return_counts=True)
    if len(chosen) > MOST_CELLS:
        best = np.sort(np.argsort(-counts, kind="stable")[:MOST_CELLS])
        chosen, counts = chosen[best], counts[best]
    return Cells(scale[chosen], length[chosen], own[chosen], smooth[chosen], counts / counts.sum(), priors)


def _some(seen: Observed, pick: np.ndarray) -> Observed:
    return Observed(*(getattr(seen, name)[pick] for name in ("frames", "noise", "scan", "size", "count")))


class Carried:
    """Carries logarithms from observed frames to all frames of a shot; linear in what was observed, so it serves any settings.

    Parameters
    ----------
    seen : what was observed
    cells : the curves that are likely
    wanted : (m,) numbers of the frames
    scan : (m,) the scan at them, centred as in `seen`; None where there is none
    humps : something may pass unseen between two proofs, where there is no scan
    """

    def __init__(self, seen: Observed, cells: Cells, wanted: np.ndarray, scan: np.ndarray | None, humps: bool = False) -> None:
        self._humps = humps and scan is None
        scan = np.zeros(len(wanted)) if scan is None else scan
        self._groups = _grouping(len(seen.frames))
        self._seen, self._cells, self._wanted, self._scan = _grouped(seen, self._groups), cells, wanted.astype(np.float64), scan
        covariance = _covariance(self._seen, cells)
        apart = np.abs(np.subtract.outer(self._wanted, self._seen.frames))
        across = cells.scale[:, None, None] ** 2 * _correlation(apart, cells.length, cells.smooth)
        across += cells.own[:, None, None] ** 2 * (apart == 0) + LEVEL**2 + SCAN**2 * np.outer(scan, self._seen.scan)
        self._weights = np.linalg.solve(covariance, across.transpose(0, 2, 1)).transpose(0, 2, 1)  # (cells, m, n)
        prior = cells.scale**2 + cells.own**2 + LEVEL**2
        left = prior[:, None] + SCAN**2 * scan**2 - (self._weights * across).sum(axis=2)
        self._mean = np.tensordot(cells.weight, self._weights, 1)
        self._left = cells.weight @ np.maximum(left, 1e-9)

    def _relative(self, logs: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        logs = _means(logs, self._groups)
        middle = logs.mean(axis=0)
        return logs - middle, middle

    def mean(self, logs: np.ndarray) -> np.ndarray:
        """Return the expected logarithm at all frames.

        Parameters
        ----------
        logs : (n,) or (n, k) observed, less the scan

        Returns
        -------
        np.ndarray
            (m,) or (m, k), less the scan.
        """
        off, middle = self._relative(logs)
        return self._mean @ off + middle

    def variance(self, logs: np.ndarray) -> np.ndarray:
        """Return the variance of the logarithm at all frames, (m,): of the curve, and of what each frame has of its own.

        Parameters
        ----------
        logs : (n,) observed, less the scan
        """
        off, _ = self._relative(logs)
        each = self._weights @ off - self._mean @ off
        return self._left + self._cells.weight @ each**2

    @cached_property
    def _deviations(self) -> tuple[np.ndarray, np.ndarray]:
        """Curves around the expected one, (draws, m) float32, and the cell of each."""
        count = draws_of(len(self._wanted))
        rng = np.random.default_rng(20270108)
        cell = np.repeat(np.arange(len(self._cells.weight)), _shares(self._cells.weight, count))
        seen, cells = self._seen, self._cells
        places, back = np.unique(np.concatenate([self._wanted, seen.frames]), return_inverse=True)
        path = drawn_paths(places, cells.scale[cell], cells.length[cell], cells.smooth[cell], rng)
        path += cells.own[cell, None] * rng.standard_normal(path.shape, np.float32)
        level = LEVEL * rng.standard_normal((count, 1)), SCAN * rng.standard_normal((count, 1))
        at = path[:, back[: len(self._wanted)]] + level[0] + level[1] * self._scan
        observed = path[:, back[len(self._wanted) :]] + level[0] + level[1] * seen.scan
        for spread, along in ((cells.priors.size, seen.size), (cells.priors.count, seen.count)):
            observed += spread * rng.standard_normal((count, 1)) * along
        observed += seen.noise * rng.standard_normal(observed.shape)
        for c in range(len(cells.weight)):
            rows = cell == c
            at[rows] -= observed[rows] @ self._weights[c].T
        if self._humps:
            at += _humps(self._wanted, np.unique(seen.frames), count, rng)
        return at.astype(np.float32), cell

    def draws(self, logs: np.ndarray) -> np.ndarray:
        """Return curves as they may be, (draws, m) float32: the logarithm at all frames, less the scan.

        Parameters
        ----------
        logs : (n,) observed, less the scan
        """
        off, middle = self._relative(logs)
        deviations, cell = self._deviations
        each = (self._weights @ off + middle).astype(np.float32)
        return each[cell] + deviations


def draws_of(frames: int) -> int:
    """Return how many curves are drawn over a shot: a thousand, fewer of a long one.

    Parameters
    ----------
    frames : of the shot
    """
    return int(np.clip(3_000_000 // max(frames, 1), 200, 1000))


def _shares(weight: np.ndarray, count: int) -> np.ndarray:
    """Whole numbers in the ratio of the weights that sum up to `count`."""
    ends = np.rint(np.cumsum(weight) * count).astype(int)
    return np.diff(np.concatenate([[0], ends]))


def _humps(wanted: np.ndarray, seen: np.ndarray, count: int, rng: np.random.Generator) -> np.ndarray:
    """What may pass unseen in long gaps, (draws, m)."""
    out = np.zeros((count, len(wanted)))
    marks = np.concatenate([[min(wanted[0], seen[0])], seen, [max(wanted[-1], seen[-1])]])
    for begin, gap in zip(marks, np.diff(marks)):
        if gap > HUMP_GAP:
            height = np.where(rng.random(count) < HUMP_CHANCE, rng.uniform(*HUMP_HEIGHT, count), 0.0)
            middle = rng.uniform(begin + HUMP_WIDTH * gap, begin + gap - HUMP_WIDTH * gap, count)
            width = HUMP_WIDTH * gap
            inside = (wanted > begin) & (wanted < begin + gap)
            out[:, inside] += height[:, None] * np.exp(-0.5 * ((wanted[inside] - middle[:, None]) / width) ** 2)
    return out


def _grouping(count: int) -> np.ndarray | None:
    """Which observations are taken together, (n,); None where there are few enough."""
    return None if count <= MOST_OBSERVED else np.arange(count) * MOST_OBSERVED // count


def _means(values: np.ndarray, groups: np.ndarray | None) -> np.ndarray:
    if groups is None:
        return values
    sums = np.zeros((MOST_OBSERVED, *values.shape[1:]))
    np.add.at(sums, groups, values)
    return sums / np.bincount(groups, minlength=MOST_OBSERVED).reshape(-1, *(1,) * (values.ndim - 1))


def _grouped(seen: Observed, groups: np.ndarray | None) -> Observed:
    if groups is None:
        return seen
    count = np.bincount(groups, minlength=MOST_OBSERVED)
    frames, scan, size, samples = (_means(a, groups) for a in (seen.frames, seen.scan, seen.size, seen.count))
    # off whole numbers, so that a group is nobody's own frame
    return Observed(frames + 0.25 * (count > 1), _means(seen.noise, groups) / np.sqrt(count), scan, size, samples)
