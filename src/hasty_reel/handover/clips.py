"""A short loop to show somebody: a small film that plays a few times over, or one picture a frame."""

from __future__ import annotations

import math
from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path

import cv2
import numpy as np

from hasty_reel.errors import WrongInput, reason
from hasty_reel.handover.video import video_file
from hasty_reel.wholefile import whole_file

SHORTEST = 4.0
"""Seconds that a film of a loop plays at least: a third of a second shows nothing."""
ENDINGS = {".mp4": "Film", ".png": "Pictures"}


def write_clip(path: Path, frames: Sequence[np.ndarray], fps: Fraction) -> str:
    """Write a loop, and return what was written, in words.

    Parameters
    ----------
    path : ends in .mp4 for a film in which the loop plays over until `SHORTEST`; in .png for pictures, numbered before the ending
    frames : of the loop, (h, w, 3) uint8 display codes, all of one size
    fps : frames a second

    Raises
    ------
    WrongInput
        When there is no frame, the ending is another, or the file cannot be written.
    """
    if not frames:
        raise WrongInput(f"{path.name}: no frame to write; expected a loop.")
    if path.suffix.lower() == ".mp4":
        times = max(1, math.ceil(SHORTEST * fps / len(frames)))
        with video_file(path, fps) as video:
            for codes in [*frames] * times:
                video.add(codes)
        return f"{path.name}, {len(frames)} frames {times} times over" if times > 1 else f"{path.name}, {len(frames)} frames"
    if path.suffix.lower() != ".png":
        raise WrongInput(f"{path.name}: expected an ending of {' or '.join(ENDINGS)}.")
    try:
        for k, codes in enumerate(frames):
            with whole_file(path.with_name(f"{path.stem}.{k + 1:04d}{path.suffix}"), make=True) as part:
                part.write_bytes(cv2.imencode(".png", np.ascontiguousarray(codes[..., ::-1]))[1].tobytes())
    except OSError as error:
        raise WrongInput(f"{path}: cannot be written ({reason(error)}).") from error
    return f"{path.stem}.0001{path.suffix} to {len(frames):04d}"
