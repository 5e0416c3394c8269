"""How unevenly noise lies over a picture: the variance of equal shares of its pixels, from the calmest to the noisiest.

A renderer that stops where a place is clean enough gives each place samples by its own variance. How many that will
be in the mean follows from the histogram of variances. Two renders tell the variance of one pixel badly, so that of
a window around it is taken (the renderer judges by windows, too), and what is chance in it is taken out.
"""

from __future__ import annotations

import numpy as np

EDGES = np.array([0.0, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 0.95, 0.98, 0.99, 0.995, 1.0])
"""Shares of the pixels between which a mean is taken, the noisiest last."""
WEIGHTS = np.diff(EDGES)
"""Share of the pixels of each mean; they come to 1."""
WINDOW = 7
"""Pixels a side of the window that tells the variance of a place."""
NONE = 1e-12
"""Variance below which a place shows no noise: white, or empty."""


def place_variance(variance: np.ndarray) -> np.ndarray:
    """Return the variance of each place of a picture, (h, w): of a window around it, with what is chance in it taken out.

    Parameters
    ----------
    variance : (h, w) of linear luminance at one sample, by pixel: half the squared difference of two renders times their samples

    Notes
    -----
    The logarithms are drawn together by the share that two halves of the pixels of a window do not agree on, as in
    any estimate of the spread of true values from noisy ones (empirical Bayes; Efron and Morris 1973, from memory).
    """
    import cv2

    half = (np.indices(variance.shape).sum(axis=0) & 1).astype(bool)
    a, b = (cv2.blur(np.where(half == k, 2.0 * variance, 0.0), (WINDOW, WINDOW), borderType=cv2.BORDER_REFLECT) for k in (False, True))
    whole = (a + b) / 2.0
    shows = (a > NONE) & (b > NONE)
    out = np.where(shows, whole, 0.0)
    if shows.sum() >= 4:
        logs = np.log(whole[shows])
        chance = float(np.var(np.log(a[shows] / b[shows]))) / 4.0
        drawn = np.exp(logs.mean() + np.sqrt(max(0.0, 1.0 - chance / max(float(np.var(logs)), 1e-12))) * (logs - logs.mean()))
        out[shows] = drawn * (whole[shows].mean() / drawn.mean())
    return out


def variance_shares(variance: np.ndarray) -> np.ndarray:
    """Return the mean variance of each share of the pixels, as a multiple of the mean of all, (bins,) rising.

    Parameters
    ----------
    variance : (h, w) of linear luminance at one sample, by pixel: half the squared difference of two renders times their samples
    """
    ordered = np.sort(place_variance(variance).ravel())
    sums = np.concatenate([[0.0], np.cumsum(ordered)])
    means = np.diff(np.interp(EDGES * len(ordered), np.arange(len(sums)), sums)) / (WEIGHTS * len(ordered))
    mean = float(WEIGHTS @ means)
    return means / mean if mean > 0 else np.ones(len(WEIGHTS))
