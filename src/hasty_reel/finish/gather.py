"""Light of a frame gathered over its neighbours: each fetched once along the motion, as far as geometry and light agree.

Geometry decides first, step by step (`steps`). Then the pilots, both frames filtered by themselves, must agree within their noise:
shadows and reflections move where no guide says so.
"""

from __future__ import annotations

from collections.abc import Callable, Container, Iterator
from typing import NamedTuple

import numpy as np

from hasty_reel.compiled import FAST, njit, prange
from hasty_reel.finish.steps import SURE, Step, go_on
from hasty_reel.image.sampling import add_cubic, bilinear
from hasty_reel.image.warp import pixel_grid

Way = tuple[int, np.ndarray, np.ndarray, np.ndarray]
"""Number of a frame, where the pixels of another stand in it, x and y, (h, w) float32 both, and how sure, (h, w) uint8."""


class Mean(NamedTuple):
    """Light of a frame averaged with others, (h, w, 3) float32, the sums of weights, and how many frames that is worth, (h, w) both."""

    light: np.ndarray
    weights: np.ndarray
    worth: np.ndarray


LEAST_TRUST = np.float32(1e-3)
NO_ERROR = np.float32(1e-10)
"""A squared error that is none."""


@njit(parallel=True, fastmath=FAST)
def add_frame(total, weights, squares, x_at, y_at, trusted, light, strict, pilot, here_pilot, variance, here_variance, agree):
    """Add a neighbour frame to the sums, pixel by pixel, as far as it is trusted.

    Parameters
    ----------
    total : (h, w, 3) float32, sums of weighted light
    weights, squares : (h, w) float32, sums of weights and of their squares
    x_at, y_at : (h, w) float32, where the pixels stand in the neighbour
    trusted : (h, w) uint8, how sure they are the same surface there, up to `SURE`
    light : (h, w, 3) float32, of the neighbour
    strict : (h, w) uint8, factor on the variance that a difference may have, up to `SURE`
    pilot, here_pilot : (h, w) float32, luminance of the neighbour and of this frame, each filtered by itself
    variance, here_variance : (h, w) float32, of the luminance of a pixel of both
    agree : float32, how many times the variance a squared difference of the pilots may be; 0 for no test
    """
    h, w = x_at.shape
    scale = np.float32(1.0 / SURE)
    for y in prange(h):
        for x in range(w):
            trust = trusted[y, x] * scale
            px, py = x_at[y, x], y_at[y, x]
            if trust <= LEAST_TRUST or not (-0.5 <= px <= w - 0.5 and -0.5 <= py <= h - 0.5):
                continue
            # both pilots must agree within their noise, by a weight that falls as 1 / (1 + q)^2; beyond three deviations it is other light
            if agree > 0:
                i, j = min(w - 1, max(0, int(px + 0.5))), min(h - 1, max(0, int(py + 0.5)))
                off = bilinear(pilot, px, py) - here_pilot[y, x]
                q = off * off / (agree * strict[y, x] * scale * (variance[j, i] + here_variance[y, x]) + np.float32(1e-9))
                if q > np.float32(9.0):
                    continue
                trust /= (np.float32(1.0) + q) * (np.float32(1.0) + q)
            else:
                trust *= strict[y, x] * scale
            add_cubic(light, px, py, trust, total, y, x)
            weights[y, x] += trust
            squares[y, x] += trust * trust


@njit(parallel=True, fastmath=FAST)
def add_candidate(total, whole, light, error):
    """Add a result to those that are mixed, by the inverse square of its estimated error.

    Parameters
    ----------
    total : (h, w, 3) float32, sums of weighted light
    whole : (h, w) float32, sums of weights
    light : (h, w, 3) float32
    error : (h, w) float32, squared, of its luminance
    """
    h, w = error.shape
    for y in prange(h):
        for x in range(w):
            share = np.float32(1.0) / (error[y, x] + NO_ERROR)
            share *= share
            whole[y, x] += share
            for k in range(3):
                total[y, x, k] += share * light[y, x, k]


@njit(parallel=True, fastmath=FAST)
def divide(total, whole):
    """Make means of sums, in place.

    Parameters
    ----------
    total : (h, w, 3) float32, sums of weighted light
    whole : (h, w) float32, sums of weights
    """
    h, w = whole.shape
    for y in prange(h):
        for x in range(w):
            share = np.float32(1.0) / whole[y, x]
            for k in range(3):
                total[y, x, k] *= share


def ways(frame: int, reach: int, frames: Container[int], step: Callable[[int, int], Step], shape: tuple[int, int]) -> Iterator[Way]:
    """Go from a frame to those before and after it, step by step, the nearer first; over no gap.

    Parameters
    ----------
    frame : its number
    reach : frames before and after
    frames : that there are
    step : gives the step from a frame to the one after (+1) or before (-1)
    shape : rows and columns of a frame

    Yields
    ------
    Way
        Its arrays are good until the next.
    """
    grid = pixel_grid(*shape)
    for way in (-1, 1):
        x, y = grid[..., 0], grid[..., 1]
        trust = np.zeros(0, np.uint8)
        for n in range(frame + way, frame + way * (reach + 1), way):
            if n not in frames:
                break
            there = step(n - way, way)
            if n == frame + way:
                x, y, trust = x + there.x, y + there.y, there.trust.copy()
            else:
                go_on(x, y, trust, there.x, there.y, there.trust)
            yield n, x, y, trust
