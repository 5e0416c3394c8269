"""Sequences of the bench renderer with one cause of unrest planted in each, at three strengths.

Two families of small scenes: the finder was tuned on the first and is checked on the
second; benchmarks/causes.py prints what the finder says of all of them.
"""

from __future__ import annotations

import math
import zlib
from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from hasty_reel.bench import surfaces as su
from hasty_reel.bench.harbour import bay_fog, gears_jewels
from hasty_reel.bench.render import Moment, Settings, render
from hasty_reel.bench.scene import CameraPose, Fog, Scene, box, capsule, glass, glowing, matte, metal, plane, ring, sphere
from hasty_reel.finish.chain import Chain
from hasty_reel.finish.finisher import Finisher
from hasty_reel.pictures.frame import Picture

SIZE = (192, 108)
COUNT = 8
FIRST = 1001
TUNED, HELD_BACK = 0, 1
STRENGTHS = (0, 1, 2)
GREY = (0.55, 0.58, 0.62)


def _truck(origin, target, step) -> Callable[[float], CameraPose]:
    """A camera that moves by `step` a frame without turning."""
    o, t, s = (np.array(v, np.float64) for v in (origin, target, step))
    reach = float(np.linalg.norm(t - o))
    return lambda frame: CameraPose(tuple(o + s * (frame - FIRST)), tuple(t + s * (frame - FIRST)), reach)


def _slide(step) -> Callable[[float], tuple[np.ndarray, np.ndarray]]:
    return lambda frame: (np.eye(3), np.array(step, np.float64) * (frame - FIRST))


def _turn(degrees: float, at=(0.0, 0.0, 0.0)) -> Callable[[float], tuple[np.ndarray, np.ndarray]]:
    def pose(frame: float) -> tuple[np.ndarray, np.ndarray]:
        a = math.radians(degrees * (frame - FIRST))
        return np.array([[math.cos(a), -math.sin(a), 0], [math.sin(a), math.cos(a), 0], [0, 0, 1.0]]), np.array(at, np.float64)

    return pose


def room(family: int) -> Scene:
    """Matte things under a lamp, before a camera that moves: noise of the common kind."""
    if family == TUNED:
        parts = (
            plane((0, 0, 0), (0, 1, 0), matte((0.30, 0.26, 0.20), (0.42, 0.36, 0.28), su.SWIRL, 2.5)),
            plane((0, 0, -3), (0, 0, 1), matte((0.35, 0.40, 0.44))),
            box((0.7, 0.5, -0.9), (0.4, 0.5, 0.4), matte((0.3, 0.45, 0.6)), 0.5),
            sphere((-0.8, 0.5, -0.4), 0.5, matte((0.6, 0.4, 0.3), (0.4, 0.25, 0.2), su.SWIRL, 5.0)),
            ring((0, 3.2, 1.2), (0, -0.9, -0.4), 0.0, 0.8, glowing((7, 7, 6.5))),
        )
        return Scene("room", parts, _truck((0, 1.1, 4.2), (0, 0.6, 0), (0.045, 0, 0)), 0.42, 0.0, (0.05,) * 3, (0.08,) * 3)
    parts = (
        plane((0, 0, 0), (0, 1, 0), matte((0.2, 0.3, 0.25), (0.35, 0.4, 0.3), su.PLANKS, 1.5)),
        plane((-2.6, 0, 0), (1, 0, 0), matte((0.45, 0.40, 0.33))),
        capsule((0.4, 0.35, -0.5), (1.3, 0.9, -1.2), 0.33, matte((0.55, 0.5, 0.2))),
        box((-0.9, 0.35, 0.3), (0.5, 0.35, 0.3), matte((0.6, 0.25, 0.2), (0.4, 0.2, 0.2), su.GRAIN, 4.0), 0.9),
        sphere((1.6, 0.3, 0.9), 0.3, matte((0.5, 0.55, 0.6))),
        sphere((-1.0, 2.9, 1.8), 0.45, glowing((16, 14, 12))),
    )
    return Scene("hall", parts, _truck((0.2, 1.5, 4.0), (0.1, 0.5, 0), (0.0, 0.008, -0.06)), 0.45, 0.0, (0.06,) * 3, (0.05,) * 3)


def jewels(family: int) -> Scene:
    """Glass before a small bright lamp: rare, very bright light paths."""
    if family == HELD_BACK:
        return gears_jewels()
    parts = (
        plane((0, 0, 0), (0, 1, 0), matte((0.4, 0.38, 0.35))),
        sphere((-0.5, 0.5, 0), 0.5, glass(1.5)),
        sphere((0.7, 0.4, 0.3), 0.4, metal((0.8, 0.7, 0.5), 0.25)),
        sphere((1.5, 3.0, -1.0), 0.12, glowing((160, 150, 130))),
        ring((0, 4.0, 2.0), (0, -0.9, -0.4), 0.0, 1.0, glowing((3, 3, 3))),
    )
    return Scene("glassware", parts, _truck((0, 1.3, 4.0), (0, 0.4, 0), (0.03, 0, 0)), 0.42, 0.0, (0.06,) * 3, (0.08,) * 3)


def wires(family: int) -> Scene:
    """Thin bright lines that creep over the pixels before a calm ground."""
    ground = plane((0, 0, -1.5), (0, 0, 1), matte((0.16, 0.17, 0.18)))
    light = glowing((1.1, 1.1, 1.1))
    if family == TUNED:
        rods = [capsule((-3, -1.6 + 0.36 * k, 0), (3, -1.3 + 0.36 * k, 0), 0.012, light, _slide((0.006, 0.011, 0))) for k in range(10)]
        return Scene("wires", (ground, *rods), _truck((0, 0, 5), (0, 0, 0), (0, 0, 0)), 0.42, 0.0, (0.8,) * 3, (0.8,) * 3)
    rods = [
        capsule((0.25 * math.cos(a), 0.25 * math.sin(a), 0), (1.8 * math.cos(a), 1.8 * math.sin(a), 0), 0.013, light, _turn(0.35))
        for a in np.linspace(0.1, math.tau + 0.1, 16, endpoint=False)
    ]
    return Scene("spokes", (ground, *rods), _truck((0, 0, 5), (0, 0, 0), (0, 0, 0)), 0.40, 0.0, (0.7,) * 3, (0.7,) * 3)


def racing(family: int) -> Scene:
    """Things that cross many pixels in a frame, in even light."""
    ground = plane((0, 0, -1.5), (0, 0, 1), matte((0.25, 0.27, 0.3)))
    if family == TUNED:
        parts = [ground, box((-1.9, 0.5, 0), (0.5, 0.4, 0.1), matte((0.9, 0.85, 0.8)), 0.0, _slide((0.52, 0, 0)))]
        parts.append(box((1.8, -0.7, 0), (0.35, 0.3, 0.1), matte((0.03, 0.03, 0.03)), 0.0, _slide((-0.44, 0, 0))))
    else:
        blades = [(1.0, 0.0), (-0.5, 0.87), (-0.5, -0.87)]
        parts = [ground]
        parts += [capsule((0.2 * x, 0.2 * y, 0), (1.5 * x, 1.5 * y, 0), 0.16, matte((0.85, 0.8, 0.7)), _turn(36.0)) for x, y in blades]
        parts.append(sphere((-2.4, 1.2, 0), 0.3, matte((0.02, 0.02, 0.02)), _slide((0.55, 0, 0))))
    return Scene("racing", tuple(parts), _truck((0, 0, 5), (0, 0, 0), (0, 0, 0)), 0.42, 0.0, (0.8,) * 3, (0.8,) * 3)


def fog(family: int) -> Scene:
    """Fog that gathers over the first frames of a chunk."""
    if family == TUNED:
        return bay_fog()

    def density(frame: float) -> np.ndarray:
        x, y, z = np.meshgrid(np.linspace(0, 1, 24), np.linspace(0, 1, 8), np.linspace(0, 1, 20), indexing="ij")
        return np.clip(np.exp(-2.0 * y) * (0.6 + 0.3 * np.sin(7 * (x - 0.004 * (frame - FIRST))) * np.cos(5 * z)), 0, 1)

    parts = (
        plane((0, 0, 0), (0, 1, 0), matte((0.2, 0.2, 0.22))),
        box((0.8, 0.8, -1.5), (0.4, 0.8, 0.4), matte((0.5, 0.3, 0.2)), 0.3),
        sphere((-1.0, 0.5, -0.8), 0.5, matte((0.3, 0.45, 0.3))),
        sphere((-2.2, 3.0, 0.6), 0.4, glowing((22, 20, 17))),
    )
    cloud = Fog((-3.5, 0.0, -4.0), (3.5, 2.2, 1.5), density, 0.45)
    return Scene("mist", parts, _truck((0, 1.2, 4.5), (0, 0.8, -1), (0, 0, 0)), 0.45, 0.0, (0.1,) * 3, (0.12,) * 3, fog=cloud, settling=5.0)


def deep(family: int) -> Scene:
    """A wide open lens: one thing in focus, the rest far out of it, all in even light."""
    white, black = matte((0.85, 0.85, 0.8)), matte((0.04, 0.04, 0.05))
    if family == TUNED:
        parts = [plane((0, 0, -9), (0, 0, 1), matte((0.3, 0.32, 0.35)))]
        parts += [box((-6 + 1.0 * k, 0, -8), (0.18, 4, 0.1), white if k % 2 else black) for k in range(13)]
        parts += [sphere((-0.6, -0.3, 1.5), 0.45, matte((0.5, 0.35, 0.25), (0.2, 0.2, 0.2), su.SWIRL, 7.0))]
        return Scene("shallow", tuple(parts), _focused((0, 0, 5), (0, 0, 1.5), 3.3), 0.42, 0.28, (0.8,) * 3, (0.8,) * 3)
    parts = [plane((0, 0, -7), (0, 0, 1), matte((0.4, 0.36, 0.3)))]
    parts += [sphere((-4 + 1.35 * i, -2 + 1.35 * j, -6), 0.3, white if (i + j) % 2 else black) for i in range(7) for j in range(4)]
    parts += [box((0.7, -0.2, 1.2), (0.4, 0.4, 0.3), matte((0.3, 0.5, 0.4), (0.5, 0.6, 0.4), su.GRAIN, 5.0), 0.6)]
    return Scene("close", tuple(parts), _focused((0, 0, 5), (0, 0, 1.2), 3.5), 0.42, 0.3, (0.7,) * 3, (0.7,) * 3)


def _focused(origin, target, focus: float) -> Callable[[float], CameraPose]:
    o, t = np.array(origin, np.float64), np.array(target, np.float64)
    return lambda frame: CameraPose(tuple(o + (0.004 * (frame - FIRST), 0, 0)), tuple(t + (0.004 * (frame - FIRST), 0, 0)), focus)


def shots(
    scene: Scene, samples: int | Sequence[int], held: bool = False, history: Sequence[int | None] | None = None, **settings
) -> list[Picture]:
    """The frames of a scene, from the middle of a demo shot on where it is one."""
    first = scene.first + (30 if scene.last > scene.first else 0)
    width, height = settings.pop("size", SIZE)
    out = []
    for k in range(COUNT):
        seed = zlib.crc32(scene.name.encode()) if held else zlib.crc32(f"{scene.name} {k}".encode())
        n = samples if isinstance(samples, int) else samples[k]
        made = Settings(width, height, n, **{"steps": 0, "bounces": 3, "ceiling": 4.0, "seed": seed, **settings})
        moment = Moment(history=None if history is None else history[k])
        done = render(scene, first + k, made, moment=moment)
        out.append(Picture(done.rgb, done.guides))
    return out


def filtered(pictures: list[Picture]) -> list[Picture]:
    """Each frame denoised for itself, as for a still."""
    finisher = Finisher(Chain(window=1, per_frame=True), lambda f: pictures[f])
    return [Picture(finisher.finish(k, [k]).rgb, pictures[k].guides) for k in range(len(pictures))]


def planted(cause: str, family: int, strength: int) -> list[Picture]:
    """A sequence with one cause; strength 0 is plain to see, 2 is strong."""
    few = (32, 16, 8)[strength]
    if cause == "grain":
        return shots(room(family), few, ceiling=0.5)
    if cause == "blotches":
        return filtered(shots(room(family), (16, 8, 4)[strength]))
    if cause == "sparks":
        return shots(jewels(family), (128, 96, 64)[strength], ceiling=None, bounces=6)
    if cause == "pinned_pattern":
        return shots(room(family), few, held=True)
    if cause == "shimmer":
        size = ((144, 81), (112, 63), (96, 54))[strength]
        return shots(wires(family), 256, size=size, bounces=0)
    if cause == "strobing":
        return shots(racing(family), 96, steps=(4, 3, 2)[strength], bounces=0)
    if cause == "pumping":
        low = (32, 16, 8)[strength]
        return shots(room(family), [192, 192, 192, low, low, low, 192, 192])
    if cause == "settling":
        return shots(fog(family), 128, history=[k + (3, 1, 0)[strength] for k in range(COUNT)])
    assert cause == "lens_noise"
    return shots(deep(family), (24, 12, 6)[strength], bounces=0)


def clean(which: str, family: int) -> list[Picture]:
    """Reference renders: nothing to find."""
    if which == "room":
        return shots(room(family), 768)
    if which == "racing":
        return shots(racing(family), 256, bounces=0)
    if which == "still":
        scene = room(family)
        pose = scene.camera(FIRST)
        return shots(replace(scene, camera=lambda frame: pose), 768)
    assert which == "deep"
    return shots(deep(family), 1536, bounces=0)


CAUSES = ("grain", "blotches", "sparks", "pinned_pattern", "shimmer", "strobing", "pumping", "settling", "lens_noise")
CLEAN = ("room", "racing", "still", "deep")


def reader(pictures: list[Picture]):
    """A reader over pictures in memory."""
    return lambda frame, wanted: pictures[frame]
