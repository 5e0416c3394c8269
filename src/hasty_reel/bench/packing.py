"""A scene at one frame as the arrays that the kernels read (see `layout`)."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from hasty_reel.bench import shapes as sh
from hasty_reel.bench import surfaces as su
from hasty_reel.bench.hierarchy import Tree, hierarchy
from hasty_reel.bench.layout import CAMERA, FOG, FOG_COLOUR, LENS, LENS_RADIUS, NEXT_CAMERA_CHANGE, SKY_HIGH, SKY_LOW
from hasty_reel.bench.scene import CameraPose, Scene, Shape


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


class AtHand:
    """The frame that was packed last, for who renders the same one again and again while settings of its light are tried."""

    def __init__(self) -> None:
        self._key: tuple | None = None
        self._packed: Packed | None = None

    def packed(self, scene: Scene, frame: float, angle: float, width: int, height: int, lamps: bool, settled: float) -> Packed:
        """Return a packed frame: the last one where it is the same. See `pack`.

        Parameters
        ----------
        scene : the scene
        frame : frame number
        angle : shutter angle in degrees
        width, height : size of the picture in pixels
        lamps : whether they are sampled
        settled : share of its fog that the scene has gathered
        """
        key = (scene.name, frame, angle, width, height, lamps, settled)
        found = self._packed
        if found is None or key != self._key:
            found = pack(scene, frame, angle, width, height, lamps, settled)
            self._key, self._packed = key, found
        # what is set up for its settings is written into the view
        return found._replace(view=found.view.copy())


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
    # materials are shared by many shapes and kept once
    worn = [s.material_at(frame) for s in scene.shapes]
    materials = list(dict.fromkeys(worn))
    # what a shape is when the shutter opens, what it changes by until it closes, and where it goes on to in a frame
    start = np.array([_numbers_at(s, opens) for s in scene.shapes])
    change = np.array([_numbers_at(s, closes) for s in scene.shapes]) - start
    onward = np.array([_onward(s, frame) for s in scene.shapes])
    # planes have no bounds: they stand before all others and are tried by every ray
    endless = [i for i, s in enumerate(scene.shapes) if s.kind == sh.PLANE]
    solid = [i for i, s in enumerate(scene.shapes) if s.kind != sh.PLANE]
    bounds = np.array([_bounds(scene.shapes[i].kind, start[i], start[i] + change[i]) for i in solid]).reshape(-1, 6)
    tree = None if kept is None else kept.get(scene.name)
    # a scene that stays loaded keeps its tree; its boxes alone follow what moves
    if tree is not None and len(tree.order) == len(solid):
        order, boxes, ways = tree.order, tree.refitted(bounds), tree.ways
    else:
        order, boxes, ways, members = hierarchy(bounds, len(endless))
        if kept is not None:
            kept[scene.name] = Tree(order, ways, members)
    sequence = endless + [solid[i] for i in order]
    # lamps are numbered in the order of the packed shapes, by which a path finds them
    lights = [k for k, i in enumerate(sequence) if lamps and _is_light(scene.shapes[i])]
    tags = np.zeros((len(sequence), 6), np.int32)
    for k, i in enumerate(sequence):
        moves = bool(np.abs(change[i]).max() > 0)
        number = lights.index(k) if k in lights else -1
        tags[k] = scene.shapes[i].kind, moves, materials.index(worn[i]), number, worn[i].kind, worn[i].pattern
    view = np.zeros((9, 12))
    view[CAMERA : NEXT_CAMERA_CHANGE + 1] = _camera_rows(scene, opens, closes)
    view[LENS, : LENS_RADIUS + 1] = scene.half_width, scene.half_width * height / width, scene.camera(frame).focus, scene.lens_radius
    view[LENS, SKY_LOW : SKY_HIGH + 3] = *scene.sky_low, *scene.sky_high
    fog = np.zeros((1, 1, 1), np.float32)
    if scene.fog is not None:
        fog = np.ascontiguousarray(scene.fog.density(frame) * settled, np.float32)
        view[FOG, : FOG_COLOUR + 3] = *scene.fog.low, *scene.fog.high, scene.fog.thickness, *scene.fog.colour
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
