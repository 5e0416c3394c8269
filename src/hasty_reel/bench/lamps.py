"""Lamps: which point of one a path looks at, and how likely that point was.

Balls are sampled over the cone they fill (Shirley, Wang and Zimmerman 1996), flat rings evenly over their
area. Densities are over solid angle, so that they can be weighed against those of surfaces.
"""

from __future__ import annotations

import math

from hasty_reel.bench.layout import CHANGE, SHAPE
from hasty_reel.bench.shapes import SPHERE
from hasty_reel.bench.surfaces import disc_point, frame_around, uniform
from hasty_reel.compiled import FAST, njit


@njit(fastmath=FAST)
def light_density(kind, a, i, tm, ox, oy, oz, dx, dy, dz, t):
    """Density over solid angle with which light shape `i` is sampled towards its point at t.

    Parameters
    ----------
    kind : int, kind of the shape
    a : (n, k) float64, the shapes of the packed scene
    i : int, index of the shape
    tm : float, time within the shutter, 0 to 1
    ox, oy, oz : float, origin of the ray, in units of the scene
    dx, dy, dz : float, its unit direction
    t : float, distance along the ray
    """
    cx, cy, cz = a[i, 0] + tm * a[i, CHANGE] - ox, a[i, 1] + tm * a[i, CHANGE + 1] - oy, a[i, 2] + tm * a[i, CHANGE + 2] - oz
    if kind == SPHERE:
        r = a[i, 3]
        dist2 = cx * cx + cy * cy + cz * cz
        sine2 = r * r / dist2
        if sine2 >= 1.0:
            return 0.0
        return 1.0 / (2.0 * math.pi * sine2 / (1.0 + math.sqrt(1.0 - sine2)))
    cosine = abs(dx * a[i, 3] + dy * a[i, 4] + dz * a[i, 5])
    area = math.pi * (a[i, 7] * a[i, 7] - a[i, 6] * a[i, 6])
    return t * t / max(1e-12, cosine * area)


@njit(fastmath=FAST)
def towards_light(kind, a, i, tm, ox, oy, oz, ex, ey, e2):
    """A direction towards a point of light `i`, its distance and density (0: none).

    (ex, ey) is a point of the unit disc with squared radius e2.

    Parameters
    ----------
    kind : int, kind of the shape
    a : (n, k) float64, the shapes of the packed scene
    i : int, index of the shape
    tm : float, time within the shutter, 0 to 1
    ox, oy, oz : float, origin of the ray, in units of the scene
    ex, ey, e2 : float, a point spread evenly over the unit disc, and its squared radius

    Returns
    -------
    dx, dy, dz : float
        Unit direction.
    reach : float
        Distance to the point, in units of the scene.
    density : float
        Over solid angle; 0 where the lamp does not shine this way.
    """
    cx, cy, cz = a[i, 0] + tm * a[i, CHANGE], a[i, 1] + tm * a[i, CHANGE + 1], a[i, 2] + tm * a[i, CHANGE + 2]
    if kind == SPHERE:
        # a ball fills a cone: a direction evenly within it, by the point of the disc (sine of the half angle = radius / distance)
        wx, wy, wz = cx - ox, cy - oy, cz - oz
        dist2 = wx * wx + wy * wy + wz * wz
        r = a[i, 3]
        sine2 = r * r / dist2
        if sine2 >= 1.0:
            return 0.0, 0.0, 0.0, 0.0, 0.0
        s = 1.0 / math.sqrt(dist2)
        wx *= s
        wy *= s
        wz *= s
        # 1 - cosine of the half angle, without the loss of digits of a small angle
        cap = sine2 / (1.0 + math.sqrt(1.0 - sine2))
        down = e2 * cap
        cosine = 1.0 - down
        sine = math.sqrt(max(0.0, down * (2.0 - down)))
        s = sine / math.sqrt(e2)
        tx, ty, tz, bx, by, bz = frame_around(wx, wy, wz)
        p, q = s * ex, s * ey
        dx, dy, dz = p * tx + q * bx + cosine * wx, p * ty + q * by + cosine * wy, p * tz + q * bz + cosine * wz
        # where the ray meets the ball: the near end of its chord
        along = math.sqrt(dist2) * cosine
        inside = max(0.0, r * r - dist2 * sine * sine)
        return dx, dy, dz, along - math.sqrt(inside), 1.0 / (2.0 * math.pi * cap)
    # a flat ring: a point evenly over it, by squared radius; its density over solid angle is distance^2 / (cosine area)
    nx, ny, nz = a[i, 3], a[i, 4], a[i, 5]
    tx, ty, tz, bx, by, bz = frame_around(nx, ny, nz)
    s = math.sqrt((a[i, 6] * a[i, 6] + e2 * (a[i, 7] * a[i, 7] - a[i, 6] * a[i, 6])) / e2)
    p, q = s * ex, s * ey
    wx, wy, wz = cx + p * tx + q * bx - ox, cy + p * ty + q * by - oy, cz + p * tz + q * bz - oz
    dist2 = wx * wx + wy * wy + wz * wz
    dist = math.sqrt(dist2)
    s = 1.0 / dist
    wx *= s
    wy *= s
    wz *= s
    cosine = -(wx * nx + wy * ny + wz * nz)
    if cosine <= 1e-9:  # a flat light shines on the side of its normal only
        return 0.0, 0.0, 0.0, 0.0, 0.0
    return wx, wy, wz, dist, dist2 / (cosine * math.pi * (a[i, 7] * a[i, 7] - a[i, 6] * a[i, 6]))


@njit(fastmath=FAST, inline="always")
def lamp_point(stream, tags, a, lights, tm, ox, oy, oz):
    """A point of one lamp, all lamps equally likely.

    Parameters
    ----------
    stream : (1,) uint64, state of the random numbers, moved on
    tags, a, lights : arrays of the packed scene, see `layout`; a : (n, k) float64, the solid shapes
    tm : float, time within the shutter, 0 to 1
    ox, oy, oz : float, where the light is wanted, in units of the scene

    Returns
    -------
    j : int
        Row of the lamp.
    dx, dy, dz : float
        Unit direction to the point.
    reach : float
        Its distance, in units of the scene.
    density : float
        Over solid angle, all lamps counted; 0 where the lamp does not shine this way.
    """
    count = lights.shape[0]
    j = lights[min(count - 1, int(uniform(stream) * count))]
    ex, ey, e2 = disc_point(stream)
    dx, dy, dz, reach, density = towards_light(tags[j, SHAPE], a, j, tm, ox, oy, oz, ex, ey, e2)
    return j, dx, dy, dz, reach, density / count
