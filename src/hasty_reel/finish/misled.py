"""Places whose light does not follow the vectors: what is seen through glass and in mirrors, caustics and shadows that wander.

Vectors tell of surfaces. What is seen in a mirror moves otherwise, and a caustic moves over a floor that stands still. There the
frames beside, fetched along the vectors, show something else than this one, and motion found in the pictures explains them
better. Both are held against each other on pictures that were shrunk and filtered by themselves, so that noise decides nothing.
"""

from __future__ import annotations

from collections.abc import Callable, Container

import cv2
import numpy as np

from hasty_reel.finish.alone import lightness_alone
from hasty_reel.image.warp import places_in_next
from hasty_reel.measure.flow import optical_flow, resized_flow
from hasty_reel.measure.framepair import frame_pair
from hasty_reel.pictures.frame import Picture

WIDE = 480
"""Pixels across from which on pictures are looked at shrunk to about so many."""
AROUND = (15, 15)
"""Pixels of the shrunk picture over which differences are averaged."""
WORSE, APART = 1.3, 3.0
"""How many times what found motion leaves of the squared difference vectors may leave, and by how much more in L* squared: little, and
motion that noise itself suggests would take the place of good vectors (chosen on crops of gears, lamps and jewels, and on two rooms of
the second renderer, crossing and gallery)."""
ENOUGH = np.float32(0.3)
"""Share of the pixels around that must be matched."""
HALF = np.float32(0.5)
GROWN, SOFT = np.ones((9, 9), np.uint8), (7, 7)
"""By how much what was found grows, and over how much it fades, in pixels of the shrunk picture."""


class MisledPlaces:
    """Finds them frame by frame; keeps what the next frames need.

    Parameters
    ----------
    picture : gives the picture of a frame, with its vectors
    """

    def __init__(self, picture: Callable[[int], Picture]) -> None:
        self._picture = picture
        self._calm_of: dict[int, np.ndarray] = {}

    def moves(self, frame: int, frames: Container[int]) -> tuple[np.ndarray, np.ndarray | None]:
        """Return the motion of the light of a frame to the next one, and where it was found in the pictures.

        Parameters
        ----------
        frame : its number; there is a next one
        frames : that there are

        Returns
        -------
        motion : np.ndarray
            (h, w, 2) float32 in pixels: along the vectors, and as found where they mislead.
        found : np.ndarray or None
            (h, w) bool, where it was found; None for nowhere.
        """
        for k in [k for k in self._calm_of if abs(k - frame) > 3]:
            del self._calm_of[k]
        vectors = self._picture(frame).vectors
        assert vectors is not None
        misled, by_light = self._misled(frame, frames)
        if not misled.any():
            return vectors, None
        height, width = vectors.shape[:2]
        share = cv2.blur(cv2.dilate(misled, GROWN), SOFT)
        found = cv2.resize(share, (width, height), interpolation=cv2.INTER_LINEAR) > HALF
        return np.where(found[..., None], resized_flow(by_light, width, height), vectors).astype(np.float32), found

    def _calm(self, k: int) -> np.ndarray:
        """L* of a frame, shrunk and filtered by itself."""
        if k not in self._calm_of:
            rgb = self._picture(k).rgb
            height, width = rgb.shape[:2]
            if width > WIDE:
                rgb = cv2.resize(rgb, (WIDE, max(1, round(height * WIDE / width))), interpolation=cv2.INTER_AREA)
            self._calm_of[k] = lightness_alone(rgb)
        return self._calm_of[k]

    def _misled(self, k: int, frames: Container[int]) -> tuple[np.ndarray, np.ndarray]:
        """Where vectors mislead from a frame to the next one, (h, w) float32 of 0 and 1, and the motion that was found, (h, w, 2)."""
        here, after = self._calm(k), self._calm(k + 1)
        size = here.shape[1], here.shape[0]
        told, found = self._picture(k).vectors, optical_flow(here, after)
        none = np.zeros((*here.shape, 2), np.float32)
        by_vectors, by_light = (none if v is None else np.ascontiguousarray(resized_flow(v, *size), np.float32) for v in (told, found))
        pair = frame_pair(by_vectors, self._depth(k, size), self._depth(k + 1, size))
        assert pair.found_there is not None
        # a motion that was found explains noise, too: it must prove itself on a frame that it was not found in; vectors need to fit one of
        # both, since what is covered in the one is there in the other
        other, way = (k - 1, -1.0) if k - 1 in frames else (k + 2, 2.0) if k + 2 in frames else (k + 1, 1.0)
        beyond = self._calm(other)
        theirs, mine_beyond = (
            _left(here, beyond, places_in_next(np.float32(way) * motion), pair.found_there) for motion in (by_light, by_vectors)
        )
        mine = np.minimum(_left(here, after, places_in_next(by_vectors), pair.found_there), mine_beyond)
        return (mine > WORSE * theirs + APART).astype(np.float32), by_light

    def _depth(self, k: int, size: tuple[int, int]) -> np.ndarray | None:
        """Depth of a frame at a size; None where it is not told."""
        plane = self._picture(k).guides.get("Z")
        return None if plane is None else cv2.resize(plane, size, interpolation=cv2.INTER_NEAREST)


def _left(here: np.ndarray, other: np.ndarray, places: np.ndarray, matched: np.ndarray) -> np.ndarray:
    """What is left of the squared difference of a picture and another fetched from these places, around each pixel, of those matched."""
    fetched = cv2.remap(other, places, None, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)  # type: ignore[call-overload]
    share = cv2.blur(matched.astype(np.float32), AROUND)
    mean = cv2.blur(np.where(matched, (fetched - here) ** 2, np.float32(0.0)).astype(np.float32), AROUND) / np.maximum(share, ENOUGH)
    return np.where(share > ENOUGH, mean, np.float32(0.0)).astype(np.float32)
