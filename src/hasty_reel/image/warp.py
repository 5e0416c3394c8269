"""Where the pixels of one frame stand in other frames, along the renderer's motion vectors.

A motion vector at a pixel of frame t leads to its place in frame t + 1, in pixels.
Back in time there is no vector: the place q with q + m(q) = p is found by fixed-point iteration.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from hasty_reel.compiled import FAST, njit, prange
from hasty_reel.image.sampling import bilinear, bilinear_at, bilinear_corner, remap_bilinear

ITERATIONS = 6
"""The most steps back to the place a vector came from."""
ITERATIONS_BESIDE = 3
"""The same for frames side by side, where a thirtieth of a pixel does."""
CLOSE_ENOUGH = np.float32(3e-3)
"""Pixels: an iteration that moves a place by less has found it."""


@njit(parallel=True, fastmath=FAST)
def warp_forward(x, y, mx, my):
    """Move places one frame on, along the vectors of the frame they are in.

    Parameters
    ----------
    x, y : (h, w) float32, places in pixels, changed
    mx, my : (h, w) float32, vectors in pixels a frame
    """
    for r in prange(x.shape[0]):
        for c in range(x.shape[1]):
            px, py = x[r, c], y[r, c]
            x[r, c] = px + bilinear(mx, px, py)
            y[r, c] = py + bilinear(my, px, py)


@njit(parallel=True, fastmath=FAST)
def warp_back(x, y, mx, my):
    """Move places one frame back, against the vectors of the frame before.

    Parameters
    ----------
    x, y : (h, w) float32, places in pixels, changed
    mx, my : (h, w) float32, vectors of the frame before, in pixels a frame
    """
    h, w = mx.shape
    for r in prange(x.shape[0]):
        for c in range(x.shape[1]):
            px, py = x[r, c], y[r, c]
            qx, qy = px, py
            for _ in range(ITERATIONS):
                # both planes with one set of weights
                i, j, i1, j1, u, v = bilinear_corner(qx, qy, h, w)
                ax = px - bilinear_at(mx, i, j, i1, j1, u, v)
                ay = py - bilinear_at(my, i, j, i1, j1, u, v)
                moved = abs(ax - qx) + abs(ay - qy)
                qx, qy = ax, ay
                if moved < CLOSE_ENOUGH:
                    break
            x[r, c], y[r, c] = qx, qy


def motion_path(
    vectors: Sequence[np.ndarray | None], start: int, end: int, shape: tuple[int, int]
) -> tuple[np.ndarray, np.ndarray]:  # fmt: skip
    """Return where the pixels of frame `start` stand in frame `end`.

    Parameters
    ----------
    vectors : per frame (h, w, 2) float32 in pixels to the next frame, or None for a picture that does not move
    start, end : indices into `vectors`
    shape : rows and columns of the pictures

    Returns
    -------
    x, y : np.ndarray
        (h, w) float32, places in pixels, pixel centres at whole numbers
    """
    h, w = shape
    x = np.ascontiguousarray(np.broadcast_to(np.arange(w, dtype=np.float32), (h, w)))
    y = np.ascontiguousarray(np.broadcast_to(np.arange(h, dtype=np.float32)[:, None], (h, w)))
    if end > start:
        for k in range(start, end):
            field = vectors[k]
            if field is not None:
                warp_forward(x, y, *_planes(field))
    else:
        for k in range(start - 1, end - 1, -1):
            field = vectors[k]
            if field is not None:
                warp_back(x, y, *_planes(field))
    return x, y


def _planes(field: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    return np.ascontiguousarray(field[..., 0], np.float32), np.ascontiguousarray(field[..., 1], np.float32)


@lru_cache(maxsize=4)
def pixel_grid(h: int, w: int) -> np.ndarray:
    """Return the places of the pixels themselves; the array is shared and must not be changed.

    Parameters
    ----------
    h, w : size of the picture in pixels

    Returns
    -------
    np.ndarray
        (h, w, 2) float32 in pixels, x first.
    """
    rows, columns = np.indices((h, w), np.float32)
    return np.ascontiguousarray(np.stack([columns, rows], axis=-1))


def places_in_next(field: np.ndarray) -> np.ndarray:
    """Return where the pixels of a frame stand in the next one, along its vectors.

    Parameters
    ----------
    field : (h, w, 2) float32, vectors of the frame in pixels

    Returns
    -------
    np.ndarray
        (h, w, 2) float32 in pixels, x first.
    """
    return pixel_grid(*field.shape[:2]) + field


def places_in_previous(field: np.ndarray) -> np.ndarray:
    """Return where the pixels of a frame stand in the one before, against that one's vectors.

    As `motion_path`, in fewer iterations: for frames side by side a thirtieth of a pixel does.

    Parameters
    ----------
    field : (h, w, 2) float32, vectors of the frame before, in pixels

    Returns
    -------
    np.ndarray
        (h, w, 2) float32 in pixels, x first.
    """
    here = pixel_grid(*field.shape[:2])
    found = here - field
    for _ in range(ITERATIONS_BESIDE):
        found = here - remap_bilinear(field, found)
    return found
