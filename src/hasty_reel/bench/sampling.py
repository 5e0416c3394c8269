"""Camera samples into pixels, and rays into the points of a light cache: the parallel kernels."""

from __future__ import annotations

import math

import numpy as np

from hasty_reel.bench.guides import GUIDE_COUNT
from hasty_reel.bench.layout import (
    CAMERA,
    CAMERA_CHANGE,
    FOCUS,
    FORWARD,
    HALF_HEIGHT,
    HALF_RISE,
    HALF_TURN,
    HALF_WIDTH,
    LENS,
    LENS_RADIUS,
    ORIGIN,
    PATH,
    RIGHT,
    STEPS,
    UP,
)
from hasty_reel.bench.surfaces import begin_stream, disc_point, frame_around, uniform
from hasty_reel.bench.transport import follow_path
from hasty_reel.compiled import FAST, njit, prange
from hasty_reel.image.pixels import pixel_luminance

COUNT_IN_FULL, NOT_AT_ALL = -1.0, 0.0
"""Densities of a first direction: lamps it meets count in full, or not at all (they are sampled apart)."""
NONSENSE = 1e30
"""A point that lies just on a surface may see light like this; it is left out."""


@njit(fastmath=FAST, inline="always")
def camera_axis(view, column, tm):
    """One axis or the origin of the camera at a time within the shutter.

    Parameters
    ----------
    view : (9, 12) float64, camera and settings, see `layout`
    column : int, where it begins: `ORIGIN`, `RIGHT`, `UP` or `FORWARD`
    tm : float, time within the shutter, 0 to 1

    Returns
    -------
    x, y, z : float
        In units of the scene; axes have length 1 at shutter opening.
    """
    return (
        view[CAMERA, column] + tm * view[CAMERA_CHANGE, column],
        view[CAMERA, column + 1] + tm * view[CAMERA_CHANGE, column + 1],
        view[CAMERA, column + 2] + tm * view[CAMERA_CHANGE, column + 2],
    )


@njit(fastmath=FAST, inline="always")
def camera_ray(stream, view, tm, fx, fy):
    """The ray through a point of the picture, by way of a point of the lens.

    Parameters
    ----------
    stream : (1,) uint64, state of the random numbers, moved on
    view : (9, 12) float64, camera and settings, see `layout`
    tm : float, time within the shutter, 0 to 1
    fx, fy : float, the point as a share of width and height, from the upper left corner

    Returns
    -------
    ox, oy, oz : float
        Its origin, in units of the scene.
    dx, dy, dz : float
        Its unit direction.
    """
    lx = ly = 0.0
    if view[LENS, LENS_RADIUS] > 0.0:
        ex, ey, _ = disc_point(stream)
        lx, ly = view[LENS, LENS_RADIUS] * ex, view[LENS, LENS_RADIUS] * ey
    # through the lens point to the point in focus
    focus = view[LENS, FOCUS]
    ax = (2.0 * fx - 1.0) * view[LENS, HALF_WIDTH] * focus - lx
    ay = (1.0 - 2.0 * fy) * view[LENS, HALF_HEIGHT] * focus - ly
    az = focus
    if view[LENS, HALF_TURN] > 0.0:  # 360 degrees: no lens, the picture is longitude and latitude
        lx = ly = 0.0
        turn, rise = (2.0 * fx - 1.0) * view[LENS, HALF_TURN], (1.0 - 2.0 * fy) * view[LENS, HALF_RISE]
        ax, ay, az = math.sin(turn) * math.cos(rise), math.sin(rise), math.cos(turn) * math.cos(rise)
    s = 1.0 / math.sqrt(ax * ax + ay * ay + az * az)
    ax, ay, az = ax * s, ay * s, az * s
    ox, oy, oz = camera_axis(view, ORIGIN, tm)
    rx, ry, rz = camera_axis(view, RIGHT, tm)
    ux, uy, uz = camera_axis(view, UP, tm)
    wx, wy, wz = camera_axis(view, FORWARD, tm)
    dx, dy, dz = ax * rx + ay * ux + az * wx, ax * ry + ay * uy + az * wy, ax * rz + ay * uz + az * wz
    s = 1.0 / math.sqrt(dx * dx + dy * dy + dz * dz)
    return ox + lx * rx + ly * ux, oy + lx * ry + ly * uy, oz + lx * rz + ly * uz, dx * s, dy * s, dz * s


@njit(parallel=True, fastmath=FAST)
def add_samples(
    light, squares, counts, targets, guides, rows, x0, y0, width, height, seed, want_guides,
    tags, solid, planes, boxes, ways, mats, lights, fog, cache, view,
):  # fmt: skip
    """Bring every pixel to its wanted number of camera samples.

    Parameters
    ----------
    light : (h, w, 3) float64, sums of scene-linear RGB; the crop starts at pixel (x0, y0)
    squares : (h, w) float64, sums of squared luminance below display white
    counts, targets : (h, w) int64, samples a pixel has, and is to have
    guides : (h, w, 9) float64, sums of albedo RGB, normal XYZ, depth, motion XY (pixels)
    rows : (r,) int64, rows to work on, in the order in which they are handed to threads
    x0, y0 : int, first pixel of the crop
    width, height : size of the whole picture in pixels
    seed : uint64, of the noise pattern
    want_guides : whether guides are summed up
    tags, solid, planes, boxes, ways, mats, lights : arrays of the packed scene, see `layout`
    fog : (x, y, z) float32, density of the fog at the middles of its cells
    cache : (x, y, z, 6, 3) float32, light cache: bounced light by place and the way a surface faces; one cell for none
    view : (9, 12) float64, camera and settings, see `layout`
    """
    for k in prange(rows.shape[0]):
        y = rows[k]
        stream = np.empty(1, np.uint64)
        guide = np.zeros(GUIDE_COUNT if want_guides else 0)
        steps = int(view[PATH, STEPS])
        for x in range(light.shape[1]):
            if counts[y, x] >= targets[y, x]:
                continue
            red, green, blue, square = light[y, x, 0], light[y, x, 1], light[y, x, 2], squares[y, x]
            for sample in range(counts[y, x], targets[y, x]):
                begin_stream(stream, seed, (y + y0) * width + x + x0, sample)
                fx = (x + x0 + uniform(stream)) / width
                fy = (y + y0 + uniform(stream)) / height
                u = uniform(stream)
                tm = u if steps == 0 else ((sample % steps) + 0.5) / steps
                ox, oy, oz, dx, dy, dz = camera_ray(stream, view, tm, fx, fy)
                r_, g_, b_ = follow_path(
                    stream, tags, solid, planes, boxes, ways, mats, lights, fog, cache, view, width, height, tm,
                    ox, oy, oz, dx, dy, dz, COUNT_IN_FULL, guide,
                )  # fmt: skip
                red += r_
                green += g_
                blue += b_
                bright = pixel_luminance(r_, g_, b_)
                square += bright * bright
                if want_guides:
                    for c in range(GUIDE_COUNT):
                        guides[y, x, c] += guide[c]
            light[y, x, 0], light[y, x, 1], light[y, x, 2], squares[y, x] = red, green, blue, square
            counts[y, x] = targets[y, x]


@njit(parallel=True, fastmath=FAST)
def fill_cache(points, rays, seed, cache, tags, solid, planes, boxes, ways, mats, lights, fog, none, view):
    """Bounced light at the points of a grid, for the six ways a surface may face.

    Parameters
    ----------
    points : (x, y, z, 3) float64
    rays : number for each way
    seed : uint64, of the noise pattern
    cache : (x, y, z, 6, 3) float32, filled
    tags, solid, planes, boxes, ways, mats, lights : arrays of the packed scene, see `layout`
    fog : (x, y, z) float32, density of the fog at the middles of its cells
    none : a cache of one cell, so that paths run their full length
    view : (9, 12) float64, camera and settings, see `layout`
    """
    sx, sy, sz = points.shape[0], points.shape[1], points.shape[2]
    for cell in prange(sx * sy * sz):
        i, j, k = cell // (sy * sz), cell // sz % sy, cell % sz
        stream = np.empty(1, np.uint64)
        guide = np.zeros(0)
        for side in range(6):
            nx = 1.0 if side == 0 else (-1.0 if side == 1 else 0.0)
            ny = 1.0 if side == 2 else (-1.0 if side == 3 else 0.0)
            nz = 1.0 if side == 4 else (-1.0 if side == 5 else 0.0)
            tx, ty, tz, bx, by, bz = frame_around(nx, ny, nz)
            red = green = blue = 0.0
            for ray in range(rays):
                begin_stream(stream, seed, cell * 6 + side, ray)
                ex, ey, e2 = disc_point(stream)
                up = math.sqrt(max(1e-12, 1.0 - e2))
                r, g, b = follow_path(
                    stream, tags, solid, planes, boxes, ways, mats, lights, fog, none, view, 1, 1, 0.5,
                    points[i, j, k, 0], points[i, j, k, 1], points[i, j, k, 2],
                    ex * tx + ey * bx + up * nx, ex * ty + ey * by + up * ny, ex * tz + ey * bz + up * nz, NOT_AT_ALL, guide,
                )  # fmt: skip
                if r + g + b < NONSENSE:
                    red += r
                    green += g
                    blue += b
            cache[i, j, k, side, 0] = red / rays
            cache[i, j, k, side, 1] = green / rays
            cache[i, j, k, side, 2] = blue / rays
