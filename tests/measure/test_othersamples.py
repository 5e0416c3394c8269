"""A frame as it would look with other samples: variance and sparks by closed forms."""

from __future__ import annotations

from itertools import pairwise

import cv2
import numpy as np
import pytest

from hasty_reel.measure.bandsleft import BandsLeft, bands_left
from hasty_reel.measure.othersamples import TwoRenders, two_renders

SIZE, SAMPLES, LIGHT, SIGMA = (120, 160), 16, 0.3, 0.25


def normal(samples: float, seed: int) -> np.ndarray:
    """A render of a grey wall whose samples scatter by `SIGMA`."""
    plane = LIGHT + SIGMA / np.sqrt(samples) * np.random.default_rng(seed).standard_normal(SIZE)
    return np.repeat(plane[..., None], 3, axis=2).astype(np.float32)


def perfect(two: TwoRenders) -> BandsLeft:
    """What a denoiser leaves that finds the wall itself: nothing."""
    true = np.full((*SIZE, 3), LIGHT, np.float32)
    return bands_left(two.mean, two.half, true, true)


def sparkling(samples: int, seed: int, rate: float = 1e-4, energy: float = 60.0) -> np.ndarray:
    """A render in which so many samples of each are paths of this height, over a wall that hardly scatters."""
    rng = np.random.default_rng(seed)
    plane = LIGHT + 0.01 / np.sqrt(samples) * rng.standard_normal(SIZE) + rng.poisson(rate * samples, SIZE) * energy / samples
    return np.repeat(plane[..., None], 3, axis=2).astype(np.float32)


@pytest.mark.parametrize("samples", [4, 8, 16, 32, 64, 256])
def test_variance_falls_as_one_over_the_samples(samples):
    """Variance of a mean of n independent samples, sigma^2 / n; what is kept of 128 x 160 pixels is told within 3 %."""
    two = two_renders(normal(SAMPLES, 1), normal(SAMPLES, 2), SAMPLES)
    shown = two.at(samples, 5, perfect(two))
    assert float(shown.mean()) == pytest.approx(LIGHT, rel=0.01)
    assert float(shown[..., 1].std()) == pytest.approx(SIGMA / np.sqrt(samples), rel=0.03)


@pytest.mark.parametrize("times", [2, 4])
def test_what_denoising_leaves_counts_in_each_band(times):
    """Variance of a mean of n independent samples, as a whole and of what a Gaussian of two pixels lets through of it."""
    two = two_renders(normal(SAMPLES, 1), normal(SAMPLES, 2), SAMPLES)
    left = bands_left(two.mean, two.half, *(LIGHT + 0.4 * (cv2.GaussianBlur(side, (0, 0), 1.5) - LIGHT) for side in two.sides))
    shown = two.at(2 * SAMPLES * times, 5, left)
    true = SIGMA / np.sqrt(2 * SAMPLES * times)
    assert float(shown[..., 1].std()) == pytest.approx(true, rel=0.06)
    coarse = float(cv2.GaussianBlur(shown[..., 1], (0, 0), 2.0).std())
    white = true / (2.0 * np.sqrt(np.pi) * 2.0)  # of white noise a Gaussian lets through 1 / (4 pi sigma^2) of the variance
    assert coarse == pytest.approx(white, rel=0.15)
    plain = left.calm + np.float32(1.0 / np.sqrt(times)) * (two.mean - left.calm)
    assert abs(float(cv2.GaussianBlur(plain[..., 1], (0, 0), 2.0).std()) / white - 1.0) > 0.12, "one factor for all bands leaves too much"


def test_at_twice_the_samples_it_is_the_mean_and_at_as_many_it_is_like_either():
    a, b = normal(SAMPLES, 1), normal(SAMPLES, 2)
    two = two_renders(a, b, SAMPLES)
    assert len(two.rows) == 0 and two.most_exact == 32.0
    assert np.allclose(two.at(32.0, 1), (a + b) / 2.0, atol=1e-6)
    assert np.allclose(two.at(16.0, 1), np.maximum(a, 0.0), atol=1e-6)


@pytest.mark.parametrize("samples", [4, 16, 64, 128])
def test_sparks_stay_few_and_bright_where_there_are_few_samples(samples):
    """Poisson process: rate n p a pixel, height E / n, so that light is kept; Campbell's theorem: variance n p (E / n)^2."""
    rate, energy, counted, lights, squares, heights = 1e-4, 60.0, [], [], [], []
    for seed in range(12):
        two = two_renders(sparkling(SAMPLES, 2 * seed), sparkling(SAMPLES, 2 * seed + 1), SAMPLES)
        shown = two.at(samples, seed, perfect(two))[..., 1]
        above = shown - LIGHT
        spark = above > 0.5 * energy / samples
        counted.append(spark.mean())
        lights.append(above.mean())
        squares.append((above**2).mean())
        heights.append(float(np.median(above[spark])))
    assert np.mean(counted) == pytest.approx(samples * rate, rel=0.15)
    assert np.mean(lights) == pytest.approx(rate * energy, rel=0.15)
    assert np.median(heights) == pytest.approx(energy / samples, rel=0.05)
    assert np.mean(squares) - 0.01**2 / samples == pytest.approx(samples * rate * (energy / samples) ** 2, rel=0.2)


def test_the_more_samples_the_more_sparks_and_none_goes_that_was_there():
    two = two_renders(sparkling(SAMPLES, 1), sparkling(SAMPLES, 2), SAMPLES)
    places = []
    for samples in (4, 8, 16, 32, 100):
        above = two.at(samples, 9)[..., 1] - LIGHT
        places.append(set(zip(*np.nonzero(above > 0.5 * 60.0 / samples))))
    assert all(few <= many for few, many in pairwise(places))
    assert len(places[0]) < len(places[-1])


def test_a_picture_without_difference_stays_as_it_is():
    still = normal(SAMPLES, 1)
    two = two_renders(still, still, SAMPLES)
    assert isinstance(two, TwoRenders) and np.array_equal(two.at(4.0, 1), np.maximum(still, 0.0))
