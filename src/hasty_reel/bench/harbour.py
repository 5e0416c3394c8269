"""Tidal Orrery, the second half: gears and jewels, fog over the bay, the tide dial as a turntable.

gears_jewels  the camera rests on the ruby bearing, then moves on to the sapphire one
bay_fog       a harbour light turns its shutters in the fog over the bay
tide_dial     the dial of the tides turns once in 96 frames; the frame after the last is the first again
"""

from __future__ import annotations

import math

import numpy as np

from hasty_reel.bench import surfaces as su
from hasty_reel.bench.orrery import BRASS, BRASS_WORN, BRONZE, DIAL, FIRST, IVORY, SEA, STEEL, TABLE, eased, rotation, turning
from hasty_reel.bench.scene import (
    CameraPose,
    Fog,
    Pose,
    Scene,
    Shape,
    box,
    capsule,
    glass,
    glowing,
    matte,
    metal,
    plane,
    ring,
    sphere,
    tube,
)

RUBY = glass(1.76, (0.92, 0.10, 0.14))
SAPPHIRE = glass(1.76, (0.12, 0.25, 0.92))
VELVET = matte((0.045, 0.02, 0.05), (0.07, 0.03, 0.075), su.GRAIN, 9.0)
ROCK = matte((0.10, 0.09, 0.08), (0.16, 0.15, 0.13), su.SWIRL, 2.0)
WATER = metal((0.05, 0.09, 0.11), 0.45, second=(0.02, 0.05, 0.07), pattern=su.SWIRL, scale=0.8)
TURN_FRAMES = 96


def _gear(centre: tuple[float, float, float], radius: float, teeth: int, speed: float, material, start: float = 0.0) -> list[Shape]:
    """A gear lying level: a hoop, spokes, a hub, and its teeth."""
    pose = turning(speed, start=start, at=centre)
    shapes = [
        tube((0, 0, 0), (0, 1, 0), radius * 0.74, radius * 0.92, 0.09, material, pose),
        tube((0, 0, 0), (0, 1, 0), radius * 0.16, radius * 0.30, 0.13, BRASS_WORN, pose),
    ]
    for k in range(5):
        angle = 2 * math.pi * k / 5
        shapes.append(capsule(
            (radius * 0.28 * math.cos(angle), 0, radius * 0.28 * math.sin(angle)),
            (radius * 0.78 * math.cos(angle), 0, radius * 0.78 * math.sin(angle)), 0.055, material, pose))  # fmt: skip
    width = 2 * math.pi * radius / teeth * 0.24
    for k in range(teeth):
        angle = 2 * math.pi * k / teeth
        at = (radius * 0.97 * math.cos(angle), 0.0, radius * 0.97 * math.sin(angle))
        shapes.append(box(at, (radius * 0.085, 0.085, width), material, -angle, pose))
    return shapes


def gears_jewels() -> Scene:
    """72 frames: 1 s at rest on the ruby, 1.5 s on the way, the rest on the sapphire; glass, brass, shallow focus."""

    def _camera(frame: float) -> CameraPose:
        e = eased((frame - FIRST - 24) / 35.0)
        origin = np.array([-1.5, 2.6, 3.2]) * (1 - e) + np.array([1.0, 2.2, 3.0]) * e
        target = np.array([-0.9, 0.35, 0.1]) * (1 - e) + np.array([1.35, 0.35, -0.1]) * e
        return CameraPose(tuple(origin), tuple(target), float(np.linalg.norm(target - origin)) - 0.05)

    parts: list[Shape] = [plane((0, 0, 0), (0, 1, 0), VELVET)]
    parts += _gear((-0.9, 0.30, 0.1), 1.15, 20, 1.2, BRASS)
    parts += _gear((1.35, 0.30, -0.1), 1.12, 20, -1.2, BRONZE, 9.0)
    parts += _gear((0.35, 0.62, -1.9), 0.95, 16, 1.5, STEEL, 4.0)
    for at, jewel in (((-0.9, 0.52, 0.1), RUBY), ((1.35, 0.52, -0.1), SAPPHIRE), ((0.35, 0.84, -1.9), RUBY)):
        x, y, z = at
        parts += [
            sphere(at, 0.17, jewel),
            tube((x, y - 0.16, z), (0, 1, 0), 0.12, 0.22, 0.05, BRASS_WORN),
            capsule((x, 0.0, z), (x, y - 0.24, z), 0.1, STEEL),
        ]
    parts += [
        sphere((-3.4, 3.6, 1.2), 0.5, glowing((34.0, 22.0, 11.0))),
        ring((3.5, 4.5, 3.0), (-0.6, -0.7, -0.5), 0.0, 1.1, glowing((9.0, 11.0, 14.0))),
    ]
    return Scene(
        "gears_jewels", tuple(parts), _camera, 0.42, 0.06, (0.02, 0.022, 0.03), (0.04, 0.045, 0.06), FIRST, FIRST + 71,
        "Tidal Orrery: gears close up, glass jewels in their bearings, from the ruby to the sapphire",
    )  # fmt: skip


def _drifting(frame: float) -> np.ndarray:
    """Fog that lies low on the water and drifts with the wind, (48, 10, 40)."""
    x, y, z = np.meshgrid(np.linspace(0, 1, 48), np.linspace(0, 1, 10), np.linspace(0, 1, 40), indexing="ij")
    t = (frame - FIRST) / 84.0
    rolls = (
        np.sin(9.0 * (x - 0.30 * t) + 3.0 * np.sin(5.0 * z + 1.3 * t))
        + 0.7 * np.sin(17.0 * (z + 0.12 * t) + 4.0 * x + 2.0)
        + 0.5 * np.sin(31.0 * (x - 0.36 * t) - 19.0 * z + 5.0 * y)
    )
    lying = np.exp(-3.2 * y) * np.minimum(1.0, 8.0 * (1.02 - y))
    return np.clip(lying * (0.55 + 0.38 * rolls), 0.0, 1.0)


def bay_fog() -> Scene:
    """84 frames: shutters turn about the harbour light, the fog drifts, the boat rocks; the camera stands still."""
    light = (1.4, 2.55, -3.0)

    def _shutters(start: float) -> Pose:
        return turning(2.2, start=start, at=light)

    def _rocking(frame: float) -> tuple[np.ndarray, np.ndarray]:
        t = frame - FIRST
        return rotation("z", 0.05 * math.sin(t / 9.0)), np.array([-1.75, 0.10 + 0.04 * math.sin(t / 7.0), 0.2])

    parts: list[Shape] = [plane((0, 0, 0), (0, 1, 0), WATER)]
    parts += [sphere((1.4, -0.75, -3.0), 1.25, ROCK), sphere((2.7, -0.55, -3.6), 0.85, ROCK), sphere((-4.4, -0.9, -6.0), 1.6, ROCK)]
    parts += [
        capsule((1.4, 0.2, -3.0), (1.4, 1.9, -3.0), 0.26, IVORY),
        tube((1.4, 2.12, -3.0), (0, 1, 0), 0.0, 0.42, 0.06, BRONZE),
        tube((1.4, 3.02, -3.0), (0, 1, 0), 0.0, 0.40, 0.05, BRONZE),
        sphere(light, 0.15, glowing((900.0, 690.0, 430.0))),
        box((0.36, 0, 0), (0.02, 0.40, 0.33), BRONZE, 0.0, _shutters(20)),
        box((0.36, 0, 0), (0.02, 0.40, 0.33), BRONZE, 0.0, _shutters(140)),
        box((0.36, 0, 0), (0.02, 0.40, 0.33), BRONZE, 0.0, _shutters(260)),
        box((0, 0, 0), (0.75, 0.14, 0.24), matte((0.16, 0.06, 0.04)), 0.35, _rocking),
        capsule((0.05, 0.1, 0.0), (0.05, 1.05, 0.0), 0.03, BRASS_WORN, _rocking),
        sphere((0.05, 1.12, 0.0), 0.07, glowing((26.0, 12.0, 4.0)), _rocking),
        ring((-9.0, 11.0, -16.0), (0.5, -0.45, 0.74), 0.0, 1.6, glowing((9.0, 10.5, 13.0))),
    ]
    fog = Fog((-7.2, 0.0, -9.0), (7.2, 3.0, 3.0), _drifting, 0.40, (0.86, 0.9, 0.94))

    def _camera(frame: float) -> CameraPose:
        return CameraPose((0.0, 1.7, 6.0), (-0.1, 1.25, -3.0), 8.6)

    return Scene(
        "bay_fog", tuple(parts), _camera, 0.55, 0.0, (0.022, 0.03, 0.042), (0.012, 0.018, 0.032), FIRST, FIRST + 83,
        "Tidal Orrery: fog drifts over the bay, the harbour light turns its shutters", fog, 10.0,
    )  # fmt: skip


def tide_dial() -> Scene:
    """96 frames, a loop: the dial with its moons turns once, 3.75 degrees a frame."""
    step = 360.0 / TURN_FRAMES
    pose = turning(step, tilt=16, at=(0.0, 1.15, 0.0))
    parts: list[Shape] = [
        plane((0, 0, 0), (0, 1, 0), TABLE),
        plane((0, 0, -7.0), (0, 0, 1), matte((0.10, 0.13, 0.14))),
        tube((0, 0.12, 0), (0, 1, 0), 0.0, 1.25, 0.12, BRONZE),
        capsule((0, 0.2, 0), (0, 1.0, 0), 0.13, BRASS_WORN),
        ring((0, 0, 0), (0, 1, 0), 0.95, 1.75, DIAL, pose),
        tube((0, 0.0, 0), (0, 1, 0), 1.75, 1.88, 0.06, BRASS, pose),
        tube((0, 0.0, 0), (0, 1, 0), 0.84, 0.95, 0.06, BRASS, pose),
        sphere((0, 0.30, 0), 0.52, SEA, pose),
        tube((0, 0.30, 0), (1, 0.25, 0), 0.60, 0.66, 0.03, BRASS, pose),
    ]
    for k in range(12):
        angle = 2 * math.pi * k / 12
        size = 0.07 + 0.055 * abs(math.cos(angle))
        at = (1.35 * math.cos(angle), 0.16, 1.35 * math.sin(angle))
        parts.append(sphere(at, size, (IVORY, STEEL, glass(1.5, (0.95, 0.98, 1.0)))[k % 3], pose))
    parts.append(capsule((0, 0.2, 0), (1.6, 0.24, 0), 0.03, STEEL, pose))
    parts += [
        sphere((-3.2, 4.2, 2.4), 0.55, glowing((30.0, 20.0, 10.5))),
        ring((4.0, 5.0, 3.5), (-0.6, -0.65, -0.5), 0.0, 1.4, glowing((6.0, 8.0, 10.5))),
    ]

    def _camera(frame: float) -> CameraPose:
        return CameraPose((0.0, 3.6, 5.6), (0.0, 1.05, 0.0), 5.9)

    return Scene(
        "tide_dial", tuple(parts), _camera, 0.44, 0.05, (0.03, 0.034, 0.04), (0.05, 0.06, 0.075), FIRST, FIRST + TURN_FRAMES - 1,
        "Tidal Orrery: the tide dial turns once, a loop of 96 frames",
    )  # fmt: skip
