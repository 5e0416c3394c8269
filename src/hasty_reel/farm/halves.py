"""A frame rendered as two pictures of half the samples, with seeds of their own, and averaged: its noise is measured then.

The mean of the halves is as clean as one picture with all samples; what it costs is the second start. The difference of the
halves tells the noise of the mean: its standard deviation is half that of the difference.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from hasty_reel.errors import RendererFault
from hasty_reel.farm.job import FrameJob, seeds_of_halves
from hasty_reel.farm.renderers.protocol import RenderedFrame, Renderer
from hasty_reel.measure.noise import noise_lightness, noise_linear
from hasty_reel.pictures.frame import Picture
from hasty_reel.work import CancelToken, Progress, part_of

NOISE, NOISE_L = "hr:noise", "hr:noise_L"
"""Attributes of a frame from halves: its noise in linear light and in L*, measured."""
MEAN = ("samples",)
"""Guides that add up over the halves; of the others those of the first half are kept, which differ by their noise alone."""


def render_halves(
    renderer: Renderer, job: FrameJob, progress: Progress, cancel: CancelToken | None, show: Callable[[np.ndarray], None] | None
) -> RenderedFrame:
    """Render a frame as two halves and average them.

    Parameters
    ----------
    renderer : renders each half
    job : the whole frame
    progress : called with the share that is done, and words
    cancel : looked at meanwhile; None: it cannot be stopped
    show : called with the growing picture of a half, (h, w, 3) scene-linear light; None for nobody

    Returns
    -------
    RenderedFrame
        The mean, with the seconds and samples of both, and its measured noise among the attributes.

    Raises
    ------
    RendererFault
        When the halves are not of one size, or are the same picture.
    """
    half = replace(
        job, samples=max(1, job.samples // 2), floor=max(1, job.floor // 2), cap=None if job.cap is None else job.cap / 2.0,
        stop_noise=None if job.stop_noise is None else job.stop_noise * np.sqrt(2.0),
    )  # fmt: skip
    seeds = seeds_of_halves(job.seed)
    a, b = (renderer(replace(half, seed=seed), part_of(progress, k, 2), cancel, show) for k, seed in enumerate(seeds))
    one, two = a.picture, b.picture
    if one.rgb.shape != two.rgb.shape:
        raise RendererFault(f"Frame {job.frame}: its halves are of different sizes; expected both alike.")
    if np.array_equal(one.rgb, two.rgb) and np.ptp(one.rgb) > 0:
        raise RendererFault(f"Frame {job.frame}: its halves are the same picture; expected a renderer whose command takes the seed.")
    guides = dict(one.guides) | {g: one.guides[g] + two.guides[g] for g in MEAN if g in one.guides and g in two.guides}
    noise = noise_linear(one.rgb, two.rgb) / np.sqrt(2.0), noise_lightness(one.rgb, two.rgb) / np.sqrt(2.0)
    attributes = {**one.attributes, "hr:recipe": job.hash, "hr:seed": str(job.seed), NOISE: float(noise[0]), NOISE_L: float(noise[1])}
    samples = a.samples + b.samples
    if "hr:samples" in attributes:
        attributes["hr:samples"] = float(samples) if samples > 0 else attributes["hr:samples"]
    return RenderedFrame(
        Picture((one.rgb + two.rgb) / 2.0, guides, attributes),
        a.load_seconds + b.load_seconds, a.sample_seconds + b.sample_seconds, a.cache_seconds + b.cache_seconds, samples,
        max(a.memory_bytes, b.memory_bytes), a.messages + b.messages, caches_made=a.caches_made + b.caches_made,
    )  # fmt: skip
