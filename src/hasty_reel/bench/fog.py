"""Fog and smoke: density on a grid in a box, marched through in steps of a share of a cell.

Light is scattered alike into all directions. Where a path meets fog is found by marching until its
optical depth passes -log(1 - u) (Beer-Lambert). Coarse steps are
cheap and lose thin detail: that is their price. What there is
to know of it stands in `view` (row `FOG`, see `layout`).
"""

from __future__ import annotations

import math

from hasty_reel.bench.layout import BOX_HIGH, BOX_LOW, FOG, FOG_CUT, FOG_STEP, THICKNESS
from hasty_reel.bench.surfaces import uniform
from hasty_reel.compiled import FAST, njit

FAR = 1e30


@njit(fastmath=FAST)
def fog_span(view, ox, oy, oz, dx, dy, dz, reach):
    """From where to where a ray of some reach runs in the box; the second is smaller where it misses.

    Parameters
    ----------
    view : (9, 12) float64, camera and settings, see `layout`
    ox, oy, oz : float, origin of the ray, in units of the scene
    dx, dy, dz : float, its unit direction
    reach : float, length of the ray, in units of the scene

    Returns
    -------
    begin, end : float
        Distances along the ray, in units of the scene; `end` is the smaller where it misses the box.
    """
    begin, end = 0.0, reach
    for axis in range(3):
        o = ox if axis == 0 else (oy if axis == 1 else oz)
        d = dx if axis == 0 else (dy if axis == 1 else dz)
        low, high = view[FOG, BOX_LOW + axis], view[FOG, BOX_HIGH + axis]
        if abs(d) < 1e-12:
            if o < low or o > high:
                return 0.0, -1.0
            continue
        a, b = (low - o) / d, (high - o) / d
        begin = max(begin, min(a, b))
        end = min(end, max(a, b))
    return begin, end


@njit(fastmath=FAST)
def fog_density(fog, view, x, y, z):
    """Density at a point of the box, linear between the middles of the cells.

    Parameters
    ----------
    fog : (x, y, z) float32, density of the fog at the middles of its cells
    view : (9, 12) float64, camera and settings, see `layout`
    x, y, z : float, the point, in units of the scene
    """
    nx, ny, nz = fog.shape
    u = min(max((x - view[FOG, BOX_LOW]) / (view[FOG, BOX_HIGH] - view[FOG, BOX_LOW]) * nx - 0.5, 0.0), nx - 1.001)
    v = min(max((y - view[FOG, BOX_LOW + 1]) / (view[FOG, BOX_HIGH + 1] - view[FOG, BOX_LOW + 1]) * ny - 0.5, 0.0), ny - 1.001)
    w = min(max((z - view[FOG, BOX_LOW + 2]) / (view[FOG, BOX_HIGH + 2] - view[FOG, BOX_LOW + 2]) * nz - 0.5, 0.0), nz - 1.001)
    i, j, k = int(u), int(v), int(w)
    fu, fv, fw = u - i, v - j, w - k
    low = (fog[i, j, k] * (1 - fu) + fog[i + 1, j, k] * fu) * (1 - fv) + (fog[i, j + 1, k] * (1 - fu) + fog[i + 1, j + 1, k] * fu) * fv
    high = (
        (fog[i, j, k + 1] * (1 - fu) + fog[i + 1, j, k + 1] * fu) * (1 - fv)
        + (fog[i, j + 1, k + 1] * (1 - fu) + fog[i + 1, j + 1, k + 1] * fu) * fv
    )  # fmt: skip
    return low * (1 - fw) + high * fw


@njit(fastmath=FAST)
def fog_meets(stream, fog, view, ox, oy, oz, dx, dy, dz, reach):
    """How far along a ray a path is scattered by the fog; -1 where it gets through.

    Parameters
    ----------
    stream : (1,) uint64, state of the random numbers, moved on
    fog : (x, y, z) float32, density of the fog at the middles of its cells
    view : (9, 12) float64, camera and settings, see `layout`
    ox, oy, oz : float, origin of the ray, in units of the scene
    dx, dy, dz : float, its unit direction
    reach : float, length of the ray, in units of the scene
    """
    begin, end = fog_span(view, ox, oy, oz, dx, dy, dz, reach)
    if end <= begin:
        return -1.0
    wanted = -math.log(1.0 - uniform(stream))
    shift = uniform(stream)
    step = (view[FOG, BOX_HIGH] - view[FOG, BOX_LOW]) / fog.shape[0] * view[FOG, FOG_STEP]
    t, depth = begin, 0.0
    while t < end:
        long = min(step, end - t)
        at = t + shift * long
        gain = view[FOG, THICKNESS] * fog_density(fog, view, ox + at * dx, oy + at * dy, oz + at * dz) * long
        if depth + gain >= wanted:
            return t + long * (wanted - depth) / gain
        depth += gain
        t += long
    return -1.0


@njit(fastmath=FAST)
def fog_lets_through(stream, fog, view, ox, oy, oz, dx, dy, dz, reach):
    """Share of the light that comes through the fog along a ray towards a lamp; 0 once it falls below the cut.

    Parameters
    ----------
    stream : (1,) uint64, state of the random numbers, moved on
    fog : (x, y, z) float32, density of the fog at the middles of its cells
    view : (9, 12) float64, camera and settings, see `layout`
    ox, oy, oz : float, origin of the ray, in units of the scene
    dx, dy, dz : float, its unit direction
    reach : float, length of the ray, in units of the scene
    """
    begin, end = fog_span(view, ox, oy, oz, dx, dy, dz, reach)
    if end <= begin:
        return 1.0
    shift = uniform(stream)
    step = (view[FOG, BOX_HIGH] - view[FOG, BOX_LOW]) / fog.shape[0] * view[FOG, FOG_STEP]
    most = FAR if view[FOG, FOG_CUT] <= 0.0 else -math.log(view[FOG, FOG_CUT])
    t, depth = begin, 0.0
    while t < end:
        long = min(step, end - t)
        at = t + shift * long
        depth += view[FOG, THICKNESS] * fog_density(fog, view, ox + at * dx, oy + at * dy, oz + at * dz) * long
        if depth > most:
            return 0.0
        t += long
    return math.exp(-depth)
