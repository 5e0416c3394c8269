"""The light cache of a scene: computed on the frames that own one, blended over the nearest."""

from __future__ import annotations

import math
import threading
import time
from collections import OrderedDict

import numpy as np

from hasty_reel.bench import shapes as sh
from hasty_reel.bench.layout import APPROXIMATE_AFTER, LIMITS
from hasty_reel.bench.moment import LightCache, Moment
from hasty_reel.bench.packing import Packed, bounds_of, pack
from hasty_reel.bench.scene import Scene
from hasty_reel.bench.settings import Settings, set_up

GRID = (18, 9, 18)
CACHE_BYTES = math.prod(GRID) * 6 * 3 * 4
"""Of one cache: bounced light as float32 for six ways a surface may face."""
RAYS = 24
KEPT = 12
MARGIN = 0.02


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


def light_cache(scene: Scene, frame: int, settings: Settings) -> LightCache:
    """Return the light cache of a frame. Whoever computes it, it is the same: all caches of one seed share their noise pattern.

    Parameters
    ----------
    scene : the scene
    frame : that owns it
    settings : how frames are rendered
    """
    return LightCache(frame, pattern_of(settings), _filled(scene, frame, settings, scene_box(scene)))


def pattern_of(settings: Settings) -> int:
    """Return the number of the noise pattern that all frames of one seed share in their caches.

    Parameters
    ----------
    settings : how a frame is rendered
    """
    return settings.seed >> 24


class CacheKeeper:
    """Keeps the caches of a few frames of one scene and one set of settings."""

    def __init__(self) -> None:
        self._key: tuple = ()
        self._kept: OrderedDict[int, np.ndarray] = OrderedDict()
        self._lock = threading.Lock()

    def blended(self, scene: Scene, frame: float, settings: Settings, moment: Moment) -> tuple[np.ndarray, np.ndarray, float, int]:
        """Return the cache of a frame, its box, and the seconds and number of the caches that were not there yet.

        Parameters
        ----------
        scene : the scene
        frame : its number; between two frames it may have a fraction
        settings : how the frame is rendered
        moment : says who owns caches, which are there, and over how many they are blended

        Returns
        -------
        cache : (x, y, z, 6, 3) float32
            Bounced light by place and the way a surface faces.
        box : (6,) float64
            Its low and high corner, in units of the scene.
        seconds : float
            Spent on caches that were not there yet.
        made : int
            How many these were.
        """
        began = time.perf_counter()
        given = {c.frame: c.light for c in moment.given if c.pattern == pattern_of(settings)}
        box = scene_box(scene)
        found = np.zeros((*GRID, 6, 3), np.float32)
        made = 0
        for owner, share in moment.nearest(frame):
            one, new = (given[owner], False) if owner in given else self._own(scene, owner, settings, box)
            found += np.float32(share) * one
            made += new
        return found, box, time.perf_counter() - began, made

    def _own(self, scene: Scene, owner: int, settings: Settings, box: np.ndarray) -> tuple[np.ndarray, bool]:
        """The cache that a frame owns, and whether it was computed for it."""
        kinds = tuple(settings.by_kind.values())
        key = (scene.name, settings.bounces, kinds, settings.ceiling, settings.lamps, settings.fog_step, pattern_of(settings))
        with self._lock:
            if key != self._key:
                self._key, self._kept = key, OrderedDict()
            new = owner not in self._kept
            if new:
                self._kept[owner] = _filled(scene, owner, settings, box)
                while len(self._kept) > KEPT:
                    self._kept.popitem(last=False)
            return self._kept[owner], new


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
    fill_cache(points, RAYS, (pattern_of(settings) << 24) + 7, cache, *arrays)
    return cache
