"""A second stand-in for an artist's renderer: a program apart that shares no code with the one that ships.

A small path tracer of a room with balls of glass, mirror, brushed metal and paint that cross, and a lamp that may fade. It is
started anew for each frame, takes a while to start, tells one number of seconds, and writes guides of what a camera path meets
first: of glass and mirrors that is their surface, not what is seen through or in them.

    python tests/second_renderer.py --scene crossing --frame 12 --size 96x54 --samples 16 --seed 1 --out a.exr
"""

from __future__ import annotations

import math
import sys
import time

BEGAN = time.perf_counter()

import click  # noqa: E402  its own start is part of what is told
import numpy as np  # noqa: E402
import OpenImageIO as oiio  # noqa: E402
from numba import njit  # noqa: E402

PAINT, MIRROR, GLASS, BRUSHED = 0, 1, 2, 3
ROOM = np.array([-2.0, 0.0, -1.0, 2.0, 2.4, 3.5])
"""Corners of the room: left, floor, behind the camera, right, ceiling, back wall."""
LAMP = np.array([-0.5, 0.5, 0.8, 1.6])
"""Sides of the lamp on the ceiling: left, right, near, far."""
FAR = 1e30
GLASS_INDEX = 1.5
GUIDES = ("albedo.R", "albedo.G", "albedo.B", "normal.X", "normal.Y", "normal.Z", "Z", "motion.X", "motion.Y")


class Scene:
    """Balls (n, 12): place at frame 0, velocity a frame, radius, kind, colour, roughness; lamp and camera over the frames."""

    def __init__(self, balls, lamp, half_life=FAR, pan=0.0, dolly=0.0, stripes=6.0):
        self.balls = np.array(balls, np.float64).reshape(-1, 12)
        self.lamp, self.half_life, self.pan, self.dolly, self.stripes = lamp, half_life, pan, dolly, stripes

    def light(self, frame):
        return self.lamp * 0.5 ** (frame / self.half_life)


SCENES = {
    # glass and mirror pass in front of each other, and of a patterned wall
    "crossing": Scene(
        [
            [-1.3, 0.55, 1.6, 0.065, 0, 0, 0.5, GLASS, 0.97, 0.97, 0.97, 0],
            [1.4, 0.42, 2.3, -0.05, 0, 0, 0.42, MIRROR, 0.9, 0.85, 0.7, 0],
            [0.2, 0.25, 2.9, 0, 0, 0, 0.25, PAINT, 0.7, 0.2, 0.15, 0],
        ],
        14.0,
    ),
    # a lamp that fades while brushed metal rolls and the camera turns
    "embers": Scene(
        [
            [-0.9, 0.5, 2.2, 0.02, 0, 0, 0.5, BRUSHED, 0.85, 0.6, 0.35, 0.35],
            [0.8, 0.35, 1.5, -0.015, 0, 0.01, 0.35, PAINT, 0.2, 0.4, 0.7, 0],
        ],
        18.0, half_life=30.0, pan=0.006,
    ),
    # a glass ball over the floor: its caustic wanders over boards that stand still
    "lens": Scene(
        [[-0.8, 0.8, 1.5, 0.045, 0, 0, 0.45, GLASS, 0.98, 0.98, 0.98, 0], [0.9, 0.3, 2.6, 0, 0, 0, 0.3, PAINT, 0.3, 0.6, 0.3, 0]], 16.0
    ),
    # the camera goes forward past mirrors
    "gallery": Scene(
        [
            [-1.1, 0.6, 2.4, 0, 0, 0, 0.6, MIRROR, 0.92, 0.92, 0.92, 0],
            [0.9, 0.5, 2.0, 0, 0.004, 0, 0.45, GLASS, 0.95, 0.98, 0.96, 0],
            [0.0, 0.3, 3.0, -0.03, 0, 0, 0.3, BRUSHED, 0.8, 0.8, 0.85, 0.25],
        ],
        12.0, dolly=0.012, stripes=9.0,
    ),
}  # fmt: skip


@njit(cache=True, fastmath=True, error_model="numpy")
def _random(state):
    """One number of 0 to 1 (splitmix64: Steele, Lea and Flood 2014)."""
    state[0] = (state[0] + np.uint64(0x9E3779B97F4A7C15)) & np.uint64(0xFFFFFFFFFFFFFFFF)
    z = state[0]
    z = (z ^ (z >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
    z = (z ^ (z >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    z = z ^ (z >> np.uint64(31))
    return float(z >> np.uint64(11)) / 9007199254740992.0


@njit(cache=True, fastmath=True, error_model="numpy")
def _nearest(balls, when, o, d, hit):
    """What a ray meets first: -1 nothing, 0 to n - 1 a ball, n + side a wall, n + 6 the lamp; its distance, place and normal in `hit`."""
    n = balls.shape[0]
    best, what = FAR, -1
    for k in range(n):
        cx, cy, cz = balls[k, 0] + when * balls[k, 3], balls[k, 1] + when * balls[k, 4], balls[k, 2] + when * balls[k, 5]
        x, y, z = o[0] - cx, o[1] - cy, o[2] - cz
        b = x * d[0] + y * d[1] + z * d[2]
        root = b * b - (x * x + y * y + z * z - balls[k, 6] ** 2)
        if root <= 0.0:
            continue
        root = math.sqrt(root)
        t = -b - root
        if t < 1e-4:
            t = -b + root
        if 1e-4 < t < best:
            best, what = t, k
    for side in range(6):
        axis = side % 3
        if d[axis] == 0.0:
            continue
        t = (ROOM[side] - o[axis]) / d[axis]
        if 1e-4 < t < best and (d[axis] < 0.0) == (side < 3):
            best, what = t, n + side
    if what < 0:
        return what
    hit[0] = best
    for c in range(3):
        hit[1 + c] = o[c] + best * d[c]
    if what < n:
        for c in range(3):
            hit[4 + c] = (hit[1 + c] - balls[what, c] - when * balls[what, 3 + c]) / balls[what, 6]
    else:
        side = what - n
        for c in range(3):
            hit[4 + c] = 0.0
        hit[4 + side % 3] = 1.0 if side < 3 else -1.0
        if side == 4 and LAMP[0] < hit[1] < LAMP[1] and LAMP[2] < hit[3] < LAMP[3]:
            return n + 6
    return what


@njit(cache=True, fastmath=True, error_model="numpy")
def _colour(balls, what, hit, stripes, out):
    """Albedo of what was met."""
    n = balls.shape[0]
    if what < n:
        for c in range(3):
            out[c] = balls[what, 8 + c]
        return
    side = what - n
    out[0] = out[1] = out[2] = 0.72
    if side == 0:
        out[1] = out[2] = 0.25
    elif side == 3:
        out[0], out[2] = 0.25, 0.3
    elif side == 5:  # tiles on the back wall
        if (math.floor(hit[1] * stripes) + math.floor(hit[2] * stripes)) % 2 == 0:
            out[0], out[1], out[2] = 0.12, 0.14, 0.2
    elif side == 1:  # boards on the floor
        board = math.floor(hit[1] * stripes * 0.5)
        out[0], out[1], out[2] = 0.55 - 0.1 * (board % 3), 0.42 - 0.08 * (board % 3), 0.3 - 0.05 * (board % 3)


@njit(cache=True, fastmath=True, error_model="numpy")
def _camera_ray(px, py, width, height, turn, forward, o, d):
    """A ray through a place of the picture."""
    aspect = width / height
    x, y = (2.0 * px / width - 1.0) * 0.62 * aspect / 1.7778, (1.0 - 2.0 * py / height) * 0.62 / 1.7778
    norm = 1.0 / math.sqrt(x * x + y * y + 1.0)
    x, y, z = x * norm, y * norm, norm
    c, s = math.cos(turn), math.sin(turn)
    d[0], d[1], d[2] = c * x + s * z, y - 0.03 * z, c * z - s * x
    norm = 1.0 / math.sqrt(d[0] ** 2 + d[1] ** 2 + d[2] ** 2)
    for k in range(3):
        d[k] *= norm
    o[0], o[1], o[2] = 0.0, 0.95, -0.9 + forward


@njit(cache=True, fastmath=True, error_model="numpy")
def _on_picture(p, width, height, turn, forward, out):
    """Where a point stands in the picture, in pixels."""
    c, s = math.cos(turn), math.sin(turn)
    x, y, z = p[0], p[1] - 0.95, p[2] + 0.9 - forward
    ax, az = c * x - s * z, s * x + c * z
    ay = y + 0.03 * az
    aspect = width / height
    out[0] = (ax / az / (0.62 * aspect / 1.7778) + 1.0) * 0.5 * width
    out[1] = (1.0 - ay / az / (0.62 / 1.7778)) * 0.5 * height


@njit(cache=True, fastmath=True, error_model="numpy")
def _path(balls, when, stripes, lamp, o, d, state, bounces, hit, albedo, rgb):
    """Light along one path, into `rgb`."""
    n = balls.shape[0]
    r = g = b = 1.0
    rgb[0] = rgb[1] = rgb[2] = 0.0
    straight = True
    area = (LAMP[1] - LAMP[0]) * (LAMP[3] - LAMP[2])
    other = np.empty(7)
    to = np.empty(3)
    for depth in range(bounces + 1):
        what = _nearest(balls, when, o, d, hit)
        if what < 0:
            return
        if what == n + 6:
            if straight:
                rgb[0] += r * lamp
                rgb[1] += g * lamp * 0.92
                rgb[2] += b * lamp * 0.8
            return
        kind = int(balls[what, 7]) if what < n else PAINT
        _colour(balls, what, hit, stripes, albedo)
        nx, ny, nz = hit[4], hit[5], hit[6]
        facing = d[0] * nx + d[1] * ny + d[2] * nz
        for c in range(3):
            o[c] = hit[1 + c]
        if kind == GLASS:
            inside = facing > 0.0
            eta = GLASS_INDEX if inside else 1.0 / GLASS_INDEX
            if inside:
                nx, ny, nz = -nx, -ny, -nz
            cosine = abs(facing)
            k = 1.0 - eta * eta * (1.0 - cosine * cosine)
            mirrored = 1.0
            if k > 0.0:  # Schlick 1994
                r0 = ((1.0 - GLASS_INDEX) / (1.0 + GLASS_INDEX)) ** 2
                mirrored = r0 + (1.0 - r0) * (1.0 - (math.sqrt(k) if inside else cosine)) ** 5
            if _random(state) < mirrored:
                d[0], d[1], d[2] = d[0] + 2 * cosine * nx, d[1] + 2 * cosine * ny, d[2] + 2 * cosine * nz
            else:
                f = eta * cosine - math.sqrt(k)
                d[0], d[1], d[2] = eta * d[0] + f * nx, eta * d[1] + f * ny, eta * d[2] + f * nz
                r, g, b = r * albedo[0], g * albedo[1], b * albedo[2]
            straight = True
            continue
        if facing > 0.0:
            nx, ny, nz = -nx, -ny, -nz
            facing = -facing
        r, g, b = r * albedo[0], g * albedo[1], b * albedo[2]
        if kind in (MIRROR, BRUSHED):
            d[0], d[1], d[2] = d[0] - 2 * facing * nx, d[1] - 2 * facing * ny, d[2] - 2 * facing * nz
            if kind == BRUSHED:
                for c in range(3):
                    d[c] += balls[what, 11] * (_random(state) + _random(state) - 1.0)
                if d[0] * nx + d[1] * ny + d[2] * nz <= 0.0:
                    return
            norm = 1.0 / math.sqrt(d[0] ** 2 + d[1] ** 2 + d[2] ** 2)
            for c in range(3):
                d[c] *= norm
            straight = True
            continue
        # the lamp, seen from here
        lx, lz = LAMP[0] + _random(state) * (LAMP[1] - LAMP[0]), LAMP[2] + _random(state) * (LAMP[3] - LAMP[2])
        to[0], to[1], to[2] = lx - o[0], ROOM[4] - o[1], lz - o[2]
        square = to[0] ** 2 + to[1] ** 2 + to[2] ** 2
        away = math.sqrt(square)
        for c in range(3):
            to[c] /= away
        falls = to[0] * nx + to[1] * ny + to[2] * nz
        if falls > 0.0 and to[1] > 0.0 and _nearest(balls, when, o, to, other) == n + 6:
            w = lamp * falls * to[1] * area / (math.pi * square)
            rgb[0] += r * w
            rgb[1] += g * w * 0.92
            rgb[2] += b * w * 0.8
        # on into the hemisphere, as the cosine
        u, v = 2.0 * math.pi * _random(state), _random(state)
        z = 1.0 - 2.0 * _random(state)
        across = math.sqrt(max(0.0, 1.0 - z * z))
        d[0], d[1], d[2] = nx + across * math.cos(u), ny + across * math.sin(u), nz + z
        norm = 1.0 / max(1e-9, math.sqrt(d[0] ** 2 + d[1] ** 2 + d[2] ** 2))
        for c in range(3):
            d[c] *= norm
        straight = False
        if depth > 2:
            go = max(0.1, min(0.95, max(r, g, b)))
            if v > go:
                return
            r, g, b = r / go, g / go, b / go


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def add_samples(balls, frame, stripes, lamp, pan, dolly, size, box, seed, first, samples, bounces, ceiling, shutter, total):
    """Add samples to the sums of light, (h, w, 3), of the part `box` of the picture."""
    o, d, hit, albedo, rgb = np.empty(3), np.empty(3), np.empty(7), np.empty(3), np.empty(3)
    state = np.zeros(1, np.uint64)
    for y in range(box[3]):
        for x in range(box[2]):
            place = np.uint64((box[1] + y) * size[0] + box[0] + x)
            for k in range(first, first + samples):
                state[0] = np.uint64(seed) * np.uint64(0xD1342543DE82EF95) ^ (place << np.uint64(24)) ^ np.uint64(k)
                _random(state)
                when = frame + shutter * _random(state)
                px, py = box[0] + x + _random(state), box[1] + y + _random(state)
                _camera_ray(px, py, size[0], size[1], pan * when, dolly * when, o, d)
                _path(balls, when, stripes, lamp, o, d, state, bounces, hit, albedo, rgb)
                for c in range(3):
                    total[y, x, c] += min(rgb[c], ceiling)


@njit(cache=True, fastmath=True, error_model="numpy")
def fill_guides(balls, frame, stripes, pan, dolly, size, box, out):
    """Guides of what the middle of each pixel meets first, (9, h, w)."""
    n = balls.shape[0]
    o, d, hit, albedo = np.empty(3), np.empty(3), np.empty(7), np.empty(3)
    here, there, p = np.empty(2), np.empty(2), np.empty(3)
    for y in range(box[3]):
        for x in range(box[2]):
            px, py = box[0] + x + 0.5, box[1] + y + 0.5
            _camera_ray(px, py, size[0], size[1], pan * frame, dolly * frame, o, d)
            what = _nearest(balls, frame, o, d, hit)
            if what == n + 6:
                albedo[0] = albedo[1] = albedo[2] = 1.0
            else:
                _colour(balls, what, hit, stripes, albedo)
            for c in range(3):
                out[c, y, x], out[3 + c, y, x] = albedo[c], hit[4 + c]
                p[c] = hit[1 + c] + (balls[what, 3 + c] if what < n else 0.0)
            out[6, y, x] = hit[0]
            here[0], here[1] = px, py
            _on_picture(p, size[0], size[1], pan * (frame + 1), dolly * (frame + 1), there)
            out[7, y, x], out[8, y, x] = there[0] - here[0], there[1] - here[1]


def render(scene, frame, width, height, samples, seed=1, bounces=8, ceiling=1e9, angle=0.0, crop=None, cap=0.0):
    """One frame: light (h, w, 3), guides (9, h, w), samples that each pixel got."""
    s, size = SCENES[scene], np.array([width, height])
    box = np.array(crop or (0, 0, width, height))
    total = np.zeros((box[3], box[2], 3))
    began, done = time.perf_counter(), 0
    chunk = samples if not cap else 4
    while done < samples:
        now = min(chunk, samples - done)
        add_samples(
            s.balls,
            float(frame),
            s.stripes,
            s.light(frame),
            s.pan,
            s.dolly,
            size,
            box,
            seed,
            done,
            now,
            bounces,
            ceiling,
            angle / 360,
            total,
        )
        done += now
        if cap and time.perf_counter() - began > cap:
            break
    guides = np.zeros((9, box[3], box[2]))
    fill_guides(s.balls, float(frame), s.stripes, s.pan, s.dolly, size, box, guides)
    return (total / done).astype(np.float32), guides.astype(np.float32), done


def write(path, rgb, guides, samples):
    """Write an OpenEXR file."""
    planes = np.concatenate([rgb, np.moveaxis(guides, 0, -1), np.full((*rgb.shape[:2], 1), samples, np.float32)], axis=2)
    spec = oiio.ImageSpec(rgb.shape[1], rgb.shape[0], planes.shape[2], "float")
    spec.channelnames = ("R", "G", "B", *GUIDES, "samples")
    spec["compression"] = "zip"
    out = oiio.ImageOutput.create(path)
    if out is None or not out.open(path, spec) or not out.write_image(np.ascontiguousarray(planes)):
        raise SystemExit(f"cannot write {path}")
    out.close()


@click.command()
@click.option("--scene", type=click.Choice(sorted(SCENES)), required=True)
@click.option("--frame", type=float, required=True)
@click.option("--size", required=True)
@click.option("--samples", type=int, required=True)
@click.option("--seed", type=int, default=1)
@click.option("--bounces", type=int, default=8)
@click.option("--ceiling", type=float, default=1e9)
@click.option("--angle", type=float, default=0.0)
@click.option("--crop", default="")
@click.option("--cap", type=float, default=0.0)
@click.option("--start", type=float, default=0.0, help="Seconds of work before the first sample, as reading a scene takes.")
@click.option("--out", required=True)
def main(scene, frame, size, samples, seed, bounces, ceiling, angle, crop, cap, start, out):
    """Render one frame."""
    width, height = (int(v) for v in size.split("x"))
    worked = time.process_time() + start
    while time.process_time() < worked:
        math.sqrt(start)
    box = tuple(int(v) for v in crop.split(",")) if crop else None
    rgb, guides, done = render(scene, frame, width, height, samples, seed, bounces, ceiling, angle, box, cap)
    write(out, rgb, guides, done)
    click.echo(f"frame {frame:g} took {time.perf_counter() - BEGAN:.3f} seconds")


if __name__ == "__main__":
    sys.exit(main())
