"""Frames of a run carried to its middle and laid on each other: what of them the eye sees as unrest.

Two estimators of one quantity. With the difference of two seeds no scene is in it, and all
that is left is noise. With one sequence the mean and the trend of each pixel are taken out
(`trend`), and what is lost with them is made up for as white noise would have it.

A stack holds planes of pixels as fine as the eye resolves, so that the memory depends
neither on the length of the sequence nor on its size.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from itertools import pairwise

import cv2
import numpy as np

from hasty_reel.image.lightness import lightness, luminance_of_lightness
from hasty_reel.image.resize import square_means
from hasty_reel.image.sampling import remap_bicubic, remap_bilinear
from hasty_reel.image.warp import places_in_next, places_in_previous
from hasty_reel.measure.framepair import FramePair
from hasty_reel.measure.masking import Sight
from hasty_reel.measure.seen import contrast_of
from hasty_reel.measure.seennoise import seen_noise_blocks
from hasty_reel.measure.spectrum import EVERY, FRACTIONS, Fetched, SeenStack, coarsening, seen_stack
from hasty_reel.measure.trend import CUBIC_FROM, without_trend

MOST_FRAMES = 24
"""Frames of a stack, at most: a second of film."""
SHORTEST_HALF = 6
"""Frames of a half of a stack that is split, at least."""
ENOUGH = 0.6
"""Share of the pixels that should be found in all frames of a stack; else it is split, so that more of them are."""


@dataclass
class _Layer:
    """One frame, coarse: L*, half the difference of two seeds, and what it shares with the next frame."""

    lightness: np.ndarray
    difference: np.ndarray | None
    motion: np.ndarray | None = None
    found_there: np.ndarray | None = None
    found_back: np.ndarray | None = None


@dataclass
class FrameStacks:
    """Takes the frames of a sequence in order, and gives seen flicker stack by stack.

    pixels_a_degree : of the pictures' own pixels, as they are seen
    fps : frames a second
    seen, noise : what was found: of the sequence itself, and of the noise that two seeds tell apart, (down, across) in JND
    longest : frames of the longest stack
    """

    pixels_a_degree: float
    fps: float
    seen: list[SeenStack] = field(default_factory=list)
    noise: list[np.ndarray] = field(default_factory=list)
    by_frame: list[np.ndarray | None] = field(default_factory=list)
    noise_by_frame: list[np.ndarray | None] = field(default_factory=list)
    longest: int = 0
    _run: list[_Layer] = field(default_factory=list)

    @property
    def coarse(self) -> int:
        """Pixels of the picture a side that one of the stack is the mean of."""
        return coarsening(self.pixels_a_degree)

    def take(self, lightness: np.ndarray, difference: np.ndarray | None, pair: FramePair | None) -> None:
        """Take the next frame.

        Parameters
        ----------
        lightness : (h, w) L*
        difference : (h, w) L* of one seed minus that of another, over sqrt(2); None where there is no other
        pair : what it shares with the next frame; None where a hole or the end follows
        """
        times = self.coarse
        layer = _Layer(*_coarse(lightness, difference, times))
        if pair is not None and pair.motion is not None:
            assert pair.found_there is not None and pair.found_back is not None
            layer.motion = np.ascontiguousarray(square_means(pair.motion, times) / np.float32(times))
            both = (pair.found_there, pair.found_back)
            layer.found_there, layer.found_back = (square_means(m.astype(np.uint8) * 255, times) > 250 for m in both)
        self._run.append(layer)
        self.by_frame.append(None)
        self.noise_by_frame.append(None)
        if pair is None:
            self._close()
        elif len(self._run) >= MOST_FRAMES + CUBIC_FROM:  # what is left is enough for a stack of its own
            self._measure(0, MOST_FRAMES)
            del self._run[:MOST_FRAMES]

    def _close(self) -> None:
        """Measure what is left of a run that ends, in stacks as even as can be."""
        parts = -(-len(self._run) // MOST_FRAMES)
        marks = [round(k * len(self._run) / parts) for k in range(parts + 1)]
        for begin, end in pairwise(marks):
            self._measure(begin, end)
        self._run.clear()

    def _measure(self, begin: int, end: int) -> None:
        """Measure frames [begin, end) of the run."""
        layers = self._run[begin:end]
        if len(layers) < 2:
            return
        stack, known, _, fetched = _carried([y.lightness for y in layers], layers)
        if known.mean() < ENOUGH and end - begin >= 2 * SHORTEST_HALF:
            middle = (begin + end) // 2
            self._measure(begin, middle)
            self._measure(middle, end)
            return
        self.longest = max(self.longest, len(layers))
        density = self.pixels_a_degree / self.coarse
        level = stack.mean(axis=0)
        unrest = np.where(known, without_trend(stack), np.float32(0.0))
        # what the picture hides: told by two seeds, or by every second frame and the others, in which noise has no part
        differences = [y.difference for y in layers]
        planes = [d for d in differences if d is not None]
        apart = inside = None
        if len(planes) == len(layers):
            apart, found_in_all, inside, noise_fetched = _carried(planes, layers, unfound=True)
            pair = level, level - np.float32(np.sqrt(2.0)) * apart.mean(axis=0)
        else:
            pair = stack[::2].mean(axis=0), stack[1::2].mean(axis=0)
        sight = Sight.of(*pair, density)
        found = seen_stack(_contrast(unrest, level), density, self.fps, known, fetched, self.coarse, sight)
        self.seen.append(found)
        first = len(self.by_frame) - len(self._run) + begin
        for k in range(len(layers)):
            self.by_frame[first + k] = found.frames[k]
        if apart is not None and inside is not None:
            # where a pixel is hidden in some frame its noise is there all the same, and often most of it: it counts where it stands
            noise = _contrast(np.where(inside, np.where(found_in_all, apart, np.stack(planes)), np.float32(0.0)), level)
            blocks = seen_noise_blocks(noise, density, self.fps, inside, noise_fetched, self.coarse, sight)
            self.noise.append(blocks)
            self.noise_by_frame[first : first + len(layers)] = [blocks] * len(layers)


def _coarse(lightness_: np.ndarray, difference: np.ndarray | None, times: int) -> tuple[np.ndarray, np.ndarray | None]:
    """L* and difference of two seeds of pixels taken together: light is what the optics of the eye blur, and L* is told of that."""
    if times == 1:
        return lightness_, difference
    one = lightness(square_means(luminance_of_lightness(lightness_).astype(np.float32), times)).astype(np.float32)
    if difference is None:
        return one, None
    other = luminance_of_lightness(lightness_ - np.float32(np.sqrt(2.0)) * difference).astype(np.float32)
    return one, (one - lightness(square_means(other, times)).astype(np.float32)) / np.float32(np.sqrt(2.0))


def _contrast(unrest: np.ndarray, level: np.ndarray) -> np.ndarray:
    return contrast_of(unrest, level[None]).astype(np.float32)


def _carried(planes: list[np.ndarray], layers: list[_Layer], unfound: bool = False) -> tuple[np.ndarray, np.ndarray, np.ndarray, Fetched]:
    """Planes carried to the middle of the run.

    Returns
    -------
    The planes (count, h, w), the pixels that are found in all of them, and those that are inside of all of them, (h, w) bool, and what
    their fetching took from fine waves, which is made up for, with the pixels that are `unfound` as they stand or without them.
    From the nearest pixel, what an average over frames leaves of noise would jump by up to half a pixel.
    """
    middle = len(planes) // 2
    behind: list[np.ndarray] = []
    out = np.stack(planes).astype(np.float32)
    h, w = planes[0].shape
    known, inside = np.ones((h, w), np.bool_), np.ones((h, w), np.bool_)
    for steps in (range(middle, len(planes) - 1), range(middle - 1, -1, -1)):
        place: np.ndarray | None = None
        for k in steps:
            ahead = k >= middle
            layer = layers[k]
            if layer.motion is not None:
                found = layer.found_there if ahead else layer.found_back
                step = layer.motion if ahead else places_in_previous(layer.motion)
                assert found is not None
                if place is None:
                    known &= found
                    place = places_in_next(step) if ahead else step
                else:
                    known &= cv2.remap(found.astype(np.uint8), place, None, cv2.INTER_NEAREST, borderValue=0) > 0  # type: ignore[call-overload]
                    place = place + remap_bilinear(step, place) if ahead else remap_bilinear(step, place)
            other = k + 1 if ahead else k
            if place is not None:
                place = np.ascontiguousarray(place, np.float32)
                x, y = place[..., 0], place[..., 1]
                inside &= (x > -0.5) & (x < w - 0.5) & (y > -0.5) & (y < h - 0.5)
                out[other] = remap_bicubic(out[other], place)
                behind.append((place[::EVERY, ::EVERY] % np.float32(1.0) * FRACTIONS).astype(np.int64) % FRACTIONS)
    return out, known, inside, _counted(behind, known, len(planes), unfound)


def _counted(behind: list[np.ndarray], known: np.ndarray, frames: int, unfound: bool) -> Fetched:
    """How far behind a pixel the places (h, w, 2) of the frames lie that were fetched; the others lie upon it."""
    there = known[::EVERY, ::EVERY]
    counts = np.zeros((2, FRACTIONS, *there.shape), np.uint16)
    counts[:, 0] = (there | unfound).astype(np.uint16) * (frames - len(behind))
    for places in behind:
        for c in (0, 1):
            at = np.where(there, places[..., c], 0)[None]
            np.put_along_axis(counts[c], at, np.take_along_axis(counts[c], at, 0) + (there | unfound)[None], 0)
    return Fetched(counts[0], counts[1])
