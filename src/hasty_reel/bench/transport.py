"""Paths from the camera through the scene to the light: the kernel of the bench renderer.

Backward path tracing with next-event estimation; light samples and surface
samples are weighed by the power heuristic (Veach 1997). Every random number
depends on seed, pixel and sample alone, so a picture is the same on any number
of threads and however it is cut into passes.

The arrays of a frame and the names of their rows and columns stand in `layout`.
"""

from __future__ import annotations

import math

from hasty_reel.bench.directlight import NEAR, SHORT_OF_LAMP, lamp_light, lamp_light_in_fog, lamp_seen, power_weight
from hasty_reel.bench.fog import fog_lets_through, fog_meets
from hasty_reel.bench.guides import one_frame_later, write_guide
from hasty_reel.bench.lamps import lamp_point
from hasty_reel.bench.layout import (
    APPROXIMATE_AFTER,
    APPROXIMATE_DISTANCE,
    APPROXIMATE_LIGHT,
    CEILING,
    CHANGE,
    COLOUR,
    FOG,
    FOG_BOUNCES,
    FOG_COLOUR,
    GLASS_BOUNCES,
    GLOSSY_BOUNCES,
    HAS_SKY,
    LENS,
    LIMITS,
    MATERIAL,
    MATTE_BOUNCES,
    MOST_BOUNCES,
    PATH,
    PATTERN,
    REFRACTION,
    ROUGHNESS,
    SCALE,
    SECOND,
    SHAPE,
    SKY_HIGH,
    SKY_LOW,
    SURFACE,
)
from hasty_reel.bench.lightgrid import cached_light
from hasty_reel.bench.scatter import ANY_WAY, GRAZING, any_direction, glass_bounce, held_below, metal_bounce, metal_reflects
from hasty_reel.bench.shapes import FAR, shape_normal
from hasty_reel.bench.surfaces import GLASS, GLOWING, METAL, blend_share, disc_point, frame_around, uniform
from hasty_reel.bench.tracing import blocked, closest
from hasty_reel.compiled import FAST, njit

SKY_DISTANCE = 1e4
"""Where the sky is taken to be, for its motion, in units of the scene."""
LEAST_FACING = 1e-6
"""Cosine below which a surface counts as seen edge on."""
LEAST_ALPHA = 1e-3
"""Metals are never smoother than this, else their highlights would have no width."""
MOST_STAY = 0.95
"""Even a bright path ends by chance in one of twenty bounces."""


@njit(fastmath=FAST, inline="always")
def surface_colour(tags, a, mats, i, tm, px, py, pz, nx, ny, nz):
    """Albedo of shape `i` at a point, its pattern included.

    Parameters
    ----------
    tags, a, mats : arrays of the packed scene, see `layout`; a : (n, k) float64, the solid shapes
    i : int, index of the shape
    tm : float, time within the shutter, 0 to 1
    px, py, pz : float, the point, in units of the scene
    nx, ny, nz : float, unit normal of the surface

    Returns
    -------
    r, g, b : float
        The albedo, scene-linear.
    """
    m, pattern = tags[i, MATERIAL], tags[i, PATTERN]
    r, g, b = mats[m, COLOUR], mats[m, COLOUR + 1], mats[m, COLOUR + 2]
    if pattern != 0:
        x, y, z = px - a[i, 0] - tm * a[i, CHANGE], py - a[i, 1] - tm * a[i, CHANGE + 1], pz - a[i, 2] - tm * a[i, CHANGE + 2]
        share = blend_share(pattern, mats[m, SCALE], x, y, z, nx, ny, nz)
        r += share * (mats[m, SECOND] - r)
        g += share * (mats[m, SECOND + 1] - g)
        b += share * (mats[m, SECOND + 2] - b)
    return r, g, b


@njit(fastmath=FAST, inline="always")
def sky_light(view, dy):
    """Radiance of the sky, between its colour at the horizon's foot and at the zenith.

    Parameters
    ----------
    view : (9, 12) float64, camera and settings, see `layout`
    dy : float, upward part of the unit direction

    Returns
    -------
    r, g, b : float
        Scene-linear radiance.
    """
    up = 0.5 + 0.5 * dy
    return (
        view[LENS, SKY_LOW] + up * (view[LENS, SKY_HIGH] - view[LENS, SKY_LOW]),
        view[LENS, SKY_LOW + 1] + up * (view[LENS, SKY_HIGH + 1] - view[LENS, SKY_LOW + 1]),
        view[LENS, SKY_LOW + 2] + up * (view[LENS, SKY_HIGH + 2] - view[LENS, SKY_LOW + 2]),
    )


@njit(fastmath=FAST)
def follow_path(
    stream, tags, a, planes, boxes, ways, mats, lights, fog, cache, view, width, height, tm, ox, oy, oz, dx, dy, dz, density, guide,
):  # fmt: skip
    """One path: the light it brings (RGB); `guide` is filled at its first hit.

    `density` is that of its first direction against light samples: negative counts lamps it hits
    in full, 0 not at all.

    Parameters
    ----------
    stream : (1,) uint64, state of the random numbers, moved on
    tags, a, planes, boxes, ways, mats, lights : arrays of the packed scene, see `layout`; a : (n, k) float64, the solid shapes
    fog : (x, y, z) float32, density of the fog at the middles of its cells
    cache : (x, y, z, 6, 3) float32, light cache: bounced light by place and the way a surface faces; one cell for none
    view : (9, 12) float64, camera and settings, see `layout`
    width, height : int, size of the whole picture in pixels
    tm : float, time within the shutter, 0 to 1
    ox, oy, oz : float, origin of the ray, in units of the scene
    dx, dy, dz : float, its unit direction
    density : float, with which the direction was sampled; -1 for a camera ray
    guide : (9,) float64, filled at the first hit; (0,) where none is wanted

    Returns
    -------
    r, g, b : float
        Scene-linear light of the path.
    """
    red = green = blue = 0.0
    tr = tg = tb = 1.0
    bounces, ceiling, light_count = int(view[PATH, MOST_BOUNCES]), view[PATH, CEILING], lights.shape[0]
    foggy, cached, guided = fog.shape[0] > 1, cache.shape[0] > 1, guide.shape[0] > 0
    rough, shiny, clear, misty = 0, 0, 0, 0  # bounces so far off matte and glossy surfaces, through glass, in fog
    over = False  # one kind has had all its bounces: only lamps count from here
    near_only = False  # bounced light is approximated from the last surface on
    for depth in range(bounces + 2):
        t, i = closest(tags, a, planes, boxes, ways, tm, ox, oy, oz, dx, dy, dz, NEAR, FAR)
        if foggy:
            s = fog_meets(stream, fog, view, ox, oy, oz, dx, dy, dz, t if i >= 0 else FAR)
            if s >= 0.0:
                ox, oy, oz = ox + s * dx, oy + s * dy, oz + s * dz
                if depth == 0 and guided:
                    write_guide(guide, view, width, height, tm, ox, oy, oz, ox, oy, oz, 1.0, 1.0, 1.0, 0.0, 0.0, 0.0)
                if depth > bounces or over:
                    break
                tr, tg, tb = tr * view[FOG, FOG_COLOUR], tg * view[FOG, FOG_COLOUR + 1], tb * view[FOG, FOG_COLOUR + 2]
                if light_count > 0:
                    r, g, b = lamp_light_in_fog(stream, tags, a, planes, boxes, ways, mats, lights, fog, view, tm, ox, oy, oz, tr, tg, tb)
                    red, green, blue = red + r, green + g, blue + b
                misty += 1
                over = misty > int(view[PATH, FOG_BOUNCES])
                dx, dy, dz = any_direction(stream)
                density = ANY_WAY
                continue
        if near_only and i >= 0 and tags[i, SURFACE] != GLOWING:
            if t > view[LIMITS, APPROXIMATE_DISTANCE]:  # open as far as it looks: the mean light of the scene comes from there
                red += tr * view[LIMITS, APPROXIMATE_LIGHT]
                green += tg * view[LIMITS, APPROXIMATE_LIGHT + 1]
                blue += tb * view[LIMITS, APPROXIMATE_LIGHT + 2]
            break
        if i < 0:
            if view[PATH, HAS_SKY] > 0.0:
                r, g, b = sky_light(view, dy)
                r, g, b = held_below(tr * r, tg * g, tb * b, ceiling)
                red, green, blue = red + r, green + g, blue + b
            if depth == 0 and guided:
                px, py, pz = ox + SKY_DISTANCE * dx, oy + SKY_DISTANCE * dy, oz + SKY_DISTANCE * dz
                write_guide(guide, view, width, height, tm, px, py, pz, px, py, pz, 1.0, 1.0, 1.0, 0.0, 0.0, 0.0)
            break
        px, py, pz = ox + t * dx, oy + t * dy, oz + t * dz
        nx, ny, nz = shape_normal(tags[i, SHAPE], a, i, tm, px, py, pz)
        facing = -(dx * nx + dy * ny + dz * nz)
        kind = tags[i, SURFACE]
        cr, cg, cb = surface_colour(tags, a, mats, i, tm, px, py, pz, nx, ny, nz)
        if depth == 0 and guided:
            qx, qy, qz = one_frame_later(a, i, px, py, pz)
            if kind in (GLASS, GLOWING):
                write_guide(guide, view, width, height, tm, px, py, pz, qx, qy, qz, 1.0, 1.0, 1.0, nx, ny, nz)
            else:
                write_guide(guide, view, width, height, tm, px, py, pz, qx, qy, qz, cr, cg, cb, nx, ny, nz)
        if kind == GLOWING:
            r, g, b = lamp_seen(tags, a, mats, view, i, tm, ox, oy, oz, dx, dy, dz, t, facing, light_count, density, tr, tg, tb)
            red, green, blue = red + r, green + g, blue + b
            break
        if depth > bounces or over:
            break
        if kind == GLASS:
            clear += 1
            over = clear > int(view[LIMITS, GLASS_BOUNCES])
            dx, dy, dz, through = glass_bounce(stream, dx, dy, dz, nx, ny, nz, facing, mats[tags[i, MATERIAL], REFRACTION])
            if through:
                tr, tg, tb = tr * cr, tg * cg, tb * cb
            density = -1.0
            ox, oy, oz = px, py, pz
            continue
        if facing < 0.0:
            nx, ny, nz, facing = -nx, -ny, -nz, -facing
        facing = max(facing, LEAST_FACING)
        # a hair above the surface, on the side the path came from
        lift = NEAR * (1.0 + abs(px) + abs(py) + abs(pz))
        ox, oy, oz = px + lift * nx, py + lift * ny, pz + lift * nz
        tx, ty, tz, bx, by, bz = frame_around(nx, ny, nz)
        metal = kind == METAL
        alpha = max(LEAST_ALPHA, mats[tags[i, MATERIAL], ROUGHNESS] ** 2)
        vx, vy, vz = -(dx * tx + dy * ty + dz * tz), -(dx * bx + dy * by + dz * bz), facing
        if light_count > 0:
            j, lx, ly, lz, reach, chance = lamp_point(stream, tags, a, lights, tm, ox, oy, oz)
            cosine = lx * nx + ly * ny + lz * nz
            if chance > 0.0 and cosine > 0.0:
                if metal:
                    ex, ey = lx * tx + ly * ty + lz * tz, lx * bx + ly * by + lz * bz
                    fr, fg, fb, own_chance = metal_reflects(alpha, vx, vy, vz, ex, ey, cosine, cr, cg, cb)
                else:
                    own_chance = cosine / math.pi
                    fr, fg, fb = cr * own_chance, cg * own_chance, cb * own_chance
                if fr + fg + fb > 0.0 and not blocked(
                    tags, a, planes, boxes, ways, tm, ox, oy, oz, lx, ly, lz, NEAR, reach * SHORT_OF_LAMP - NEAR
                ):
                    weight = power_weight(chance, own_chance)
                    if foggy:
                        weight *= fog_lets_through(stream, fog, view, ox, oy, oz, lx, ly, lz, reach)
                    r, g, b = lamp_light(tags, mats, view, j, tr * fr, tg * fg, tb * fb, weight)
                    red, green, blue = red + r, green + g, blue + b
        if cached and not metal and depth >= 1:
            r, g, b = cached_light(cache, view, ox, oy, oz, nx, ny, nz)
            red, green, blue = red + tr * cr * r, green + tg * cg * g, blue + tb * cb * b
            break
        near_only = depth == int(view[LIMITS, APPROXIMATE_AFTER])
        ex, ey, e2 = disc_point(stream)
        if metal:
            shiny += 1
            over = shiny > int(view[LIMITS, GLOSSY_BOUNCES])
            lx, ly, lz, r, g, b, density = metal_bounce(alpha, vx, vy, vz, ex, ey, cr, cg, cb)
            if lz <= GRAZING:
                break
            tr, tg, tb = tr * r, tg * g, tb * b
        else:
            rough += 1
            over = rough > int(view[LIMITS, MATTE_BOUNCES])
            lx, ly, lz = ex, ey, math.sqrt(max(1e-12, 1.0 - e2))  # the cosine law: a point of the disc, lifted to the sphere
            tr, tg, tb = tr * cr, tg * cg, tb * cb
            density = lz / math.pi
        dx, dy, dz = lx * tx + ly * bx + lz * nx, lx * ty + ly * by + lz * ny, lx * tz + ly * bz + lz * nz
        if depth >= 1:  # dim paths end by chance; those that go on make up for them
            stay = min(MOST_STAY, max(tr, max(tg, tb)))
            if uniform(stream) >= stay:
                break
            tr, tg, tb = tr / stay, tg / stay, tb / stay
    return red, green, blue
