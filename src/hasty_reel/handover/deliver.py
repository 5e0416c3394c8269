"""A sequence of pictures to its target: an MP4 file, or PNG 16 bit frame by frame."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

from hasty_reel.errors import HastyReelError, PictureError, WrongInput
from hasty_reel.handover.video import VideoWriter
from hasty_reel.pictures.colour import PLAIN, codes8, codes16, through_view
from hasty_reel.pictures.frame import read_picture, write_png16
from hasty_reel.pictures.sequence import FramePattern, read_pattern
from hasty_reel.reel.frames import write_frames
from hasty_reel.work import CancelToken, Progress, silent


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
) -> list[int]:
    """Deliver a sequence; returns its frames.

    Parameters
    ----------
    target : a name ending in .mp4, or a pattern ending in .png
    fps : frames per second, exactly
    view : display view of the colour configuration; quality : 0 (best) to 51 of the H.264 coder

    Raises
    ------
    WrongInput
        When the target exists, or rate, quality, view or target make no sense.
    FramesMissing
        When frames are missing; names them.
    PictureError
        When a frame cannot be read or differs in size.
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
    first = read_picture(source.path(wanted[0]))
    through_view(first.rgb[:1, :1], view)  # an unknown view is told before anything is written
    if target.lower().endswith(".png"):
        return _to_png(source, read_pattern(target), wanted, view, overwrite, progress, cancel)
    if not target.lower().endswith(".mp4"):
        raise WrongInput(f"'{target}': expected a name ending in .mp4, or a pattern such as out.####.png.")
    path = Path(target)
    if path.exists() and not overwrite:
        raise WrongInput(f"{path}: exists already; give another name, or allow overwriting.")
    with VideoWriter(path, fps, quality) as video:
        for k, frame in enumerate(wanted):
            if cancel is not None:
                cancel.check()
            picture = read_picture(source.path(frame))
            if picture.rgb.shape != first.rgb.shape:
                raise PictureError(
                    f"{source.path(frame)}: {picture.width}x{picture.height}; expected {first.width}x{first.height} like the first frame."
                )
            video.add(codes8(picture.rgb, view))
            progress((k + 1) / len(wanted), f"frame {frame} written")
    return wanted


def _to_png(
    source: FramePattern, target: FramePattern, frames: list[int], view: str, overwrite: bool,
    progress: Progress, cancel: CancelToken | None,
) -> list[int]:  # fmt: skip
    there = sorted(set(target.frames()) & set(frames))
    if there and not overwrite:
        raise WrongInput(f"{target}: frames {write_frames(there)} exist already; give another name, or allow overwriting.")
    for k, frame in enumerate(frames):
        if cancel is not None:
            cancel.check()
        write_png16(target.path(frame), codes16(read_picture(source.path(frame)).rgb, view))
        progress((k + 1) / len(frames), f"frame {frame} written")
    return frames
