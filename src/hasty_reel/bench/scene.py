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
from hasty_reel.bench.hierarchy import Tree, hierarchy

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


class Packed(NamedTuple):
    """One frame of a scene as the last arrays of `transport.add_samples`, in its order."""

    tags: np.ndarray
    solid: np.ndarray
    planes: int
    boxes: np.ndarray
    ways: np.ndarray
    mats: np.ndarray
    lights: np.ndarray
    fog: np.ndarray
    cache: np.ndarray
    view: np.ndarray


def settled_share(scene: Scene, history: int | None) -> float:
    """Return how much of its fog a scene has gathered after some frames of history; all of it where it needs none.

    Parameters
    ----------
    scene : the scene
    history : frames of history; None for all it needs
    """
    if scene.settling <= 0 or history is None:
        return 1.0
    return 1.0 - math.exp(-(history + 1.0) / scene.settling)


def pack(
    scene: Scene, frame: float, angle: float, width: int, height: int, lamps: bool = True, settled: float = 1.0,
    kept: dict[str, Tree] | None = None,
) -> Packed:  # fmt: skip
    """Return the arrays of one frame.

    Parameters
    ----------
    scene : the scene
    frame : frame number; fractions stand between two frames
    angle : shutter angle in degrees, 0 to 360
    width, height : size of the picture in pixels
    lamps : glowing balls and rings are sampled as lamps; else they are found by chance like other glowing shapes
    settled : share of its fog that the scene has gathered
    kept : hierarchies by scene that stay loaded from frame to frame; None builds one for this frame alone
    """
    opens, closes = frame - angle / 720.0, frame + angle / 720.0
    worn = [s.material_at(frame) for s in scene.shapes]
    materials = list(dict.fromkeys(worn))
    start = np.array([_numbers_at(s, opens) for s in scene.shapes])
    change = np.array([_numbers_at(s, closes) for s in scene.shapes]) - start
    onward = np.array([_onward(s, frame) for s in scene.shapes])
    endless = [i for i, s in enumerate(scene.shapes) if s.kind == sh.PLANE]
    solid = [i for i, s in enumerate(scene.shapes) if s.kind != sh.PLANE]
    bounds = np.array([_bounds(scene.shapes[i].kind, start[i], start[i] + change[i]) for i in solid]).reshape(-1, 6)
    tree = None if kept is None else kept.get(scene.name)
    if tree is not None and len(tree.order) == len(solid):
        order, boxes, ways = tree.order, tree.refitted(bounds), tree.ways
    else:
        order, boxes, ways, members = hierarchy(bounds, len(endless))
        if kept is not None:
            kept[scene.name] = Tree(order, ways, members)
    sequence = endless + [solid[i] for i in order]
    lights = [k for k, i in enumerate(sequence) if lamps and _is_light(scene.shapes[i])]
    tags = np.zeros((len(sequence), 6), np.int32)
    for k, i in enumerate(sequence):
        moves = bool(np.abs(change[i]).max() > 0)
        number = lights.index(k) if k in lights else -1
        tags[k] = scene.shapes[i].kind, moves, materials.index(worn[i]), number, worn[i].kind, worn[i].pattern
    view = np.zeros((9, 12))
    view[:4] = _camera_rows(scene, opens, closes)
    view[4, :4] = scene.half_width, scene.half_width * height / width, scene.camera(frame).focus, scene.lens_radius
    view[4, 4:10] = *scene.sky_low, *scene.sky_high
    fog = np.zeros((1, 1, 1), np.float32)
    if scene.fog is not None:
        fog = np.ascontiguousarray(scene.fog.density(frame) * settled, np.float32)
        view[6, :10] = *scene.fog.low, *scene.fog.high, scene.fog.thickness, *scene.fog.colour
    return Packed(
        tags,
        np.hstack([start, change, onward])[sequence],
        len(endless),
        boxes,
        ways,
        np.array([[*m.colour, *m.second, m.roughness, m.refraction, *m.light, m.scale] for m in materials], np.float64),
        np.array(lights, np.int64),
        fog,
        np.zeros((1, 1, 1, 6, 3), np.float32),
        view,
    )


def _is_light(shape: Shape) -> bool:
    return shape.material.kind == su.GLOWING and shape.kind in (sh.SPHERE, sh.RING)


def _numbers_at(shape: Shape, time: float) -> np.ndarray:
    numbers = np.zeros(12)
    numbers[: len(shape.numbers)] = shape.numbers
    if shape.pose is None:
        return numbers
    turn, place = shape.pose(time)
    numbers[0:3] = turn @ numbers[0:3] + place
    if shape.kind == sh.CAPSULE:
        numbers[3:6] = turn @ numbers[3:6] + place
    elif shape.kind in (sh.RING, sh.TUBE):
        numbers[3:6] = turn @ numbers[3:6]
    elif shape.kind == sh.BOX:
        numbers[6:9] = turn @ numbers[6:9]
        numbers[9:12] = turn @ numbers[9:12]
    return numbers


def _onward(shape: Shape, frame: float) -> np.ndarray:
    """The rigid motion (3 x 4, row by row) that carries the shape to the next frame."""
    if shape.pose is None:
        return np.hstack([np.eye(3), np.zeros((3, 1))]).ravel()
    turn, place = shape.pose(frame)
    turn_next, place_next = shape.pose(frame + 1.0)
    rotation = turn_next @ turn.T
    return np.hstack([rotation, (place_next - rotation @ place)[:, None]]).ravel()


def bounds_of(shape: Shape, frame: float) -> np.ndarray:
    """Return the box of a bounded shape at a frame: low and high corner, (6,).

    Parameters
    ----------
    shape : the shape
    frame : its number; between two frames it may have a fraction
    """
    return _bounds(shape.kind, _numbers_at(shape, frame))


def _bounds(kind: int, *moments: np.ndarray) -> np.ndarray:
    low, high = np.full(3, sh.FAR), np.full(3, -sh.FAR)
    for n in moments:
        if kind == sh.SPHERE:
            corners = [n[0:3] - n[3], n[0:3] + n[3]]
        elif kind == sh.CAPSULE:
            corners = [n[0:3] - n[6], n[0:3] + n[6], n[3:6] - n[6], n[3:6] + n[6]]
        elif kind == sh.BOX:
            u, v = n[6:9], n[9:12]
            reach = np.abs(u) * n[3] + np.abs(v) * n[4] + np.abs(np.cross(u, v)) * n[5]
            corners = [n[0:3] - reach, n[0:3] + reach]
        else:
            axis = n[3:6] / np.linalg.norm(n[3:6])
            # halfway through the shutter the axis is not quite straight between its ends: a little slack
            reach = 1.01 * (n[7] * np.sqrt(np.maximum(0.0, 1.0 - axis**2)) + n[8] * np.abs(axis)) + 1e-6
            corners = [n[0:3] - reach, n[0:3] + reach]
        low, high = np.minimum(low, np.min(corners, axis=0)), np.maximum(high, np.max(corners, axis=0))
    return np.concatenate([low - 1e-9, high + 1e-9])


def _camera_rows(scene: Scene, opens: float, closes: float) -> np.ndarray:
    rows = np.empty((4, 12))
    for base, shift in ((0, 0.0), (2, 1.0)):
        rows[base] = _camera_frame(scene.camera(opens + shift))
        rows[base + 1] = _camera_frame(scene.camera(closes + shift)) - rows[base]
    return rows


def _camera_frame(pose: CameraPose) -> np.ndarray:
    origin = np.array(pose.origin, np.float64)
    forward = np.array(pose.target, np.float64) - origin
    forward /= np.linalg.norm(forward)
    right = np.cross(forward, [0.0, 1.0, 0.0])
    right /= np.linalg.norm(right)
    return np.concatenate([origin, right, np.cross(right, forward), forward])
