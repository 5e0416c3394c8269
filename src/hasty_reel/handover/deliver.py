"""A sequence of pictures to its target: an MP4 file, or PNG 16 bit frame by frame."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import numpy as np

from hasty_reel.errors import HastyReelError, PictureError, WrongInput
from hasty_reel.handover.video import video_file
from hasty_reel.pictures.colour import PLAIN, codes8, codes16, through_view
from hasty_reel.pictures.finite import mended
from hasty_reel.pictures.frame import read_picture
from hasty_reel.pictures.sequence import FramePattern, read_pattern
from hasty_reel.pictures.writing import write_png16
from hasty_reel.reel.frames import write_frames
from hasty_reel.wholefile import clear_folder, flush_folder
from hasty_reel.work import CancelToken, Progress, silent


@dataclass(frozen=True)
class Delivered:
    """What was handed over: its frames, and how many pixels of which frame were no finite numbers and were replaced."""

    frames: list[int]
    replaced: dict[int, int]


class FramesMissing(HastyReelError):
    """A sequence with holes is not delivered."""


def deliver(
    source: FramePattern,
    target: str,
    fps: Fraction,
    view: str = PLAIN,
    quality: int = 16,
    overwrite: bool = False,
    frames: list[int] | None = None,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> Delivered:
    """Deliver a sequence.

    Parameters
    ----------
    source : the finished frames
    target : a name ending in .mp4, or a pattern ending in .png
    fps : frames per second, exactly
    view : display view of the colour configuration
    quality : 0 (best) to 51 of the H.264 coder
    overwrite : whether files that are there are replaced
    frames : which of them; None for all
    progress : called with the share that is done, 0 to 1, and words
    cancel : looked at between frames

    Raises
    ------
    WrongInput
        When the target exists, or rate, quality, view or target make no sense.
    FramesMissing
        When frames are missing; names them.
    PictureError
        When a frame cannot be read, differs in size, or holds many pixels that are not finite.
    """
    if not 1 <= fps <= 1000:
        raise WrongInput(f"Rate {float(fps):g}; expected 1 to 1000 frames a second.")
    if not 0 <= quality <= 51:
        raise WrongInput(f"Quality {quality}; expected 0 (best) to 51.")
    there = source.frames()
    if not there:
        raise FramesMissing(f"{source}: no frames there.")
    wanted = list(range(there[0], there[-1] + 1)) if frames is None else frames
    holes = sorted(set(wanted) - set(there))
    if holes:
        raise FramesMissing(f"{source}: frames {write_frames(holes)} are missing; nothing was written.")
    through_view(np.zeros((1, 1, 3), np.float32), view)  # an unknown view is told before anything is written
    if target.lower().endswith(".png"):
        return _to_png(source, read_pattern(target), wanted, view, overwrite, progress, cancel)
    if not target.lower().endswith(".mp4"):
        raise WrongInput(f"'{target}': expected a name ending in .mp4, or a pattern such as out.####.png.")
    path = Path(target)
    if path.exists() and not overwrite:
        raise WrongInput(f"{path}: exists already; give another name, or allow overwriting.")
    replaced: dict[int, int] = {}
    with video_file(path, fps, quality) as video:
        for rgb in _pictures(source, wanted, replaced, progress, cancel):
            video.add(codes8(rgb, view))
    flush_folder(path.parent)
    return Delivered(wanted, replaced)


def _pictures(
    source: FramePattern, frames: list[int], replaced: dict[int, int], progress: Progress, cancel: CancelToken | None
) -> Iterator[np.ndarray]:
    """The colour of each frame, all finite and of one size; what was replaced is noted."""
    size: tuple[int, int] | None = None
    for k, frame in enumerate(frames):
        if cancel is not None:
            cancel.check()
        path = source.path(frame)
        picture, count = mended(read_picture(path, ()), str(path))
        size = size or (picture.width, picture.height)
        if (picture.width, picture.height) != size:
            raise PictureError(f"{path}: {picture.width}x{picture.height}; expected {size[0]}x{size[1]} like the first frame.")
        if count:
            replaced[frame] = count
        yield picture.rgb
        progress((k + 1) / len(frames), f"frame {frame} written")


def _to_png(
    source: FramePattern, target: FramePattern, frames: list[int], view: str, overwrite: bool,
    progress: Progress, cancel: CancelToken | None,
) -> Delivered:  # fmt: skip
    there = sorted(set(target.frames()) & set(frames))
    if there and not overwrite:
        raise WrongInput(f"{target}: frames {write_frames(there)} exist already; give another name, or allow overwriting.")
    clear_folder(target.folder)
    replaced: dict[int, int] = {}
    for frame, rgb in zip(frames, _pictures(source, frames, replaced, progress, cancel)):
        write_png16(target.path(frame), codes16(rgb, view))
    flush_folder(target.folder)
    return Delivered(frames, replaced)
