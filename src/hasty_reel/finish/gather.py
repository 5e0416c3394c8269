"""Light of a frame gathered over its neighbours: each fetched once along the motion, as far as geometry and light agree.

Geometry decides first: the surface must be the same, and the way there must lead home. Then the pilots, both frames
filtered by themselves, must agree within their noise: shadows and reflections move where no guide says so.
"""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np

from hasty_reel.compiled import FAST, njit, prange
from hasty_reel.finish.surfaces import same_surface
from hasty_reel.image.sampling import add_cubic, bilinear
from hasty_reel.image.warp import motion_path, pixel_grid, warp_forward

HOME = 0.3
"""Pixels: a way there and back that ends further from where it began met something else in between."""
HOME_FOUND = 0.5
"""The same of motion that was found in the pictures."""
BORDER = 5
"""Pixels a side in which motion that differs makes the test of light stricter: there silhouettes pass."""


@njit(parallel=True, fastmath=FAST)
def add_frame(
    total, weights, squares, x_at, y_at, light, guides, low, high, guided, home, strict, pilot, here_pilot, variance, here_variance, agree
):  # fmt: skip
    """Add a neighbour frame to the sums, pixel by pixel, as far as it is trusted.

    Parameters
    ----------
    total : (h, w, 3) float32, sums of weighted light
    weights, squares : (h, w) float32, sums of weights and of their squares
    x_at, y_at : (h, w) float32, where the pixels stand in the neighbour
    light : (h, w, 3) float32, of the neighbour
    guides : (7, h, w) float32, of the neighbour
    low, high : (7, h, w) float32, what guides span around the pixels of this frame
    guided : whether there are guides
    home : (h, w) bool, where the way there leads home
    strict : (h, w) float32, factor on the variance that a difference may have
    pilot, here_pilot : (h, w) float32, luminance of the neighbour and of this frame, each filtered by itself
    variance, here_variance : (h, w) float32, of the luminance of a pixel of both
    agree : float32, how many times the variance a squared difference of the pilots may be; 0 for no test
    """
    h, w = x_at.shape
    for y in prange(h):
        across, down = np.empty(4, np.float32), np.empty(4, np.float32)
        for x in range(w):
            px, py = x_at[y, x], y_at[y, x]
            if not home[y, x] or not (-0.5 <= px <= w - 0.5 and -0.5 <= py <= h - 0.5):
                continue
            # geometry first: the pixel it lands on must be of the same surface
            i, j = min(w - 1, max(0, int(px + 0.5))), min(h - 1, max(0, int(py + 0.5)))
            trust = same_surface(low, high, y, x, guides, j, i) if guided else np.float32(1.0)
            if trust <= np.float32(1e-3):
                continue
            # then light: both pilots must agree within their noise, by a weight that falls as 1 / (1 + q)^2; beyond three deviations
            # it is other light
            if agree > 0:
                off = bilinear(pilot, px, py) - here_pilot[y, x]
                q = off * off / (agree * strict[y, x] * (variance[j, i] + here_variance[y, x]) + np.float32(1e-9))
                if q > np.float32(9.0):
                    continue
                trust /= (np.float32(1.0) + q) * (np.float32(1.0) + q)
            else:
                trust *= strict[y, x]
            add_cubic(light, px, py, trust, total, y, x, across, down)
            weights[y, x] += trust
            squares[y, x] += trust * trust


Step = tuple[np.ndarray, np.ndarray] | None
"""Pixels to the frame beside, across and down, (h, w) float32 both; None where nothing is known to move."""


def step_back(vectors: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return the pixels from a frame to the one before, against that one's vectors, across and down, (h, w) float32 both.

    Parameters
    ----------
    vectors : (h, w, 2) float32, of the frame before, in pixels to this one
    """
    x, y = motion_path([vectors, None], 1, 0, vectors.shape[:2])
    grid = pixel_grid(*vectors.shape[:2])
    return x - grid[..., 0], y - grid[..., 1]


class Ways:
    """Where the pixels of one frame stand in another, and where that leads home.

    Parameters
    ----------
    step : gives the step from a frame to the one after (+1) or before (-1)
    shape : rows and columns of a frame
    found : the motion was found in the pictures
    """

    def __init__(self, step: Callable[[int, int], Step], shape: tuple[int, int], found: bool) -> None:
        self._step, self._shape, self._found = step, shape, found

    def to(self, here: int, there: int) -> tuple[np.ndarray, np.ndarray]:
        """Return where the pixels of a frame stand in another, x and y, (h, w) float32 both.

        Parameters
        ----------
        here, there : numbers of the frames
        """
        grid = pixel_grid(*self._shape)
        x, y = grid[..., 0].copy(), grid[..., 1].copy()
        self._go(x, y, here, there)
        return x, y

    def _go(self, x: np.ndarray, y: np.ndarray, here: int, there: int) -> None:
        way = 1 if there > here else -1
        for k in range(here, there, way):
            step = self._step(k, way)
            if step is not None:
                warp_forward(x, y, *step)

    def home(self, here: int, there: int, x: np.ndarray, y: np.ndarray) -> np.ndarray:
        """Return where the way to a frame and back ends where it began, (h, w) bool.

        Parameters
        ----------
        here, there : numbers of the frames
        x, y : (h, w) float32, the way there
        """
        grid = pixel_grid(*self._shape)
        back = x.copy(), y.copy()
        self._go(*back, there, here)
        return cv2.magnitude(back[0] - grid[..., 0], back[1] - grid[..., 1]) < (HOME_FOUND if self._found else HOME)

    def strictness(self, x: np.ndarray, y: np.ndarray) -> np.ndarray:
        """Return how much of the usual difference in light is allowed: less where motion differs around a pixel, (h, w) float32.

        Parameters
        ----------
        x, y : (h, w) float32, the way to a frame beside
        """
        grid, around = pixel_grid(*self._shape), np.ones((BORDER, BORDER), np.uint8)
        differ = np.zeros(self._shape, np.float32)
        for places, own in ((x, grid[..., 0]), (y, grid[..., 1])):
            moved = np.ascontiguousarray(places - own)
            differ += (cv2.dilate(moved, around) - cv2.erode(moved, around)) ** 2
        return (1.0 / (1.0 + differ)).astype(np.float32)
