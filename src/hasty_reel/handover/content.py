"""What a frame holds, in a few figures by which faults are found: means of its parts, what is not finite, a fingerprint, sparks."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from hasty_reel.image.lightness import lightness
from hasty_reel.image.luminance import luminance

PARTS = 4
"""Parts across and down whose means are followed over time."""
RISE = 25.0
"""How far a pixel stands above the median of its eight neighbours to be a spark, in L* (our own choice)."""


@dataclass(frozen=True)
class FrameContent:
    """Figures of one frame.

    width, height, channels : of the file; mean : L* of the whole, through the plain view; parts : (16,) L* of its parts
    brightest : largest light; bad : pixels that are no finite numbers; print : of its pixels
    sparks : pixels that stand alone far above their neighbours
    """

    width: int
    height: int
    channels: tuple[str, ...]
    mean: float
    parts: np.ndarray
    brightest: float
    bad: int
    print: str
    sparks: int


def head_alone(width: int, height: int, channels: tuple[str, ...]) -> FrameContent:
    """Return what the head of a file tells, with nothing of its pixels.

    Parameters
    ----------
    width, height : of the picture
    channels : names of its channels
    """
    return FrameContent(width, height, channels, float("nan"), np.zeros(PARTS * PARTS), float("nan"), 0, "", 0)


def content_of(rgb: np.ndarray, channels: tuple[str, ...]) -> FrameContent:
    """Return the figures of a frame.

    Parameters
    ----------
    rgb : (h, w, 3) float32, scene-linear light
    channels : names of the channels of its file
    """
    bad = ~np.isfinite(rgb).all(axis=2)
    clean = np.where(bad[..., None], 0.0, rgb) if bad.any() else rgb
    plane = lightness(np.clip(luminance(clean), 0.0, 1.0)).astype(np.float32)
    h, w = plane.shape
    rows, columns = (np.linspace(0, n, min(PARTS, n) + 1).astype(int) for n in (h, w))
    parts = np.array([[plane[a:b, c:d].mean() for c, d in pairwise(columns)] for a, b in pairwise(rows)])
    full = np.full((PARTS, PARTS), parts.mean())
    full[: parts.shape[0], : parts.shape[1]] = parts
    seen = hashlib.blake2b(np.ascontiguousarray(rgb).tobytes(), digest_size=16).hexdigest()
    brightest = float(clean.max(initial=0.0))
    return FrameContent(w, h, channels, float(plane.mean()), full.ravel(), brightest, int(bad.sum()), seen, _alone(plane))


def _alone(plane: np.ndarray) -> int:
    """How many pixels stand alone far above their neighbours."""
    import cv2

    if min(plane.shape) < 3:
        return 0
    return int(np.count_nonzero(plane - cv2.medianBlur(plane, 3) > RISE))
