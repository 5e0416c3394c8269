"""Values between the pixels of a plane: bilinear and bicubic sampling, and what the cubic does to noise."""

from __future__ import annotations

import cv2
import numpy as np

from hasty_reel.compiled import FAST, njit

CUBIC = -0.75
"""Slope of the cubic at its first zero (Keys 1981), as OpenCV has it."""
_FRACTIONS = 64


@njit(fastmath=FAST)
def bilinear_corner(x, y, h, w):
    """Return the pixel and the fractions with which a place is sampled, held at the border.

    Parameters
    ----------
    x, y : float32, place in pixels, pixel centres at whole numbers
    h, w : int, size of the plane in pixels

    Returns
    -------
    i, j : int
        Column and row of the upper left pixel
    i1, j1 : int
        Column and row of the lower right pixel
    u, v : float32
        How far the place is from the first towards the second, 0 to 1
    """
    x = min(max(x, np.float32(0.0)), np.float32(w - 1))
    y = min(max(y, np.float32(0.0)), np.float32(h - 1))
    i, j = np.int32(x), np.int32(y)
    return i, j, min(i + 1, w - 1), min(j + 1, h - 1), x - np.float32(i), y - np.float32(j)


@njit(fastmath=FAST)
def bilinear_at(plane, i, j, i1, j1, u, v):
    """Return the value of a plane at a place that `bilinear_corner` found.

    Parameters
    ----------
    plane : (h, w)
    i, j, i1, j1 : int, columns and rows of the pixels around
    u, v : float32, fractions, 0 to 1

    Returns
    -------
    object
        In the unit of the plane.
    """
    top = plane[j, i] + (plane[j, i1] - plane[j, i]) * u
    low = plane[j1, i] + (plane[j1, i1] - plane[j1, i]) * u
    return top + (low - top) * v


@njit(fastmath=FAST)
def bilinear(plane, x, y):
    """Return the value of a plane between its pixels, held at the border.

    Parameters
    ----------
    plane : (h, w)
    x, y : float32, place in pixels, pixel centres at whole numbers

    Returns
    -------
    object
        In the unit of the plane.
    """
    i, j, i1, j1, u, v = bilinear_corner(x, y, plane.shape[0], plane.shape[1])
    return bilinear_at(plane, i, j, i1, j1, u, v)


_NONE_LEFT = np.float32(1e-4)
"""Pixels: a place that is nearer to a pixel than this is that pixel."""


@njit(fastmath=FAST)
def cubic_weights(t):
    """Return the weights of the four pixels around a place for Catmull and Rom's cubic (Keys 1981, a = -1/2).

    Parameters
    ----------
    t : float32, how far behind the second pixel the place is, 0 to 1

    Returns
    -------
    tuple
        Four float32, that sum up to 1.
    """
    half, two, three = np.float32(0.5), np.float32(2.0), np.float32(3.0)
    t2, t3 = t * t, t * t * t
    first, last = half * (two * t2 - t3 - t), half * (t3 - t2)
    return first, half * (three * t3 - np.float32(5.0) * t2 + two), half * (np.float32(4.0) * t2 - three * t3 + t), last


@njit(fastmath=FAST)
def add_cubic(light, x, y, trust, total, r, c):
    """Add the light at a place between pixels, by a cubic, to a sum; where light is steep it is held within the four pixels around.

    Parameters
    ----------
    light : (h, w, 3) float32
    x, y : float32, place in pixels, pixel centres at whole numbers
    trust : float32, weight of it
    total : (h, w, 3) float32, sums
    r, c : int, the pixel of the sum
    """
    h, w = light.shape[0], light.shape[1]
    first, top, next_i, next_j, u, v = bilinear_corner(x, y, h, w)
    # unsigned, so that no index has to be asked whether it counts from the end
    one, three = np.uint64(1), np.uint64(3)
    r, c, i, j, i1, j1 = np.uint64(r), np.uint64(c), np.uint64(first), np.uint64(top), np.uint64(next_i), np.uint64(next_j)
    if u < _NONE_LEFT and v < _NONE_LEFT:
        for k in range(three):
            total[r, c, k] += trust * light[j, i, k]
        return
    a0, a1, a2, a3 = cubic_weights(u)
    d0, d1, d2, d3 = cubic_weights(v)
    i0, j0 = i - one if first > 0 else i, j - one if top > 0 else j
    i2, j2 = i1 + one if next_i < w - 1 else i1, j1 + one if next_j < h - 1 else j1
    for k in range(three):
        p, q, s, t = light[j, i, k], light[j, i1, k], light[j1, i, k], light[j1, i1, k]
        value = d0 * (a0 * light[j0, i0, k] + a1 * light[j0, i, k] + a2 * light[j0, i1, k] + a3 * light[j0, i2, k])
        value += d1 * (a0 * light[j, i0, k] + a1 * p + a2 * q + a3 * light[j, i2, k])
        value += d2 * (a0 * light[j1, i0, k] + a1 * s + a2 * t + a3 * light[j1, i2, k])
        value += d3 * (a0 * light[j2, i0, k] + a1 * light[j2, i, k] + a2 * light[j2, i1, k] + a3 * light[j2, i2, k])
        low, high = min(min(p, q), min(s, t)), max(max(p, q), max(s, t))
        if high > np.float32(4.0) * low + np.float32(0.05):  # beside a lamp a cubic rings
            value = min(max(value, low), high)
        total[r, c, k] += trust * value


def remap_bilinear(plane: np.ndarray, at: np.ndarray) -> np.ndarray:
    """Return the values of a plane at places, bilinear, held at the border.

    Parameters
    ----------
    plane : (h, w) or (h, w, channels)
    at : (rows, columns, 2) float32, places in pixels, x first

    Returns
    -------
    np.ndarray
        (rows, columns) or (rows, columns, channels), in the unit of the plane.
    """
    return cv2.remap(plane, at, None, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)  # type: ignore[call-overload]


def remap_bicubic(plane: np.ndarray, at: np.ndarray) -> np.ndarray:
    """Return the values of a plane at places, bicubic (Keys 1981), held at the border.

    Parameters
    ----------
    plane : (h, w) float32
    at : (rows, columns, 2) float32, places in pixels, x first

    Returns
    -------
    np.ndarray
        (rows, columns) float32, in the unit of the plane.
    """
    return cv2.remap(plane, at, None, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)  # type: ignore[call-overload]


def cubic_variance(fraction: np.ndarray) -> np.ndarray:
    """Return what sampling with the cubic leaves of the variance of white noise, in one direction.

    Parameters
    ----------
    fraction : array of any shape, how far behind the second of four pixels the place is, 0 to 1

    Returns
    -------
    np.ndarray
        Array of the same shape: the sum of the squared weights, 1 at a pixel.
    """
    t, a, s = fraction, CUBIC, 1.0 - fraction
    outer, inner = a * t * s * s, a * t * t * s
    second = ((a + 2) * t - (a + 3)) * t * t + 1.0
    return outer**2 + inner**2 + second**2 + (1.0 - outer - inner - second) ** 2


CUBIC_VARIANCE = cubic_variance(np.arange(_FRACTIONS + 1) / _FRACTIONS).astype(np.float32)
"""`cubic_variance` by fraction in steps of a 64th, (65,): OpenCV samples in steps of a 32nd."""
_HALF, _STEPS = np.float32(0.5), np.float32(_FRACTIONS)


@njit(fastmath=FAST)
def bicubic_variance_at(x, y, w, h, table):
    """Return what sampling at a place with the bicubic leaves of the variance of white noise.

    Parameters
    ----------
    x, y : float32, place in pixels
    w, h : float32, size of the plane in pixels
    table : (65,) float32, `CUBIC_VARIANCE`

    Returns
    -------
    object
        1 at a pixel, less in between; -1 outside the plane.
    """
    if not (-_HALF <= x <= w - _HALF and -_HALF <= y <= h - _HALF):
        return np.float32(-1.0)
    u, v = x - np.floor(x), y - np.floor(y)
    return table[np.int32(u * _STEPS + _HALF)] * table[np.int32(v * _STEPS + _HALF)]
