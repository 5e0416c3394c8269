"""Scenes: shapes with poses over time, a camera, a sky; and their arrays for one frame.

A pose gives a rotation and a place for a (fractional) frame number; between
shutter opening and closing the kernel moves the numbers of a shape in a
straight line. The shutter stands open from `frame - angle/720` to
`frame + angle/720`, so that the angle changes the blur and not the place.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np

from hasty_reel.bench import shapes as sh
from hasty_reel.bench import surfaces as su

Vector = tuple[float, float, float]
Pose = Callable[[float], tuple[np.ndarray, np.ndarray]]


@dataclass(frozen=True)
class Material:
    """What a surface does with light; colours are scene-linear reflectances."""

    kind: int
    colour: Vector = (0.8, 0.8, 0.8)
    second: Vector = (0.0, 0.0, 0.0)
    pattern: int = su.PLAIN
    scale: float = 1.0
    roughness: float = 0.3
    refraction: float = 1.5
    light: Vector = (0.0, 0.0, 0.0)


def matte(colour: Vector, second: Vector = (0, 0, 0), pattern: int = su.PLAIN, scale: float = 1.0) -> Material:
    """Return a surface that scatters alike into all directions.

    Parameters
    ----------
    colour : red, green, blue, 0 to 1
    second : second colour of the pattern
    pattern : 0 for one colour
    scale : size of the pattern, in units of the scene
    """
    return Material(su.MATTE, colour, second, pattern, scale)


def metal(colour: Vector, roughness: float, **more) -> Material:
    """Rough metal; `colour` is what it reflects head-on.

    Parameters
    ----------
    colour : red, green, blue, 0 to 1
    roughness : 0 to 1
    **more : as of `Material`
    """
    return Material(su.METAL, colour, roughness=roughness, **more)


def glass(refraction: float = 1.5, colour: Vector = (1, 1, 1)) -> Material:
    """Clear glass; `refraction` is its refractive index.

    Parameters
    ----------
    refraction : refractive index
    colour : red, green, blue, 0 to 1
    """
    return Material(su.GLASS, colour, refraction=refraction)


def glowing(light: Vector) -> Material:
    """Return a surface that gives off `light` (radiance) and reflects none.

    Parameters
    ----------
    light : radiance, red, green, blue
    """
    return Material(su.GLOWING, light=light)


@dataclass(frozen=True)
class Shape:
    """One solid: its kind, its numbers in its own space, its material and its pose."""

    kind: int
    numbers: tuple[float, ...]
    material: Material
    pose: Pose | None = None
    dimmer: Callable[[float], float] | None = None
    """Share of its light that a glowing shape gives off at a frame."""

    def material_at(self, frame: float) -> Material:
        """Return the material with the light it gives off at this frame.

        Parameters
        ----------
        frame : its number; between two frames it may have a fraction
        """
        if self.dimmer is None:
            return self.material
        share = self.dimmer(frame)
        r, g, b = self.material.light
        return replace(self.material, light=(r * share, g * share, b * share))


def sphere(centre: Vector, radius: float, material: Material, pose: Pose | None = None) -> Shape:
    """Return a ball.

    Parameters
    ----------
    centre : x, y, z in units of the scene
    radius : in units of the scene
    material : of its surface
    pose : how it moves; None where it stands still
    """
    return Shape(sh.SPHERE, (*centre, radius), material, pose)


def plane(point: Vector, normal: Vector, material: Material) -> Shape:
    """Return an endless plane.

    Parameters
    ----------
    point : x, y, z of a point on it
    normal : x, y, z, the way it faces
    material : of its surface
    """
    return Shape(sh.PLANE, (*point, *unit(normal)), material)


def ring(centre: Vector, normal: Vector, inner: float, outer: float, material: Material, pose: Pose | None = None) -> Shape:
    """Return a flat ring; inner radius 0 makes a disc. A glowing one shines on the side of its normal.

    Parameters
    ----------
    centre : x, y, z in units of the scene
    normal : x, y, z, the way it faces
    inner : inner radius, in units of the scene
    outer : outer radius, in units of the scene
    material : of its surface
    pose : how it moves; None where it stands still
    """
    return Shape(sh.RING, (*centre, *unit(normal), inner, outer), material, pose)


def tube(centre: Vector, axis: Vector, inner: float, outer: float, half: float, material: Material, pose: Pose | None = None) -> Shape:
    """Return a hoop of rectangular section, `half` its half height along the axis.

    Parameters
    ----------
    centre : x, y, z in units of the scene
    axis : x, y, z
    inner : inner radius, in units of the scene
    outer : outer radius, in units of the scene
    half : half its height along the axis
    material : of its surface
    pose : how it moves; None where it stands still
    """
    return Shape(sh.TUBE, (*centre, *unit(axis), inner, outer, half), material, pose)


def capsule(a: Vector, b: Vector, radius: float, material: Material, pose: Pose | None = None) -> Shape:
    """Return a rod with round ends.

    Parameters
    ----------
    a, b : x, y, z of its ends
    radius : in units of the scene
    material : of its surface
    pose : how it moves; None where it stands still
    """
    return Shape(sh.CAPSULE, (*a, *b, radius), material, pose)


def box(centre: Vector, half: Vector, material: Material, turn: float = 0.0, pose: Pose | None = None) -> Shape:
    """Return a box of half sizes `half`, turned about the upright axis by `turn` radians.

    Parameters
    ----------
    centre : x, y, z in units of the scene
    half : half sizes along its own axes
    material : of its surface
    turn : about the upright axis, in radians
    pose : how it moves; None where it stands still
    """
    c, s = math.cos(turn), math.sin(turn)
    return Shape(sh.BOX, (*centre, *half, c, 0.0, -s, 0.0, 1.0, 0.0), material, pose)


def unit(v: Vector) -> Vector:
    """Return the vector at length 1.

    Parameters
    ----------
    v : x, y, z
    """
    n = math.sqrt(sum(x * x for x in v))
    return (v[0] / n, v[1] / n, v[2] / n)


class CameraPose(NamedTuple):
    """Where the camera stands and looks; `focus` is a distance along the view."""

    origin: Vector
    target: Vector
    focus: float


@dataclass(frozen=True)
class Fog:
    """Fog in a box of cubic cells.

    density : of a frame, (x, y, z) in 0..1; thickness : extinction per unit of length where the density is 1
    """

    low: Vector
    high: Vector
    density: Callable[[float], np.ndarray]
    thickness: float
    colour: Vector = (0.9, 0.9, 0.9)


@dataclass(frozen=True)
class Scene:
    """Everything the renderer needs to know, for every frame of a shot."""

    name: str
    shapes: tuple[Shape, ...]
    camera: Callable[[float], CameraPose]
    half_width: float
    """Half the width of the view at distance 1: the tangent of half the angle of view."""
    lens_radius: float = 0.0
    sky_low: Vector = (0.0, 0.0, 0.0)
    sky_high: Vector = (0.0, 0.0, 0.0)
    first: int = 1001
    last: int = 1001
    about: str = ""
    fog: Fog | None = None
    settling: float = 0.0
    """Frames of history after which its fog has gathered to 63 %; 0: it needs no history."""
