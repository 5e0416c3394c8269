"""What coarse parts of a proof picture show, and where it moves: told once for each picture as it lies on disk, and kept."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

import numpy as np

from hasty_reel.errors import PictureError
from hasty_reel.image.resize import resize
from hasty_reel.measure.plane import seen_frame
from hasty_reel.pictures.frame import MOTION, read_picture

PARTS = (9, 16)
"""Rows and columns of the parts."""
STILL = 0.1
"""Pixels a frame of a proof that are no motion."""
KEPT = 4096
"""Pictures that are remembered; each takes about a kilobyte."""

Box = tuple[float, float, float, float]
NOWHERE: Box = (0.5, 0.5, 0.5, 0.5)
"""The box of what does not move."""
Stamp = tuple[int, int]


def lightness_parts(path: Path) -> np.ndarray:
    """Return the mean lightness of each part of a picture, `PARTS` in L* of the plain view.

    Parameters
    ----------
    path : of the picture

    Raises
    ------
    PictureError
        Where it cannot be read.
    """
    return _lightness_parts(path, _lies(path))


def moved_box(path: Path, frames: float) -> Box | None:
    """Return the box of what moves in a picture and of where it comes from and goes to.

    Parameters
    ----------
    path : of the picture
    frames : for which motion is followed, before and after

    Returns
    -------
    (float, float, float, float) or None
        Left, top, right and bottom, shares of the width and the height, 0 to 1; `NOWHERE` where nothing moves, None without vectors.

    Raises
    ------
    PictureError
        Where it cannot be read.
    """
    return _moved_box(path, _lies(path), frames)


def _lies(path: Path) -> Stamp:
    try:
        found = path.stat()
    except OSError as error:
        raise PictureError(f"{path}: {error.strerror}.") from error
    return found.st_mtime_ns, found.st_size


@lru_cache(maxsize=KEPT)
def _lightness_parts(path: Path, _stamp: Stamp) -> np.ndarray:
    found = resize(seen_frame(read_picture(path, ()).rgb).lightness[..., None], PARTS[1], PARTS[0])[..., 0]
    found.setflags(write=False)
    return found


@lru_cache(maxsize=KEPT)
def _moved_box(path: Path, _stamp: Stamp, frames: float) -> Box | None:
    vectors = read_picture(path, MOTION).vectors
    if vectors is None:
        return None
    x, y = np.moveaxis(np.nan_to_num(vectors, nan=0.0, posinf=0.0, neginf=0.0), -1, 0)
    h, w = x.shape
    rows, columns = np.nonzero(np.hypot(x, y) > STILL)
    if not len(rows):
        return NOWHERE
    goes = np.stack([x[rows, columns], y[rows, columns]]) * frames
    at = np.stack([columns, rows])
    places = np.concatenate([at, at + 1, at - goes, at + goes], axis=1) / np.array([[w], [h]])
    low, high = np.clip(places.min(axis=1), 0.0, 1.0), np.clip(places.max(axis=1), 0.0, 1.0)
    return float(low[0]), float(low[1]), float(high[0]), float(high[1])
