"""Places whose light does not follow the vectors: what is seen through glass and in mirrors, caustics and shadows that wander.

Vectors tell of surfaces. What is seen in a mirror moves otherwise, and a caustic moves over a floor that stands still. There the
frames beside, fetched along the vectors, show something else than this one, and motion found in the pictures explains them
better. Both are held against each other on pictures that were shrunk and filtered by themselves, so that noise decides nothing.
"""

from __future__ import annotations

from collections.abc import Callable, Container

import cv2
import numpy as np

from hasty_reel.finish.atrous import atrous
from hasty_reel.finish.surfaces import NO_SURFACES
from hasty_reel.image.lightness import lightness
from hasty_reel.image.luminance import luminance
from hasty_reel.image.warp import places_in_next, places_in_previous
from hasty_reel.measure.flow import optical_flow, resized_flow
from hasty_reel.measure.framepair import frame_pair
from hasty_reel.pictures.frame import Picture

WIDE = 480
"""Pixels across from which on pictures are looked at shrunk to about so many."""
AROUND = (15, 15)
"""Pixels of the shrunk picture over which differences are averaged."""
WORSE, APART = 1.3, 0.5
"""How many times what found motion leaves of the squared difference vectors may leave, and by how much more in L* squared."""
ENOUGH = np.float32(0.3)
"""Share of the pixels around that must be matched."""
GROWN, SOFT = np.ones((9, 9), np.uint8), (7, 7)
"""By how much what was found grows, and over how much it fades, in pixels of the shrunk picture."""


class MisledPlaces:
    """Finds them frame by frame; keeps what the next frames need.

    Parameters
    ----------
    picture : gives the picture of a frame, with its vectors
    unevenness : variance of a pixel's luminance, told by those at its sides, (h, w) of (h, w)
    strength : standard deviations apart at which light still agrees where a frame is filtered by itself
    """

    def __init__(self, picture: Callable[[int], Picture], unevenness: Callable[[np.ndarray], np.ndarray], strength: float) -> None:
        self._picture, self._unevenness, self._strength = picture, unevenness, strength
        self._calm_of: dict[int, np.ndarray] = {}
        self._pairs: dict[int, tuple[np.ndarray, np.ndarray]] = {}

    def share(self, frame: int, frames: Container[int]) -> np.ndarray | None:
        """Return where the light of a frame is to be told without its vectors, 0 to 1, (h, w) float32; None for nowhere.

        Parameters
        ----------
        frame : its number
        frames : that there are
        """
        for kept in (self._calm_of, self._pairs):
            for k in [k for k in kept if abs(k - frame) > 2]:
                del kept[k]
        found = [self._pair(k)[k != frame] for k in (frame - 1, frame) if k in frames and k + 1 in frames]
        if not found:
            return None
        misled = np.maximum.reduce(found)
        if not misled.any():
            return None
        height, width = self._picture(frame).rgb.shape[:2]
        share = cv2.blur(cv2.dilate(misled, GROWN), SOFT)
        return cv2.resize(share, (width, height), interpolation=cv2.INTER_LINEAR).astype(np.float32)

    def _calm(self, k: int) -> np.ndarray:
        """L* of a frame, shrunk and filtered by itself."""
        if k not in self._calm_of:
            rgb = self._picture(k).rgb
            height, width = rgb.shape[:2]
            if width > WIDE:
                rgb = cv2.resize(rgb, (WIDE, max(1, round(height * WIDE / width))), interpolation=cv2.INTER_AREA)
            alone, _ = atrous(rgb, self._unevenness(np.ascontiguousarray(luminance(rgb), np.float32)), NO_SURFACES, self._strength)
            self._calm_of[k] = lightness(np.clip(luminance(alone), 0.0, 1.0)).astype(np.float32)
        return self._calm_of[k]

    def _pair(self, k: int) -> tuple[np.ndarray, np.ndarray]:
        """Where vectors mislead from a frame to the next one: in the next one, and in it, (h, w) float32 of 0 and 1 each."""
        if k not in self._pairs:
            here, after = self._calm(k), self._calm(k + 1)
            size = here.shape[1], here.shape[0]
            told, found = self._picture(k).vectors, optical_flow(here, after)
            none = np.zeros((*here.shape, 2), np.float32)
            by_vectors, by_light = (none if v is None else np.ascontiguousarray(resized_flow(v, *size), np.float32) for v in (told, found))
            pair = frame_pair(by_vectors, self._depth(k, size), self._depth(k + 1, size))
            assert pair.found_there is not None and pair.found_back is not None
            # what is covered or uncovered has no match by any motion: there nothing misleads
            left = [
                [_left(here, after, places_in_next(v), pair.found_there), _left(after, here, places_in_previous(v), pair.found_back)]
                for v in (by_vectors, by_light)
            ]  # fmt: skip
            there, back = ((mine > WORSE * theirs + APART).astype(np.float32) for mine, theirs in zip(*left))
            self._pairs[k] = there, back
        return self._pairs[k]

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
