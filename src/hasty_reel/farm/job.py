"""What is asked of a renderer: one frame, in the terms of a recipe and in those of the bench renderer."""

from __future__ import annotations

import zlib
from dataclasses import dataclass, replace

from hasty_reel.bench.moment import ALONE, Moment
from hasty_reel.bench.settings import PLAIN_CAMERA, Camera, Settings, settings_hash
from hasty_reel.reel.caching import owners_of
from hasty_reel.reel.document import Reel
from hasty_reel.reel.shot import Shot
from hasty_reel.settings.recipe import Recipe
from hasty_reel.settings.setting import Acts

SEED_STRIDE = 1 << 24
"""Frame numbers below this never share a noise pattern, whatever their seed."""


@dataclass(frozen=True)
class FrameJob:
    """One frame to be rendered.

    width, height : in pixels, as rendered
    seed : number of the noise pattern; each frame gets a pattern of its own for each seed
    crop : left, top, width and height of the part that is rendered; None for all
    ahead : frames that come next and are wanted too, each with its samples: for a renderer that renders several in one start
    cache_folder : where files of light caches lie that whoever renders the shot shares; '' where nobody does
    """

    scene: str
    frame: int | float
    width: int
    height: int
    samples: int
    recipe: Recipe
    seed: int = 1
    guides: bool = True
    camera: Camera = PLAIN_CAMERA
    moment: Moment = ALONE
    floor: int = 1
    stop_noise: float | None = None
    cap: float | None = None
    crop: tuple[int, int, int, int] | None = None
    cache_folder: str = ""
    ahead: tuple[tuple[int, int], ...] = ()

    @property
    def settings(self) -> Settings:
        """The job in the terms of the bench renderer."""
        r = self.recipe
        return Settings(
            width=self.width,
            height=self.height,
            samples=whole_steps(self.samples, r),
            steps=r.shutter_steps,
            angle=r.shutter_angle,
            bounces=r.bounces,
            matte=r.bounces_matte,
            glossy=r.bounces_glossy,
            glass=r.bounces_glass,
            fog_bounces=r.bounces_fog,
            approximate_after=r.approximate_after,
            approximate_distance=r.approximate_distance,
            approximate_strength=r.approximate_strength / 100.0,
            lamps=bool(r.lamps),
            ceiling=r.brightness_ceiling,
            fog_step=r.fog_step,
            fog_cut=r.fog_cut,
            cache=r.cache_step > 0,
            keep=bool(r.keep_scene),
            seed=self.seed * SEED_STRIDE + (0 if r.seed_held else _pattern(self.frame)),
            floor=min(whole_steps(self.floor, r), whole_steps(self.samples, r)) if self.adaptive else 1,
            stop_noise=self.stop_noise,
            cap=self.cap,
            crop=self.crop,
            guides=self.guides,
            camera=self.camera,
        )

    @property
    def adaptive(self) -> bool:
        """Whether pixels may get less than all samples."""
        return self.stop_noise is not None or self.cap is not None

    @property
    def hash(self) -> str:
        """Changes with anything that changes the picture but its samples and seed."""
        r = self.recipe
        more: tuple = (self.scene, r.seed_held, r.preroll, (r.cache_step, r.cache_blend) if r.cache_step else None)
        more = (*more, "halves") if r.halves else more
        more = (*more, *self.moment.owners) if self.moment.placed else more
        more = (*more, "crop", *r.crop) if any(r.crop) else more
        # own settings count where they differ from what they are left out at: frames from before they were declared keep their hash
        own = [(s.field, r.value(s.field)) for s in (o.setting for o in r.own_settings) if s.acts is Acts.PICTURE]
        more += tuple((field, float(value or 0)) for field, value in own if value != r.setting(field).neutral)
        # a cap ends a picture as it is: neither it nor the floor under it makes another one
        plain = replace(self.settings, crop=None) if self.stop_noise is not None else replace(self.settings, crop=None, floor=1)
        return f"{settings_hash(plain)}-{zlib.crc32(repr(more).encode()):08x}"


def camera_of(reel: Reel) -> Camera:
    """Return how the camera of a reel maps directions to pixels.

    Parameters
    ----------
    reel : the reel
    """
    width, height = reel.pixel_aspect
    forward = None if reel.panorama is None else (reel.panorama.width, reel.panorama.height)
    return Camera(width / height, forward)


def moment_of(shot: Shot, recipe: Recipe, frame: int | float, chunk_first: int | None = None) -> Moment:
    """Return where a frame stands in its shot: who owns a light cache, and the history it has.

    Parameters
    ----------
    shot : the shot or layer
    recipe : with its departures
    frame, chunk_first : as the shot numbers them; None: a frame by itself, with all the history it may need
    """
    owners = tuple(shot.scene_frame(f) for f in owners_of(shot, recipe))
    history = None if chunk_first is None else int(frame) - chunk_first + recipe.preroll
    return Moment(owners, recipe.cache_blend, history, bool(recipe.cache_step and shot.caches))


def seeds_of_halves(seed: int) -> tuple[int, int]:
    """Return the seeds of the two halves of a frame, which no other picture of it has.

    Parameters
    ----------
    seed : of the whole frame
    """
    return 2 * seed - 1, 2 * seed


def _pattern(frame: int | float) -> int:
    """Number of the noise pattern of a frame; those between two frames have their own."""
    return frame if isinstance(frame, int) else (SEED_STRIDE // 2 + round(frame * 1000)) % SEED_STRIDE


def whole_steps(samples: int, recipe: Recipe) -> int:
    """Samples rounded up to a multiple of the shutter steps.

    Parameters
    ----------
    samples : per pixel, wanted
    recipe : with its departures
    """
    k = max(1, recipe.shutter_steps)
    return -(-samples // k) * k
