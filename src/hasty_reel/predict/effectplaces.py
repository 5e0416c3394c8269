"""How what denoising leaves differs over a shot: one run tells it of its own frames, several of those between them.

What is left depends on what is in the picture: edges of shadows and what is uncovered keep their noise, even surfaces hardly any.
The logarithm of the ratio is a line over the logarithm of the samples that may bend, and a curve over the frames (a Gaussian
process; C. E. Rasmussen and C. K. I. Williams, Gaussian Processes for Machine Learning, chapter 2, from memory), whose scale and
length are summed over a grid by how well they explain the runs.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

LEVEL, SLOPE, SLOPE_SPREAD, BEND, BEND_LENGTH = 1.0, 0.15, 0.1, 0.1, np.log(6.0)
"""Standard deviation of the level; the slope over ln(samples) that is expected, and its spread; bends of the line and their length."""
OWN = 0.05
"""Standard deviation of the logarithm of a ratio that a run of a few frames measures."""
SCALES, LENGTHS = np.array([0.05, 0.1, 0.2, 0.4]), np.array([8.0, 16.0, 32.0, 64.0])
"""Standard deviations of the curve over the frames, and its lengths in frames."""
TYPICAL, UNSURE = 0.15, 0.8
"""The standard deviation that is expected of it, and that of its logarithm: seen on five scenes of the bench renderer."""
MIDDLE = np.log(16.0)


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
    def _cells(self) -> list[tuple[float, float, float]]:
        """Scale and length of curves, and how likely each is; they come to 1."""
        out = []
        for scale in SCALES:
            for length in LENGTHS:
                root = np.linalg.cholesky(self._covariance(scale, length))
                white = np.linalg.solve(root, self._off)
                prior = -0.5 * (np.log(scale / TYPICAL) / UNSURE) ** 2
                out.append((scale, length, float(prior - 0.5 * white @ white - np.log(np.diag(root)).sum())))
        most = max(weight for *_, weight in out)
        total = sum(np.exp(weight - most) for *_, weight in out)
        return [(scale, length, float(np.exp(weight - most) / total)) for scale, length, weight in out]

    @cached_property
    def _off(self) -> np.ndarray:
        return self.ratios - _expected(self.samples)

    def _covariance(self, scale: float, length: float) -> np.ndarray:
        return _kernel(scale, length, self.samples, self.frames, self.samples, self.frames) + OWN**2 * np.eye(len(self.ratios))

    def at(self, frames: Sequence[float] | np.ndarray, samples: float) -> tuple[np.ndarray, np.ndarray]:
        """Return the logarithm of the ratio on frames, and its standard deviation, (f,) both.

        Parameters
        ----------
        frames : (f,) numbers
        samples : logarithm of the samples
        """
        at, count = np.asarray(frames, np.float64), np.full(len(frames), samples)
        mean, square = np.zeros(len(at)), np.zeros(len(at))
        for scale, length, weight in self._cells:
            across = _kernel(scale, length, count, at, self.samples, self.frames)
            gain = np.linalg.solve(self._covariance(scale, length), across.T).T
            told = _expected(count) + gain @ self._off
            left = LEVEL**2 + (SLOPE_SPREAD * (samples - MIDDLE)) ** 2 + BEND**2 + scale**2 - np.sum(gain * across, axis=1)
            mean += weight * told
            square += weight * (told**2 + np.maximum(left, 0.0))
        return mean, np.sqrt(np.maximum(square - mean**2, 0.0))


def _expected(samples: np.ndarray) -> np.ndarray:
    return SLOPE * (samples - MIDDLE)


def _kernel(scale: float, length: float, samples: np.ndarray, frames: np.ndarray, others: np.ndarray, there: np.ndarray) -> np.ndarray:
    line = LEVEL**2 + SLOPE_SPREAD**2 * np.outer(samples - MIDDLE, others - MIDDLE)
    bend = BEND**2 * np.exp(-0.5 * (np.subtract.outer(samples, others) / BEND_LENGTH) ** 2)
    apart = np.subtract.outer(frames, there) / length
    return line + bend + scale**2 * np.exp(-0.5 * apart**2)
