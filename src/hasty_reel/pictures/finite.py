"""Pixels that are no finite numbers: replaced from their neighbours where they are few, refused where they are many.

Left alone they spread: one NaN takes every pixel that a filter or a resize reaches from it.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from hasty_reel.errors import PictureError
from hasty_reel.pictures.frame import Picture
from hasty_reel.reel.frames import write_frames

FEW = 0.001
"""Share of a picture's pixels up to which they are replaced: more than one in a thousand is no accident of single light paths."""
FAR = 1e10
"""Depth of what is infinitely far, large and still a number."""


def mended(picture: Picture, where: str) -> tuple[Picture, int]:
    """Replace pixels that are not finite.

    Parameters
    ----------
    picture : colour and guides as read
    where : the file or frame, for the words

    Returns
    -------
    tuple[Picture, int]
        The picture, the same object where nothing was wrong, and how many pixels of its colour were replaced. Guides that are not
        finite become 0, or far away in depth, so that nothing is trusted by them.

    Raises
    ------
    PictureError
        When more than one pixel in a thousand is not finite.
    """
    bad = ~np.isfinite(picture.rgb).all(axis=2)
    count = int(bad.sum())
    if count > max(1, int(FEW * bad.size)):
        raise PictureError(
            f"{where}: {count} of {bad.size} pixels are not finite numbers; expected at most {FEW:.1%}, which are replaced from neighbours."
        )
    guides = {n: g for n, g in picture.guides.items() if not np.isfinite(g).all()}
    if not count and not guides:
        return picture, 0
    whole = {n: np.nan_to_num(g, nan=FAR if n == "Z" else 0.0, posinf=FAR if n == "Z" else 0.0, neginf=0.0) for n, g in guides.items()}
    rgb = from_neighbours(picture.rgb, bad) if count else picture.rgb
    return replace(picture, rgb=rgb, guides={**picture.guides, **whole}), count


def from_neighbours(rgb: np.ndarray, bad: np.ndarray) -> np.ndarray:
    """Replace some pixels by the mean of the good ones nearest to them.

    Parameters
    ----------
    rgb : (h, w, 3) float32
    bad : (h, w) bool, the pixels to replace; at least one pixel must be good

    Returns
    -------
    np.ndarray
        A copy, (h, w, 3) float32.
    """
    out = rgb.copy()
    h, w = bad.shape
    for y, x in zip(*np.nonzero(bad)):
        reach = 1
        while True:
            near = np.s_[max(0, y - reach) : min(h, y + reach + 1), max(0, x - reach) : min(w, x + reach + 1)]
            good = ~bad[near]
            if good.any() or reach > max(h, w):
                break
            reach *= 2
        out[y, x] = rgb[near][good].mean(axis=0) if good.any() else 0.0
    return out


def replaced_words(replaced: Mapping[int, int]) -> str:
    """Return in one sentence what was replaced; '' where nothing was.

    Parameters
    ----------
    replaced : frame -> pixels that were not finite
    """
    if not replaced:
        return ""
    count = sum(replaced.values())
    pixels = "pixel that was no finite number was" if count == 1 else "pixels that were no finite numbers were"
    return f"{count} {pixels} replaced from neighbours, in {'frame' if len(replaced) == 1 else 'frames'} {write_frames(replaced)}."
