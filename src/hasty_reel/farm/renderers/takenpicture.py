"""The picture that an artist's renderer wrote: it counts only when it is whole, finite and of the right size."""

from __future__ import annotations

import contextlib
from pathlib import Path

import numpy as np

from hasty_reel.errors import PictureError, RendererFault
from hasty_reel.farm.job import FrameJob
from hasty_reel.pictures.frame import Picture, read_header, read_picture

MOST_SAMPLES = 1e9
"""No pixel gets more."""


def own_attributes(job: FrameJob) -> dict[str, float]:
    """Return what a frame's head says of own settings: 'hr:own:NAME' and the value.

    Parameters
    ----------
    job : the frame
    """
    return {f"hr:own:{s.name}": float(job.recipe.value(s.field) or 0.0) for s in job.recipe.own_settings}


def taken(job: FrameJob, output: Path) -> Picture:
    """Read what was rendered, with what its head is to say.

    Parameters
    ----------
    job : the frame
    output : file that the renderer wrote

    Raises
    ------
    RendererFault
        When the picture is not whole, of another size, or has pixels that are no numbers.
    """
    what = f"Frame {job.frame}"
    try:
        # the size is looked at first: a picture of another size is not worth the memory its pixels would take
        head = read_header(output)
        wanted = (job.width, job.height) if job.crop is None else job.crop[2:]
        if (head.width, head.height) != wanted:
            raise RendererFault(f"{what}: the picture is {head.width}x{head.height}; expected {wanted[0]}x{wanted[1]}.")
        picture = read_picture(output)
    except PictureError as error:
        raise RendererFault(f"{what}: the picture is not whole ({str(error).partition(': ')[2] or error}).") from error
    if not np.isfinite(picture.rgb).all():
        count = int((~np.isfinite(picture.rgb)).any(axis=2).sum())
        raise RendererFault(f"{what}: {count} pixels are not finite numbers; expected a picture without them.")
    attributes = {
        **picture.attributes,
        "hr:recipe": job.hash,
        "hr:seed": str(job.seed),
        "hr:frame": f"{job.frame:.10g}",
        **own_attributes(job),
    }
    return Picture(picture.rgb, picture.guides, attributes)


def rendered_samples(job: FrameJob, picture: Picture) -> float:
    """Return the samples that a pixel got in the mean: as the picture tells, else as many as were asked for.

    Parameters
    ----------
    job : the frame
    picture : that was rendered
    """
    told = picture.guides.get("samples")
    if told is not None and float(told.mean()) > 0 and np.isfinite(told).all():
        return float(told.mean())
    with contextlib.suppress(ValueError):
        count = float(str(picture.attributes.get("hr:samples", "")))
        if 0 < count < MOST_SAMPLES:
            return count
    return float(job.settings.samples)
