"""The picture that an artist's renderer wrote: it counts only when it is whole, finite and of the right size."""

from __future__ import annotations

import contextlib
from collections.abc import Mapping, Sequence
from pathlib import Path

import numpy as np

from hasty_reel.errors import PictureError, RendererFault
from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.renderers.links import Link
from hasty_reel.pictures.foreign import ROLES, guess_channels
from hasty_reel.pictures.frame import COLOUR, MOTION, Picture, read_header, read_planes

MOST_SAMPLES = 1e9
"""No pixel gets more."""


def own_attributes(job: FrameJob) -> dict[str, float]:
    """Return what a frame's head says of own settings: 'hr:own:NAME' and the value.

    Parameters
    ----------
    job : the frame
    """
    return {f"hr:own:{s.name}": float(job.recipe.value(s.field) or 0.0) for s in job.recipe.own_settings}


def in_our_names(planes: np.ndarray, names: Sequence[str], said: Mapping[str, Sequence[str]] | None = None) -> dict[str, np.ndarray]:
    """Return the channels of a picture by the names that they have here, recognised by theirs; others keep their own.

    Parameters
    ----------
    planes : (h, w, n), as they are in the file
    names : theirs, in that order
    said : names by role that were said by hand; None for none
    """
    said = said or {}
    roles = {**guess_channels(names), **said}
    found = {theirs: ours for role, chosen in roles.items() for theirs, ours in zip(chosen, ROLES[role])}
    # channels that have our names already are never taken for others
    by_hand = {name for chosen in said.values() for name in chosen}
    found = {theirs: ours for theirs, ours in found.items() if theirs == ours or ours not in names or theirs in by_hand}
    return {found.get(name, name): np.ascontiguousarray(planes[..., k]) for k, name in enumerate(names)}


def taken(job: FrameJob, output: Path, link: Link) -> Picture:
    """Read what was rendered, with what its head is to say; guides under our names, motion vectors in our sense.

    Parameters
    ----------
    job : the frame
    output : file that the renderer wrote
    link : says what its vectors mean

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
        planes, names, told = read_planes(output)
    except PictureError as error:
        raise RendererFault(f"{what}: the picture is not whole ({str(error).partition(': ')[2] or error}).") from error
    channels = in_our_names(planes, names, link.channels)
    if len(names) == 1:
        channels = dict.fromkeys(COLOUR, planes[..., 0])
    if lacking := [name for name in COLOUR if name not in channels]:
        raise RendererFault(f"{what}: the picture has channels {', '.join(names)[:200]}; expected {lacking[0]} among them.")
    rgb = np.ascontiguousarray(np.stack([channels.pop(name) for name in COLOUR], axis=-1))
    for name, sign, size in zip(MOTION, link.vectors, (job.width, job.height)):
        factor = sign * (size if link.vectors_of_size else 1)
        if factor != 1 and name in channels:
            channels[name] = channels[name] * np.float32(factor)
    if not np.isfinite(rgb).all():
        count = int((~np.isfinite(rgb)).any(axis=2).sum())
        raise RendererFault(f"{what}: {count} pixels are not finite numbers; expected a picture without them.")
    attributes = {
        **told,
        "hr:recipe": job.hash,
        "hr:seed": str(job.seed),
        "hr:frame": f"{job.frame:.10g}",
        **own_attributes(job),
    }
    return Picture(rgb, channels, attributes)


def rendered_samples(job: FrameJob, picture: Picture, said: float | None = None) -> float:
    """Return the samples that a pixel got in the mean: as the picture tells, else as many as were asked for.

    Parameters
    ----------
    job : the frame
    picture : that was rendered
    said : by the renderer, beside its picture; None where it said nothing
    """
    told = picture.guides.get("samples")
    if told is not None and float(told.mean()) > 0 and np.isfinite(told).all():
        return float(told.mean())
    with contextlib.suppress(ValueError):
        count = float(str(picture.attributes.get("hr:samples", "")))
        if 0 < count < MOST_SAMPLES:
            return count
    return float(said) if said is not None and 0 < said < MOST_SAMPLES else float(job.settings.samples)
