"""How many samples each pixel is to have next: all alike, or until it is clean enough or time is up."""

from __future__ import annotations

import numpy as np
from scipy.ndimage import uniform_filter

from hasty_reel.image.luminance import luminance

PACE, NEAR = 0.6, 1.03
WINDOW = 7
"""Noise is judged over windows of this many pixels: of one pixel alone, a lucky start would look like cleanness."""
LEAST_SHARE = 0.6
"""The least that the pixels' own variance is taken to be of what their windows say."""


def passes(samples: int, pixels: int, step: int = 1) -> list[int]:
    """Sample counts after each pass, multiples of `step`: short at first, then of about half a million paths.

    Parameters
    ----------
    samples : wanted per pixel
    pixels : of the picture
    step : samples come in multiples of this
    """
    stride = max(step, round(500_000 / pixels / step) * step)
    marks = [min(samples, step)]
    while marks[-1] < samples:
        marks.append(min(samples, marks[-1] + min(stride, marks[-1])))
    return marks


def pixel_variance(light: np.ndarray, squares: np.ndarray, counts: np.ndarray) -> np.ndarray:
    """Return the variance of luminance of one sample of each pixel from sums, (h, w); unbiased.

    Parameters
    ----------
    light : (h, w, 3) float64, sums of light
    squares : (h, w) float64, sums of squared luminance
    counts : (h, w) int64, samples each pixel has
    """
    n = counts.astype(np.float64)
    total = luminance(light)
    return np.maximum(0.0, squares - total * total / np.maximum(n, 1.0)) / np.maximum(n - 1.0, 1.0)


def next_targets(
    light: np.ndarray, squares: np.ndarray, counts: np.ndarray, mark: int, floor: int, most: int, stop_noise: float
) -> np.ndarray:
    """Samples each pixel is to have after a pass that goes up to `mark`, (h, w) int64.

    A pixel gets no more once its noise, the root of variance / samples, is at or below the level and
    it has its floor; white pixels (at display white or above) show none.

    Beside an edge a window says too much of its calm side, and a pixel with a spark goes on until
    the spark is paid for: together the pixels between floor and `most` would end below the level.
    So what the windows say is held to what the pixels themselves say on the whole.

    Parameters
    ----------
    light : (h, w, 3) float64, sums of light
    squares : (h, w) float64, sums of squared luminance
    counts : (h, w) int64, samples each pixel has
    mark : samples the pass goes up to
    floor : the fewest samples a pixel gets
    most : the most samples a pixel gets
    stop_noise : noise below which a pixel gets no more, linear
    """
    targets = np.full(counts.shape, mark, np.int64)
    if mark <= floor:
        return targets
    own = pixel_variance(light, squares, counts)
    around = uniform_filter(own, WINDOW, mode="nearest")
    white = luminance(light) >= counts
    wanted = around / stop_noise**2
    steered = (wanted > floor) & (wanted < most) & ~white
    if steered.any():
        wanted *= min(1.0, max(LEAST_SHARE, float(np.mean(own[steered] / around[steered]))))
    # only part of the way to what seems wanted: each pass knows the variance better, and a guess too high cannot be taken back
    wanted = np.where(wanted > NEAR * counts, np.ceil(counts + PACE * (wanted - counts)), counts)
    wanted = np.where(white, floor, np.maximum(wanted, floor)).astype(np.int64)
    return np.maximum(counts, np.minimum(targets, wanted))
