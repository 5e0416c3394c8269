"""One frame: settings in, picture with guides and times out.

Samples are added in passes, so that a picture can be shown while it grows and
the work can be stopped. The split into passes does not change the picture.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np

from hasty_reel.bench.adaptive import next_targets, passes
from hasty_reel.bench.hierarchy import Tree
from hasty_reel.bench.layout import CACHE
from hasty_reel.bench.lightcache import CacheKeeper
from hasty_reel.bench.moment import ALONE, Moment
from hasty_reel.bench.packing import AtHand, pack, settled_share
from hasty_reel.bench.scene import Scene
from hasty_reel.bench.settings import PLAIN_CAMERA, Camera, Settings, set_up
from hasty_reel.work import CancelToken, Progress, silent

GUIDES = ("albedo.R", "albedo.G", "albedo.B", "normal.X", "normal.Y", "normal.Z", "Z", "motion.X", "motion.Y")
PixelOrder = Literal["passes", "rows", "tiles"]
"""How a picture grows: pass by pass over all of it, row by row, or tile by tile."""
MORE_PASSES = 24
"""Passes after the last doubling, in which pixels close in on the noise to stop at."""
BAND = 16
"""Rows of a band when a picture grows by rows, and the side of a tile in bands of tiles."""


KEEPER = CacheKeeper()
KEPT: dict[str, Tree] = {}
"""Hierarchies of scenes that stay loaded."""


@dataclass(frozen=True)
class Rendered:
    """A finished frame.

    rgb : (h, w, 3) float32, scene-linear; guides : name -> (h, w) float32
    counts : (h, w) samples each pixel got
    """

    rgb: np.ndarray
    guides: dict[str, np.ndarray]
    load_seconds: float
    sample_seconds: float
    counts: np.ndarray
    cache_seconds: float = 0.0
    caches_made: int = 0


def render(
    scene: Scene,
    frame: float,
    settings: Settings,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
    show: Callable[[np.ndarray], None] | None = None,
    moment: Moment = ALONE,
    order: PixelOrder = "passes",
    clock: Callable[[], float] = time.perf_counter,
    at_hand: AtHand | None = None,
) -> Rendered:
    """Render one frame of a scene.

    Parameters
    ----------
    scene : the scene
    frame : its number; between two frames it may have a fraction
    settings : how the frame is rendered
    progress : called with the share that is done, 0 to 1, and words
    cancel : looked at meanwhile; None: it cannot be stopped
    show : called with the growing picture, (h, w, 3) float32, a few times
    moment : where the frame stands in its shot
    order : how the picture grows; pixels that stop early or at a time cap need 'passes'
    clock : seconds that a time cap goes by
    at_hand : has the frame that was packed last; None: it is packed anew

    Raises
    ------
    WrongInput
        When a setting is out of bounds.
    Stopped
        When `cancel` asked for it; nothing is returned then.
    """
    from hasty_reel.bench.guides import GUIDE_COUNT
    from hasty_reel.bench.sampling import add_samples

    settings.checked()
    began = time.perf_counter()
    # what does not depend on the samples: the scene in arrays, and the light that paths end in where they are cut short
    settled = settled_share(scene, moment.history)
    kept = KEPT if settings.keep else None
    more = settings.angle, settings.width, settings.height, settings.lamps, settled
    packed = pack(scene, frame, *more, kept) if at_hand is None else at_hand.packed(scene, frame, *more)
    mean = mean_light(scene, settings) if settings.approximate_after is not None else np.zeros(3)
    set_up(packed.view, settings, mean)
    load_seconds = time.perf_counter() - began
    # the light cache is no part of loading: where it is kept, later frames do not pay for it
    cache, cache_seconds, made = packed.cache, 0.0, 0
    if settings.cache:
        cache, box, cache_seconds, made = KEEPER.blended(scene, frame, settings, moment)
        packed.view[CACHE, :6] = box
    arrays = (*packed[:8], cache, packed.view)
    (x0, y0, w, h), width, height = _window(settings)
    light, squares = np.zeros((h, w, 3)), np.zeros((h, w))
    counts = np.zeros((h, w), np.int64)
    guides = np.zeros((h, w, GUIDE_COUNT) if settings.guides else (1, 1, GUIDE_COUNT))

    def _add(targets: np.ndarray, rows: np.ndarray) -> None:
        if cancel is not None:
            cancel.check()
        add_samples(
            light, squares, counts, targets, guides, rows, x0, y0, width, height, settings.seed,
            settings.guides, *arrays,
        )  # fmt: skip

    def _grown() -> np.ndarray:
        return (light / np.maximum(counts, 1)[..., None]).astype(np.float32)

    sampling = time.perf_counter()
    started = clock()
    # pass by pass over the whole picture, so that it can end where it is clean enough or out of time, or part by part
    if order == "passes" or settings.adaptive:
        rows = _interleaved(h)
        marks = passes(settings.samples, w * h, max(1, settings.steps) if settings.adaptive else 1)
        if settings.adaptive:  # one pass ends just at the floor, so that a cap can stop there
            marks = sorted({*marks, min(settings.samples, -(-settings.floor // max(1, settings.steps)) * max(1, settings.steps))})
            marks += [settings.samples] * MORE_PASSES if settings.stop_noise is not None else []
        for mark in marks:
            # never below the floor: it wins over the cap
            if settings.cap is not None and counts.min() >= settings.floor and clock() - started >= settings.cap:
                break
            level = settings.stop_noise
            targets = np.full((h, w), mark, np.int64)
            if level is not None:
                targets = _whole(next_targets(light, squares, counts, mark, settings.floor, settings.samples, level), settings, mark)
                if mark > settings.floor and not (targets > counts).any():
                    break
            _add(targets, rows)
            progress(mark / settings.samples, f"{mark} of {settings.samples} samples")
            if show is not None:
                show(_grown())
        progress(1.0, f"{counts.mean():.0f} samples a pixel")
    else:
        for k, (region, rows) in enumerate(parts := _parts(h, w, order)):
            targets = np.where(region, settings.samples, counts)
            _add(targets, rows)
            progress((k + 1) / len(parts), f"part {k + 1} of {len(parts)}")
            if show is not None:
                show(_grown())
    extra = {}
    if settings.guides:
        means = (guides / np.maximum(counts, 1)[..., None]).astype(np.float32)
        extra = {name: np.ascontiguousarray(means[..., k]) for k, name in enumerate(GUIDES)}
    return Rendered(_grown(), extra, load_seconds, time.perf_counter() - sampling, counts, cache_seconds, made)


def _window(settings: Settings) -> tuple[tuple[int, int, int, int], int, int]:
    """The part that is rendered, and the size of the picture it is a part of.

    The forward part of a 360-degree picture is a part of the sphere: its pixels are those of the whole.
    """
    x, y, w, h = settings.crop or (0, 0, settings.width, settings.height)
    part = settings.camera.forward
    if part is None:
        return (x, y, w, h), settings.width, settings.height
    width, height = round(settings.width * 360.0 / part[0]), round(settings.height * 180.0 / part[1])
    return (x + (width - settings.width) // 2, y + (height - settings.height) // 2, w, h), width, height


def _whole(targets: np.ndarray, settings: Settings, mark: int) -> np.ndarray:
    """Targets as whole multiples of the shutter steps, at most the mark."""
    k = max(1, settings.steps)
    return np.minimum(-(-targets // k) * k, mark)


def _parts(h: int, w: int, order: PixelOrder) -> list[tuple[np.ndarray, np.ndarray]]:
    """The parts a picture grows by: a mask of pixels and the rows they lie in."""
    out = []
    for top in range(0, h, BAND):
        rows = np.arange(top, min(h, top + BAND), dtype=np.int64)
        for left in range(0, w, w if order == "rows" else 4 * BAND):
            region = np.zeros((h, w), bool)
            region[top : top + BAND, left : left + (w if order == "rows" else 4 * BAND)] = True
            out.append((region, rows))
    return out


@lru_cache(maxsize=32)
def _mean_light(name: str, bounces: int, ceiling: float | None) -> tuple[float, float, float]:
    from hasty_reel.bench.library import find_scene

    scene = find_scene(name)
    middle = (scene.first + scene.last) // 2
    small = Settings(48, 27, 16, bounces=bounces, ceiling=ceiling, seed=11, guides=False)
    rgb = render(scene, middle, small).rgb
    rgb = rgb[rgb.max(axis=2) < 1.0] if (rgb.max(axis=2) < 1.0).any() else rgb.reshape(-1, 3)  # what shines itself is no bounced light
    mean = rgb.mean(axis=0)
    return float(mean[0]), float(mean[1]), float(mean[2])


def mean_light(scene: Scene, settings: Settings) -> np.ndarray:
    """Return the mean radiance of a scene's middle frame below display white, (3,): one for all frames, so that it cannot pump.

    Parameters
    ----------
    scene : the scene
    settings : how the frame is rendered
    """
    return np.array(_mean_light(scene.name, settings.bounces, settings.ceiling))


def _interleaved(rows: int, share: int = 4) -> np.ndarray:
    """Row numbers so that threads with neighbouring stretches get alike work."""
    return np.concatenate([np.arange(k, rows, share) for k in range(share)]).astype(np.int64)


def warm_up(progress: Progress = silent) -> None:
    """Compile the kernels, or load them from the cache, by rendering one tiny frame.

    Parameters
    ----------
    progress : called with the share that is done, 0 to 1, and words
    """
    from hasty_reel.bench.library import SCENES

    progress(0.0, "compiling the bench renderer (about a minute the first time)")
    render(SCENES["furnace"](), 1, Settings(8, 8, 2, guides=True, cache=True))
    progress(1.0, "bench renderer ready")


@lru_cache(maxsize=1)
def ready() -> float:
    """Load the kernels once in a process, before anything is timed, so that the first takes as long as the next; seconds it took."""
    began = time.perf_counter()
    warm_up()
    return time.perf_counter() - began


__all__ = ["ALONE", "GUIDES", "PLAIN_CAMERA", "Camera", "Moment", "Rendered", "Settings", "mean_light", "ready", "render", "warm_up"]
