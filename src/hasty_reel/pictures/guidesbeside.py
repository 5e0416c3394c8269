"""Guides of a finished frame: it carries none, but the frame as it was rendered lies beside it and does.

OUT/sh010/sh010.1001.exr           the finished frame
OUT/sh010/rendered/sh010.1001.exr  as rendered, with its guides
"""

from __future__ import annotations

from collections.abc import Collection, Container, Mapping
from pathlib import Path

import cv2
import numpy as np

from hasty_reel.errors import PictureError
from hasty_reel.pictures.frame import Picture, read_picture

RENDERED = "rendered"
"""Folder beside the finished frames with those they were made of."""
MOTION = {"motion.X": 0, "motion.Y": 1}


def with_guides_beside(picture: Picture, path: Path, wanted: Collection[str] | None, made_of: Path | None = None) -> Picture:
    """Return a picture with the guides of the frame it was made of, where it has none itself; else the picture.

    Parameters
    ----------
    picture : as read
    path : of its file
    wanted : guides that are wanted; None for all
    made_of : the frame it was made of, where that is told; None looks beside

    Returns
    -------
    Picture
        Guides are brought to its size; motion is told in its pixels.
    """
    source = path.parent / RENDERED / path.name if made_of is None else made_of
    if picture.guides or (wanted is not None and not wanted) or not source.is_file():
        return picture
    try:
        rendered = read_picture(source, wanted)
    except PictureError:
        return picture
    old, new = (rendered.width, rendered.height), (picture.width, picture.height)
    return Picture(picture.rgb, guides_at(rendered.guides, old, new), picture.attributes)


def guides_at(
    guides: Mapping[str, np.ndarray], old: tuple[int, int], new: tuple[int, int], smooth: Container[str] = ()
) -> dict[str, np.ndarray]:
    """Return guides brought to another size, motion told in its pixels.

    Parameters
    ----------
    guides : (h, w) by name
    old, new : width and height in pixels
    smooth : guides that are interpolated; of the others the nearest pixel counts, since a mean over an edge is no surface
    """
    if old == new:
        return dict(guides)
    out = {}
    for name, plane in guides.items():
        brought = cv2.resize(plane, new, interpolation=cv2.INTER_LINEAR if name in smooth else cv2.INTER_NEAREST)
        factor = new[MOTION[name]] / old[MOTION[name]] if name in MOTION else 1.0
        out[name] = np.ascontiguousarray(brought * np.float32(factor), np.float32)
    return out
