"""Tidal Orrery: a brass model of moon, sun and tides in a lamp-keeper's library.

The set of the demo reel, made for a small harbour museum. Lengths are in
decimetres, y points up, the table top lies at y = 0. Two shots:

lamp_wakes  the lamp comes up while the camera pushes in; glass, brass, books out of focus
comet_pass  the comet on its wire sweeps over the turning hoops
"""

from __future__ import annotations

import math

import numpy as np

from hasty_reel.bench import surfaces as su
from hasty_reel.bench.scene import (
    CameraPose,
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

FIRST = 1001
BRASS = metal((0.86, 0.62, 0.27), 0.42)
BRASS_WORN = metal((0.72, 0.50, 0.24), 0.60)
BRONZE = metal((0.52, 0.33, 0.18), 0.55)
STEEL = metal((0.60, 0.62, 0.66), 0.30)
DIAL = metal((0.80, 0.63, 0.34), 0.42, second=(0.05, 0.04, 0.03), pattern=su.TICKS, scale=60.0)
TABLE = matte((0.085, 0.050, 0.030), (0.20, 0.115, 0.062), su.PLANKS, 1.1)
SHELF = matte((0.10, 0.060, 0.036), (0.16, 0.10, 0.06), su.GRAIN, 6.0)
WALL = matte((0.10, 0.13, 0.14))
SEA = matte((0.03, 0.16, 0.26), (0.33, 0.55, 0.58), su.SWIRL, 6.0)
IVORY = matte((0.72, 0.68, 0.58))
CLOTH = [
    (0.30, 0.07, 0.05),
    (0.07, 0.15, 0.20),
    (0.22, 0.17, 0.08),
    (0.09, 0.16, 0.09),
    (0.26, 0.22, 0.17),
    (0.16, 0.08, 0.13),
]


def turning(degrees_per_frame: float, axis: str = "y", tilt: float = 0.0, start: float = 0.0, at=(0.0, 0.0, 0.0)) -> Pose:
    """Return a pose that turns steadily about an axis leaning by `tilt` degrees, through the point `at`.

    Parameters
    ----------
    degrees_per_frame : speed
    axis : it turns about before it is tilted
    tilt : of the axis, in degrees
    start : angle at frame 0, in degrees
    at : x, y, z of a point on the axis
    """
    lean = rotation("z", math.radians(tilt))
    centre = np.array(at, np.float64)

    def _pose(frame: float) -> tuple[np.ndarray, np.ndarray]:
        turn = lean @ rotation(axis, math.radians(start + degrees_per_frame * (frame - FIRST)))
        return turn, centre

    return _pose


def rotation(axis: str, angle: float) -> np.ndarray:
    """Return the matrix of a turn about one of the axes, (3, 3).

    Parameters
    ----------
    axis : 'x', 'y' or 'z'
    angle : in radians
    """
    c, s = math.cos(angle), math.sin(angle)
    if axis == "x":
        return np.array([[1, 0, 0], [0, c, -s], [0, s, c]], np.float64)
    if axis == "y":
        return np.array([[c, 0, s], [0, 1, 0], [-s, 0, c]], np.float64)
    return np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]], np.float64)


def eased(share: float) -> float:
    """Return a share of the way that begins and ends softly (smoothstep).

    Parameters
    ----------
    share : of the time, 0 to 1
    """
    share = min(1.0, max(0.0, share))
    return share * share * (3.0 - 2.0 * share)


def _library() -> list[Shape]:
    """Table, back wall and three shelves of books; the same books every time."""
    shapes = [
        plane((0, 0, 0), (0, 1, 0), TABLE),
        plane((0, 0, -12.5), (0, 0, 1), WALL),
    ]
    rng = np.random.RandomState(7)
    for level in range(3):
        y = 1.6 + 3.3 * level
        shapes.append(box((0, y - 0.18, -11.4), (13, 0.14, 1.1), SHELF))
        x = -12.0
        while x < 12.0:
            width = 0.22 + 0.30 * rng.rand()
            height = 1.7 + 0.9 * rng.rand()
            if rng.rand() > 0.12:
                tone = 0.7 + 0.6 * rng.rand()
                r, g, b = CLOTH[rng.randint(len(CLOTH))]
                shapes.append(
                    box(
                        (x + width, y - 0.04 + height / 2, -11.3 + 0.2 * rng.rand()),
                        (width * 0.94, height / 2, 0.8),
                        matte((r * tone, g * tone, b * tone)),
                    )
                )
            x += 2 * width
    return shapes


def _stand() -> list[Shape]:
    """Foot, column and tide dial of the orrery."""
    return [
        tube((0, 0.14, 0), (0, 1, 0), 0.0, 1.55, 0.14, BRONZE),
        tube((0, 0.36, 0), (0, 1, 0), 0.0, 1.15, 0.08, BRASS_WORN),
        tube((0, 0.52, 0), (0, 1, 0), 0.0, 0.62, 0.10, BRASS),
        capsule((0, 0.5, 0), (0, 2.4, 0), 0.17, BRASS),
        sphere((0, 1.3, 0), 0.30, BRASS_WORN),
        sphere((0, 3.05, 0), 0.78, BRASS),
        tube((0, 3.05, 0), (0, 1, 0), 0.74, 0.90, 0.035, BRONZE),
        ring((0, 0.02, 0), (0, 1, 0), 2.35, 3.15, DIAL),
        tube((0, 0.03, 0), (0, 1, 0), 3.15, 3.28, 0.05, BRASS),
        tube((0, 0.03, 0), (0, 1, 0), 2.26, 2.35, 0.05, BRASS),
    ]


def _hoops(speed: float) -> list[Shape]:
    """Three hoops about the sun, turning at different speeds (degrees a frame)."""
    sun = (0.0, 3.05, 0.0)
    return [
        tube((0, 0, 0), (0, 0, 1), 2.02, 2.16, 0.055, BRASS, turning(0.8 * speed, tilt=8, start=24, at=sun)),
        tube((0, 0, 0), (0, 1, 0), 2.62, 2.80, 0.045, BRASS_WORN, turning(0.0, tilt=14, at=sun)),
        tube((0, 0, 0), (1, 0.3, 0), 1.55, 1.66, 0.045, BRONZE, turning(-1.3 * speed, tilt=-20, start=70, at=sun)),
    ]


def _planets(speed: float) -> list[Shape]:
    """Earth with its tides, moon, and two small bodies on their arms."""
    sun = (0.0, 3.05, 0.0)
    shapes: list[Shape] = []
    for radius, size, rate, start, height, material in (
        (2.70, 0.42, 1.0, 205.0, 0.02, SEA),
        (1.84, 0.17, -1.7, 40.0, -0.25, STEEL),
        (1.30, 0.13, 2.6, 320.0, 0.30, BRONZE),
    ):
        pose = turning(rate * speed, tilt=14 if radius > 2.5 else 0, start=start, at=sun)
        shapes.append(sphere((radius, height, 0), size, material, pose))
        shapes.append(capsule((0.5, height * 0.2, 0), (radius - size * 0.9, height, 0), 0.032, BRASS, pose))
        if material is SEA:
            shapes.append(sphere((radius + 0.50, 0.42, 0.30), 0.15, IVORY, pose))
            shapes.append(capsule((radius + 0.2, 0.25, 0.1), (radius + 0.46, 0.39, 0.26), 0.018, BRASS, pose))
    return shapes


def _glassware() -> list[Shape]:
    """Tide glasses on the table: they throw the lamp's light about."""
    return [
        sphere((-2.05, 0.62, 3.0), 0.60, glass(1.5, (0.96, 1.0, 0.99))),
        tube((-2.05, 0.05, 3.0), (0, 1, 0), 0.0, 0.34, 0.05, BRASS),
        sphere((3.25, 0.42, 2.0), 0.40, glass(1.5, (1.0, 0.93, 0.84))),
        tube((3.25, 0.04, 2.0), (0, 1, 0), 0.0, 0.24, 0.04, BRASS),
        box((4.3, 0.22, -0.6), (0.9, 0.20, 0.65), matte((0.30, 0.07, 0.05)), 0.5),
        box((4.2, 0.58, -0.6), (0.8, 0.14, 0.58), matte((0.24, 0.20, 0.14)), 0.32),
    ]


def _lamp(strength, at=(-4.3, 4.3, 1.0)) -> list[Shape]:
    """The keeper's lamp on its post, and the moonlit window as a cool disc of light."""
    x, y, z = at
    bulb = sphere(at, 0.62, glowing((42.0, 27.0, 14.0)))
    return [
        Shape(bulb.kind, bulb.numbers, bulb.material, None, strength),
        tube((x, y + 0.80, z), (0, 1, 0), 0.0, 0.74, 0.05, BRASS_WORN),
        tube((x, y - 0.74, z), (0, 1, 0), 0.10, 0.42, 0.08, BRASS),
        capsule((x, 0.0, z), (x, y - 0.7, z), 0.09, BRASS_WORN),
        tube((x, 0.08, z), (0, 1, 0), 0.0, 0.8, 0.08, BRONZE),
        ring((7.5, 9.0, 6.0), (-0.62, -0.66, -0.42), 0.0, 2.2, glowing((7.0, 9.2, 12.0))),
    ]


def lamp_wakes() -> Scene:
    """96 frames: the lamp comes up, the camera pushes in slowly."""

    def _camera(frame: float) -> CameraPose:
        e = eased((frame - FIRST) / 95.0)
        origin = np.array([3.6, 5.2, 11.6]) * (1 - e) + np.array([1.6, 4.5, 9.4]) * e
        target = np.array([-0.3, 2.15, 0.0]) * (1 - e) + np.array([-0.35, 2.35, 0.0]) * e
        return CameraPose(tuple(origin), tuple(target), float(np.linalg.norm(target - origin)) - 0.8)

    def _waking(frame: float) -> float:
        return 0.12 + 0.88 * eased((frame - FIRST - 14) / 50.0)

    parts = _library() + _stand() + _hoops(0.25) + _planets(0.35) + _glassware() + _lamp(_waking)
    return Scene(
        "lamp_wakes", tuple(parts), _camera, 0.47, 0.085, (0.03, 0.034, 0.04), (0.05, 0.06, 0.075), 1001, 1096,
        "Tidal Orrery: the lamp comes up, slow push-in, glass and brass, books out of focus",
    )  # fmt: skip


def comet_pass() -> Scene:
    """72 frames: the comet sweeps past on its wire, the hoops turn fast."""

    def _camera(frame: float) -> CameraPose:
        t = (frame - FIRST) / 71.0
        origin = np.array([-2.6 + 1.8 * t, 3.6 + 0.5 * t, 10.2])
        target = np.array([0.1, 2.45, 0.0])
        return CameraPose(tuple(origin), tuple(target), float(np.linalg.norm(target - origin)) - 0.6)

    def _flight(frame: float) -> tuple[np.ndarray, np.ndarray]:
        t = (frame - FIRST) / 71.0
        e = eased(1.25 * t - 0.1)
        angle = math.radians(200.0 - 250.0 * e)
        return rotation("y", -angle), np.array([3.5 * math.cos(angle), 4.1 - 0.9 * e, 3.5 * math.sin(angle)])

    comet = [
        sphere((0, 0, 0), 0.22, glowing((18.0, 26.0, 34.0)), _flight),
        *(sphere((0.02 * k, 0.03 * k, 0.34 + 0.30 * k), 0.15 - 0.022 * k, glass(1.5, (0.90, 0.97, 1.0)), _flight) for k in range(5)),
        capsule((0, 0, 0), (0.1, 0.16, 1.7), 0.02, STEEL, _flight),
    ]
    parts = _library() + _stand() + _hoops(3.0) + _planets(2.2) + _glassware() + _lamp(lambda f: 0.8) + comet
    return Scene(
        "comet_pass", tuple(parts), _camera, 0.50, 0.05, (0.03, 0.034, 0.04), (0.05, 0.06, 0.075), 1001, 1072,
        "Tidal Orrery: the comet sweeps past on its wire, fast hoops, glass beads",
    )  # fmt: skip
