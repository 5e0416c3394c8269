"""Motion from the pictures themselves, where the frames carry no vectors: dense optical flow.

Inverse search (Kroeger et al. 2016) through OpenCV. In noise without texture a flow
finds motion that is not there, and would explain the noise away; so it is believed only
where it makes the smoothed pictures agree clearly better than standing still does. In large
pictures it is searched on small ones and then set right tile by tile at half the size
(Lucas and Kanade 1981), which is quicker than a dense search and as near.
"""

from __future__ import annotations

import cv2
import numpy as np

from hasty_reel.compiled import FAST, njit, prange
from hasty_reel.measure.noise import noise_of_one

LARGE = 700_000
"""Pixels above which the flow is searched on pictures of about `SMALL` pixels."""
SMALL = 230_000
SMOOTH = 2.0
"""Standard deviation in pixels of the smoothing under which the flow must prove itself."""
BETTER = 0.4
"""Share of the squared difference that may be left for the flow to be believed."""
NEIGHBOURHOOD = 25
STRAYS, STRAYS_BY = 0.4, 0.08
"""How far, in pixels and as a share of the way, the flow there and back may end from where it began."""
CHANCE = 4.0
"""How far above what grain makes of it the smoothed difference of a neighbourhood may lie by chance."""
REFINED, ROUNDS = 16, 3
"""Side of the tiles in which a flow is set right, and how often."""


def optical_flow(here: np.ndarray, after: np.ndarray) -> np.ndarray | None:
    """Return where each pixel of `here` stands in `after`: (h, w, 2) float32 in pixels, x first; None when nothing moves.

    Parameters
    ----------
    here, after : (h, w) float32, L* of two frames in a row
    """
    flow = searched_flow(here, after)
    return None if flow is None else resized_flow(flow, here.shape[1], here.shape[0])


def searched_flow(here: np.ndarray, after: np.ndarray) -> np.ndarray | None:
    """Return the same at the size it was found at: of large pictures at half of it, in pixels of that.

    Parameters
    ----------
    here, after : (h, w) float32, L* of two frames in a row
    """
    h, w = here.shape
    small = np.sqrt(SMALL / (h * w)) if h * w > LARGE else 1.0
    size = (max(1, round(w * small)), max(1, round(h * small)))
    if min(size) < 16 or not np.any(here != after):
        return None
    a, b = (here, after) if small == 1.0 else (cv2.resize(p, size, interpolation=cv2.INTER_AREA) for p in (here, after))
    if _only_noise(a, b):
        return None
    search = cv2.DISOpticalFlow.create(cv2.DISOPTICAL_FLOW_PRESET_MEDIUM if small == 1.0 else cv2.DISOPTICAL_FLOW_PRESET_FAST)
    search.setFinestScale(0 if small == 1.0 else 2)
    flow = search.calc(_codes(a), _codes(b), None)  # type: ignore[call-overload]
    believed = _believed(a, b, flow)
    if believed.any():
        back = search.calc(_codes(b), _codes(a), None)  # type: ignore[call-overload]
        believed &= _returns(flow, back)
    flow[~believed] = 0.0
    if not flow.any():
        return None
    if small == 1.0:
        return np.ascontiguousarray(flow, np.float32)
    half = (w // 2, h // 2)
    flow = resized_flow(flow, *half)
    a, b = (cv2.resize(p, half, interpolation=cv2.INTER_AREA) for p in (here, after))
    right = np.zeros((-(-half[1] // REFINED), -(-half[0] // REFINED), 2), np.float32)
    _set_right(a, b, flow, REFINED, ROUNDS, right)
    return np.ascontiguousarray(flow + cv2.resize(right, half, interpolation=cv2.INTER_LINEAR), np.float32)


def resized_flow(flow: np.ndarray, width: int, height: int) -> np.ndarray:
    """Return a flow at another size, in pixels of that.

    Parameters
    ----------
    flow : (h, w, 2) float32
    width, height : of the result
    """
    h, w = flow.shape[:2]
    if (w, h) == (width, height):
        return flow
    longer = np.array([width / w, height / h], np.float32)
    if width * height < w * h:
        return cv2.resize(flow, (width, height), interpolation=cv2.INTER_LINEAR) * longer
    return cv2.resize(flow * longer, (width, height), interpolation=cv2.INTER_LINEAR)


@njit(parallel=True, fastmath=FAST)
def _set_right(here, after, flow, side, rounds, right):
    """What to add to the flow of each tile, into (down, across, 2): least squares on the gradients, tile by tile."""
    h, w = here.shape
    for tile in prange(right.shape[0] * right.shape[1]):
        j, i = tile // right.shape[1], tile % right.shape[1]
        y, x = min(h - 1, j * side + side // 2), min(w - 1, i * side + side // 2)
        # a tile in which nothing moves needs nothing
        ends = flow[min(h - 1, (j + 1) * side - 1), min(w - 1, (i + 1) * side - 1)]
        if flow[y, x, 0] == 0 and flow[y, x, 1] == 0 and flow[j * side, i * side, 0] == 0 and ends[0] == 0:
            continue
        dx, dy, best, kept_x, kept_y = 0.0, 0.0, 1e30, 0.0, 0.0
        for _turn in range(rounds + 1):
            # the normal equations of Lucas and Kanade (1981): gradients here, differences where the flow leads
            xx, xy, yy, xt, yt, left = 1e-3, 0.0, 1e-3, 0.0, 0.0, 0.0
            for r in range(max(1, j * side), min(h - 1, (j + 1) * side), 2):
                for c in range(max(1, i * side), min(w - 1, (i + 1) * side)):
                    px, py = c + flow[r, c, 0] + dx, r + flow[r, c, 1] + dy
                    if px < 0 or py < 0 or px > w - 1.001 or py > h - 1.001:
                        continue
                    k, m = int(px), int(py)
                    u, v = px - k, py - m
                    top = after[m, k] * (1 - u) + after[m, k + 1] * u
                    low = after[m + 1, k] * (1 - u) + after[m + 1, k + 1] * u
                    t = top * (1 - v) + low * v - here[r, c]
                    gx, gy = 0.5 * (here[r, c + 1] - here[r, c - 1]), 0.5 * (here[r + 1, c] - here[r - 1, c])
                    xx += gx * gx
                    xy += gx * gy
                    yy += gy * gy
                    xt += gx * t
                    yt += gy * t
                    left += t * t
            # as long as what is left falls the last step was good; else the one before stays
            if left < best:
                best, kept_x, kept_y = left, dx, dy
            else:
                break
            area = xx * yy - xy * xy
            # along a straight edge only the way across it is known
            if area < 0.01 * (xx + yy) * (xx + yy):
                step = 1.0 / (xx + yy)
                sx, sy = -xt * step, -yt * step
            else:
                sx, sy = -(yy * xt - xy * yt) / area, -(xx * yt - xy * xt) / area
            dx += min(max(sx, -1.0), 1.0)
            dy += min(max(sy, -1.0), 1.0)
        right[j, i, 0], right[j, i, 1] = min(max(kept_x, -3.0), 3.0), min(max(kept_y, -3.0), 3.0)


def _returns(flow: np.ndarray, back: np.ndarray) -> np.ndarray:
    """Where going there and back leads home: patches that are new in each frame are matched somewhere, but not back again."""
    rows, columns = np.indices(flow.shape[:2], np.float32)
    x, y = columns + flow[..., 0], rows + flow[..., 1]
    there = cv2.remap(back, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    strays = cv2.magnitude(flow[..., 0] + there[..., 0], flow[..., 1] + there[..., 1])
    size = (NEIGHBOURHOOD, NEIGHBOURHOOD)
    allowed = STRAYS + STRAYS_BY * cv2.magnitude(flow[..., 0], flow[..., 1])
    # most of the surroundings must come home, not a pixel by chance
    return (cv2.blur((strays <= allowed).astype(np.float32), size) > 0.6) & (strays <= 2 * allowed)


def _codes(plane: np.ndarray) -> np.ndarray:
    return np.clip(plane * 2.55, 0, 255).astype(np.uint8)


def _only_noise(here: np.ndarray, after: np.ndarray) -> bool:
    """Whether the pictures differ nowhere by more than their own grain: then nothing needs to be searched for."""
    a, b = (cv2.GaussianBlur(p, (0, 0), SMOOTH) for p in (here, after))
    apart = cv2.blur((a - b) ** 2, (NEIGHBOURHOOD, NEIGHBOURHOOD))
    h, w = here.shape
    grain = cv2.resize(noise_of_one(here).astype(np.float32), (w, h), interpolation=cv2.INTER_LINEAR)
    # white noise keeps 1/(4 pi s^2) of its variance under a Gaussian of s
    expected = 2.0 * grain**2 / (4.0 * np.pi * SMOOTH**2)
    return bool((apart <= CHANCE * expected + 1e-6).all())


def _believed(here: np.ndarray, after: np.ndarray, flow: np.ndarray) -> np.ndarray:
    a, b = (cv2.GaussianBlur(p, (0, 0), SMOOTH) for p in (here, after))
    rows, columns = np.indices(here.shape, np.float32)
    carried = cv2.remap(b, columns + flow[..., 0], rows + flow[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    size = (NEIGHBOURHOOD, NEIGHBOURHOOD)
    moving, still = cv2.blur((a - carried) ** 2, size), cv2.blur((a - b) ** 2, size)
    return moving < BETTER * still
