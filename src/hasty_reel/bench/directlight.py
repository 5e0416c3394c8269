"""Light that comes straight from a lamp: looked for at every meeting of a path, or met by the path itself.

Both ways count the same light; the power heuristic (Veach 1997) shares it between them.
"""

from __future__ import annotations

from hasty_reel.bench.fog import fog_lets_through
from hasty_reel.bench.lamps import lamp_point, light_density
from hasty_reel.bench.layout import CEILING, LAMP, LIGHT, MATERIAL, PATH, SHAPE
from hasty_reel.bench.scatter import ANY_WAY, held_below
from hasty_reel.bench.shapes import RING
from hasty_reel.bench.tracing import blocked
from hasty_reel.compiled import FAST, njit

NEAR = 1e-5
"""Hits nearer than this are the surface the path leaves, in units of the scene."""
SHORT_OF_LAMP = 1.0 - 1e-6
"""A lamp does not stand in its own light."""


@njit(fastmath=FAST, inline="always")
def lamp_light(tags, mats, view, j, tr, tg, tb, weight):
    """Light of a lamp that comes through, below the brightness ceiling.

    Parameters
    ----------
    tags, mats : arrays of the packed scene, see `layout`
    view : (9, 12) float64, camera and settings, see `layout`
    j : int, row of the lamp
    tr, tg, tb : float, what path and surface let through
    weight : float, of this way of counting it, over its density

    Returns
    -------
    r, g, b : float
        Scene-linear light.
    """
    m = tags[j, MATERIAL]
    return held_below(tr * weight * mats[m, LIGHT], tg * weight * mats[m, LIGHT + 1], tb * weight * mats[m, LIGHT + 2], view[PATH, CEILING])


@njit(fastmath=FAST)
def power_weight(density, other):
    """Weight over its density of a sample that either of two ways could have taken (power heuristic, Veach 1997).

    Parameters
    ----------
    density : float, over solid angle, of the way it took
    other : float, of the other way
    """
    return density / (density * density + other * other)


@njit(fastmath=FAST, inline="always")
def lamp_light_in_fog(
    stream, tags, a, planes, boxes, ways, mats, lights, fog, view, tm, ox, oy, oz, tr, tg, tb,
):  # fmt: skip
    """Light that a point in the fog scatters from one lamp into the path.

    Parameters
    ----------
    stream : (1,) uint64, state of the random numbers, moved on
    tags, a, planes, boxes, ways, mats, lights : arrays of the packed scene, see `layout`; a : (n, k) float64, the solid shapes
    fog : (x, y, z) float32, density of the fog at the middles of its cells
    view : (9, 12) float64, camera and settings, see `layout`
    tm : float, time within the shutter, 0 to 1
    ox, oy, oz : float, the point, in units of the scene
    tr, tg, tb : float, what the path lets through so far

    Returns
    -------
    r, g, b : float
        Scene-linear light, below the brightness ceiling.
    """
    j, lx, ly, lz, reach, chance = lamp_point(stream, tags, a, lights, tm, ox, oy, oz)
    if chance <= 0.0 or blocked(tags, a, planes, boxes, ways, tm, ox, oy, oz, lx, ly, lz, NEAR, reach * SHORT_OF_LAMP - NEAR):
        return 0.0, 0.0, 0.0
    through = fog_lets_through(stream, fog, view, ox, oy, oz, lx, ly, lz, reach)
    weight = through * ANY_WAY * chance / (chance * chance + ANY_WAY * ANY_WAY)
    m = tags[j, MATERIAL]
    return held_below(tr * weight * mats[m, LIGHT], tg * weight * mats[m, LIGHT + 1], tb * weight * mats[m, LIGHT + 2], view[PATH, CEILING])


@njit(fastmath=FAST, inline="always")
def lamp_seen(tags, a, mats, view, i, tm, ox, oy, oz, dx, dy, dz, t, facing, lamp_count, density, tr, tg, tb):
    """Light of a glowing surface that the path itself meets.

    Parameters
    ----------
    tags, a, mats : arrays of the packed scene, see `layout`; a : (n, k) float64, the solid shapes
    view : (9, 12) float64, camera and settings, see `layout`
    i : int, index of the shape
    tm : float, time within the shutter, 0 to 1
    ox, oy, oz : float, origin of the ray, in units of the scene
    dx, dy, dz : float, its unit direction
    t : float, distance along the ray
    facing : float, cosine between normal and the way back
    lamp_count : int, number of lamps that are sampled
    density : float, with which the direction was sampled; below 0: counted in full
    tr, tg, tb : float, what the path lets through so far

    Returns
    -------
    r, g, b : float
        Scene-linear light, below the brightness ceiling.
    """
    if facing <= 0.0 and tags[i, SHAPE] == RING:
        return 0.0, 0.0, 0.0
    weight = 1.0
    if density >= 0.0 and tags[i, LAMP] >= 0:
        chance = light_density(tags[i, SHAPE], a, i, tm, ox, oy, oz, dx, dy, dz, t) / lamp_count
        weight = density * density / (density * density + chance * chance)
    m = tags[i, MATERIAL]
    return held_below(tr * weight * mats[m, LIGHT], tg * weight * mats[m, LIGHT + 1], tb * weight * mats[m, LIGHT + 2], view[PATH, CEILING])
