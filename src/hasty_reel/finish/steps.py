"""From each frame to the one beside: where its pixels go, and how sure they land on the same surface.

A step is judged once, by geometry alone: the pixel it lands on must have guides within what the 3 x 3 pixels around the first one span,
and the way there must lead home. A way over many frames is as sure as the least sure of its steps, so that a surface is followed while
the camera comes nearer and it turns. What depth changes by from frame to frame on all of a surface is the camera's doing, and is taken out.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from hasty_reel.compiled import FAST, njit, prange
from hasty_reel.finish.surfaces import ALBEDO, DEPTH, Surfaces
from hasty_reel.image.sampling import bilinear
from hasty_reel.image.warp import motion_path, pixel_grid

HOME = np.float32(0.3)
"""Pixels: a way there and back that ends further from where it began met something else in between."""
HOME_FOUND = np.float32(0.5)
"""The same of motion that was found in the pictures."""
BORDER = 5
"""Pixels a side in which motion that differs makes the test of light stricter: there silhouettes pass."""
CURVES = np.float32(0.25)
"""Share that counts of how far guides lie apart where motion was found in the pictures: a mirror and a lens curve."""
MOST_NEARER = 2.0
"""Of the change of depth from frame to frame what the camera may do, in tolerances of a surface: 6 %."""
SURE = 255
"""Surest, as it is kept: in whole numbers, to save memory."""


@dataclass(frozen=True)
class Step:
    """From a frame to the one beside.

    x, y : (h, w) float32, pixels across and down; (1, 1) of zeros where nothing is known to move
    trust : (h, w) uint8, how sure a pixel lands on the same surface, up to `SURE`
    strict : (h, w) uint8, how much of the usual difference in light is allowed: less where motion differs around a pixel, up to `SURE`
    """

    x: np.ndarray
    y: np.ndarray
    trust: np.ndarray
    strict: np.ndarray


NOWHERE = np.zeros((1, 1), np.bool_)
STAYS = np.zeros((1, 1), np.float32)
"""Where nothing is known to move."""


def against(vectors: np.ndarray) -> np.ndarray:
    """Return the pixels from a frame to the one before, against that one's vectors, (h, w, 2) float32.

    Parameters
    ----------
    vectors : (h, w, 2) float32, of the frame before, in pixels to this one
    """
    x, y = motion_path([vectors, None], 1, 0, vectors.shape[:2])
    grid = pixel_grid(*vectors.shape[:2])
    return np.stack([x - grid[..., 0], y - grid[..., 1]], axis=-1)


def step_between(
    here: Surfaces, there: Surfaces, moves: np.ndarray | None, back: np.ndarray | None, found: np.ndarray | None, shape: tuple[int, int]
) -> Step:
    """Return the step from a frame to the one beside.

    Parameters
    ----------
    here, there : surfaces of both frames
    moves : (h, w, 2) float32, pixels from this frame to the other; None where nothing is known to move
    back : (h, w, 2) float32, from the other to this
    found : (h, w) bool, where motion was found in the pictures, so that surfaces may curve and albedo says nothing; None for nowhere
    shape : rows and columns of a frame
    """
    guided = here.known and there.known
    trust = np.full(shape, SURE, np.uint8)
    x, y = _planes(moves)
    if guided:
        nearer = np.zeros(shape, np.float32)
        _change_of_depth(here.guides[DEPTH], there.guides[DEPTH], x, y, nearer)
        nearer = np.clip(cv2.medianBlur(nearer, 5), -MOST_NEARER, MOST_NEARER)
        _same_surface(here.guides, there.guides, x, y, nearer, NOWHERE if found is None else found, trust)
    if moves is not None and back is not None:
        _leads_home(x, y, *_planes(back), NOWHERE if found is None else found, trust)
    return Step(x, y, trust, _strictness(x, y, shape))


def _planes(moves: np.ndarray | None) -> tuple[np.ndarray, np.ndarray]:
    if moves is None:
        return STAYS, STAYS
    return np.ascontiguousarray(moves[..., 0]), np.ascontiguousarray(moves[..., 1])


def _strictness(x: np.ndarray, y: np.ndarray, shape: tuple) -> np.ndarray:
    if x.shape != shape:
        return np.full(shape, SURE, np.uint8)
    around = np.ones((BORDER, BORDER), np.uint8)
    differ = np.zeros(shape, np.float32)
    for moved in (x, y):
        differ += (cv2.dilate(moved, around) - cv2.erode(moved, around)) ** 2
    return np.maximum(np.float32(SURE) / (np.float32(1.0) + differ), np.float32(1.0)).astype(np.uint8)


@njit(parallel=True, fastmath=FAST)
def _change_of_depth(here, there, mx, my, nearer):
    """By how much depth changes where each pixel goes, into (h, w); 0 where it leaves the picture."""
    h, w = here.shape
    stays = mx.shape[0] != h
    for r in prange(h):
        for c in range(w):
            x, y = np.float32(c), np.float32(r)
            if not stays:
                x += mx[r, c]
                y += my[r, c]
            if -0.5 <= x <= w - 0.5 and -0.5 <= y <= h - 0.5:
                nearer[r, c] = there[min(h - 1, max(0, int(y + 0.5))), min(w - 1, max(0, int(x + 0.5)))] - here[r, c]


@njit(parallel=True, fastmath=FAST)
def _same_surface(here, there, mx, my, nearer, found, trust):
    """How sure each pixel lands on its own surface, into (h, w) uint8."""
    channels, h, w = here.shape
    stays = mx.shape[0] != h
    somewhere = found.shape[0] == h
    one, zero = np.float32(1.0), np.float32(0.0)
    for r in prange(h):
        for c in range(w):
            # light that moves otherwise than its surface stays on that surface, or on one that curves on from it; its albedo says nothing
            elsewhere = somewhere and found[r, c]
            told, share = (ALBEDO, CURVES) if elsewhere else (channels, one)
            x, y = np.float32(c), np.float32(r)
            if not stays:
                x += mx[r, c]
                y += my[r, c]
            if not (-0.5 <= x <= w - 0.5 and -0.5 <= y <= h - 0.5):
                trust[r, c] = 0
                continue
            i, j = min(w - 1, max(0, int(x + 0.5))), min(h - 1, max(0, int(y + 0.5)))
            off = zero
            for k in range(told):
                v = there[k, j, i]
                if k == DEPTH:
                    v -= nearer[r, c]
                # most pixels lie near their own value: what the 3 x 3 pixels around span is looked up for the others alone
                low, high = here[k, r, c], here[k, r, c]
                if v != low:
                    for dr in range(max(0, r - 1), min(h, r + 2)):
                        for dc in range(max(0, c - 1), min(w, c + 2)):
                            low, high = min(low, here[k, dr, dc]), max(high, here[k, dr, dc])
                off += share * max(zero, max(low - v, v - high))
                if off >= one:
                    break
            near = max(zero, one - off)
            trust[r, c] = np.uint8(near * near * np.float32(SURE) + np.float32(0.5))


@njit(parallel=True, fastmath=FAST)
def _leads_home(mx, my, bx, by, found, trust):
    """Nothing is left of the trust where the way there and back ends elsewhere."""
    h, w = trust.shape
    somewhere = found.shape[0] == h
    for r in prange(h):
        for c in range(w):
            x, y = c + mx[r, c], r + my[r, c]
            home = HOME_FOUND if somewhere and found[r, c] else HOME
            off_x, off_y = mx[r, c] + bilinear(bx, x, y), my[r, c] + bilinear(by, x, y)
            if off_x * off_x + off_y * off_y >= home * home:
                trust[r, c] = 0


@njit(parallel=True, fastmath=FAST)
def go_on(x, y, trust, mx, my, step_trust):
    """Go on by one step: places are moved along, and are as sure as the least sure step.

    Parameters
    ----------
    x, y : (h, w) float32, places in pixels, changed
    trust : (h, w) uint8, changed
    mx, my : (h, w) float32, pixels to the frame beside; (1, 1) where nothing moves
    step_trust : (h, w) uint8, of the step
    """
    h, w = x.shape
    stays = mx.shape[0] != h
    for r in prange(h):
        for c in range(w):
            if trust[r, c] == 0:
                continue
            px, py = x[r, c], y[r, c]
            if not (-0.5 <= px <= w - 0.5 and -0.5 <= py <= h - 0.5):
                trust[r, c] = 0
                continue
            trust[r, c] = min(trust[r, c], step_trust[min(h - 1, max(0, int(py + 0.5))), min(w - 1, max(0, int(px + 0.5)))])
            if not stays:
                x[r, c] = px + bilinear(mx, px, py)
                y[r, c] = py + bilinear(my, px, py)
