"""Curves of a Gaussian process drawn frame by frame: what a curve is next depends on what it and its slope are now.

Matern covariances as Markov chains (J. Hartikainen and S. Sarkka, Kalman filtering and smoothing solutions to temporal Gaussian process
regression models, 2010, from memory). A step of the same length always does the same, so its factors are computed once.
"""

from __future__ import annotations

import math

import numpy as np


def drawn_paths(places: np.ndarray, scale: np.ndarray, length: np.ndarray, smooth: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """Return curves before any observation, (draws, places) float32.

    Parameters
    ----------
    places : (places,) frames at which they are told, rising
    scale, length : (draws,) standard deviation of each curve, and its length in frames
    smooth : (draws,) bool, whether it has a slope (Matern 3/2) or none (1/2)
    rng : draws them
    """
    out = np.empty((len(scale), len(places)), np.float32)
    steps = np.diff(places).tolist()
    rough, fine = np.flatnonzero(~smooth), np.flatnonzero(smooth)
    if len(rough):
        s, along = scale[rough], length[rough]
        value = out[rough, 0] = s * rng.standard_normal(len(rough))
        ways = {step: _rough_step(step, s, along) for step in set(steps)}
        for k, step in enumerate(steps):
            keep, own = ways[step]
            value = keep * value + own * rng.standard_normal(len(rough))
            out[rough, k + 1] = value
    if len(fine):
        s, rate = scale[fine], math.sqrt(3.0) / length[fine]
        value, slope = s * rng.standard_normal(len(fine)), s * rate * rng.standard_normal(len(fine))
        out[fine, 0] = value
        steady = {step: _smooth_step(step, s, rate) for step in set(steps)}
        for k, step in enumerate(steps):
            stays, rises, falls, bends, own, shared, slope_own = steady[step]
            first, second = rng.standard_normal((2, len(fine)))
            value, slope = stays * value + rises * slope + own * first, bends * slope - falls * value + shared * first + slope_own * second
            out[fine, k + 1] = value
    return out


def _rough_step(step: float, scale: np.ndarray, length: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """What a rough curve keeps over a step, and the standard deviation of what it adds."""
    keep = np.exp(-step / length)
    return keep, scale * np.sqrt(1.0 - keep**2)


def _smooth_step(step: float, scale: np.ndarray, rate: np.ndarray) -> tuple[np.ndarray, ...]:
    """What the value and the slope of a smooth curve become over a step, and the Cholesky factor of the covariance that it adds."""
    d = rate * step
    e = np.exp(-d)
    # covariance that the step adds: stationary minus transformed stationary
    a = scale**2 * (1 - e**2 * ((1 + d) ** 2 + d**2))
    b = (scale * rate) ** 2 * (1 - e**2 * ((1 - d) ** 2 + d**2))
    c = scale**2 * rate * e**2 * ((1 + d) * d - (1 - d) * d)
    root = np.sqrt(np.maximum(a, 1e-18))
    rest = np.sqrt(np.maximum(b - c**2 / np.maximum(a, 1e-18), 0.0))
    return e * (1 + d), e * step, e * rate * d, e * (1 - d), root, c / root, rest
