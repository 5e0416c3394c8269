"""The bench renderer that ships with the program, behind the protocol of all renderers."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.renderers.protocol import RenderedFrame
from hasty_reel.pictures.frame import Picture
from hasty_reel.work import CancelToken, Progress, silent


def render_on_bench(
    job: FrameJob,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
    show: Callable[[np.ndarray], None] | None = None,
) -> RenderedFrame:
    """Render a job with the bench renderer.

    Parameters
    ----------
    job : the frame
    progress : called with the share that is done, and words
    cancel : looked at while it renders
    show : called with the growing picture, (h, w, 3) scene-linear light

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
    rendered = render(find_scene(job.scene), job.frame, settings, progress, cancel, show, job.moment)
    picture = as_picture(rendered, job.frame, settings, job.seed)
    picture = Picture(picture.rgb, picture.guides, {**picture.attributes, "hr:recipe": job.hash})
    return RenderedFrame(
        picture, rendered.load_seconds, rendered.sample_seconds, rendered.cache_seconds, float(rendered.counts.mean()),
        cache_bytes=CACHE_BYTES if settings.cache else 0,
    )  # fmt: skip
