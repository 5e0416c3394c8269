"""How a frame of the bench renderer is rendered."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, fields

import numpy as np

from hasty_reel.bench.layout import (
    APPROXIMATE_DISTANCE,
    APPROXIMATE_LIGHT,
    FOG,
    FOG_BOUNCES,
    FOG_CUT,
    FOG_STEP,
    HALF_HEIGHT,
    HALF_RISE,
    HALF_TURN,
    LENS,
    LIMITS,
    MATTE_BOUNCES,
    PATH,
    SKY_HIGH,
    SKY_LOW,
    STEPS,
)
from hasty_reel.errors import WrongInput

NO_CEILING = 1e6
"""Brightness that no light path reaches: a ceiling there is none."""


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
    samples : camera paths per pixel, a multiple of `steps` where steps > 0; the most of them with `stop_noise` or `cap`
    floor : the fewest a pixel gets with `stop_noise` or `cap`; the floor wins over the cap
    stop_noise : stop where the noise of a pixel is below this standard deviation of linear luminance
    cap : seconds after which a frame stops, at the floor or above
    steps : shutter steps; 0 gives every sample its own random time
    angle : shutter angle in degrees
    bounces : the most bounces after the first surface; 0 is direct light alone
    matte, glossy, glass : the most of these off matte and glossy surfaces and through glass; None for as many as `bounces`
    approximate_after : bounces after which bounced light is approximated by the mean light of the scene; None for never
    approximate_distance : how far a surface must be open to get it, in units of the scene
    approximate_strength : share of the mean light that it gets
    lamps : sample glowing balls and rings as lamps; else they are found by chance, like emissive meshes
    cache : bounced light of matte surfaces from a grid of points
    keep : the scene stays loaded from frame to frame: its hierarchy is fitted to what moved, not built anew
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
    floor: int = 1
    stop_noise: float | None = None
    cap: float | None = None
    matte: int | None = None
    glossy: int | None = None
    glass: int | None = None
    approximate_after: int | None = None
    approximate_distance: float = 3.0
    approximate_strength: float = 1.0
    lamps: bool = True
    cache: bool = False
    keep: bool = False
    camera: Camera = PLAIN_CAMERA

    @property
    def by_kind(self) -> dict[str, int | None]:
        """The most bounces by kind of surface, and before light is approximated."""
        return {"matte": self.matte, "glossy": self.glossy, "glass": self.glass, "before approximation": self.approximate_after}

    @property
    def adaptive(self) -> bool:
        """Whether pixels may get less than all samples."""
        return self.stop_noise is not None or self.cap is not None

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
            ("floor", self.floor, 1 <= self.floor <= self.samples, "1 to the samples"),
            ("noise to stop at", self.stop_noise, self.stop_noise is None or 0 < self.stop_noise < 1e3, "a number above 0, or none"),
            ("time cap", self.cap, self.cap is None or 0 < self.cap < 1e6, "seconds above 0, or none"),
            *((f"bounces, {k}", v, v is None or 0 <= v <= 64, "0 to 64, or none") for k, v in self.by_kind.items()),
            ("distance of approximated light", self.approximate_distance, 0 < self.approximate_distance < 1e6, "above 0"),
            ("strength of approximated light", self.approximate_strength, 0 <= self.approximate_strength <= 10, "0 to 10"),
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


def _good_part(part: tuple[float, float] | None) -> bool:
    return part is None or (0 < part[0] <= 360 and 0 < part[1] <= 180)


def set_up(view: np.ndarray, settings: Settings, mean_light: np.ndarray) -> None:
    """Write the settings into the rows of `view` that the kernels read (see `layout`).

    Parameters
    ----------
    view : (9, 12) float64, camera and settings, see `layout`
    settings : how the frame is rendered
    mean_light : (3,) mean radiance of the scene, for approximated light
    """
    view[LENS, HALF_HEIGHT] /= settings.camera.pixel_aspect
    if settings.camera.forward is not None:
        view[LENS, HALF_TURN : HALF_RISE + 1] = np.pi, np.pi / 2
    ceiling = NO_CEILING if settings.ceiling is None else settings.ceiling
    limits = [settings.bounces if v is None else v for v in (settings.fog_bounces, settings.matte, settings.glossy, settings.glass)]
    has_sky = view[LENS, SKY_LOW : SKY_HIGH + 3].any()
    view[PATH, STEPS : FOG_BOUNCES + 1] = settings.steps, settings.bounces, ceiling, has_sky, limits[0]
    view[FOG, FOG_STEP : FOG_CUT + 1] = settings.fog_step / 100.0, settings.fog_cut / 100.0
    after = -1 if settings.approximate_after is None else settings.approximate_after
    view[LIMITS, MATTE_BOUNCES : APPROXIMATE_DISTANCE + 1] = *limits[1:], after, settings.approximate_distance
    view[LIMITS, APPROXIMATE_LIGHT : APPROXIMATE_LIGHT + 3] = settings.approximate_strength * mean_light


def settings_hash(settings: Settings) -> str:
    """Return twelve hex digits that change with anything that changes the picture but its samples and seed.

    Parameters
    ----------
    settings : how the frame is rendered
    """
    s = settings
    lines: tuple = (s.bounces, s.ceiling, float(s.angle), s.steps, s.width, s.height, s.crop)
    plain = Settings(s.width, s.height, s.samples)
    fixed = {"width", "height", "samples", "steps", "angle", "bounces", "ceiling", "seed", "crop", "guides", "cap", "keep"}
    # settings that came later count only where they are used, so that older pictures keep their hash
    lines += tuple((f.name, getattr(s, f.name)) for f in fields(s) if f.name not in fixed and getattr(s, f.name) != getattr(plain, f.name))
    return hashlib.sha256(repr(lines).encode()).hexdigest()[:12]
