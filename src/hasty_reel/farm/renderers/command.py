"""Frames from a renderer that is started by a command line, without a shell, and watched until it ends."""

from __future__ import annotations

import contextlib
import math
import os
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from hasty_reel.bench.settings import NO_CEILING
from hasty_reel.errors import PictureError, RendererFault
from hasty_reel.farm.expressions import compiled, last_group
from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.renderers.links import Link, filled
from hasty_reel.farm.renderers.protocol import RenderedFrame
from hasty_reel.pictures.frame import Picture, read_header, read_picture
from hasty_reel.work import CancelToken, Progress, silent

LOOKS_PER_SECOND = 50
KEPT_CHARACTERS = 20_000
TOLD = 160
LONGEST_SECONDS = 1e9
"""More than 30 years: no time of a frame."""


@dataclass(frozen=True)
class Ended:
    """A process that ended: its status, what it printed, seconds of the clock, largest memory in bytes."""

    status: int
    messages: str
    seconds: float
    memory_bytes: int


def placeholder_values(job: FrameJob, output: Path) -> dict[str, str]:
    """Return what stands in the placeholders of a command.

    Parameters
    ----------
    job : the frame
    output : where the picture is to be written

    Returns
    -------
    dict[str, str]
        Text by placeholder.
    """
    settings = job.settings
    return {
        "frame": f"{job.frame:.10g}",
        "samples": f"{settings.samples}",
        "steps": f"{settings.steps}",
        "width": f"{job.width}",
        "height": f"{job.height}",
        "seed": f"{settings.seed}",
        "scale": f"{job.recipe.render_scale:g}",
        "crop": ",".join(str(v) for v in settings.crop or (0, 0, job.width, job.height)),
        "output": str(output),
        "scene": job.scene,
        "bounces": f"{job.recipe.bounces}",
        "angle": f"{job.recipe.shutter_angle:g}",
        "ceiling": f"{NO_CEILING if job.recipe.brightness_ceiling is None else job.recipe.brightness_ceiling:.10g}",
        "floor": f"{settings.floor}",
        "stop": f"{job.stop_noise or 0.0:g}",
        "cap": f"{job.cap or 0.0:g}",
    }


def find_program(arguments: list[str]) -> list[str]:
    """Return the arguments with the program found on this machine; our own renderer is found wherever this program runs.

    Parameters
    ----------
    arguments : of the command, the program first

    Raises
    ------
    RendererFault
        When there is no such program.
    """
    if arguments[0] == "hasty-bench":
        return [sys.executable, "-m", "hasty_reel.bench", *arguments[1:]]
    found = shutil.which(arguments[0])
    if found is None:
        raise RendererFault(f"Renderer '{arguments[0][:80]}': no such program on this machine; expected a program that can be started.")
    return [found, *arguments[1:]]


def render_by_command(
    link: Link,
    job: FrameJob,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
    show: Callable[[np.ndarray], None] | None = None,
) -> RenderedFrame:
    """Render a job with a linked renderer; its picture counts only when it is whole and of the right size.

    Parameters
    ----------
    link : the renderer link
    job : the frame
    progress : called with the share that is done, 0 to 1, and words
    cancel : looked at meanwhile; None: it cannot be stopped
    show : not called: the picture comes at the end

    Raises
    ------
    RendererFault
        Which frame, what went wrong, and the renderer's last line.
    Stopped
        When `cancel` asked for it; the renderer is ended.
    """
    assert link.command is not None
    with tempfile.TemporaryDirectory(prefix="hasty-frame-") as folder:
        output = Path(folder) / "frame.exr"
        arguments = find_program(filled(link.command, placeholder_values(job, output)))
        ended = run_watched(arguments, link, f"Frame {job.frame}", progress, cancel)
        picture = _taken(job, output, ended)
    parts = seconds_by_part(link, ended.messages)
    known = sum(parts.values())
    sampled = parts.get("sample", max(0.0, ended.seconds - known))
    attributes = {**picture.attributes, "hr:recipe": job.hash, "hr:seed": str(job.seed), "hr:frame": f"{job.frame:.10g}"}
    return RenderedFrame(
        Picture(picture.rgb, picture.guides, attributes),
        load_seconds=parts.get("load", 0.0) if "sample" not in parts else max(0.0, ended.seconds - sampled - parts.get("cache", 0.0)),
        sample_seconds=sampled,
        cache_seconds=parts.get("cache", 0.0),
        samples=float(job.settings.samples),
        memory_bytes=ended.memory_bytes,
        messages=ended.messages,
    )


def seconds_by_part(link: Link, messages: str) -> dict[str, float]:
    """Return the seconds by part that the renderer told, by the patterns of its link.

    Parameters
    ----------
    link : the renderer link
    messages : what the renderer printed
    """
    out = {}
    for part, pattern in link.seconds.items():
        where = f"Renderer link '{link.name[:60]}', seconds of {part}"
        match = compiled(pattern, where).search(messages)
        if match is not None and match[1] is not None:
            with contextlib.suppress(ValueError):
                told = float(match[1].replace(",", "."))
                # what is printed may be 'inf' or 'nan': that tells nothing
                if 0 <= told < LONGEST_SECONDS:
                    out[part] = told
    return out


def run_watched(arguments: list[str], link: Link, what: str, progress: Progress, cancel: CancelToken | None) -> Ended:
    """Start a process and watch it: time-out, cancel, progress, memory.

    Parameters
    ----------
    arguments : of the command, the program first
    link : the renderer link
    what : is rendered, in words for messages
    progress : called with the share that is done, 0 to 1, and words
    cancel : looked at meanwhile; None: it cannot be stopped

    Raises
    ------
    RendererFault
        When it cannot be started, or takes longer than the time-out.
    Stopped
        When `cancel` asked for it.
    """
    began = time.perf_counter()
    with tempfile.TemporaryFile() as told:
        try:
            process = subprocess.Popen(
                arguments, stdin=subprocess.DEVNULL, stdout=told, stderr=subprocess.STDOUT, start_new_session=True, close_fds=True
            )
        except (OSError, ValueError) as error:
            raise RendererFault(f"{what}: the renderer cannot be started ({getattr(error, 'strerror', None) or error}).") from error
        looks = 0
        try:
            while True:
                gone, status, usage = os.wait4(process.pid, os.WNOHANG)
                if gone:
                    process.returncode = os.waitstatus_to_exitcode(status)
                    break
                if cancel is not None:
                    cancel.check()
                seconds = time.perf_counter() - began
                if seconds > link.timeout:
                    raise RendererFault(
                        f"{what}: the renderer was ended after {link.timeout:g} s, its time-out.{_last_line(_printed(told))}"
                    )
                looks += 1
                if link.progress and looks % 10 == 0:
                    share = _share(link, _printed(told)[-2000:])
                    if share is not None:
                        progress(share, f"{100 * share:.0f} %")
                time.sleep(1.0 / LOOKS_PER_SECOND)
        finally:
            if process.returncode is None:
                with contextlib.suppress(ProcessLookupError, PermissionError):
                    os.killpg(process.pid, signal.SIGKILL)
                process.wait()
        return Ended(process.returncode, _printed(told), time.perf_counter() - began, usage.ru_maxrss * 1024)


def _share(link: Link, printed: str) -> float | None:
    """The share done that a renderer printed last, 0 to 1; None where it tells none."""
    where = f"Renderer link '{link.name[:60]}', progress"
    told = last_group(compiled(link.progress, where), printed)
    try:
        percent = float(told) if told is not None else math.nan
    except ValueError:
        return None
    return min(1.0, max(0.0, percent / 100.0)) if math.isfinite(percent) else None


def _taken(job: FrameJob, output: Path, ended: Ended) -> Picture:
    what = f"Frame {job.frame}"
    if ended.status != 0:
        how = f"by signal {-ended.status}" if ended.status < 0 else f"with status {ended.status}"
        raise RendererFault(f"{what}: the renderer ended {how}.{_last_line(ended.messages)}")
    if not output.is_file():
        raise RendererFault(f"{what}: the renderer ended well but wrote no picture.{_last_line(ended.messages)}")
    try:
        # the size is looked at first: a picture of another size is not worth the memory its pixels would take
        head = read_header(output)
        if (head.width, head.height) != (job.width, job.height):
            raise RendererFault(f"{what}: the picture is {head.width}x{head.height}; expected {job.width}x{job.height}.")
        picture = read_picture(output)
    except PictureError as error:
        raise RendererFault(f"{what}: the picture is not whole ({str(error).partition(': ')[2] or error}).") from error
    if not np.isfinite(picture.rgb).all():
        count = int((~np.isfinite(picture.rgb)).any(axis=2).sum())
        raise RendererFault(f"{what}: {count} pixels are not finite numbers; expected a picture without them.")
    return picture


def _printed(told) -> str:
    size = os.fstat(told.fileno()).st_size
    raw = os.pread(told.fileno(), KEPT_CHARACTERS, max(0, size - KEPT_CHARACTERS))
    return raw.decode("utf-8", "replace")


def _last_line(messages: str) -> str:
    lines = [" ".join(x.split()) for x in messages.splitlines() if x.strip()]
    return f" It said: {lines[-1][:TOLD]}" if lines else ""
