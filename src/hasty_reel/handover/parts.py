"""Parts put together: layers over each other, light added, crops put back into the whole frame.

Pictures with alpha hold light that is multiplied with it already; 'over' is that of T. Porter and T. Duff, Compositing Digital
Images, SIGGRAPH 1984 (from memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from hasty_reel.errors import PictureError, WrongInput
from hasty_reel.pictures.footage import Footage
from hasty_reel.pictures.frame import Picture
from hasty_reel.pictures.sequence import FramePattern, read_pattern
from hasty_reel.pictures.writing import write_picture
from hasty_reel.reel.frames import write_frames
from hasty_reel.work import CancelToken, Progress, silent

Mode = Literal["over", "plus", "place"]


@dataclass(frozen=True)
class Part:
    """A sequence that is put on those before it.

    source : its frames; mode : over them by its alpha, its light added, or placed as it is; x, y : of its corner in the whole frame
    """

    source: FramePattern
    mode: Mode = "over"
    x: int = 0
    y: int = 0


def read_part(text: str) -> Part:
    """Read a part such as 'over:front.####.exr' or 'place:crop.####.exr@320,180'; 'over' where no mode is told.

    Parameters
    ----------
    text : as given

    Raises
    ------
    WrongInput
        Says what is wrong and what was expected.
    """
    head, colon, rest = text.partition(":")
    mode, path = (head, rest) if colon and head in ("over", "plus", "place") else ("over", text)
    path, at, corner = path.rpartition("@") if "@" in path else (path, "", "")
    x = y = 0
    if at:
        try:
            x, y = (int(v) for v in corner.split(","))
        except ValueError:
            raise WrongInput(f"Part '{text[:80]}': corner '{corner[:20]}'; expected two whole numbers such as @320,180.") from None
    return Part(read_pattern(path), mode, x, y)  # type: ignore[arg-type]


def put_together(back: np.ndarray, alpha: np.ndarray, front: Picture, mode: Mode, x: int = 0, y: int = 0) -> tuple[np.ndarray, np.ndarray]:
    """Return light and alpha of a frame with another picture on it.

    Parameters
    ----------
    back : (h, w, 3) float32, light so far
    alpha : (h, w) float32, of it
    front : the picture; without alpha it covers all of its pixels
    mode : over by its alpha, its light added, or placed as it is
    x, y : of its corner, in pixels

    Raises
    ------
    WrongInput
        When it lies beside the frame.
    """
    h, w = back.shape[:2]
    top, left, bottom, right = max(0, y), max(0, x), min(h, y + front.height), min(w, x + front.width)
    if top >= bottom or left >= right:
        raise WrongInput(f"A part of {front.width}x{front.height} pixels at {x},{y} lies beside the frame of {w}x{h}; expected it inside.")
    here, there = (slice(top, bottom), slice(left, right)), (slice(top - y, bottom - y), slice(left - x, right - x))
    rgb, covers = front.rgb[there], front.guides.get("A", np.ones(front.rgb.shape[:2], np.float32))[there]
    out, cover = back.copy(), alpha.copy()
    if mode == "plus":
        out[here] += rgb
        cover[here] = np.minimum(1.0, cover[here] + covers)
    elif mode == "over":
        out[here] = rgb + out[here] * (1.0 - covers[..., None])
        cover[here] = covers + cover[here] * (1.0 - covers)
    else:
        out[here], cover[here] = rgb, covers
    return out, cover


def compose(
    parts: Sequence[Part], target: FramePattern, frames: Sequence[int], size: tuple[int, int] | None = None, overwrite: bool = False,
    progress: Progress = silent, cancel: CancelToken | None = None,
) -> None:  # fmt: skip
    """Put parts together frame by frame, the first at the back.

    Parameters
    ----------
    parts : sequences of layers and crops
    target : where whole frames go
    frames : their numbers
    size : width and height of the whole frame; None: that of the first part
    overwrite : whether files that are there are replaced
    progress : called with the share that is done, and words
    cancel : looked at between frames; None: it cannot be stopped

    Raises
    ------
    WrongInput
        When frames are missing in a part, or files are there already.
    PictureError
        When a picture cannot be read or written.
    Stopped
        When `cancel` asked for it.
    """
    if not parts:
        raise WrongInput("compose: no parts; expected two or more, the first at the back.")
    for part in parts:
        holes = sorted(set(frames) - set(part.source.frames()))
        if holes:
            raise WrongInput(f"{part.source}: frames {write_frames(holes)} are missing; nothing was written.")
    there = sorted(set(target.frames()) & set(frames))
    if there and not overwrite:
        raise WrongInput(f"{target}: frames {write_frames(there)} exist already; give another name, or allow overwriting.")
    footage = [Footage(p.source) for p in parts]
    for k, frame in enumerate(frames):
        if cancel is not None:
            cancel.check()
        first = footage[0].read(frame, ("A",))
        width, height = size or (first.width, first.height)
        rgb, alpha = np.zeros((height, width, 3), np.float32), np.zeros((height, width), np.float32)
        for part, pictures in zip(parts, footage):
            picture = pictures.read(frame, ("A",))
            try:
                rgb, alpha = put_together(rgb, alpha, picture, part.mode, part.x, part.y)
            except WrongInput as error:
                raise PictureError(f"{part.source.path(frame)}: {error}") from error
        write_picture(target.path(frame), Picture(rgb, {"A": alpha}, {}))
        progress((k + 1) / len(frames), f"frame {frame} put together")
