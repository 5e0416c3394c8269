"""Guides of a finished frame: it carries none, but the frame as it was rendered lies beside it and does.

OUT/sh010/sh010.1001.exr           the finished frame
OUT/sh010/rendered/sh010.1001.exr  as rendered, with its guides
"""

from __future__ import annotations

from collections.abc import Collection
from pathlib import Path

import cv2
import numpy as np

from hasty_reel.errors import PictureError
from hasty_reel.pictures.frame import Picture, read_picture

RENDERED = "rendered"
"""Folder beside the finished frames with those they were made of."""
MOTION = {"motion.X": 0, "motion.Y": 1}


def with_guides_beside(picture: Picture, path: Path, wanted: Collection[str] | None) -> Picture:
    """Return a picture with the guides of the frame it was made of, where it has none itself; else the picture.

    Parameters
    ----------
    picture : as read
    path : of its file
    wanted : guides that are wanted; None for all

    Returns
    -------
    Picture
        Guides are brought to its size; motion is told in its pixels.
    """
    source = path.parent / RENDERED / path.name
    if picture.guides or (wanted is not None and not wanted) or not source.is_file():
        return picture
    try:
        rendered = read_picture(source, wanted)
    except PictureError:
        return picture
    size = (picture.width, picture.height)
    scale = (picture.width / rendered.width, picture.height / rendered.height)
    guides = {}
    for name, plane in rendered.guides.items():
        brought = plane if (rendered.width, rendered.height) == size else cv2.resize(plane, size, interpolation=cv2.INTER_NEAREST)
        factor = scale[MOTION[name]] if name in MOTION else 1.0
        guides[name] = np.ascontiguousarray(brought * np.float32(factor), np.float32)
    return Picture(picture.rgb, guides, picture.attributes)
