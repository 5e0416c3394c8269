"""One meeting of a path with a surface or with fog: what is reflected towards a lamp, and where the path goes on.

Directions at a surface are told in its own frame (tangent, bitangent, normal) where a name ends in no axis of
the scene. Sources: see `surfaces`.
"""

from __future__ import annotations

import math

from hasty_reel.bench.surfaces import facet_density, fresnel, smith_shadow, uniform, visible_facet
from hasty_reel.compiled import FAST, njit

ANY_WAY = 0.25 / math.pi
"""Density over solid angle of a direction that may be any, as fog scatters."""
GRAZING = 1e-6
"""A direction that leaves the surface lower than this is lost below it."""


@njit(fastmath=FAST, inline="always")
def any_direction(stream):
    """A unit direction, all equally likely.

    Parameters
    ----------
    stream : (1,) uint64, state of the random numbers, moved on

    Returns
    -------
    dx, dy, dz : float
        The direction.
    """
    dy = 1.0 - 2.0 * uniform(stream)
    turn = 2.0 * math.pi * uniform(stream)
    level = math.sqrt(max(0.0, 1.0 - dy * dy))
    return level * math.cos(turn), dy, level * math.sin(turn)


@njit(fastmath=FAST, inline="always")
def metal_tint(cosine, cr, cg, cb):
    """Colour of a metal's reflection: whiter towards grazing light (Schlick 1994).

    Parameters
    ----------
    cosine : float, between the light and the facet
    cr, cg, cb : float, colour of the metal seen straight on

    Returns
    -------
    r, g, b : float
        Share of the light that is reflected.
    """
    edge = (1.0 - max(0.0, min(1.0, cosine))) ** 5
    return cr + (1 - cr) * edge, cg + (1 - cg) * edge, cb + (1 - cb) * edge


@njit(fastmath=FAST, inline="always")
def metal_reflects(alpha, vx, vy, vz, lx, ly, lz, cr, cg, cb):
    """What a rough metal reflects of a lamp, cosine included.

    Parameters
    ----------
    alpha : float, width of the spread of facets: roughness squared
    vx, vy, vz : float, unit direction to where the path came from, in the frame of the surface
    lx, ly, lz : float, unit direction to the lamp, in the same frame
    cr, cg, cb : float, colour of the metal

    Returns
    -------
    r, g, b : float
        Reflected share, cosine included.
    density : float
        Over solid angle, with which the path itself would have gone there.
    """
    hx, hy, hz = lx + vx, ly + vy, lz + vz
    s = 1.0 / math.sqrt(hx * hx + hy * hy + hz * hz)
    facets = facet_density(alpha, hz * s) * smith_shadow(alpha, vz) / (4.0 * vz)
    grey = facets * smith_shadow(alpha, lz)
    r, g, b = metal_tint((hx * lx + hy * ly + hz * lz) * s, cr, cg, cb)
    return grey * r, grey * g, grey * b, facets


@njit(fastmath=FAST, inline="always")
def metal_bounce(alpha, vx, vy, vz, ex, ey, cr, cg, cb):
    """Where a path goes on from a rough metal (one of its visible facets, Heitz 2018).

    Parameters
    ----------
    alpha : float, width of the spread of facets: roughness squared
    vx, vy, vz : float, unit direction to where the path came from, in the frame of the surface
    ex, ey : float, a point spread evenly over the unit disc
    cr, cg, cb : float, colour of the metal

    Returns
    -------
    lx, ly, lz : float
        Unit direction in the frame of the surface; at or below `GRAZING` the path is lost.
    r, g, b : float
        What its light is multiplied by.
    density : float
        Over solid angle, with which it went there.
    """
    hx, hy, hz = visible_facet(alpha, vx, vy, vz, ex, ey)
    along = vx * hx + vy * hy + vz * hz
    lx, ly, lz = 2 * along * hx - vx, 2 * along * hy - vy, 2 * along * hz - vz
    if lz <= GRAZING:
        return lx, ly, lz, 0.0, 0.0, 0.0, 0.0
    shade = smith_shadow(alpha, lz)
    r, g, b = metal_tint(along, cr, cg, cb)
    return lx, ly, lz, shade * r, shade * g, shade * b, facet_density(alpha, hz) * smith_shadow(alpha, vz) / (4.0 * vz)


@njit(fastmath=FAST, inline="always")
def glass_bounce(stream, dx, dy, dz, nx, ny, nz, facing, refraction):
    """Where a path goes on from glass: mirrored or bent, by chance in the proportion of Fresnel's equations.

    Parameters
    ----------
    stream : (1,) uint64, state of the random numbers, moved on
    dx, dy, dz : float, unit direction of the path
    nx, ny, nz : float, unit normal of the surface
    facing : float, cosine between normal and the way back; negative from within
    refraction : float, refractive index of the glass

    Returns
    -------
    dx, dy, dz : float
        The new unit direction.
    through : bool
        Whether it passed the surface: then the glass colours it.
    """
    if facing < 0.0:
        nx, ny, nz, facing, refraction = -nx, -ny, -nz, -facing, 1.0 / refraction
    through = uniform(stream) >= fresnel(min(1.0, facing), refraction)
    if through:
        eta = 1.0 / refraction
        k = eta * facing - math.sqrt(max(0.0, 1.0 - eta * eta * (1.0 - facing * facing)))
        dx, dy, dz = eta * dx + k * nx, eta * dy + k * ny, eta * dz + k * nz
    else:
        dx, dy, dz = dx + 2.0 * facing * nx, dy + 2.0 * facing * ny, dz + 2.0 * facing * nz
    s = 1.0 / math.sqrt(dx * dx + dy * dy + dz * dz)
    return dx * s, dy * s, dz * s, through


@njit(fastmath=FAST)
def held_below(r, g, b, ceiling):
    """Scale a contribution so that its largest channel stays at or below the ceiling.

    Parameters
    ----------
    r, g, b : float, light of the contribution
    ceiling : float, the largest a channel may be

    Returns
    -------
    r, g, b : float
        The contribution, its colour kept.
    """
    top = max(r, max(g, b))
    if top > ceiling:
        s = ceiling / top
        return r * s, g * s, b * s
    return r, g, b
