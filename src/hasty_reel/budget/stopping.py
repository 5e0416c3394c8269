"""Stop at noise within a frame: places get samples by their own variance, n = clip(v/stop^2, floor, samples of the frame).

What a frame costs then is the mean of these samples, and what is left is the mean of v/n. Both follow from the
histogram of variances. A budget counts them as a cost and a variance that depend on the samples, and is solved
again until they agree.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from hasty_reel.budget.samples import Budget, Problem

ROUNDS, CLOSE = 40, 2e-4
"""How often a budget is solved again at most, and the change of cost and noise below which it is done."""


@dataclass(frozen=True)
class Stopping:
    """Where places of a frame stop.

    variance : (f,) of linear luminance at one sample, mean over the frame as rendered
    shares : (f, bins) mean variance of each share of the pixels / mean of the frame; weights : (bins,) the shares, together 1
    sparks : (f,) share of the variance that is sparks: a place in which none has come yet takes itself for calm
    stop : noise of a place below which it gets no more; floor : the fewest samples; steps : they come in multiples of this
    """

    variance: np.ndarray
    shares: np.ndarray
    weights: np.ndarray
    sparks: np.ndarray
    stop: float
    floor: int
    steps: int

    def counts(self, samples: np.ndarray, grown: np.ndarray | float = 1.0) -> np.ndarray:
        """Samples of each share of the pixels, (f, bins).

        Parameters
        ----------
        samples : (f,) the most a place of each frame gets
        grown : (f,) factor on the variance
        """
        return self.counts_of((self.variance * grown)[:, None] * self.shares, samples[:, None])

    def counts_of(self, variance: np.ndarray, samples: np.ndarray | float) -> np.ndarray:
        """Samples of places, as the variances given.

        Parameters
        ----------
        variance : of linear luminance at one sample, as rendered
        samples : the most a place gets, of a shape that fits
        """
        k = max(1, self.steps)
        return np.clip(np.ceil(variance / self.stop**2 / k) * k, np.minimum(self.floor, samples), samples)

    def taken(self, samples: np.ndarray) -> np.ndarray:
        """Mean samples of a frame / the most a place of it gets, (f,).

        Parameters
        ----------
        samples : (f,) the most a place gets
        """
        return self.counts(samples) @ self.weights / samples

    def left(self, samples: np.ndarray, grown: np.ndarray | float = 1.0) -> np.ndarray:
        """Variance that is left in a frame / what would be left if every place got all its samples, (f,), 1 or more.

        Parameters
        ----------
        samples : (f,) the most a place gets
        grown : (f,) factor on the variance, where it may be larger than is likely

        Notes
        -----
        Sparks count where a place stops by its body alone. That is the better half of the truth: on bench scenes whose
        noise is sparks for the most part, what is said here is 0.76 to 1.44 of the noise that is rendered; without it 0.4 to 1.
        """
        body = (self.shares / self.counts(samples, grown)) @ self.weights
        unseen = (self.shares / self.counts(samples, grown * (1.0 - self.sparks))) @ self.weights
        return samples * ((1.0 - self.sparks) * body + self.sparks * unseen)

    def ended(self, samples: np.ndarray) -> np.ndarray:
        """Share of the picture that stops by its noise, before it has all its samples, (f,) 0 to 1.

        Parameters
        ----------
        samples : (f,) the most a place gets
        """
        return (self.counts(samples) < samples[:, None]) @ self.weights

    def balance(self, samples: np.ndarray) -> float:
        """Return the noise to stop at with which half of the picture stops by its noise, and the other half takes all samples.

        Parameters
        ----------
        samples : (f,) the most a place gets
        """
        left = np.sqrt(self.variance[:, None] * self.shares / samples[:, None]).ravel()
        order = np.argsort(left)
        weight = np.cumsum(np.tile(self.weights, len(samples))[order])
        return float(left[order][np.searchsorted(weight, 0.5 * weight[-1])])

    def left_of(self, variance: np.ndarray, samples: np.ndarray) -> np.ndarray:
        """Return the same of a place with a variance of its own, (f,).

        Parameters
        ----------
        variance : (f,) of linear luminance at one sample, as rendered
        samples : (f,) the most a place gets
        """
        return np.maximum(1.0, samples / np.maximum(variance / self.stop**2, np.minimum(self.floor, samples)))


def solve_stopping(
    problem: Problem,
    stopping: Stopping,
    left: Callable[[np.ndarray], np.ndarray],
    answer: Callable[[Problem], Budget],
    level: float | None = None,
    total: float | None = None,
) -> Budget:
    """Solve a budget whose frames stop at noise.

    Parameters
    ----------
    problem : as if every place got all samples of its frame
    stopping : where places stop
    left : variance with samples (f,) given, as a multiple of what the problem says; grows with them
    answer : solves a problem
    level : noise that is held in every frame; None for another promise
    total : seconds that are held for all frames; None for another promise

    Returns
    -------
    Budget
        Its samples are the most that a place of each frame gets.
    """
    grown, taken, squeeze = np.ones(len(problem.cost)), np.ones(len(problem.cost)), 1.0
    if level is not None:
        grown = left(_fewest(problem, left, level))
    found = answer(replace(problem, variance=problem.variance * grown))
    for _ in range(ROUNDS):
        now = stopping.taken(found.samples)
        change = np.abs(np.log(now / taken)).max()
        taken = now
        if level is None:
            now = left(found.samples)
            change, grown = max(change, np.abs(np.log(now / grown)).max()), now
        over = _over(problem, found.samples, taken, total)
        if change < CLOSE and over <= 1.0:
            break
        squeeze *= max(1.0, over) if change < 10 * CLOSE else 1.0
        found = answer(replace(problem, variance=problem.variance * grown, cost=problem.cost * taken * squeeze))
    return found


def _fewest(problem: Problem, left: Callable[[np.ndarray], np.ndarray], level: float) -> np.ndarray:
    """Samples between the bounds of a frame at which its noise comes down to a level, (f,); the most where it never does."""
    low, high = (b.astype(np.float64) for b in problem.bounds)
    for _ in range(50):
        middle = np.sqrt(low * high)
        enough = problem.variance * left(middle) / middle <= level**2
        low, high = np.where(enough, low, middle), np.where(enough, middle, high)
    return high


def _over(problem: Problem, samples: np.ndarray, taken: np.ndarray, total: float | None) -> float:
    """By what factor the seconds of the samples must come down for a total to hold; 1 or less where it holds."""
    if total is None:
        return 1.0
    worked = float(np.sum(problem.cost * taken * samples))
    room = total - float(problem.fixed.sum())
    return worked / room if room > 0 else 1.0
