"""Where the pixels of one frame stand in its neighbours, along the renderer's motion vectors.

A motion vector at a pixel of frame t leads to its place in frame t + 1, in pixels.
Back in time there is no vector: the place q with q + m(q) = p is found by iteration.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import cv2
import numpy as np

from hasty_reel.compiled import FAST, njit, prange

BACK_STEPS = 6


@njit(fastmath=FAST)
def between(plane, x, y):
    """The value of a plane (h, w) between its pixels, held at the border."""
    h, w = plane.shape
    x = min(max(x, np.float32(0.0)), np.float32(w - 1))
    y = min(max(y, np.float32(0.0)), np.float32(h - 1))
    i, j = np.int32(x), np.int32(y)
    u, v = x - np.float32(i), y - np.float32(j)
    i1, j1 = min(i + 1, w - 1), min(j + 1, h - 1)
    top = plane[j, i] + (plane[j, i1] - plane[j, i]) * u
    low = plane[j1, i] + (plane[j1, i1] - plane[j1, i]) * u
    return top + (low - top) * v


@njit(parallel=True, fastmath=FAST)
def step_on(x, y, mx, my):
    """Move places (h, w) one frame on along the vectors of the frame they are in."""
    for r in prange(x.shape[0]):
        for c in range(x.shape[1]):
            px, py = x[r, c], y[r, c]
            x[r, c] = px + between(mx, px, py)
            y[r, c] = py + between(my, px, py)


@njit(fastmath=FAST)
def _against(mx, my, px, py, x, y):
    """The place from which a vector leads to (px, py), if the vector at (x, y) did: both planes fetched with one set of weights."""
    h, w = mx.shape
    x = min(max(x, np.float32(0.0)), np.float32(w - 1))
    y = min(max(y, np.float32(0.0)), np.float32(h - 1))
    i, j = np.int32(x), np.int32(y)
    u, v = x - np.float32(i), y - np.float32(j)
    i1, j1 = min(i + 1, w - 1), min(j + 1, h - 1)
    top, low = mx[j, i] + (mx[j, i1] - mx[j, i]) * u, mx[j1, i] + (mx[j1, i1] - mx[j1, i]) * u
    ax = px - (top + (low - top) * v)
    top, low = my[j, i] + (my[j, i1] - my[j, i]) * u, my[j1, i] + (my[j1, i1] - my[j1, i]) * u
    return ax, py - (top + (low - top) * v)


@njit(parallel=True, fastmath=FAST)
def step_back(x, y, mx, my):
    """Move places (h, w) one frame back, against the vectors of the frame before."""
    near = np.float32(3e-3)
    for r in prange(x.shape[0]):
        for c in range(x.shape[1]):
            px, py = x[r, c], y[r, c]
            qx, qy = px, py
            for _ in range(BACK_STEPS):
                ax, ay = _against(mx, my, px, py, qx, qy)
                moved = abs(ax - qx) + abs(ay - qy)
                qx, qy = ax, ay
                if moved < near:
                    break
            x[r, c], y[r, c] = qx, qy


def places(vectors: Sequence[np.ndarray | None], start: int, end: int, shape: tuple[int, int]):
    """Where the pixels of frame `start` stand in frame `end`.

    Parameters
    ----------
    vectors : per frame (h, w, 2) float32, or None for a picture that does not move
    start, end : indices into `vectors`

    Returns
    -------
    x, y : (h, w) float32, in pixels, pixel centres at whole numbers
    """
    h, w = shape
    x = np.ascontiguousarray(np.broadcast_to(np.arange(w, dtype=np.float32), (h, w)))
    y = np.ascontiguousarray(np.broadcast_to(np.arange(h, dtype=np.float32)[:, None], (h, w)))
    if end > start:
        for k in range(start, end):
            field = vectors[k]
            if field is not None:
                step_on(x, y, *_planes(field))
    else:
        for k in range(start - 1, end - 1, -1):
            field = vectors[k]
            if field is not None:
                step_back(x, y, *_planes(field))
    return x, y


def _planes(field: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    return np.ascontiguousarray(field[..., 0], np.float32), np.ascontiguousarray(field[..., 1], np.float32)


BESIDE_STEPS = 3


@lru_cache(maxsize=4)
def _grid(h: int, w: int) -> np.ndarray:
    """Places of the pixels themselves, (h, w, 2) float32, x first."""
    rows, columns = np.indices((h, w), np.float32)
    return np.ascontiguousarray(np.stack([columns, rows], axis=-1))


def in_next(field: np.ndarray) -> np.ndarray:
    """Where the pixels of a frame stand in the next one, along its vectors (h, w, 2): (h, w, 2), x first."""
    return _grid(*field.shape[:2]) + field


def in_before(field: np.ndarray) -> np.ndarray:
    """Where the pixels of a frame stand in the one before, against that one's vectors (h, w, 2).

    As `places`, in fewer steps: for frames side by side a thirtieth of a pixel does.
    """
    here = _grid(*field.shape[:2])
    found = here - field
    for _ in range(BESIDE_STEPS):
        found = here - cv2.remap(field, found, None, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)  # type: ignore[call-overload]
    return found
