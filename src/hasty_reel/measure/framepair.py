"""Two frames side by side: where the pixels of each stand in the other, and which of them are found there.

A match is refused by geometry, never by the difference of the light that is to be measured:
a place outside the frame, vectors that do not lead home, a depth that is another surface's,
and, where motion was found in the pictures, the borders of that motion. So a patch that
flashes reads as a flash, and not as another surface.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from hasty_reel.compiled import FAST, njit, prange
from hasty_reel.image.finiteplane import finite_plane
from hasty_reel.image.sampling import bilinear_at, bilinear_corner
from hasty_reel.image.warp import pixel_grid, places_in_next, places_in_previous
from hasty_reel.measure.flow import resized_flow

HOME = np.float32(0.3)
"""Pixels that the way there and back may end from where it began."""
DEPTH = np.float32(0.05)
"""Share by which the ranges of depth around two places may miss each other."""
ALIKE = np.float32(1.0)
"""Pixels by which the motion of one surface may differ within a pixel."""
FAR = np.float32(1e9)
"""Depth of what nothing was hit at."""
BORDER = 5
"""Side in pixels of the surroundings in which a found motion must be of one kind."""

MATCHED = 230_000
"""Pixels at which a motion found in large pictures is matched."""


@dataclass(frozen=True)
class FramePair:
    """A frame and the next one.

    motion : (h, w, 2) float32, pixels to the next frame; None where nothing moves
    there, back : (h, w, 2) float32, places of the first frame's pixels in the second and of the second's in the first
    found_there, found_back : (h, w) bool, which of the first frame's pixels are found in the second, and of the second's in the first
    """

    motion: np.ndarray | None = None
    there: np.ndarray | None = None
    back: np.ndarray | None = None
    found_there: np.ndarray | None = None
    found_back: np.ndarray | None = None


STILL = FramePair()
"""Nothing moves: every pixel is found where it was."""


def frame_pair(
    motion: np.ndarray | None, depth: np.ndarray | None = None, depth_after: np.ndarray | None = None, searched: bool = False
) -> FramePair:
    """Return what a frame and the next one share.

    Parameters
    ----------
    motion : (h, w, 2) float32, pixels to the next frame; None where nothing moves
    depth, depth_after : (h, w) of both frames, where they are known
    searched : the motion was found in the pictures: it is not believed at its borders

    Returns
    -------
    FramePair
        Places and matches, both ways.
    """
    if motion is None:
        return STILL
    motion = np.ascontiguousarray(motion, np.float32)
    there, back = places_in_next(motion), places_in_previous(motion)
    deep = depth is not None and depth_after is not None
    near = _depth(depth) if deep else np.zeros((1, 1), np.float32)
    nearest, farthest = _depths_around(near)
    nearest_after, farthest_after = _depths_around(_depth(depth_after)) if deep else (nearest, farthest)
    found_there, found_back = np.empty(motion.shape[:2], np.bool_), np.empty(motion.shape[:2], np.bool_)
    mx, my, bx, by = (np.ascontiguousarray(p[..., c]) for p in (motion, back) for c in (0, 1))
    claims = np.full(motion.shape, np.nan, np.float32)
    _claim(mx, my, near, deep, claims)
    _match(mx, my, bx, by, nearest, farthest, nearest_after, farthest_after, deep, claims, found_there, found_back)
    if searched:
        inside = ~_borders(motion)
        found_there &= inside
        found_back &= cv2.remap(inside.astype(np.uint8), back, None, cv2.INTER_NEAREST, borderMode=cv2.BORDER_REPLICATE) > 0  # type: ignore[call-overload]
    return FramePair(motion, there, back, found_there, found_back)


def found_pair(flow: np.ndarray | None, height: int, width: int) -> FramePair:
    """Return what a frame and the next one share by a motion found in the pictures.

    Where it was found at a smaller size, so are the matches: it changes slowly, but at borders where it is not believed.

    Parameters
    ----------
    flow : (h, w, 2) float32, pixels to the next frame, of the size it was found at; None where nothing moves
    height, width : of the pictures
    """
    if flow is None or flow.shape[:2] == (height, width):
        return frame_pair(flow, searched=True)
    side = min(1.0, float(np.sqrt(MATCHED / (flow.shape[0] * flow.shape[1]))))
    small = resized_flow(flow, max(1, round(side * flow.shape[1])), max(1, round(side * flow.shape[0])))
    pair = frame_pair(small, searched=True)
    assert pair.back is not None and pair.found_there is not None and pair.found_back is not None
    motion = resized_flow(flow, width, height)
    back = resized_flow(pair.back - pixel_grid(*small.shape[:2]), width, height)
    back += pixel_grid(height, width)
    found = [
        cv2.resize(f.view(np.uint8), (width, height), interpolation=cv2.INTER_NEAREST).view(np.bool_)
        for f in (pair.found_there, pair.found_back)
    ]
    return FramePair(motion, places_in_next(motion), back, *found)


def _depth(plane: np.ndarray | None) -> np.ndarray:
    assert plane is not None
    return finite_plane(plane, float(FAR))


def _depths_around(plane: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The nearest and the farthest depth of the 3 x 3 pixels around each, (h, w) float32 both."""
    around = np.ones((3, 3), np.uint8)
    return cv2.erode(plane, around, borderType=cv2.BORDER_REPLICATE), cv2.dilate(plane, around, borderType=cv2.BORDER_REPLICATE)


def _borders(motion: np.ndarray) -> np.ndarray:
    """Where motions of two kinds meet, (h, w) bool."""
    around = np.ones((BORDER, BORDER), np.uint8)
    apart = [cv2.dilate(p, around) - cv2.erode(p, around) for p in (np.ascontiguousarray(motion[..., c]) for c in (0, 1))]
    return np.maximum(*apart) > 1.0 + 0.1 * np.maximum(np.abs(motion[..., 0]), np.abs(motion[..., 1]))


@njit(fastmath=FAST)
def _meet(low0, high0, low1, high1):
    """Whether two ranges of depth touch."""
    return low0 <= high1 * (np.float32(1.0) + DEPTH) and low1 <= high0 * (np.float32(1.0) + DEPTH)


@njit()
def _claim(mx, my, depth, deep, claims):
    """By which motion each place of the second frame is reached, into (h, w, 2): the nearer surface's; `FAR` where it is not known."""
    h, w = mx.shape
    for r in range(h):
        for c in range(w):
            x, y = int(np.floor(c + mx[r, c] + 0.5)), int(np.floor(r + my[r, c] + 0.5))
            if not (0 <= x < w and 0 <= y < h):
                continue
            was_x, was_y = claims[y, x, 0], claims[y, x, 1]
            if was_x != was_x or abs(was_x - mx[r, c]) + abs(was_y - my[r, c]) <= ALIKE:
                claims[y, x, 0], claims[y, x, 1] = mx[r, c], my[r, c]
            elif not deep:
                claims[y, x, 0] = claims[y, x, 1] = FAR
            else:
                i, j = min(w - 1, max(0, int(np.floor(x - was_x + 0.5)))), min(h - 1, max(0, int(np.floor(y - was_y + 0.5))))
                if depth[r, c] < depth[j, i]:
                    claims[y, x, 0], claims[y, x, 1] = mx[r, c], my[r, c]


@njit(fastmath=FAST)
def _claimed_by_another(claims, y, x, mx, my):
    """Whether a place is reached by another motion than this one."""
    h, w, _ = claims.shape
    i, j = min(w - 1, max(0, int(np.floor(x + 0.5)))), min(h - 1, max(0, int(np.floor(y + 0.5))))
    return abs(claims[j, i, 0] - mx) + abs(claims[j, i, 1] - my) > ALIKE  # a place that nothing reaches is claimed by none


@njit(parallel=True, fastmath=FAST)
def _match(mx, my, bx, by, nearest, farthest, nearest_after, farthest_after, deep, claims, found_there, found_back):
    """Which pixels of the first frame are found in the second, and of the second in the first; see `FramePair`."""
    h, w = mx.shape
    half = np.float32(0.5)
    for r in prange(h):
        for c in range(w):
            x, y = c + mx[r, c], r + my[r, c]
            good = -half <= x <= w - half and -half <= y <= h - half
            if good:
                # what stands there must come from here: else something nearer covers it
                i, j, i1, j1, u, v = bilinear_corner(x, y, h, w)
                good = abs(bilinear_at(bx, i, j, i1, j1, u, v) - c) <= HOME and abs(bilinear_at(by, i, j, i1, j1, u, v) - r) <= HOME
                good = good and not _claimed_by_another(claims, y, x, mx[r, c], my[r, c])
                if good and deep:
                    j, i = int(min(h - 1.0, max(0.0, y + half))), int(min(w - 1.0, max(0.0, x + half)))
                    good = _meet(nearest[r, c], farthest[r, c], nearest_after[j, i], farthest_after[j, i])
            found_there[r, c] = good
            x, y = bx[r, c], by[r, c]
            good = -half <= x <= w - half and -half <= y <= h - half
            if good:
                i, j, i1, j1, u, v = bilinear_corner(x, y, h, w)
                home_x, home_y = x + bilinear_at(mx, i, j, i1, j1, u, v), y + bilinear_at(my, i, j, i1, j1, u, v)
                good = abs(home_x - c) <= HOME and abs(home_y - r) <= HOME
                good = good and not _claimed_by_another(claims, r, c, c - x, r - y)
                if good and deep:
                    j, i = int(min(h - 1.0, max(0.0, y + half))), int(min(w - 1.0, max(0.0, x + half)))
                    good = _meet(nearest_after[r, c], farthest_after[r, c], nearest[j, i], farthest[j, i])
            found_back[r, c] = good
