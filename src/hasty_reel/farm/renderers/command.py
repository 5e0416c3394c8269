"""Frames from a renderer that is started by a command line, without a shell, and watched until it ends."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path

import msgspec
import numpy as np

from hasty_reel.errors import RendererFault
from hasty_reel.evidence.proof import RENDER_PARTS
from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.renderers.askedframe import asked_frame, settings_told, shutter_of
from hasty_reel.farm.renderers.links import HEAD, TOTAL, Link, own_places
from hasty_reel.farm.renderers.protocol import RenderedFrame
from hasty_reel.farm.renderers.statistics import LONGEST_SECONDS, by_name, read_seconds, read_statistics
from hasty_reel.farm.renderers.takenpicture import rendered_samples, taken
from hasty_reel.programs.commands import filled, find_program
from hasty_reel.programs.expressions import compiled, last_group
from hasty_reel.programs.watched import run_watched
from hasty_reel.temporary import temporary_folder
from hasty_reel.work import CancelToken, Progress, silent


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
    told = {s.placeholder: s.told(job.recipe.value(s.field)) for s in job.recipe.settings if s.placeholder}
    opens, closes = shutter_of(job)
    return told | {
        "first": f"{job.frame:.10g}",
        "last": f"{job.frame:.10g}",
        "frames": f"{job.frame:.10g}",
        "folder": str(output.parent),
        "job": f"{output}.json",
        "stats": f"{output}.stats.json",
        "open": f"{opens:.10g}",
        "close": f"{closes:.10g}",
        "guides": f"{int(job.guides)}",
        "frame": f"{job.frame:.10g}",
        "samples": f"{settings.samples}",
        "width": f"{job.width}",
        "height": f"{job.height}",
        "seed": f"{settings.seed}",
        "crop": ",".join(str(v) for v in settings.crop or (0, 0, job.width, job.height)),
        "output": str(output),
        "scene": job.scene,
        "floor": f"{settings.floor}",
        "stop": f"{job.stop_noise or 0.0:g}",
        "cap": f"{job.cap or 0.0:g}",
    }


def check_asked(link: Link, job: FrameJob) -> None:
    """Raise an error where the command of a link cannot tell what is asked for.

    Parameters
    ----------
    link : the renderer link
    job : the frame

    Raises
    ------
    RendererFault
        Names the place that it lacks, or the own setting that the reel does.
    """
    if job.crop is not None and not link.crops:
        raise RendererFault(f"Renderer link '{link.name[:60]}': its command takes no {{crop}}; expected one to render a part of a frame.")
    lacking = set(own_places(link)) - {s.field for s in job.recipe.own_settings}
    if lacking:
        place = sorted(lacking)[0]
        raise RendererFault(f"Renderer link '{link.name[:60]}': it takes {{{place}}}; expected a reel with that own setting.")


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
    check_asked(link, job)
    with temporary_folder("frame") as folder:
        what, output = f"Frame {job.frame}", folder / "out" / "frame.exr"
        output.parent.mkdir()
        values = placeholder_values(job, output)
        asked = msgspec.json.format(msgspec.json.encode(asked_frame(job, output, settings_told(job))), indent=2)
        Path(values["job"]).write_bytes(asked)
        ended = run_watched(find_program(filled(link.command, values)), link.watch, what, progress, cancel)
        output = _written(output, what)
        if fault := ended.fault(what, "renderer", not output.is_file()):
            raise RendererFault(fault)
        picture = taken(job, output, link)
        statistics = read_statistics(Path(values["stats"]))
    told = {part: value for part, value in statistics.seconds.items() if part in RENDER_PARTS and 0 <= value < LONGEST_SECONDS}
    parts = told | seconds_by_part(link, ended.messages, picture.attributes)
    one_number = not {"load", "cache", "sample"} & set(parts)
    known = sum(parts.get(part, 0.0) for part in ("load", "cache", "write"))
    sampled = parts.get("sample", min(parts.get(TOTAL, ended.seconds), ended.seconds - known) if one_number else ended.seconds - known)
    apart = "sample" in parts or TOTAL in parts  # then the start of its process is left over, and is no sampling
    return RenderedFrame(
        picture,
        load_seconds=max(0.0, ended.seconds - sampled - parts.get("cache", 0.0)) if apart else parts.get("load", 0.0),
        sample_seconds=max(0.0, sampled),
        cache_seconds=parts.get("cache", 0.0),
        samples=rendered_samples(job, picture, statistics.samples),
        memory_bytes=max(ended.memory_bytes, statistics.memory_bytes),
        messages=ended.messages,
        cpu_seconds=ended.cpu_seconds,
        one_number=one_number,
        objects=by_name(statistics.objects),
        object_memory=by_name(statistics.object_memory),
    )


def _written(output: Path, what: str) -> Path:
    """The picture that was written: the file asked for, else the only one in its folder, of a renderer that chooses the name."""
    found = [path for path in output.parent.iterdir() if path.is_file() and path.suffix.lower() != ".json"]
    if output in found or not found:
        return output
    if len(found) > 1:
        names = ", ".join(sorted(path.name for path in found)[:3])
        raise RendererFault(f"{what}: the renderer wrote {len(found)} files ({names} …); expected one picture.")
    return found[0]


def seconds_by_part(link: Link, messages: str, attributes: Mapping[str, object] | None = None) -> dict[str, float]:
    """Return the seconds by part that the renderer told, by the patterns of its link.

    Parameters
    ----------
    link : the renderer link
    messages : what the renderer printed
    attributes : of the picture's head; None for none
    """
    out = {}
    for part, pattern in link.seconds.items():
        if pattern.startswith(HEAD):
            text = str((attributes or {}).get(pattern.removeprefix(HEAD).strip(), ""))
        else:
            # a line that is printed again and again says most at the end
            text = last_group(compiled(pattern, f"Renderer link '{link.name[:60]}', seconds of {part}"), messages) or ""
        told = read_seconds(text) if text else None
        if told is not None:
            out[part] = told
    return out
