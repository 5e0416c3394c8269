"""How what denoising leaves differs over a shot: one run tells it of its own frames, several of those between them.

What is left depends on what is in the picture: edges of shadows and what is uncovered keep their noise, even surfaces hardly any.
The logarithm of the ratio is a line over the logarithm of the samples that may bend, and a curve over the frames (a Gaussian
process; C. E. Rasmussen and C. K. I. Williams, Gaussian Processes for Machine Learning, chapter 2, from memory), whose scale and
length are summed over a grid by how well they explain the runs.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

LEVEL, SLOPE, SLOPE_SPREAD, BEND, BEND_LENGTH = 1.0, 0.15, 0.1, 0.1, np.log(6.0)
"""Standard deviation of the level; the slope over ln(samples) that is expected, and its spread; bends of the line and their length."""
OWN = 0.05
"""Standard deviation of the logarithm of a ratio that a run of a few frames measures."""
SCALES, LENGTHS = np.array([0.04, 0.08, 0.16, 0.32]), np.array([8.0, 16.0, 32.0, 64.0])
"""Standard deviations of the curve over the frames, and its lengths in frames."""
TYPICAL, UNSURE = 0.08, 1.0
"""The standard deviation that is expected of it, and that of its logarithm: four of five scenes of the bench renderer stay below 0.06,
the fifth, in which a shadow and a tube come and go, has 0.4 (chosen with a look at these)."""
UNTOLD_PLACE = 0.15
"""The standard deviation of the logarithm of a ratio where nothing tells on which frames it was measured."""
MIDDLE = np.log(16.0)


@dataclass(frozen=True)
class Cell:
    """A curve over the frames: its scale and length, the inverse of the covariance of the runs, what they tell, how likely it is."""

    scale: float
    length: float
    inverse: np.ndarray
    told: np.ndarray
    weight: float


@dataclass(frozen=True)
class RatiosByPlace:
    """Ratios of one way of denoising, measured on runs in several places of a shot.

    frames : (n,) middle frames of the runs; samples : (n,) logarithms of their samples
    ratios : (n,) logarithms of after / before
    """

    frames: np.ndarray
    samples: np.ndarray
    ratios: np.ndarray

    @cached_property
    def _cells(self) -> list[Cell]:
        """Curves over the frames that explain the runs, and how likely each is."""
        off, found, logs = self.ratios - _expected(self.samples), [], []
        for scale in SCALES:
            for length in LENGTHS:
                covariance = _over_samples(self.samples, self.samples) + _over_frames(scale, length, self.frames, self.frames)
                covariance += OWN**2 * np.eye(len(off))
                inverse = np.linalg.inv(covariance)
                prior = -0.5 * (np.log(scale / TYPICAL) / UNSURE) ** 2
                logs.append(float(prior - 0.5 * off @ inverse @ off - 0.5 * np.linalg.slogdet(covariance)[1]))
                found.append((scale, length, inverse, inverse @ off))
        likely = np.exp(np.array(logs) - max(logs))
        return [Cell(*cell, weight) for cell, weight in zip(found, likely / likely.sum())]

    def at(self, samples: float) -> float:
        """Return the logarithm of the ratio at a sample count, without what places differ by.

        Parameters
        ----------
        samples : logarithm of the samples
        """
        across = _over_samples(np.array([samples]), self.samples)[0]
        return float(_expected(samples) + sum(c.weight * (across @ c.told) for c in self._cells))

    def by_frame(self, frames: np.ndarray) -> np.ndarray:
        """Return what places differ by, in the logarithm of the ratio, (f,).

        Parameters
        ----------
        frames : (f,) numbers
        """
        return sum(c.weight * (_over_frames(c.scale, c.length, frames, self.frames) @ c.told) for c in self._cells)

    def spread(self, frames: np.ndarray, samples: float) -> np.ndarray:
        """Return the standard deviation of the logarithm of the ratio on frames, (f,).

        Parameters
        ----------
        frames : (f,) numbers
        samples : logarithm of the samples
        """
        one = np.array([samples])
        alone, across = float(_over_samples(one, one)[0, 0]), _over_samples(one, self.samples)
        mean, square = np.zeros(len(frames)), np.zeros(len(frames))
        for c in self._cells:
            shared = across + _over_frames(c.scale, c.length, frames, self.frames)
            told = shared @ c.told
            left = alone + c.scale**2 - np.einsum("fn,nm,fm->f", shared, c.inverse, shared)
            mean += c.weight * told
            square += c.weight * (told**2 + np.maximum(left, 0.0))
        return np.sqrt(np.maximum(square - mean**2, 0.0))


def _expected(samples: np.ndarray | float) -> np.ndarray | float:
    return SLOPE * (samples - MIDDLE)


def _over_samples(samples: np.ndarray, others: np.ndarray) -> np.ndarray:
    line = LEVEL**2 + SLOPE_SPREAD**2 * np.outer(samples - MIDDLE, others - MIDDLE)
    return line + BEND**2 * np.exp(-0.5 * (np.subtract.outer(samples, others) / BEND_LENGTH) ** 2)


def _over_frames(scale: float, length: float, frames: np.ndarray, others: np.ndarray) -> np.ndarray:
    return scale**2 * np.exp(-0.5 * (np.subtract.outer(frames, others) / length) ** 2)
