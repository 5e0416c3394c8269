"""The bench renderer that ships with the program, behind the protocol of all renderers."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import TYPE_CHECKING

import numpy as np

from hasty_reel.farm.job import FrameJob, seeds_of_halves
from hasty_reel.farm.renderers.protocol import RenderedFrame, Renderer
from hasty_reel.pictures.frame import Picture
from hasty_reel.work import CancelToken, Progress, silent

if TYPE_CHECKING:
    from hasty_reel.bench.packing import AtHand


def render_on_bench(
    job: FrameJob,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
    show: Callable[[np.ndarray], None] | None = None,
    at_hand: AtHand | None = None,
) -> RenderedFrame:
    """Render a job with the bench renderer.

    Parameters
    ----------
    job : the frame
    progress : called with the share that is done, and words
    cancel : looked at while it renders
    show : called with the growing picture, (h, w, 3) scene-linear light
    at_hand : has the frame that was read last; None: it is read anew

    Returns
    -------
    RenderedFrame
        Picture, seconds by part and peak of memory.

    Raises
    ------
    WrongInput
        When there is no such scene or a setting is out of bounds.
    Stopped
        When `cancel` asked for it.
    """
    # the renderer and its compiler take most of a second to load: a window opens without them
    from hasty_reel.bench.library import find_scene
    from hasty_reel.bench.lightcache import CACHE_BYTES
    from hasty_reel.bench.picture import as_picture
    from hasty_reel.bench.render import ready, render

    settings = job.settings
    ready()
    rendered = render(find_scene(job.scene), job.frame, settings, progress, cancel, show, job.moment, at_hand=at_hand)
    picture = as_picture(rendered, job.frame, settings, job.seed)
    picture = Picture(picture.rgb, picture.guides, {**picture.attributes, "hr:recipe": job.hash})
    return RenderedFrame(
        picture, rendered.load_seconds, rendered.sample_seconds, rendered.cache_seconds, float(rendered.counts.mean()),
        cache_bytes=CACHE_BYTES if settings.cache else 0, caches_made=rendered.caches_made,
    )  # fmt: skip


def bench_at_hand() -> Renderer:
    """Return the bench renderer with a frame at hand: the same one is not read again, so that it answers at once."""
    from hasty_reel.bench.packing import AtHand

    return partial(render_on_bench, at_hand=AtHand())


def caches_on_bench(job: FrameJob, cancel: CancelToken | None = None) -> RenderedFrame:
    """Compute the light cache that a frame owns, and none of its pictures: of halves, that of each.

    Parameters
    ----------
    job : the frame
    cancel : looked at between two caches

    Returns
    -------
    RenderedFrame
        The caches and their seconds; its picture is one black pixel.

    Raises
    ------
    WrongInput
        When there is no such scene or a setting is out of bounds.
    Stopped
        When `cancel` asked for it.
    """
    from hasty_reel.bench.library import find_scene
    from hasty_reel.bench.lightcache import CACHE_BYTES, light_cache
    from hasty_reel.bench.render import ready

    ready()
    began, found = time.perf_counter(), []
    for seed in seeds_of_halves(job.seed) if job.recipe.halves else (job.seed,):
        if cancel is not None:
            cancel.check()
        settings = replace(job, seed=seed).settings
        found.append(light_cache(find_scene(job.scene), int(job.frame), settings.checked()))
    seconds = time.perf_counter() - began
    return RenderedFrame(
        Picture(np.zeros((1, 1, 3), np.float32)),
        0.0,
        0.0,
        seconds,
        cache_bytes=CACHE_BYTES * len(found),
        light_caches=tuple(found),
        caches_made=len(found),
    )
