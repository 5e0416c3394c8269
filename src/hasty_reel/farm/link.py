"""The renderer link: what is asked of a renderer, and the bench renderer behind it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from hasty_reel.bench.library import find_scene
from hasty_reel.bench.picture import as_picture, settings_hash
from hasty_reel.bench.render import PLAIN_CAMERA, Camera, Settings, render
from hasty_reel.pictures.frame import Picture
from hasty_reel.reel.document import Reel
from hasty_reel.reel.recipe import Recipe
from hasty_reel.work import CancelToken, Progress, silent

SEED_STRIDE = 1 << 24
"""Frame numbers below this never share a noise pattern, whatever their seed."""


@dataclass(frozen=True)
class Job:
    """One frame to be rendered.

    width, height : in pixels, as rendered
    seed : number of the noise pattern; each frame gets a pattern of its own for each seed
    """

    scene: str
    frame: int
    width: int
    height: int
    samples: int
    recipe: Recipe
    seed: int = 1
    guides: bool = True
    camera: Camera = PLAIN_CAMERA

    @property
    def settings(self) -> Settings:
        """The job in the terms of the bench renderer."""
        return Settings(
            width=self.width,
            height=self.height,
            samples=whole_steps(self.samples, self.recipe),
            steps=self.recipe.shutter_steps,
            angle=self.recipe.shutter_angle,
            bounces=self.recipe.bounces,
            ceiling=self.recipe.brightness_ceiling,
            fog_step=self.recipe.fog_step,
            seed=self.seed * SEED_STRIDE + self.frame,
            guides=self.guides,
            camera=self.camera,
        )

    @property
    def hash(self) -> str:
        """Changes with anything that changes the picture but its samples and seed."""
        return settings_hash(self.settings)


@dataclass(frozen=True)
class Made:
    """A rendered frame and the seconds of its parts."""

    picture: Picture
    load_seconds: float
    sample_seconds: float


def camera_of(reel: Reel) -> Camera:
    """How the camera of a reel maps directions to pixels."""
    width, height = reel.pixel_aspect
    forward = None if reel.panorama is None else (reel.panorama.width, reel.panorama.height)
    return Camera(width / height, forward)


def whole_steps(samples: int, recipe: Recipe) -> int:
    """Samples rounded up to a multiple of the shutter steps."""
    k = max(1, recipe.shutter_steps)
    return -(-samples // k) * k


def render_job(
    job: Job,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
    show: Callable[[np.ndarray], None] | None = None,
) -> Made:
    """Render a job with the bench renderer.

    Raises
    ------
    WrongInput
        When there is no such scene or a setting is out of bounds.
    Stopped
        When `cancel` asked for it.
    """
    settings = job.settings
    rendered = render(find_scene(job.scene), job.frame, settings, progress, cancel, show)
    picture = as_picture(rendered, job.frame, settings, job.seed)
    return Made(picture, rendered.load_seconds, rendered.sample_seconds)
