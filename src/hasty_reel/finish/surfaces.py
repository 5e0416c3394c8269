"""What surface a pixel lies on, by its guides: normal, depth and albedo, and the range they span around it.

A pixel belongs to a surface when its guides lie within what the 3 x 3 pixels around the other one span: so edges
are not refused for being edges, and guides that are noisy themselves (lens blur, motion blur, fog) refuse less.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np

from hasty_reel.pictures.frame import Picture

CHANNELS = ("normal.X", "normal.Y", "normal.Z", "Z", "albedo.R", "albedo.G", "albedo.B")
DEPTH, ALBEDO = CHANNELS.index("Z"), CHANNELS.index("albedo.R")
TOLERANCES = (0.3, 0.3, 0.3, 0.03, 0.15, 0.15, 0.15)
"""By how much each may lie outside, the depth in its logarithm, until it is another surface."""
DARK = np.float32(0.01)
"""Albedo is not divided below this."""
_AROUND = np.ones((3, 3), np.uint8)


@dataclass(frozen=True)
class Surfaces:
    """Guides of a frame.

    guides : (7, h, w) float32 in units of their tolerances; (7, 1, 1) of zeros where the renderer wrote none
    known : whether it wrote them
    albedo : (h, w, 3) float32, at least `DARK`; (1, 1, 3) of ones where there is none
    """

    guides: np.ndarray
    known: bool
    albedo: np.ndarray

    @cached_property
    def span(self) -> tuple[np.ndarray, np.ndarray]:
        """What the guides span in the 3 x 3 pixels around each, low and high, (7, h, w) float32 both."""
        if not self.known:
            return self.guides, self.guides
        low, high = np.empty_like(self.guides), np.empty_like(self.guides)
        for c, plane in enumerate(self.guides):
            cv2.erode(plane, _AROUND, low[c])
            cv2.dilate(plane, _AROUND, high[c])
        return low, high

    def forget_span(self) -> None:
        """Give the memory of the span back: it is twice that of the guides."""
        self.__dict__.pop("span", None)


NO_SURFACES = Surfaces(np.zeros((len(CHANNELS), 1, 1), np.float32), False, np.ones((1, 1, 3), np.float32))


def surfaces_of(picture: Picture) -> Surfaces:
    """Return the surfaces of a picture; none where a guide is missing.

    Parameters
    ----------
    picture : as rendered, with its guides
    """
    if any(name not in picture.guides for name in CHANNELS):
        return NO_SURFACES
    guides = np.empty((len(CHANNELS), picture.height, picture.width), np.float32)
    for c, (name, tolerance) in enumerate(zip(CHANNELS, TOLERANCES)):
        plane = picture.guides[name]
        if name == "Z":
            plane = cv2.log(np.maximum(np.abs(plane), np.float32(1e-3)))
        np.multiply(plane, np.float32(1.0 / tolerance), out=guides[c])
    albedo = np.stack([picture.guides[n] for n in CHANNELS[ALBEDO:]], axis=-1)
    return Surfaces(guides, True, np.maximum(albedo, DARK, dtype=np.float32))
