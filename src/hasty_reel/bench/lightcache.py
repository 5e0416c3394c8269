"""The light cache of a scene: computed on the frames that own one, blended over the nearest."""

from __future__ import annotations

import math
import threading
import time
from collections import OrderedDict
from collections.abc import Sequence

import numpy as np

from hasty_reel.bench import shapes as sh
from hasty_reel.bench.layout import APPROXIMATE_AFTER, LIMITS
from hasty_reel.bench.packing import Packed, bounds_of, pack
from hasty_reel.bench.scene import Scene
from hasty_reel.bench.settings import Settings, set_up

GRID = (18, 9, 18)
CACHE_BYTES = math.prod(GRID) * 6 * 3 * 4
"""Of one cache: bounced light as float32 for six ways a surface may face."""
RAYS = 24
KEPT = 12
MARGIN = 0.02


def nearest_caches(frame: float, owners: Sequence[int], blend: int) -> list[tuple[int, float]]:
    """Return the caches a frame blends and their shares: the nearest ones, the nearer the more.

    Parameters
    ----------
    frame : its number; between two frames it may have a fraction
    owners : frames that own a cache
    blend : frames over which caches are blended
    """
    near = sorted(owners, key=lambda f: (abs(f - frame), f))[: max(1, blend)]
    if len(near) == 1 or (near[0] == frame and blend == 1):
        return [(near[0], 1.0)]
    reach = max(abs(f - frame) for f in near) + 1.0
    weights = [1.0 - abs(f - frame) / (reach + 1e-9) for f in near]
    total = sum(weights)
    return [(f, w / total) for f, w in zip(near, weights)]


def scene_box(scene: Scene) -> np.ndarray:
    """Return the box of a scene's bounded shapes, low and high, (6,); what moves is boxed where it is at the first frame.

    Parameters
    ----------
    scene : the scene
    """
    bounded = [s for s in scene.shapes if s.kind != sh.PLANE]
    boxes = np.array([bounds_of(s, scene.first) for s in bounded]) if bounded else np.array([[-1.0] * 3 + [1.0] * 3])
    low, high = boxes[:, :3].min(axis=0), boxes[:, 3:].max(axis=0)
    room = MARGIN * (high - low) + 1e-3
    return np.concatenate([low - room, high + room])


class CacheKeeper:
    """Keeps the caches of a few frames of one scene and one set of settings."""

    def __init__(self) -> None:
        self._key: tuple = ()
        self._kept: OrderedDict[int, np.ndarray] = OrderedDict()
        self._lock = threading.Lock()

    def blended(
        self, scene: Scene, frame: float, settings: Settings, owners: Sequence[int], blend: int
    ) -> tuple[np.ndarray, np.ndarray, float]:
        """Return the cache of a frame, its box, and the seconds spent on caches that were not there yet.

        Parameters
        ----------
        scene : the scene
        frame : its number; between two frames it may have a fraction
        settings : how the frame is rendered
        owners : frames that own a cache
        blend : frames over which caches are blended

        Returns
        -------
        cache : (x, y, z, 6, 3) float32
            Bounced light by place and the way a surface faces.
        box : (6,) float64
            Its low and high corner, in units of the scene.
        seconds : float
            Spent on caches that were not there yet.
        """
        with self._lock:
            return self._blended(scene, frame, settings, owners, blend)

    def _blended(
        self, scene: Scene, frame: float, settings: Settings, owners: Sequence[int], blend: int
    ) -> tuple[np.ndarray, np.ndarray, float]:
        kinds = tuple(settings.by_kind.values())
        key = (scene.name, settings.bounces, kinds, settings.ceiling, settings.lamps, settings.fog_step, settings.seed >> 24)
        if key != self._key:
            self._key, self._kept = key, OrderedDict()
        began = time.perf_counter()
        box = scene_box(scene)
        found = None
        for owner, share in nearest_caches(frame, owners, blend):
            if owner not in self._kept:
                self._kept[owner] = _filled(scene, owner, settings, box)
                while len(self._kept) > KEPT:
                    self._kept.popitem(last=False)
            piece = share * self._kept[owner]
            found = piece if found is None else found + piece
        assert found is not None
        return found.astype(np.float32), box, time.perf_counter() - began


def _filled(scene: Scene, frame: int, settings: Settings, box: np.ndarray) -> np.ndarray:
    """The cache of one frame, (x, y, z, 6, 3) float32."""
    from hasty_reel.bench.sampling import fill_cache

    packed: Packed = pack(scene, frame, 0.0, 1, 1, settings.lamps)
    set_up(packed.view, settings, np.zeros(3))
    packed.view[LIMITS, APPROXIMATE_AFTER] = -1
    axes = [np.linspace(box[k], box[3 + k], GRID[k]) for k in range(3)]
    points = np.ascontiguousarray(np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1))
    cache = np.zeros((*GRID, 6, 3), np.float32)
    arrays = (
        packed.tags,
        packed.solid,
        packed.planes,
        packed.boxes,
        packed.ways,
        packed.mats,
        packed.lights,
        packed.fog,
        packed.cache,
        packed.view,
    )
    fill_cache(points, RAYS, settings.seed + 7, cache, *arrays)
    return cache
