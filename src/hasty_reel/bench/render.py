"""One frame: settings in, picture with guides and times out.

Samples are added in passes, so that a picture can be shown while it grows and
the work can be stopped. The split into passes does not change the picture.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from hasty_reel.bench.scene import Scene, pack
from hasty_reel.errors import WrongInput
from hasty_reel.work import CancelToken, Progress, silent

NO_CEILING = 1e20
GUIDES = ("albedo.R", "albedo.G", "albedo.B", "normal.X", "normal.Y", "normal.Z", "Z", "motion.X", "motion.Y")


@dataclass(frozen=True)
class Camera:
    """How the camera maps directions to pixels.

    pixel_aspect : width / height of one pixel
    forward : degrees across and up of the part of a 360-degree picture that is rendered; None for a flat picture
    """

    pixel_aspect: float = 1.0
    forward: tuple[float, float] | None = None


PLAIN_CAMERA = Camera()


@dataclass(frozen=True)
class Settings:
    """How one frame is rendered.

    width, height : size of the whole picture in pixels
    samples : camera paths per pixel, a multiple of `steps` where steps > 0
    steps : shutter steps; 0 gives every sample its own random time
    angle : shutter angle in degrees
    bounces : the most bounces after the first surface; 0 is direct light alone
    ceiling : the largest value (largest channel) one light path may add; None for no limit
    fog_step : length of a step through fog, in percent of a cell of its grid
    fog_cut : light rays through fog end where less than this share of the light, in percent, would come through
    fog_bounces : the most bounces of a path that fog may add; None for as many as `bounces`
    crop : x, y, width, height of the part to render, in pixels; None for all
    """

    width: int
    height: int
    samples: int
    steps: int = 0
    angle: float = 180.0
    bounces: int = 6
    ceiling: float | None = None
    fog_step: float = 100.0
    fog_cut: float = 0.0
    fog_bounces: int | None = None
    seed: int = 1
    crop: tuple[int, int, int, int] | None = None
    guides: bool = True
    camera: Camera = PLAIN_CAMERA

    def checked(self) -> Settings:
        """These settings, if they make sense.

        Raises
        ------
        WrongInput
            Names the setting, its value and what was expected.
        """
        rules = (
            ("size", (self.width, self.height), 1 <= self.width <= 16384 and 1 <= self.height <= 16384, "1 to 16384"),
            ("samples", self.samples, 1 <= self.samples <= 1 << 20, "1 to 1048576"),
            ("shutter steps", self.steps, 0 <= self.steps <= 4096, "0 (random times) to 4096"),
            ("shutter angle", self.angle, 0 <= self.angle <= 360, "0 to 360 degrees"),
            ("bounces", self.bounces, 0 <= self.bounces <= 64, "0 to 64"),
            ("brightness ceiling", self.ceiling, self.ceiling is None or self.ceiling > 0, "a number above 0, or none"),
            ("fog step", self.fog_step, 1 <= self.fog_step <= 10_000, "1 to 10000 % of a cell"),
            ("cut of light rays", self.fog_cut, 0 <= self.fog_cut < 100, "0 to below 100 %"),
            ("bounces in fog", self.fog_bounces, self.fog_bounces is None or 0 <= self.fog_bounces <= 64, "0 to 64"),
            ("pixel aspect", self.camera.pixel_aspect, 0.1 <= self.camera.pixel_aspect <= 10, "0.1 to 10"),
            ("forward part", self.camera.forward, _good_part(self.camera.forward), "up to 360 x 180 degrees"),
            ("seed", self.seed, 0 <= self.seed < 1 << 62, "0 to 2^62 - 1"),
        )
        for name, value, good, wanted in rules:
            if not good:
                raise WrongInput(f"Bench renderer: {name} is {value}; expected {wanted}.")
        if self.steps > 1 and self.samples % self.steps:
            raise WrongInput(
                f"Bench renderer: {self.samples} samples do not divide by {self.steps} shutter steps; expected a multiple of {self.steps}."
            )
        if self.crop is not None:
            x, y, w, h = self.crop
            if min(x, y) < 0 or min(w, h) < 1 or x + w > self.width or y + h > self.height:
                raise WrongInput(f"Bench renderer: crop {x},{y},{w},{h} does not lie in {self.width}x{self.height}.")
        return self


@dataclass(frozen=True)
class Rendered:
    """A finished frame.

    rgb : (h, w, 3) float32, scene-linear; guides : name -> (h, w) float32
    """

    rgb: np.ndarray
    guides: dict[str, np.ndarray]
    load_seconds: float
    sample_seconds: float


def render(
    scene: Scene,
    frame: float,
    settings: Settings,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
    show: Callable[[np.ndarray], None] | None = None,
) -> Rendered:
    """Render one frame of a scene.

    Parameters
    ----------
    show : called with the growing picture, (h, w, 3) float32, a few times

    Raises
    ------
    WrongInput
        When a setting is out of bounds.
    Stopped
        When `cancel` asked for it; nothing is returned then.
    """
    from hasty_reel.bench.transport import GUIDE_COUNT, add_samples

    settings.checked()
    began = time.perf_counter()
    packed = pack(scene, frame, settings.angle, settings.width, settings.height)
    packed.view[4, 1] /= settings.camera.pixel_aspect
    if settings.camera.forward is not None:
        packed.view[4, 10:12] = np.radians(settings.camera.forward) / 2
    x0, y0, w, h = settings.crop or (0, 0, settings.width, settings.height)
    light = np.zeros((h, w, 3))
    guides = np.zeros((h, w, GUIDE_COUNT) if settings.guides else (1, 1, GUIDE_COUNT))
    ceiling = NO_CEILING if settings.ceiling is None else settings.ceiling
    fog_bounces = settings.bounces if settings.fog_bounces is None else min(settings.fog_bounces, settings.bounces)
    packed.view[5, :5] = settings.steps, settings.bounces, ceiling, packed.view[4, 4:10].any(), fog_bounces
    packed.view[6, 10:12] = settings.fog_step / 100.0, settings.fog_cut / 100.0
    rows = _interleaved(h)
    load_seconds = time.perf_counter() - began
    began = time.perf_counter()
    done = 0
    for last in _passes(settings.samples, w * h):
        if cancel is not None:
            cancel.check()
        add_samples(
            light, guides, rows, x0, y0, settings.width, settings.height, done, last, settings.seed,
            settings.guides, *packed,
        )  # fmt: skip
        done = last
        progress(done / settings.samples, f"{done} of {settings.samples} samples")
        if show is not None:
            show((light / done).astype(np.float32))
    rgb = (light / settings.samples).astype(np.float32)
    extra = {}
    if settings.guides:
        means = (guides / settings.samples).astype(np.float32)
        extra = {name: np.ascontiguousarray(means[..., k]) for k, name in enumerate(GUIDES)}
    return Rendered(rgb, extra, load_seconds, time.perf_counter() - began)


def _good_part(part: tuple[float, float] | None) -> bool:
    return part is None or (0 < part[0] <= 360 and 0 < part[1] <= 180)


def _interleaved(rows: int, share: int = 4) -> np.ndarray:
    """Row numbers so that threads with neighbouring stretches get alike work."""
    return np.concatenate([np.arange(k, rows, share) for k in range(share)]).astype(np.int64)


def _passes(samples: int, pixels: int) -> list[int]:
    """Sample counts after each pass: short at first, then of about half a million paths."""
    stride = max(1, round(500_000 / pixels))
    marks = [1]
    while marks[-1] < samples:
        marks.append(min(samples, marks[-1] + min(stride, marks[-1])))
    return marks


def warm_up(progress: Progress = silent) -> None:
    """Compile the kernels, or load them from the cache, by rendering one tiny frame."""
    from hasty_reel.bench.library import SCENES

    progress(0.0, "compiling the bench renderer (about a minute the first time)")
    render(SCENES["furnace"](), 1, Settings(8, 8, 2, guides=True))
    progress(1.0, "bench renderer ready")
