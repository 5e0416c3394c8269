"""A frame job as the message that asks for it: what a renderer that stays open is sent, and what stands in the file of `{job}`."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.renderers.messages import CacheShare, Render


def settings_told(job: FrameJob) -> dict[str, float]:
    """Return the settings of a frame by the names under which renderers are told of them, own ones as 'own.NAME'.

    Parameters
    ----------
    job : the frame
    """
    return {s.placeholder: float(s.told(job.recipe.value(s.field))) for s in job.recipe.settings if s.placeholder}


def shutter_of(job: FrameJob) -> tuple[float, float]:
    """Return when the shutter opens and closes, in frames: it stands open around the frame.

    Parameters
    ----------
    job : the frame
    """
    half = job.recipe.shutter_angle / 720.0
    return job.frame - half, job.frame + half


def asked_frame(
    job: FrameJob,
    output: Path,
    settings: dict[str, float],
    number: int = 0,
    history: Sequence[float] = (),
    fresh: bool = True,
    caches: Sequence[CacheShare] = (),
    preview: Path | None = None,
) -> Render:
    """Return the message that asks for a frame.

    Parameters
    ----------
    job : the frame
    output : where the picture is to be written
    settings : that are told, by name
    number : of the message
    history : frames that come before it and are not simulated yet
    fresh : a history begins with them, or with the frame
    caches : light caches that it blends
    preview : where the picture is to be written as it grows; None for nowhere
    """
    plain = job.settings
    return Render(
        id=number, scene=job.scene, frame=float(job.frame), width=job.width, height=job.height,
        crop=job.crop or (0, 0, job.width, job.height), samples=plain.samples, floor=plain.floor, seed=plain.seed,
        shutter=shutter_of(job), settings=settings, stop_noise=job.stop_noise or 0.0, cap=job.cap or 0.0, guides=job.guides,
        history=list(history), fresh=fresh, caches=list(caches), output=str(output), preview="" if preview is None else str(preview),
    )  # fmt: skip
