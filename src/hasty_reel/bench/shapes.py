"""Rays against the shapes of a scene, all in closed form.

A shape is a row of twelve numbers at shutter opening (columns 0:12) and their
change until closing (`CHANGE` on); at shutter time tm (0 to 1) it stands at
`a[i, :12] + tm * a[i, 12:24]`. Few, wide arrays: passing an array costs time.

kind     numbers
sphere   centre 0:3, radius 3
plane    point 0:3, unit normal 3:6 (without bounds, tested apart)
ring     centre 0:3, unit normal 3:6, inner radius 6, outer radius 7
tube     centre 0:3, unit axis 3:6, inner radius 6, outer radius 7, half height 8
capsule  ends 0:3 and 3:6, radius 6
box      centre 0:3, half sizes 3:6, unit axes u 6:9 and v 9:12 (w = u x v)
"""

from __future__ import annotations

import math

from hasty_reel.bench.layout import CHANGE
from hasty_reel.compiled import FAST, njit

SPHERE, PLANE, RING, TUBE, CAPSULE, BOX = range(6)
FAR = 1e30


@njit(fastmath=FAST)
def sphere_distance(ox, oy, oz, dx, dy, dz, cx, cy, cz, r, near):
    """Distance along a unit ray to a sphere, FAR without a hit.

    Parameters
    ----------
    ox, oy, oz : float, origin of the ray, in units of the scene
    dx, dy, dz : float, its unit direction
    cx, cy, cz : float, its centre
    r : float, its radius
    near : float, hits nearer than this are none
    """
    px, py, pz = ox - cx, oy - cy, oz - cz
    b = px * dx + py * dy + pz * dz
    # the point of the ray closest to the centre: precise for small far spheres too
    qx, qy, qz = px - b * dx, py - b * dy, pz - b * dz
    disc = r * r - (qx * qx + qy * qy + qz * qz)
    if disc <= 0.0:
        return FAR
    root = math.sqrt(disc)
    t = -b - root
    if t > near:
        return t
    t = -b + root
    return t if t > near else FAR


@njit(fastmath=FAST)
def ring_distance(ox, oy, oz, dx, dy, dz, cx, cy, cz, nx, ny, nz, r_in, r_out, near):
    """Distance to a flat ring (r_in = 0: a disc), FAR without a hit.

    Parameters
    ----------
    ox, oy, oz : float, origin of the ray, in units of the scene
    dx, dy, dz : float, its unit direction
    cx, cy, cz : float, its centre
    nx, ny, nz : float, unit axis or normal
    r_in, r_out : float, its inner and outer radius
    near : float, hits nearer than this are none
    """
    slope = dx * nx + dy * ny + dz * nz
    if abs(slope) < 1e-12:
        return FAR
    t = ((cx - ox) * nx + (cy - oy) * ny + (cz - oz) * nz) / slope
    if t <= near:
        return FAR
    px, py, pz = ox + t * dx - cx, oy + t * dy - cy, oz + t * dz - cz
    r2 = px * px + py * py + pz * pz
    return t if r_in * r_in <= r2 <= r_out * r_out else FAR


@njit(fastmath=FAST)
def tube_distance(ox, oy, oz, dx, dy, dz, cx, cy, cz, nx, ny, nz, r_in, r_out, half, near):
    """Distance to a ring of rectangular section (a hoop), FAR without a hit.

    Parameters
    ----------
    ox, oy, oz : float, origin of the ray, in units of the scene
    dx, dy, dz : float, its unit direction
    cx, cy, cz : float, its centre
    nx, ny, nz : float, unit axis or normal
    r_in, r_out : float, its inner and outer radius
    half : float, half its height along the axis
    near : float, hits nearer than this are none
    """
    # seen along the axis the ray runs over a plane: a t^2 + 2 b t + c is its squared distance from the axis
    px, py, pz = ox - cx, oy - cy, oz - cz
    height = px * nx + py * ny + pz * nz
    slope = dx * nx + dy * ny + dz * nz
    a = 1.0 - slope * slope
    b = px * dx + py * dy + pz * dz - height * slope
    c = px * px + py * py + pz * pz - height * height
    best = FAR
    if abs(slope) > 1e-9:  # most rays pass through the hole or beside the hoop: leave early
        inv = 1.0 / slope
        enter, leave = (-half - height) * inv, (half - height) * inv
        if enter > leave:
            enter, leave = leave, enter
        if leave <= near:
            return FAR
        hole = r_in * r_in
        if c + enter * (2.0 * b + enter * a) < hole and c + leave * (2.0 * b + leave * a) < hole:
            return FAR
        middle = min(leave, max(enter, -b / max(a, 1e-12)))
        if c + middle * (2.0 * b + middle * a) > r_out * r_out:
            return FAR
    # the walls: roots of that quadratic at the outer and at the inner radius, where the ray is between the rims
    if a > 1e-12:
        disc = b * b - a * (c - r_out * r_out)
        if disc <= 0.0:
            return FAR
        root = math.sqrt(disc)
        t = (-b - root) / a
        if t > near and abs(height + t * slope) <= half:
            best = t
        t = (-b + root) / a
        if near < t < best and abs(height + t * slope) <= half:
            best = t
        disc = b * b - a * (c - r_in * r_in)
        if disc > 0.0:
            root = math.sqrt(disc)
            t = (-b - root) / a
            if near < t < best and abs(height + t * slope) <= half:
                best = t
            t = (-b + root) / a
            if near < t < best and abs(height + t * slope) <= half:
                best = t
    # the rims: planes across the axis, where the ray is between the radii
    if abs(slope) > 1e-12:
        t = (half - height) / slope
        if near < t < best and r_in * r_in <= c + t * (2.0 * b + t * a) <= r_out * r_out:
            best = t
        t = (-half - height) / slope
        if near < t < best and r_in * r_in <= c + t * (2.0 * b + t * a) <= r_out * r_out:
            best = t
    return best


@njit(fastmath=FAST)
def capsule_distance(ox, oy, oz, dx, dy, dz, ax, ay, az, bx, by, bz, r, near):
    """Distance to a rod with round ends, FAR without a hit.

    Parameters
    ----------
    ox, oy, oz : float, origin of the ray, in units of the scene
    dx, dy, dz : float, its unit direction
    ax, ay, az : float, one end
    bx, by, bz : float, the other end
    r : float, its radius
    near : float, hits nearer than this are none
    """
    ux, uy, uz = bx - ax, by - ay, bz - az
    px, py, pz = ox - ax, oy - ay, oz - az
    uu = ux * ux + uy * uy + uz * uz
    ud = ux * dx + uy * dy + uz * dz
    up = ux * px + uy * py + uz * pz
    pd = px * dx + py * dy + pz * dz
    a = uu - ud * ud
    best = FAR
    if a > 1e-12 * uu:
        b = uu * pd - up * ud
        c = uu * (px * px + py * py + pz * pz - r * r) - up * up
        disc = b * b - a * c
        if disc <= 0.0:
            return FAR
        t = (-b - math.sqrt(disc)) / a
        along = up + t * ud
        if t > near and 0.0 < along < uu:
            best = t
    t = sphere_distance(ox, oy, oz, dx, dy, dz, ax, ay, az, r, near)
    if t < best:
        best = t
    t = sphere_distance(ox, oy, oz, dx, dy, dz, bx, by, bz, r, near)
    return t if t < best else best


@njit(fastmath=FAST)
def slab(o, d, half, low, high):
    """Narrow the stretch low..high of a ray to the slab |o + t d| <= half.

    Parameters
    ----------
    o, d : float, origin and direction of the ray along one axis
    half : float, half its height along the axis
    low, high : float, the stretch so far

    Returns
    -------
    low, high : float
        The stretch that is left; `low` is the larger where none is.
    """
    if abs(d) < 1e-12:
        return (low, high) if abs(o) <= half else (FAR, -FAR)
    t0 = (-half - o) / d
    t1 = (half - o) / d
    if t0 > t1:
        t0, t1 = t1, t0
    return max(low, t0), min(high, t1)


@njit(fastmath=FAST, inline="always")
def shape_distance(kind, a, i, tm, moves, ox, oy, oz, dx, dy, dz, near):
    """Distance along a unit ray to shape `i` at shutter time `tm`, FAR without a hit.

    Parameters
    ----------
    kind : int, kind of the shape
    a : (n, k) float64, the shapes of the packed scene
    i : int, index of the shape
    tm : float, time within the shutter, 0 to 1
    moves : whether the shape moves
    ox, oy, oz : float, origin of the ray, in units of the scene
    dx, dy, dz : float, its unit direction
    near : float, hits nearer than this are none
    """
    # a shape moves in a straight line while the shutter is open: six numbers at its beginning, and what they change by
    cx, cy, cz = a[i, 0], a[i, 1], a[i, 2]
    e3, e4, e5 = a[i, 3], a[i, 4], a[i, 5]
    if moves:
        cx += tm * a[i, CHANGE]
        cy += tm * a[i, CHANGE + 1]
        cz += tm * a[i, CHANGE + 2]
        e3 += tm * a[i, CHANGE + 3]
        e4 += tm * a[i, CHANGE + 4]
        e5 += tm * a[i, CHANGE + 5]
        if kind in (TUBE, RING):
            # its axis was carried along in a straight line too, and is brought back to length 1
            s = 1.0 / math.sqrt(e3 * e3 + e4 * e4 + e5 * e5)
            e3 *= s
            e4 *= s
            e5 *= s
    if kind == SPHERE:
        return sphere_distance(ox, oy, oz, dx, dy, dz, cx, cy, cz, e3, near)
    if kind == BOX:
        ux, uy, uz = a[i, 6], a[i, 7], a[i, 8]
        vx, vy, vz = a[i, 9], a[i, 10], a[i, 11]
        if moves:
            ux += tm * a[i, CHANGE + 6]
            uy += tm * a[i, CHANGE + 7]
            uz += tm * a[i, CHANGE + 8]
            vx += tm * a[i, CHANGE + 9]
            vy += tm * a[i, CHANGE + 10]
            vz += tm * a[i, CHANGE + 11]
        # between three pairs of planes at once: the last one entered, the first one left
        px, py, pz = ox - cx, oy - cy, oz - cz
        wx, wy, wz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
        low, high = slab(px * ux + py * uy + pz * uz, dx * ux + dy * uy + dz * uz, e3, -FAR, FAR)
        low, high = slab(px * vx + py * vy + pz * vz, dx * vx + dy * vy + dz * vz, e4, low, high)
        low, high = slab(px * wx + py * wy + pz * wz, dx * wx + dy * wy + dz * wz, e5, low, high)
        if low > high:
            return FAR
        if low > near:
            return low
        return high if high > near else FAR
    if kind == TUBE:
        return tube_distance(ox, oy, oz, dx, dy, dz, cx, cy, cz, e3, e4, e5, a[i, 6], a[i, 7], a[i, 8], near)
    if kind == CAPSULE:
        return capsule_distance(ox, oy, oz, dx, dy, dz, cx, cy, cz, e3, e4, e5, a[i, 6], near)
    return ring_distance(ox, oy, oz, dx, dy, dz, cx, cy, cz, e3, e4, e5, a[i, 6], a[i, 7], near)


@njit(fastmath=FAST)
def shape_normal(kind, a, i, tm, px, py, pz):
    """Unit normal of shape `i` at a point on it, pointing out of the solid.

    Parameters
    ----------
    kind : int, kind of the shape
    a : (n, k) float64, the shapes of the packed scene
    i : int, index of the shape
    tm : float, time within the shutter, 0 to 1
    px, py, pz : float, the point, in units of the scene

    Returns
    -------
    nx, ny, nz : float
        The unit normal.
    """
    cx, cy, cz = a[i, 0] + tm * a[i, CHANGE], a[i, 1] + tm * a[i, CHANGE + 1], a[i, 2] + tm * a[i, CHANGE + 2]
    e3, e4, e5 = a[i, 3] + tm * a[i, CHANGE + 3], a[i, 4] + tm * a[i, CHANGE + 4], a[i, 5] + tm * a[i, CHANGE + 5]
    qx, qy, qz = px - cx, py - cy, pz - cz
    if kind == SPHERE:
        s = 1.0 / e3
        return qx * s, qy * s, qz * s
    if kind == CAPSULE:
        ux, uy, uz = e3 - cx, e4 - cy, e5 - cz
        h = (qx * ux + qy * uy + qz * uz) / (ux * ux + uy * uy + uz * uz)
        h = min(1.0, max(0.0, h))
        s = 1.0 / a[i, 6]
        return (qx - h * ux) * s, (qy - h * uy) * s, (qz - h * uz) * s
    if kind == BOX:
        ux, uy, uz = a[i, 6] + tm * a[i, CHANGE + 6], a[i, 7] + tm * a[i, CHANGE + 7], a[i, 8] + tm * a[i, CHANGE + 8]
        vx, vy, vz = a[i, 9] + tm * a[i, CHANGE + 9], a[i, 10] + tm * a[i, CHANGE + 10], a[i, 11] + tm * a[i, CHANGE + 11]
        wx, wy, wz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
        lu = qx * ux + qy * uy + qz * uz
        lv = qx * vx + qy * vy + qz * vz
        lw = qx * wx + qy * wy + qz * wz
        gu, gv, gw = e3 - abs(lu), e4 - abs(lv), e5 - abs(lw)
        if gu <= gv and gu <= gw:
            s = 1.0 if lu > 0 else -1.0
            return s * ux, s * uy, s * uz
        if gv <= gw:
            s = 1.0 if lv > 0 else -1.0
            return s * vx, s * vy, s * vz
        s = 1.0 if lw > 0 else -1.0
        return s * wx, s * wy, s * wz
    s = 1.0 / math.sqrt(e3 * e3 + e4 * e4 + e5 * e5)
    e3 *= s
    e4 *= s
    e5 *= s
    if kind == TUBE:
        height = qx * e3 + qy * e4 + qz * e5
        rx, ry, rz = qx - height * e3, qy - height * e4, qz - height * e5
        r = math.sqrt(rx * rx + ry * ry + rz * rz)
        g_cap = a[i, 8] - abs(height)
        g_out = abs(r - a[i, 7])
        g_in = abs(r - a[i, 6])
        if g_cap <= g_out and g_cap <= g_in:
            s = 1.0 if height > 0 else -1.0
            return s * e3, s * e4, s * e5
        s = (1.0 if g_out < g_in else -1.0) / max(r, 1e-12)
        return rx * s, ry * s, rz * s
    return e3, e4, e5


@njit(fastmath=FAST)
def plane_distance(a, i, ox, oy, oz, dx, dy, dz, near):
    """Distance to an endless plane that stands still, FAR without a hit.

    Parameters
    ----------
    a : (n, k) float64, the shapes of the packed scene
    i : int, index of the shape
    ox, oy, oz : float, origin of the ray, in units of the scene
    dx, dy, dz : float, its unit direction
    near : float, hits nearer than this are none
    """
    slope = dx * a[i, 3] + dy * a[i, 4] + dz * a[i, 5]
    if abs(slope) < 1e-12:
        return FAR
    t = ((a[i, 0] - ox) * a[i, 3] + (a[i, 1] - oy) * a[i, 4] + (a[i, 2] - oz) * a[i, 5]) / slope
    return t if t > near else FAR
