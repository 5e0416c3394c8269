"""Bounced light on a grid of points: six values a point, one for each way a surface may face.

A matte surface met by a path that has bounced already takes its bounced light from here instead
of following the path on (an irradiance volume; Greger, Shirley, Hubbard and Greenberg 1998).
`cache` is (x, y, z, 6, 3) in radiance a white matte surface would show; its box stands in row `CACHE` of `view`.
"""

from __future__ import annotations

from hasty_reel.bench.layout import BOX_HIGH, BOX_LOW, CACHE
from hasty_reel.compiled import FAST, njit


@njit(fastmath=FAST)
def cached_light(cache, view, x, y, z, nx, ny, nz):
    """Bounced light at a point for a surface that faces (nx, ny, nz): trilinear in place, by squares in direction.

    Parameters
    ----------
    cache : (x, y, z, 6, 3) float32, light cache: bounced light by place and the way a surface faces; one cell for none
    view : (9, 12) float64, camera and settings, see `layout`
    x, y, z : float, the point, in units of the scene
    nx, ny, nz : float, unit normal of the surface

    Returns
    -------
    red, green, blue : float
        Radiance that a white matte surface would show.
    """
    sx, sy, sz = cache.shape[0], cache.shape[1], cache.shape[2]
    u = min(max((x - view[CACHE, BOX_LOW]) / (view[CACHE, BOX_HIGH] - view[CACHE, BOX_LOW]) * (sx - 1), 0.0), sx - 1.001)
    v = min(max((y - view[CACHE, BOX_LOW + 1]) / (view[CACHE, BOX_HIGH + 1] - view[CACHE, BOX_LOW + 1]) * (sy - 1), 0.0), sy - 1.001)
    w = min(max((z - view[CACHE, BOX_LOW + 2]) / (view[CACHE, BOX_HIGH + 2] - view[CACHE, BOX_LOW + 2]) * (sz - 1), 0.0), sz - 1.001)
    i, j, k = int(u), int(v), int(w)
    fu, fv, fw = u - i, v - j, w - k
    red = green = blue = 0.0
    for axis in range(3):
        n = nx if axis == 0 else (ny if axis == 1 else nz)
        side = 2 * axis if n >= 0.0 else 2 * axis + 1
        share = n * n
        for corner in range(8):
            a, b, c = corner & 1, corner >> 1 & 1, corner >> 2 & 1
            weight = share * (fu if a else 1 - fu) * (fv if b else 1 - fv) * (fw if c else 1 - fw)
            red += weight * cache[i + a, j + b, k + c, side, 0]
            green += weight * cache[i + a, j + b, k + c, side, 1]
            blue += weight * cache[i + a, j + b, k + c, side, 2]
    return red, green, blue
