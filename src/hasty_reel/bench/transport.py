"""Paths from the camera through the scene to the light: the kernel of the bench renderer.

Backward path tracing with next-event estimation; light samples and surface
samples are weighed by the power heuristic (Veach 1997). Every random number
depends on seed, pixel and sample alone, so a picture is the same on any number
of threads and however it is cut into passes.

The arrays of one frame (see `scene.pack`), few and wide since each array passed costs time:

tags (n, 6) int    kind of shape, moves, material, number as a light or -1, kind of material, pattern
solid (n, 36)      shape at shutter opening, change until closing, rigid motion to the next frame (3 x 4)
boxes, ways        the bounding hierarchy, see `shapes.closest`
mats (m, 12)       colour 0:3, second colour 3:6, roughness 6, refractive index 7, light 8:11, pattern scale 11
lights             rows of glowing shapes that are sampled
fog (x, y, z)      density of fog on a grid, see `fog`; one cell where there is none
cache              bounced light on a grid, see `lightcache`; one cell where there is none
view (9, 12)       camera now at shutter opening, change until closing, next frame at opening, change until
                   closing (origin, right, up, forward each); row 4: half width and height of the view at
                   distance 1, focus distance, lens radius, sky low 4:7 and high 7:10, half the angles of
                   a 360-degree picture 10:12 (0: flat picture); row 5: shutter steps
                   (0: a random time for each sample), bounces, brightness ceiling, sky on or off, bounces in
                   fog; row 6: the fog; row 7: bounces off matte, glossy and through glass 0:3, bounces before
                   bounced light is approximated 3 (-1: never), how far it looks 4, its light 5:8;
                   row 8: the box of the light cache 0:6
"""

from __future__ import annotations

import math

from hasty_reel.bench.fog import fog_lets_through, fog_meets
from hasty_reel.bench.lightgrid import cached_light
from hasty_reel.bench.shapes import FAR, RING, SPHERE, blocked, closest, shape_normal
from hasty_reel.bench.surfaces import (
    GLASS,
    GLOWING,
    METAL,
    blend_share,
    disc_point,
    facet_density,
    frame_around,
    fresnel,
    smith_shadow,
    uniform,
    visible_facet,
)
from hasty_reel.compiled import FAST, njit

NEAR = 1e-5
SKY_DISTANCE = 1e4
GUIDE_COUNT = 9


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
    cx, cy, cz = a[i, 0] + tm * a[i, 12] - ox, a[i, 1] + tm * a[i, 13] - oy, a[i, 2] + tm * a[i, 14] - oz
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
    """
    cx, cy, cz = a[i, 0] + tm * a[i, 12], a[i, 1] + tm * a[i, 13], a[i, 2] + tm * a[i, 14]
    if kind == SPHERE:
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
        cap = sine2 / (1.0 + math.sqrt(1.0 - sine2))
        down = e2 * cap
        cosine = 1.0 - down
        sine = math.sqrt(max(0.0, down * (2.0 - down)))
        s = sine / math.sqrt(e2)
        tx, ty, tz, bx, by, bz = frame_around(wx, wy, wz)
        p, q = s * ex, s * ey
        dx, dy, dz = p * tx + q * bx + cosine * wx, p * ty + q * by + cosine * wy, p * tz + q * bz + cosine * wz
        along = math.sqrt(dist2) * cosine
        inside = max(0.0, r * r - dist2 * sine * sine)
        return dx, dy, dz, along - math.sqrt(inside), 1.0 / (2.0 * math.pi * cap)
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
    """
    qx = px - (view[row, 0] + tm * view[row + 1, 0])
    qy = py - (view[row, 1] + tm * view[row + 1, 1])
    qz = pz - (view[row, 2] + tm * view[row + 1, 2])
    x = y = z = 0.0
    for axis in range(3):
        k = 3 + 3 * axis
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
    if view[4, 10] > 0.0:
        level = math.sqrt(x * x + z * z)
        far = math.sqrt(level * level + y * y)
        return (0.5 + 0.5 * math.atan2(x, z) / view[4, 10]) * width, (0.5 - 0.5 * math.atan2(y, level) / view[4, 11]) * height, far
    z_safe = max(z, 1e-6)
    return (0.5 + 0.5 * x / (z_safe * view[4, 0])) * width, (0.5 - 0.5 * y / (z_safe * view[4, 1])) * height, z


@njit(fastmath=FAST)
def held_below(r, g, b, ceiling):
    """Scale a contribution so that its largest channel stays at or below the ceiling.

    Parameters
    ----------
    r, g, b : float, light of the contribution
    ceiling : float, the largest a channel may be
    """
    top = max(r, max(g, b))
    if top > ceiling:
        s = ceiling / top
        return r * s, g * s, b * s
    return r, g, b


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
    tags, a, planes, boxes, ways, mats, lights : arrays of the packed scene, see `pack`; a : (n, k) float64, the solid shapes
    fog : (x, y, z) float32, density of the fog at the middles of its cells
    cache : (x, y, z, 6, 3) float32, light cache: bounced light by place and the way a surface faces; one cell for none
    view : (9, 12) float64, camera and settings, see `set_up`
    width, height : int, size of the whole picture in pixels
    tm : float, time within the shutter, 0 to 1
    ox, oy, oz : float, origin of the ray, in units of the scene
    dx, dy, dz : float, its unit direction
    density : float, with which the direction was sampled; -1 for a camera ray
    guide : (9,) float64, filled at the first hit
    """
    red = green = blue = 0.0
    tr = tg = tb = 1.0
    bounces = int(view[5, 1])
    ceiling = view[5, 2]
    light_count = lights.shape[0]
    foggy = fog.shape[0] > 1
    cached = cache.shape[0] > 1
    rough, shiny, clear, misty = 0, 0, 0, 0  # bounces so far off matte and glossy surfaces, through glass, in fog
    over = False  # one kind has had all its bounces: only lamps count from here
    near_only = False  # bounced light is approximated from the last surface on
    for depth in range(bounces + 2):
        t, i = closest(tags, a, planes, boxes, ways, tm, ox, oy, oz, dx, dy, dz, NEAR, FAR)
        if foggy:
            s = fog_meets(stream, fog, view, ox, oy, oz, dx, dy, dz, t if i >= 0 else FAR)
            if s >= 0.0:
                ox, oy, oz = ox + s * dx, oy + s * dy, oz + s * dz
                if depth == 0:
                    fx, fy, fz = on_picture(view, 0, tm, width, height, ox, oy, oz)
                    gx, gy, _ = on_picture(view, 2, tm, width, height, ox, oy, oz)
                    guide[0] = guide[1] = guide[2] = 1.0
                    guide[3] = guide[4] = guide[5] = 0.0
                    guide[6] = fz
                    guide[7] = gx - fx
                    guide[8] = gy - fy
                if depth > bounces or over:
                    break
                tr *= view[6, 7]
                tg *= view[6, 8]
                tb *= view[6, 9]
                density = 0.25 / math.pi
                if light_count > 0:
                    pick = min(light_count - 1, int(uniform(stream) * light_count))
                    j = lights[pick]
                    ex, ey, e2 = disc_point(stream)
                    lx, ly, lz, reach, pl = towards_light(tags[j, 0], a, j, tm, ox, oy, oz, ex, ey, e2)
                    if pl > 0.0 and not blocked(tags, a, planes, boxes, ways, tm, ox, oy, oz, lx, ly, lz, NEAR, reach * (1 - 1e-6) - NEAR):
                        pl /= light_count
                        through = fog_lets_through(stream, fog, view, ox, oy, oz, lx, ly, lz, reach)
                        weight = through * density * pl / (pl * pl + density * density)
                        n = tags[j, 2]
                        r, g, b = held_below(tr * weight * mats[n, 8], tg * weight * mats[n, 9], tb * weight * mats[n, 10], ceiling)
                        red += r
                        green += g
                        blue += b
                misty += 1
                over = misty > int(view[5, 4])
                dy = 1.0 - 2.0 * uniform(stream)
                turn = 2.0 * math.pi * uniform(stream)
                level = math.sqrt(max(0.0, 1.0 - dy * dy))
                dx, dz = level * math.cos(turn), level * math.sin(turn)
                continue
        if near_only and i >= 0 and tags[i, 4] != GLOWING:
            if t > view[7, 4]:  # open as far as it looks: the mean light of the scene comes from there
                red += tr * view[7, 5]
                green += tg * view[7, 6]
                blue += tb * view[7, 7]
            break
        if i < 0:
            if view[5, 3] > 0.0:
                up = 0.5 + 0.5 * dy
                r, g, b = held_below(
                    tr * (view[4, 4] + up * (view[4, 7] - view[4, 4])),
                    tg * (view[4, 5] + up * (view[4, 8] - view[4, 5])),
                    tb * (view[4, 6] + up * (view[4, 9] - view[4, 6])),
                    ceiling,
                )
                red += r
                green += g
                blue += b
            if depth == 0:
                px, py, pz = ox + SKY_DISTANCE * dx, oy + SKY_DISTANCE * dy, oz + SKY_DISTANCE * dz
                fx, fy, fz = on_picture(view, 0, tm, width, height, px, py, pz)
                gx, gy, _ = on_picture(view, 2, tm, width, height, px, py, pz)
                guide[0] = guide[1] = guide[2] = 1.0
                guide[3] = guide[4] = guide[5] = 0.0
                guide[6] = fz
                guide[7] = gx - fx
                guide[8] = gy - fy
            break
        px, py, pz = ox + t * dx, oy + t * dy, oz + t * dz
        nx, ny, nz = shape_normal(tags[i, 0], a, i, tm, px, py, pz)
        facing = -(dx * nx + dy * ny + dz * nz)
        m = tags[i, 2]
        kind = tags[i, 4]
        pattern = tags[i, 5]
        cr, cg, cb = mats[m, 0], mats[m, 1], mats[m, 2]
        if pattern != 0:
            share = blend_share(
                pattern, mats[m, 11],
                px - a[i, 0] - tm * a[i, 12], py - a[i, 1] - tm * a[i, 13], pz - a[i, 2] - tm * a[i, 14], nx, ny, nz,
            )  # fmt: skip
            cr += share * (mats[m, 3] - cr)
            cg += share * (mats[m, 4] - cg)
            cb += share * (mats[m, 5] - cb)
        if depth == 0:
            fx, fy, fz = on_picture(view, 0, tm, width, height, px, py, pz)
            mx = a[i, 24] * px + a[i, 25] * py + a[i, 26] * pz + a[i, 27]
            my = a[i, 28] * px + a[i, 29] * py + a[i, 30] * pz + a[i, 31]
            mz = a[i, 32] * px + a[i, 33] * py + a[i, 34] * pz + a[i, 35]
            gx, gy, _ = on_picture(view, 2, tm, width, height, mx, my, mz)
            plain = kind in (GLASS, GLOWING)
            guide[0] = 1.0 if plain else cr
            guide[1] = 1.0 if plain else cg
            guide[2] = 1.0 if plain else cb
            guide[3], guide[4], guide[5] = nx, ny, nz
            guide[6] = fz
            guide[7] = gx - fx
            guide[8] = gy - fy
        if kind == GLOWING:
            if facing > 0.0 or tags[i, 0] != RING:
                weight = 1.0
                if density >= 0.0 and tags[i, 3] >= 0:
                    pl = light_density(tags[i, 0], a, i, tm, ox, oy, oz, dx, dy, dz, t) / light_count
                    weight = density * density / (density * density + pl * pl)
                r, g, b = held_below(tr * weight * mats[m, 8], tg * weight * mats[m, 9], tb * weight * mats[m, 10], ceiling)
                red += r
                green += g
                blue += b
            break
        if depth > bounces or over:
            break
        if kind == GLASS:
            clear += 1
            over = clear > int(view[7, 2])
            ior = mats[m, 7]
            if facing < 0.0:
                nx, ny, nz, facing, ior = -nx, -ny, -nz, -facing, 1.0 / ior
            reflected = fresnel(min(1.0, facing), ior)
            if uniform(stream) < reflected:
                dx, dy, dz = dx + 2.0 * facing * nx, dy + 2.0 * facing * ny, dz + 2.0 * facing * nz
            else:
                eta = 1.0 / ior
                k = eta * facing - math.sqrt(max(0.0, 1.0 - eta * eta * (1.0 - facing * facing)))
                dx, dy, dz = eta * dx + k * nx, eta * dy + k * ny, eta * dz + k * nz
                tr *= cr
                tg *= cg
                tb *= cb
            s = 1.0 / math.sqrt(dx * dx + dy * dy + dz * dz)
            dx *= s
            dy *= s
            dz *= s
            density = -1.0
            ox, oy, oz = px, py, pz
            continue
        if facing < 0.0:
            nx, ny, nz, facing = -nx, -ny, -nz, -facing
        facing = max(facing, 1e-6)
        # a hair above the surface, on the side the path came from
        lift = 1e-5 * (1.0 + abs(px) + abs(py) + abs(pz))
        ox, oy, oz = px + lift * nx, py + lift * ny, pz + lift * nz
        tx, ty, tz, bx, by, bz = frame_around(nx, ny, nz)
        alpha = max(1e-3, mats[m, 6] * mats[m, 6])
        vx, vy, vz = -(dx * tx + dy * ty + dz * tz), -(dx * bx + dy * by + dz * bz), facing
        if light_count > 0:
            pick = min(light_count - 1, int(uniform(stream) * light_count))
            j = lights[pick]
            ex, ey, e2 = disc_point(stream)
            lx, ly, lz, reach, pl = towards_light(tags[j, 0], a, j, tm, ox, oy, oz, ex, ey, e2)
            cosine = lx * nx + ly * ny + lz * nz
            if pl > 0.0 and cosine > 0.0:
                pl /= light_count
                if kind == METAL:
                    hx, hy, hz = (
                        lx + (vx * tx + vy * bx + vz * nx),
                        ly + (vx * ty + vy * by + vz * ny),
                        lz + (vx * tz + vy * bz + vz * nz),
                    )
                    s = 1.0 / math.sqrt(hx * hx + hy * hy + hz * hz)
                    cos_h = (hx * nx + hy * ny + hz * nz) * s
                    cos_d = (hx * lx + hy * ly + hz * lz) * s
                    dens = facet_density(alpha, cos_h)
                    shade = smith_shadow(alpha, vz)
                    ps = dens * shade / (4.0 * vz)
                    grey = dens * shade * smith_shadow(alpha, cosine) / (4.0 * vz)
                    edge = (1.0 - max(0.0, min(1.0, cos_d))) ** 5
                    fr, fg, fb = grey * (cr + (1 - cr) * edge), grey * (cg + (1 - cg) * edge), grey * (cb + (1 - cb) * edge)
                else:
                    ps = cosine / math.pi
                    fr, fg, fb = cr * ps, cg * ps, cb * ps
                if fr + fg + fb > 0.0 and not blocked(
                    tags, a, planes, boxes, ways, tm, ox, oy, oz, lx, ly, lz, NEAR, reach * (1 - 1e-6) - NEAR
                ):
                    weight = pl / (pl * pl + ps * ps)  # power heuristic over the density
                    if foggy:
                        weight *= fog_lets_through(stream, fog, view, ox, oy, oz, lx, ly, lz, reach)
                    n = tags[j, 2]
                    r, g, b = held_below(
                        tr * fr * weight * mats[n, 8], tg * fg * weight * mats[n, 9], tb * fb * weight * mats[n, 10], ceiling
                    )
                    red += r
                    green += g
                    blue += b
        if cached and kind != METAL and depth >= 1:
            r, g, b = cached_light(cache, view, ox, oy, oz, nx, ny, nz)
            red += tr * cr * r
            green += tg * cg * g
            blue += tb * cb * b
            break
        near_only = depth == int(view[7, 3])
        if kind == METAL:
            shiny += 1
            over = shiny > int(view[7, 1])
        else:
            rough += 1
            over = rough > int(view[7, 0])
        ex, ey, e2 = disc_point(stream)
        if kind == METAL:
            hx, hy, hz = visible_facet(alpha, vx, vy, vz, ex, ey)
            vh = vx * hx + vy * hy + vz * hz
            lx, ly, lz = 2 * vh * hx - vx, 2 * vh * hy - vy, 2 * vh * hz - vz
            if lz <= 1e-6:
                break
            shade = smith_shadow(alpha, lz)
            edge = (1.0 - max(0.0, min(1.0, vh))) ** 5
            tr *= shade * (cr + (1 - cr) * edge)
            tg *= shade * (cg + (1 - cg) * edge)
            tb *= shade * (cb + (1 - cb) * edge)
            density = facet_density(alpha, hz) * smith_shadow(alpha, vz) / (4.0 * vz)
        else:
            lx, ly, lz = ex, ey, math.sqrt(max(1e-12, 1.0 - e2))
            tr *= cr
            tg *= cg
            tb *= cb
            density = lz / math.pi
        dx, dy, dz = lx * tx + ly * bx + lz * nx, lx * ty + ly * by + lz * ny, lx * tz + ly * bz + lz * nz
        if depth >= 1:  # dim paths end by chance; those that go on make up for them
            stay = min(0.95, max(tr, max(tg, tb)))
            if uniform(stream) >= stay:
                break
            tr /= stay
            tg /= stay
            tb /= stay
    return red, green, blue
