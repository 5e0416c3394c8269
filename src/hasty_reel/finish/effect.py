"""What denoising does on a proof run: noise, flicker, seen flicker, detail and ghosts before and after, and its seconds."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hasty_reel.evidence.proof import FILTER, DenoiseEffect
from hasty_reel.finish.chain import Chain, Finisher
from hasty_reel.finish.denoise import Denoiser
from hasty_reel.image.resize import resize
from hasty_reel.measure.flicker import flicker
from hasty_reel.measure.framepair import frame_pair
from hasty_reel.measure.noise import noise_linear
from hasty_reel.measure.plane import seen_frame
from hasty_reel.measure.stacks import FrameStacks
from hasty_reel.measure.worst import worst
from hasty_reel.pictures.frame import Picture

DENSITY, FPS = 28.28, 24.0
"""Pixels a degree and frames a second at which it is judged, where nothing else is told."""
CORNER, TIMED = 24, 3
"""Pixels a side of the corner by which the seconds that do not grow with pixels are told, and the frames that are timed."""
FEWEST = 3
"""Frames that must have all their neighbours for a window to be judged."""


@dataclass(frozen=True)
class Way:
    """One way to denoise: over how many frames, with how much care, sparks taken out first or not."""

    window: int
    thorough: bool = True
    despiked: bool = False


class EffectMeasurer:
    """Measures what ways of denoising do on one run; what they share is done once.

    Parameters
    ----------
    run : consecutive frames with guides
    other_seed : the same frames with another seed, which tells noise from detail; None: the flicker ratio stands for the noise
    samples : of the run
    file_seconds : of reading and writing a frame
    pixels_a_degree : of the pixels, as they are seen in the delivered picture
    fps : frames a second
    """

    def __init__(
        self, run: Sequence[Picture], other_seed: Sequence[Picture] | None, samples: float = 0.0, file_seconds: float = 0.0,
        pixels_a_degree: float = DENSITY, fps: float = FPS,
    ) -> None:  # fmt: skip
        self._sides = [list(run)] + ([] if other_seed is None else [list(other_seed)])
        self._samples, self._file_seconds = samples, file_seconds
        self._density, self._fps = pixels_a_degree, fps
        self._denoisers: dict[tuple[int, bool], Denoiser] = {}
        self._seen: dict[tuple[int, int], float] = {}

    def measure(self, way: Way) -> DenoiseEffect:
        """Return the effect of one way; only frames with all their neighbours count, and they are the same before and after.

        Parameters
        ----------
        way : its window is two frames shorter than the run, or more
        """
        run = self._sides[0]
        reach = max(1, way.window // 2)
        inner = range(reach, len(run) - reach)
        before = [[side[k].rgb for k in inner] for side in self._sides]
        after = [self._finished(s, way, inner) for s in range(len(self._sides))]
        pixels = run[0].width * run[0].height

        vectors = [run[k].stack("motion.X", "motion.Y") for k in inner]
        middle = len(inner) // 2
        flickers = [flicker([_lightness(p) for p in side[0]], vectors, middle) for side in (before, after)]
        flicker_ratio = flickers[1] / flickers[0] if flickers[0] > 0 and len(inner) > 1 else 1.0
        told: dict[str, float] = {"noise_ratio": flicker_ratio}
        if len(self._sides) > 1:
            told = self._told(before, after, inner)
            flicker_ratio = told["noise_ratio"] if len(inner) == 1 else flicker_ratio
        began = time.perf_counter()
        resize(run[0].rgb, run[0].width * 2, run[0].height * 2)
        resized = time.perf_counter() - began
        return DenoiseEffect(
            filter=FILTER,
            window=way.window,
            despike=way.despiked,
            thorough=way.thorough,
            samples=self._samples,
            flicker_ratio=flicker_ratio,
            seconds_per_pixel=self._seconds_per_pixel(way) + self._file_seconds / pixels,
            resize_seconds_per_pixel=resized / (4 * pixels),
            flicker_L=flickers[0],
            **told,
        )

    def _seconds_per_pixel(self, way: Way) -> float:
        """Of finishing a frame, without what every frame takes however small it is: told by a corner of the same frames."""
        sides = [self._sides[0], [_corner(p) for p in self._sides[0]]]
        took = []
        for run in sides:
            frames = range(len(run))
            finisher = Finisher(Chain(window=way.window, despike=way.despiked, thorough=way.thorough), run.__getitem__)
            finisher.finish(0, finisher.chain.needed(0, frames))  # then each frame needs one more, as in a long shot
            each = []
            for k in frames[1 : 1 + TIMED]:
                began = time.perf_counter()
                finisher.finish(k, finisher.chain.needed(k, frames))
                each.append(time.perf_counter() - began)
            took.append(float(np.median(each)))
        pixels = [r[0].width * r[0].height for r in sides]
        return max(0.0, took[0] - took[1]) / max(1, pixels[0] - pixels[1]) if pixels[0] > pixels[1] else took[0] / pixels[0]

    def _finished(self, side: int, way: Way, inner: range) -> list[np.ndarray]:
        """The inner frames of a run, finished as the frames of a shot are."""
        run = self._sides[side]
        chain = Chain(window=way.window, despike=way.despiked, thorough=way.thorough)
        if way.despiked or way.window == 1:
            finisher, known = Finisher(chain, lambda k: run[k]), range(len(run))
            return [finisher.finish(k, chain.needed(k, known)).rgb for k in inner]
        key = (side, way.thorough)
        if key not in self._denoisers:
            longest = Chain(window=len(run) | 1, thorough=way.thorough).denoising
            self._denoisers[key] = Denoiser(longest, lambda k: run[k])
        return [self._denoisers[key].denoise(k, range(len(run)), way.window // 2) for k in inner]

    def _told(self, before: list[list[np.ndarray]], after: list[list[np.ndarray]], inner: range) -> dict[str, float]:
        """What two seeds tell: noise and what is seen of it, detail and what changed besides noise."""
        half = [[(a + b) / np.float32(2.0) for a, b in zip(*sides)] for sides in zip(before, after)]
        noises = [float(np.sqrt(np.mean([noise_linear(a, b) ** 2 for a, b in zip(*both)]))) for both in (before, after, half)]
        told = {name: n / noises[0] if noises[0] > 0 else 1.0 for name, n in zip(("noise_ratio", "noise_half"), noises[1:])}
        planes = [[[_lightness(p) for p in side] for side in both] for both in (before, after)]
        edges = [float(np.mean([_edges(a, b) for a, b in zip(*both)])) for both in planes]
        told["detail"] = float(np.sqrt(max(0.0, edges[1]) / edges[0])) if edges[0] > 0 else 1.0
        changed = [np.mean(common_change((a1, a2), (b1, b2))) for a1, b1, a2, b2 in zip(*before, *after)]
        told["bias_L"] = float(np.sqrt(max(0.0, float(np.mean(changed)))))
        if len(inner) >= FEWEST:
            raw = self._seen.setdefault((inner.start, inner.stop), self._seen_noise(before, inner))
            if raw > 0:
                told["seen_ratio"], told["seen_half"] = self._seen_noise(after, inner) / raw, self._seen_noise(half, inner) / raw
        return told

    def _seen_noise(self, both: Sequence[Sequence[np.ndarray]], inner: range) -> float:
        """Seen flicker of the noise that two seeds tell apart, 95th percentile of its blocks."""
        stacks, guides = FrameStacks(self._density, self._fps), [self._sides[0][k] for k in inner]
        for k, (a, b) in enumerate(zip(*both)):
            pair = None
            if k + 1 < len(guides):
                pair = frame_pair(guides[k].stack("motion.X", "motion.Y"), guides[k].guides.get("Z"), guides[k + 1].guides.get("Z"))
            seen = _lightness(a)
            stacks.take(seen, (seen - _lightness(b)) / np.float32(np.sqrt(2.0)), pair)
        return worst(np.concatenate([s.blocks.ravel() for s in stacks.noise]))


def measure_effect(
    run: Sequence[Picture],
    other_seed: Sequence[Picture] | None,
    window: int,
    samples: float = 0.0,
    file_seconds: float = 0.0,
    pixels_a_degree: float = DENSITY,
    despiked: bool = False,
    thorough: bool = True,
) -> DenoiseEffect:
    """Return the effect of one window on a run of consecutive frames.

    Parameters
    ----------
    run : `window` + 2 frames or more, with guides
    other_seed : the same frames with another seed, which tells noise from detail; None: the flicker ratio stands for the noise
    window : frames denoised over
    samples : of the run
    file_seconds : of reading and writing a frame
    pixels_a_degree : of the pixels, as they are seen in the delivered picture
    despiked : sparks are taken out first
    thorough : denoised with more care
    """
    return EffectMeasurer(run, other_seed, samples, file_seconds, pixels_a_degree).measure(Way(window, thorough, despiked))


def common_change(one: tuple[np.ndarray, np.ndarray], two: tuple[np.ndarray, np.ndarray]) -> np.ndarray:
    """Return the square of what finishing changed besides noise, (h, w) in L* squared; its mean is right, single pixels are noisy.

    What two seeds have in common is no noise: the product of their changes has the square of the common part for its mean.

    Parameters
    ----------
    one, two : a frame with two seeds, each before and after, (h, w, 3) scene-linear light
    """
    first, second = (_lightness(after) - _lightness(before) for before, after in (one, two))
    return first * second


def _corner(picture: Picture) -> Picture:
    guides = {name: plane[:CORNER, :CORNER] for name, plane in picture.guides.items()}
    return Picture(np.ascontiguousarray(picture.rgb[:CORNER, :CORNER]), guides, picture.attributes)


def _lightness(rgb: np.ndarray) -> np.ndarray:
    return seen_frame(rgb).lightness


def _edges(a: np.ndarray, b: np.ndarray) -> float:
    """Energy of the gradients of what two seeds share: that of their mean less that of half their difference."""
    energies = []
    for plane in ((a + b) / 2.0, (a - b) / 2.0):
        energies.append(float(np.mean(np.diff(plane, axis=0) ** 2) + np.mean(np.diff(plane, axis=1) ** 2)))
    return energies[0] - energies[1]
