"""Steps of the artist's own: pictures are written for a command, and what it wrote is read."""

from __future__ import annotations

import shutil
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

import numpy as np

from hasty_reel.errors import PictureError, RendererFault
from hasty_reel.finish.guides import guides_resized
from hasty_reel.pictures.frame import Picture, read_header, read_picture
from hasty_reel.pictures.writing import write_picture
from hasty_reel.programs.commands import filled, find_program
from hasty_reel.programs.ownsteps import FRAME_FILE, OwnStep
from hasty_reel.programs.watched import Ended, Watch, run_watched
from hasty_reel.temporary import temporary_folder
from hasty_reel.work import CancelToken, Progress, silent


def own_frame(step: OwnStep, frame: int, picture: Picture, cancel: CancelToken | None = None) -> Picture:
    """Return what a step makes of a frame; channels that it does not write are carried along.

    Parameters
    ----------
    step : on single frames
    frame : its number
    picture : so far
    cancel : looked at meanwhile; None: it cannot be stopped

    Raises
    ------
    RendererFault
        Which frame, what went wrong, and the command's last line.
    Stopped
        When `cancel` asked for it; the program is ended.
    """
    with temporary_folder("step") as folder:
        before, after = folder / "before.exr", folder / "after.exr"
        write_picture(before, picture)
        values = {"input": str(before), "output": str(after), "frame": str(frame)}
        ended = _started(step, {**values, **_size(picture.width, picture.height)}, f"Frame {frame}", silent, cancel)
        return _taken(step, frame, after, picture, ended)


def own_folder(
    step: OwnStep,
    frames: Sequence[int],
    source: Callable[[int], Path],
    target: Callable[[int], Path],
    progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> None:
    """Have a step work on a folder with all frames of a shot; every frame is checked before any is taken.

    Parameters
    ----------
    step : on folders
    frames : numbers of the frames
    source, target : give the path of a frame
    progress : called with the share that is done, 0 to 1, and words
    cancel : looked at meanwhile; None: it cannot be stopped

    Raises
    ------
    RendererFault
        What went wrong, and the command's last line.
    Stopped
        When `cancel` asked for it; the program is ended.
    """
    head = read_header(source(frames[0]))
    with temporary_folder("own-step", target(frames[0]).parent) as folder:
        before, after = folder / "before", folder / "after"
        before.mkdir()
        after.mkdir()
        for frame in frames:
            shutil.copyfile(source(frame), before / FRAME_FILE.format(frame))  # a command that writes in place spoils a copy
        values = {"input": str(before), "output": str(after), "first": str(frames[0]), "last": str(frames[-1])}
        ended = _started(step, {**values, **_size(head.width, head.height)}, f"Frames {frames[0]} to {frames[-1]}", progress, cancel)
        for frame in frames:
            made = _taken(step, frame, after / FRAME_FILE.format(frame), read_picture(source(frame)), ended)
            write_picture(target(frame), made)


def _size(width: int, height: int) -> Mapping[str, str]:
    return {"width": str(width), "height": str(height)}


def _started(step: OwnStep, values: Mapping[str, str], what: str, progress: Progress, cancel: CancelToken | None) -> Ended:
    arguments = find_program(filled(step.command, values), f"Own step '{step.name[:60]}'")
    watch = Watch(f"own step '{step.name[:60]}'", f"Own step '{step.name[:60]}'", step.timeout, step.progress)
    return run_watched(arguments, watch, what, progress, cancel)


def _taken(step: OwnStep, frame: int, path: Path, before: Picture, ended: Ended) -> Picture:
    """What was written, if it is whole; with the channels of the picture that was given."""
    what, kind = f"Frame {frame}", f"own step '{step.name[:60]}'"
    if fault := ended.fault(what, kind, not path.is_file()):
        raise RendererFault(fault)
    try:
        made = read_picture(path)
    except PictureError as error:
        raise RendererFault(f"{what}: what the {kind} wrote is not whole ({str(error).partition(': ')[2] or error}).") from error
    if not np.isfinite(made.rgb).all():
        raise RendererFault(f"{what}: the {kind} wrote pixels that are not finite numbers; expected a picture without them.")
    guides = guides_resized(before.guides, (before.width, before.height), (made.width, made.height))
    return Picture(made.rgb, {**guides, **made.guides}, {**before.attributes})
