"""What light does at a surface: random numbers, directions, reflection, colours.

Sources: permuted congruential generator (O'Neill 2014), microfacet reflection
with the distribution of Trowbridge and Reitz 1975 and Smith shadowing (Walter et
al. 2007), sampling of its visible normals (Heitz 2018), Fresnel's equations.
"""

from __future__ import annotations

import math

import numpy as np

from hasty_reel.compiled import FAST, njit

MATTE, METAL, GLASS, GLOWING = range(4)
PLAIN, PLANKS, TICKS, SWIRL, BANDS, GRAIN = range(6)

_MUL = np.uint64(6364136223846793005)
_INC = np.uint64(1442695040888963407)
_MIX1 = np.uint64(0xBF58476D1CE4E5B9)
_MIX2 = np.uint64(0x94D049BB133111EB)
_OUT = np.uint64(12605985483714917081)
_S59, _S43, _S30, _S27, _S31, _S11, _S5 = (np.uint64(k) for k in (59, 43, 30, 27, 31, 11, 5))
_UNIT = 1.0 / 9007199254740992.0


@njit()
def scramble(x):
    """Mix 64 bits so that neighbouring numbers give unrelated ones.

    Parameters
    ----------
    x : uint64
    """
    x = (x ^ (x >> _S30)) * _MIX1
    x = (x ^ (x >> _S27)) * _MIX2
    return x ^ (x >> _S31)


@njit()
def begin_stream(stream, seed, pixel, sample):
    """Start the random numbers of one camera path: they depend on nothing else.

    Parameters
    ----------
    stream : (1,) uint64, state of the random numbers, moved on
    seed : uint64, of the noise pattern
    pixel : int, index of the pixel
    sample : int, index of the sample
    """
    stream[0] = scramble(scramble(scramble(np.uint64(seed) + _INC) + np.uint64(pixel)) + np.uint64(sample))


@njit()
def uniform(stream):
    """The next number of a stream, 0 <= u < 1, with 53 random bits.

    Parameters
    ----------
    stream : (1,) uint64, state of the random numbers, moved on
    """
    x = stream[0]
    stream[0] = x * _MUL + _INC
    x = ((x >> ((x >> _S59) + _S5)) ^ x) * _OUT
    x = (x >> _S43) ^ x
    return np.float64(x >> _S11) * _UNIT


@njit(fastmath=FAST)
def disc_point(stream):
    """A point spread evenly over the unit disc, and its squared radius (even over 0..1).

    Parameters
    ----------
    stream : (1,) uint64, state of the random numbers, moved on

    Returns
    -------
    x, y : float
        The point, within radius 1.
    r2 : float
        Its squared radius, even over 0 to 1.
    """
    while True:  # rejection costs less than a sine and a cosine
        x = 2.0 * uniform(stream) - 1.0
        y = 2.0 * uniform(stream) - 1.0
        r2 = x * x + y * y
        if 1e-24 < r2 < 1.0:
            return x, y, r2


@njit(fastmath=FAST)
def frame_around(nx, ny, nz):
    """Two unit vectors that complete a unit normal to a frame (Duff et al. 2017).

    Parameters
    ----------
    nx, ny, nz : float, unit normal of the surface

    Returns
    -------
    tx, ty, tz : float
        Unit tangent.
    bx, by, bz : float
        Unit bitangent.
    """
    s = 1.0 if nz >= 0.0 else -1.0
    a = -1.0 / (s + nz)
    b = nx * ny * a
    return 1.0 + s * nx * nx * a, s * b, -s * nx, b, s + ny * ny * a, -ny


@njit(fastmath=FAST)
def fresnel(cosine, ior):
    """Share of unpolarised light that glass reflects; `ior` is inside over outside.

    Parameters
    ----------
    cosine : float, of the angle to the normal
    ior : float, refractive index inside over outside
    """
    sine2 = (1.0 - cosine * cosine) / (ior * ior)
    if sine2 >= 1.0:
        return 1.0
    inner = math.sqrt(1.0 - sine2)
    rs = (cosine - ior * inner) / (cosine + ior * inner)
    rp = (ior * cosine - inner) / (ior * cosine + inner)
    return 0.5 * (rs * rs + rp * rp)


@njit(fastmath=FAST)
def facet_density(alpha, hz):
    """Trowbridge-Reitz distribution of microfacet normals; `hz` = cosine to the normal.

    Parameters
    ----------
    alpha : float, roughness of the facets
    hz : float, cosine of the facet to the normal
    """
    a2 = alpha * alpha
    k = hz * hz * (a2 - 1.0) + 1.0
    return a2 / (math.pi * k * k)


@njit(fastmath=FAST)
def smith_shadow(alpha, z):
    """Share of facets seen from a direction with cosine `z` (Smith).

    Parameters
    ----------
    alpha : float, roughness of the facets
    z : float, cosine to the normal
    """
    z2 = z * z
    return 2.0 * z / (z + math.sqrt(alpha * alpha + (1.0 - alpha * alpha) * z2)) if z > 0.0 else 0.0


@njit(fastmath=FAST)
def visible_facet(alpha, vx, vy, vz, p1, p2):
    """A facet normal among those seen from the local direction v; (p1, p2) even over the unit disc.

    Parameters
    ----------
    alpha : float, roughness of the facets
    vx, vy, vz : float, local direction it is seen from
    p1, p2 : float, a point spread evenly over the unit disc

    Returns
    -------
    hx, hy, hz : float
        Unit normal of the facet, in the frame of the surface.
    """
    sx, sy, sz = alpha * vx, alpha * vy, vz
    s = 1.0 / math.sqrt(sx * sx + sy * sy + sz * sz)
    sx *= s
    sy *= s
    sz *= s
    length = sx * sx + sy * sy
    if length > 1e-14:
        q = 1.0 / math.sqrt(length)
        t1x, t1y = -sy * q, sx * q
    else:
        t1x, t1y = 1.0, 0.0
    t2x, t2y, t2z = -sz * t1y, sz * t1x, sx * t1y - sy * t1x
    h = 0.5 * (1.0 + sz)
    p2 = (1.0 - h) * math.sqrt(max(0.0, 1.0 - p1 * p1)) + h * p2
    pz = math.sqrt(max(0.0, 1.0 - p1 * p1 - p2 * p2))
    hx = alpha * (p1 * t1x + p2 * t2x + pz * sx)
    hy = alpha * (p1 * t1y + p2 * t2y + pz * sy)
    hz = max(1e-9, p2 * t2z + pz * sz)
    s = 1.0 / math.sqrt(hx * hx + hy * hy + hz * hz)
    return hx * s, hy * s, hz * s


@njit(fastmath=FAST)
def lattice(ix, iz):
    """A fixed random number for a cell of a plane lattice.

    Parameters
    ----------
    ix, iz : int, cell of the lattice
    """
    return np.float64(scramble(np.uint64(ix * 73856093 ^ iz * 19349663) + _INC) >> _S11) * _UNIT


@njit(fastmath=FAST)
def blend_share(pattern, scale, x, y, z, nx, ny, nz):
    """Share of the second colour of a pattern at a point given from the shape's centre.

    Parameters
    ----------
    pattern : int, kind of the pattern
    scale : float, its size
    x, y, z : float, the point, from the shape's centre
    nx, ny, nz : float, unit normal of the surface
    """
    if pattern == PLANKS:
        row = math.floor(z / scale)
        along = x + 3.7 * scale * lattice(np.int64(row), 7)
        plank = math.floor(along / (6.0 * scale))
        tone = lattice(np.int64(row), np.int64(plank))
        fibre = 0.5 + 0.5 * math.sin(22.0 * z / scale + 3.0 * math.sin(1.7 * x / scale + 9.0 * tone))
        return min(1.0, 0.62 * tone + 0.38 * fibre)
    if pattern == TICKS:
        turn = math.atan2(z, x) / (2.0 * math.pi) * scale
        off = abs(turn - math.floor(turn + 0.5))
        major = math.floor(turn + 0.5) % 5 == 0
        return 1.0 if off < (0.16 if major else 0.07) else 0.0
    if pattern == SWIRL:
        w = scale * y + 1.6 * math.sin(1.3 * scale * x + 0.9) + 1.1 * math.sin(1.9 * scale * z + 2.0 * scale * y)
        return 0.5 + 0.5 * math.sin(w)
    if pattern == BANDS:
        return 1.0 if math.floor(scale * y + 1e-9) % 2 == 0 else 0.0
    if pattern == GRAIN:
        w = math.sin(scale * (x + 0.35 * math.sin(2.1 * z))) * math.sin(0.23 * scale * y + 0.11 * scale * z)
        return 0.5 + 0.5 * w
    return 0.0
