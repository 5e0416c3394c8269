"""The scenes of the bench renderer by name: the demo shots and small scenes with known answers."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from hasty_reel.bench.harbour import bay_fog, gears_jewels, tide_dial
from hasty_reel.bench.orrery import comet_pass, lamp_wakes
from hasty_reel.bench.scene import CameraPose, Scene, box, glass, glowing, matte, plane, ring, sphere
from hasty_reel.errors import WrongInput

WHITE_SKY = (1.0, 1.0, 1.0)


def _still(origin, target, focus: float = 1.0) -> Callable[[float], CameraPose]:
    return lambda frame: CameraPose(origin, target, focus)


def furnace(albedo: float = 0.8) -> Scene:
    """Return a matte ball in a uniform field of radiance 1: it shows its albedo.

    Parameters
    ----------
    albedo : share of light that it scatters, 0 to 1
    """
    ball = sphere((0, 0, 0), 1.0, matte((albedo,) * 3))
    return Scene("furnace", (ball,), _still((0, 0, 4), (0, 0, 0)), 0.2, 0.0, WHITE_SKY, WHITE_SKY, 1, 1,
                 "a matte ball of albedo 0.8 in uniform light: it shows 0.8")  # fmt: skip


def open_sky(albedo: float = 1.0) -> Scene:
    """Return a level white plane under a uniform sky of radiance 1: irradiance pi, so it shows its albedo.

    Parameters
    ----------
    albedo : share of light that it scatters, 0 to 1
    """
    floor = plane((0, 0, 0), (0, 1, 0), matte((albedo,) * 3))
    return Scene("open_sky", (floor,), _still((0, 3, 0.01), (0, 0, 0)), 0.2, 0.0, WHITE_SKY, WHITE_SKY, 1, 1,
                 "a white plane under a uniform sky")  # fmt: skip


def ball_light(radius: float = 0.5, height: float = 2.0) -> Scene:
    """Return a glowing ball of radiance 1 above a matte plane: E = pi (radius/height)^2 below it.

    Parameters
    ----------
    radius : in units of the scene
    height : above the plane, in units of the scene
    """
    parts = (plane((0, 0, 0), (0, 1, 0), matte((1, 1, 1))), sphere((0, height, 0), radius, glowing((1, 1, 1))))
    return Scene("ball_light", parts, _still((0, 0.6, 0.6), (0, 0, 0)), 0.01, 0.0, first=1, last=1,
                 about="a glowing ball above a white plane: the form factor (r/h)^2")  # fmt: skip


def disc_light(radius: float = 1.0, height: float = 2.0) -> Scene:
    """Return a glowing disc of radiance 1 facing a matte plane: E = pi r^2/(r^2 + h^2) on its axis.

    Parameters
    ----------
    radius : in units of the scene
    height : above the plane, in units of the scene
    """
    lamp = ring((0, height, 0), (0, -1, 0), 0.0, radius, glowing((1, 1, 1)))
    return Scene("disc_light", (plane((0, 0, 0), (0, 1, 0), matte((1, 1, 1))), lamp),
                 _still((0, 0.6, 0.6), (0, 0, 0)), 0.01, 0.0, first=1, last=1,
                 about="a glowing disc above a white plane: the form factor r^2/(r^2 + h^2)")  # fmt: skip


def glass_wall() -> Scene:
    """Return a thick block of glass before darkness, met head-on, lit from the camera's side."""
    parts = (
        box((0, 0, -50), (50, 50, 50), glass(1.5)),
        box((0, 0, -49.999), (49, 49, 49), matte((0, 0, 0))),
    )
    return Scene("glass_wall", parts, _still((0, 0, 5), (0, 0, 0)), 0.001, 0.0, WHITE_SKY, WHITE_SKY, 1, 1,
                 "glass met head-on in uniform light before black: it shows its reflectance 0.04")  # fmt: skip


def moving_edge(speed: float = 0.1) -> Scene:
    """Return a bright half plane that moves sideways: its blur is the box integral of an edge.

    Parameters
    ----------
    speed : in pixels a frame
    """

    def _slide(frame: float) -> tuple[np.ndarray, np.ndarray]:
        return np.eye(3), np.array([speed * (frame - 1), 0.0, 0.0])

    sheet = box((-50.0, 0.0, 0.0), (50.0, 50.0, 0.01), matte((0, 0, 0)), 0.0, _slide)
    return Scene("moving_edge", (sheet,), _still((0, 0, 10.01), (0, 0, 0), 10.0), 0.1, 0.0, WHITE_SKY, WHITE_SKY, 1, 48,
                 "a dark edge that moves sideways before white")  # fmt: skip


def focus_dot(radius: float = 0.05, focus: float = 5.0, distance: float = 8.0) -> Scene:
    """Return a tiny glowing ball away from the plane in focus: it draws its circle of confusion.

    Parameters
    ----------
    radius : in units of the scene
    focus : distance in focus
    distance : of the ball from the camera
    """
    dot = sphere((0, 0, -distance), 0.004, glowing((1000.0,) * 3))
    return Scene("focus_dot", (dot,), _still((0, 0, 0), (0, 0, -1), focus), 0.02, radius, first=1, last=1,
                 about="a point of light out of focus: the circle of confusion")  # fmt: skip


def soft_corner() -> Scene:
    """Matte walls and a lamp, nothing bright and rare: noise of a finite variance for slope tests."""
    parts = (
        plane((0, 0, 0), (0, 1, 0), matte((0.7, 0.7, 0.7))),
        plane((0, 0, -2), (0, 0, 1), matte((0.6, 0.5, 0.4))),
        box((0.5, 0.4, -0.8), (0.35, 0.4, 0.35), matte((0.3, 0.5, 0.7)), math.radians(30)),
        sphere((-0.6, 1.4, 0.2), 0.25, glowing((4, 4, 4))),
    )
    return Scene("soft_corner", parts, _still((0, 1.0, 4.0), (0, 0.6, 0)), 0.4, 0.0, first=1, last=1,
                 about="matte walls and a lamp")  # fmt: skip


SCENES: dict[str, Callable[[], Scene]] = {
    f.__name__: f
    for f in (
        lamp_wakes,
        comet_pass,
        gears_jewels,
        bay_fog,
        tide_dial,
        furnace,
        open_sky,
        ball_light,
        disc_light,
        glass_wall,
        moving_edge,
        focus_dot,
        soft_corner,
    )
}


def find_scene(name: str) -> Scene:
    """Return the scene of that name.

    Parameters
    ----------
    name : of the scene

    Raises
    ------
    WrongInput
        When there is none; the message lists those there are.
    """
    if name not in SCENES:
        raise WrongInput(f"Bench renderer: no scene '{name}'; expected one of {', '.join(SCENES)}.")
    return SCENES[name]()
