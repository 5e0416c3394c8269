"""Guides of a frame: colour, normal, depth and motion of what a camera path meets first."""

from __future__ import annotations

import math

from hasty_reel.bench.layout import CAMERA, HALF_HEIGHT, HALF_RISE, HALF_TURN, HALF_WIDTH, LENS, NEXT_CAMERA, ONWARD, ORIGIN, RIGHT
from hasty_reel.compiled import FAST, njit

GUIDE_COUNT = 9
"""Albedo RGB, normal XYZ, depth, motion XY."""
LEAST_DEPTH = 1e-6
"""Points beside or behind the camera are divided by this depth, in units of the scene."""


@njit(fastmath=FAST)
def on_picture(view, row, tm, width, height, px, py, pz):
    """Where a world point stands in the picture (pixels) and how far in front of the camera.

    Parameters
    ----------
    view : (9, 12) float64, camera and settings, see `set_up`
    row : int, row of `view` with the camera
    tm : float, time within the shutter, 0 to 1
    width, height : int, size of the whole picture in pixels
    px, py, pz : float, the point, in units of the scene

    Returns
    -------
    x, y : float
        Place in pixels, from the upper left corner.
    depth : float
        Distance in front of the camera, in units of the scene; along the ray in a 360-degree picture.
    """
    qx = px - (view[row, ORIGIN] + tm * view[row + 1, ORIGIN])
    qy = py - (view[row, ORIGIN + 1] + tm * view[row + 1, ORIGIN + 1])
    qz = pz - (view[row, ORIGIN + 2] + tm * view[row + 1, ORIGIN + 2])
    x = y = z = 0.0
    for axis in range(3):
        k = RIGHT + 3 * axis
        v = (
            qx * (view[row, k] + tm * view[row + 1, k])
            + qy * (view[row, k + 1] + tm * view[row + 1, k + 1])
            + qz * (view[row, k + 2] + tm * view[row + 1, k + 2])
        )
        if axis == 0:
            x = v
        elif axis == 1:
            y = v
        else:
            z = v
    if view[LENS, HALF_TURN] > 0.0:
        level = math.sqrt(x * x + z * z)
        far = math.sqrt(level * level + y * y)
        return (
            (0.5 + 0.5 * math.atan2(x, z) / view[LENS, HALF_TURN]) * width,
            (0.5 - 0.5 * math.atan2(y, level) / view[LENS, HALF_RISE]) * height,
            far,
        )
    z_safe = max(z, LEAST_DEPTH)
    return (0.5 + 0.5 * x / (z_safe * view[LENS, HALF_WIDTH])) * width, (0.5 - 0.5 * y / (z_safe * view[LENS, HALF_HEIGHT])) * height, z


@njit(fastmath=FAST, inline="always")
def write_guide(guide, view, width, height, tm, px, py, pz, qx, qy, qz, r, g, b, nx, ny, nz):
    """Fill the guide of a camera path.

    Parameters
    ----------
    guide : (9,) float64, filled: albedo RGB, normal XYZ, depth, motion XY in pixels to the next frame
    view : (9, 12) float64, camera and settings, see `layout`
    width, height : int, size of the whole picture in pixels
    tm : float, time within the shutter, 0 to 1
    px, py, pz : float, the point that was met, in units of the scene
    qx, qy, qz : float, where that point is one frame later
    r, g, b : float, its albedo; 1 where it has none
    nx, ny, nz : float, unit normal of its surface; 0 where it has none
    """
    x, y, depth = on_picture(view, CAMERA, tm, width, height, px, py, pz)
    next_x, next_y, _ = on_picture(view, NEXT_CAMERA, tm, width, height, qx, qy, qz)
    guide[0], guide[1], guide[2] = r, g, b
    guide[3], guide[4], guide[5] = nx, ny, nz
    guide[6] = depth
    guide[7], guide[8] = next_x - x, next_y - y


@njit(fastmath=FAST, inline="always")
def one_frame_later(a, i, px, py, pz):
    """Where a point of shape `i` is one frame later, in units of the scene.

    Parameters
    ----------
    a : (n, k) float64, the shapes of the packed scene
    i : int, index of the shape
    px, py, pz : float, the point, in units of the scene

    Returns
    -------
    x, y, z : float
        The point after the rigid motion of its shape.
    """
    k = ONWARD
    return (
        a[i, k] * px + a[i, k + 1] * py + a[i, k + 2] * pz + a[i, k + 3],
        a[i, k + 4] * px + a[i, k + 5] * py + a[i, k + 6] * pz + a[i, k + 7],
        a[i, k + 8] * px + a[i, k + 9] * py + a[i, k + 10] * pz + a[i, k + 11],
    )
