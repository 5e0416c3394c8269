"""A contact sheet: the frames of a sequence as small pictures with their numbers, on one picture."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import cv2
import numpy as np

from hasty_reel.errors import PictureError, WrongInput
from hasty_reel.pictures.colour import codes8
from hasty_reel.pictures.footage import Footage
from hasty_reel.pictures.frame import Picture
from hasty_reel.pictures.outputs import FORMAT, PictureOptions, write_format
from hasty_reel.work import CancelToken, Progress, silent

MAT, INK, GAP, CAPTION = 58, 200, 10, 20
"""Grey of the sheet and of its words, pixels between pictures, and for a number below each."""
MOST_FRAMES = 400
WIDEST = 16384


def contact_sheet(
    footage: Footage,
    frames: Sequence[int],
    columns: int = 6,
    wide: int = 240,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> np.ndarray:
    """Return a contact sheet as display codes, (h, w, 3) uint8.

    Parameters
    ----------
    footage : where the frames are
    frames : that are shown, in their order
    columns : pictures across
    wide : width of each in pixels
    progress : called with the share that is done, and words
    cancel : looked at between frames; None: it cannot be stopped

    Raises
    ------
    WrongInput
        When there is no frame, or too many to be seen.
    Stopped
        When `cancel` asked for it.
    """
    if not frames or len(frames) > MOST_FRAMES or not 1 <= columns <= 40 or not 16 <= wide <= 2000 or columns * wide > WIDEST:
        raise WrongInput(
            f"Contact sheet of {len(frames)} frames, {columns} across of {wide} pixels; expected 1 to {MOST_FRAMES} frames, "
            f"1 to 40 across, and at most {WIDEST} pixels in all."
        )
    small: list[tuple[int, np.ndarray | None]] = []
    for k, frame in enumerate(frames):
        if cancel is not None:
            cancel.check()
        try:
            codes = codes8(footage.read(frame, ()).rgb)
            height = max(1, round(codes.shape[0] * wide / codes.shape[1]))
            small.append((frame, cv2.resize(codes, (wide, height), interpolation=cv2.INTER_AREA)))
        except PictureError:
            small.append((frame, None))
        progress((k + 1) / len(frames), f"frame {frame}")
    tall = max([round(wide * 9 / 16) // 2, *(p.shape[0] for _, p in small if p is not None)])
    rows = -(-len(small) // columns)
    sheet = np.full((rows * (tall + CAPTION + GAP) + GAP, min(columns, len(small)) * (wide + GAP) + GAP, 3), MAT, np.uint8)
    for k, (frame, picture) in enumerate(small):
        y, x = GAP + k // columns * (tall + CAPTION + GAP), GAP + k % columns * (wide + GAP)
        if picture is not None:
            sheet[y : y + picture.shape[0], x : x + wide] = picture
        words = f"{frame}" if picture is not None else f"{frame} cannot be read"
        cv2.putText(sheet, words, (x, y + tall + CAPTION - 6), cv2.FONT_HERSHEY_SIMPLEX, 0.42, (INK,) * 3, 1, cv2.LINE_AA)
    return sheet


def write_contact_sheet(path: Path, sheet: np.ndarray) -> None:
    """Write a contact sheet as PNG or JPEG.

    Parameters
    ----------
    path : the file, ending in .png or .jpg
    sheet : (h, w, 3) uint8 display codes

    Raises
    ------
    WrongInput
        When the file has another ending.
    PictureError
        When it cannot be written.
    """
    form = {".png": "png-8", ".jpg": "jpeg", ".jpeg": "jpeg"}.get(path.suffix.lower())
    if form is None:
        raise WrongInput(f"{path}: expected a name ending in .png or .jpg.")
    write_format(path, Picture(sheet.astype(np.float32) / 255.0), FORMAT[form], PictureOptions())
