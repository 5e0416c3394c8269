"""A slow trend taken out of a stack of frames, and what that takes from the noise in it.

The mean of a pixel and how it drifts are the scene's, not unrest. Up to eleven frames a
straight line is taken out, from twelve on a cubic: lamps that move brighten and darken a
place along a curve, and a line would leave it as slow unrest that is not there.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

CUBIC_FROM = 12
"""Frames from which on a cubic is taken out."""
COMPARED = 5
"""Temporal frequencies by whose power the kind of unrest is told."""
LEAST_KEPT = 0.4
"""Share of white noise that a temporal frequency must keep for its own power to be believed."""


@lru_cache(maxsize=64)
def trend_basis(count: int) -> np.ndarray:
    """Return what is taken out: orthonormal polynomials over the frames.

    Parameters
    ----------
    count : frames

    Returns
    -------
    np.ndarray
        (terms, count) float32: a constant for two frames, a line from three, a cubic from twelve on.
    """
    degree = 0 if count < 3 else 1 if count < CUBIC_FROM else 3
    t = np.linspace(-1.0, 1.0, count) if count > 1 else np.zeros(1)
    q, _ = np.linalg.qr(np.stack([t**k for k in range(degree + 1)], axis=1))
    return np.ascontiguousarray(q.T, np.float32)


@lru_cache(maxsize=64)
def kept_power(count: int) -> np.ndarray:
    """Return the share of the power of white noise that is left at each temporal frequency.

    |P e|^2 / T for the projection P that takes the trend out and e the T values of a wave.

    Parameters
    ----------
    count : frames

    Returns
    -------
    np.ndarray
        (count,) float64, in the order of `numpy.fft.fftfreq`.
    """
    spectrum = np.fft.fft(trend_basis(count).astype(np.float64), axis=1)
    return np.clip(1.0 - (np.abs(spectrum) ** 2).sum(axis=0) / count, 0.0, 1.0)


def without_trend(stack: np.ndarray) -> np.ndarray:
    """Return a stack without its trend, pixel by pixel.

    Parameters
    ----------
    stack : (count, h, w) float32

    Returns
    -------
    np.ndarray
        (count, h, w) float32
    """
    basis = trend_basis(len(stack))
    flat = stack.reshape(len(stack), -1)
    return (flat - basis.T @ (basis @ flat)).reshape(stack.shape)


@lru_cache(maxsize=64)
def slowest_kept(count: int) -> int:
    """Return the slowest temporal frequency, in waves over the stack, whose own power is believed; 0 where there is none.

    Parameters
    ----------
    count : frames
    """
    good = np.flatnonzero(kept_power(count)[: count // 2 + 1] >= LEAST_KEPT)
    return int(good[0]) if len(good) else 0


@lru_cache(maxsize=64)
def expected_below(count: int) -> tuple[np.ndarray, np.ndarray]:
    """Return how power that was taken out follows from what is left, for noise that was averaged over time.

    Noise of two families, each with a fiftieth of white noise in it, is put through the projection in closed form:
    exponential averages (first-order autoregressive) and moving averages over 1 to 12 frames.

    Parameters
    ----------
    count : frames

    Returns
    -------
    left : np.ndarray
        (n, `COMPARED`) logarithm of the power left at the slowest kept frequencies, less its mean
    missing : np.ndarray
        (n,) power of the frequency below before the trend was taken out / power left at the slowest kept one
    """
    k = slowest_kept(count)
    basis = trend_basis(count).astype(np.float64)
    projection = np.eye(count) - basis.T @ basis
    waves = np.exp(-2j * np.pi * np.outer(np.arange(k + COMPARED), np.arange(count)) / count)
    apart = np.abs(np.subtract.outer(np.arange(count), np.arange(count)))
    kinds = [c**apart for c in np.linspace(0.0, 0.95, 20)]
    kinds += [np.maximum(0.0, 1.0 - apart / n) for n in np.arange(1.5, 12.1, 0.5)]
    shapes, missing = [], []
    for covariance in kinds:
        covariance = covariance + 0.02 * np.eye(count)
        left = np.einsum("ki,ij,kj->k", waves, projection @ covariance @ projection, waves.conj()).real
        whole = np.einsum("i,ij,j->", waves[max(1, k - 1)], covariance, waves[max(1, k - 1)].conj()).real
        logs = np.log(left[k : k + COMPARED])
        shapes.append(logs - logs.mean())
        missing.append(whole / left[k])
    return np.array(shapes), np.array(missing)
