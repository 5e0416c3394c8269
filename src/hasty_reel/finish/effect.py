"""What denoising does on a proof run: noise, flicker, seen flicker, detail and ghosts before and after, and its seconds."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from hasty_reel.evidence.proof import FILTER, DenoiseEffect
from hasty_reel.finish.chain import Chain
from hasty_reel.finish.denoise import Denoiser
from hasty_reel.finish.finisher import Finisher, resized
from hasty_reel.finish.sequence import finish_sequence
from hasty_reel.image.resize import resize
from hasty_reel.measure.fields import seen_in_all
from hasty_reel.measure.flicker import flicker
from hasty_reel.measure.framepair import frame_pair
from hasty_reel.measure.noise import noise_linear
from hasty_reel.measure.plane import seen_frame
from hasty_reel.measure.stacks import FrameStacks
from hasty_reel.measure.twoseeds import common_squares
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.pictures.writing import write_picture
from hasty_reel.programs.ownsteps import FRAME_FILE
from hasty_reel.temporary import temporary_folder
from hasty_reel.work import CancelToken, Progress, part_of, silent

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

    @property
    def chain(self) -> Chain:
        """The same as a chain of its own."""
        return Chain(window=self.window, despike=self.despiked, thorough=self.thorough)


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
        self._seen: dict[tuple[int, int, int], float] = {}

    def measure(self, way: Way) -> DenoiseEffect:
        """Return the effect of one way; only frames with all their neighbours count, and they are the same before and after.

        Parameters
        ----------
        way : its window is two frames shorter than the run, or more
        """
        run, inner = self._sides[0], self._inner(way.window)
        pixels = run[0].width * run[0].height
        began = time.perf_counter()
        resize(run[0].rgb, run[0].width * 2, run[0].height * 2)
        doubled = time.perf_counter() - began
        before = [[side[k].rgb for k in inner] for side in self._sides]
        after = [self._finished(s, way, inner) for s in range(len(self._sides))]
        return DenoiseEffect(
            filter=FILTER,
            window=way.window,
            despike=way.despiked,
            thorough=way.thorough,
            samples=self._samples,
            seconds_per_pixel=self._seconds_per_pixel(way.chain)[0] + self._file_seconds / pixels,
            resize_seconds_per_pixel=doubled / (4 * pixels),
            **self._ratios(before, after, [run[k] for k in inner], inner),
        )

    def measure_chain(self, chain: Chain, words: str, cancel: CancelToken | None = None, progress: Progress = silent) -> DenoiseEffect:
        """Return the effect of a whole chain, against frames that are resized alone.

        Parameters
        ----------
        chain : its window is two frames shorter than the run, or more
        words : that tell it from other chains
        cancel : looked at meanwhile; None: it cannot be stopped
        progress : called with the share that is done, 0 to 1, and words

        Raises
        ------
        RendererFault
            When a step of the artist's own fails.
        WrongInput
            When what comes out has not the size that is delivered.
        """
        run, inner = self._sides[0], self._inner(chain.window)
        pixels = run[0].width * run[0].height
        after, took = [], []
        for s, side in enumerate(self._sides):
            began = time.perf_counter()
            made = _through_files(chain, side, cancel, part_of(progress, s, len(self._sides)))
            took.append((time.perf_counter() - began) / len(side))
            after.append([made[k].rgb for k in inner])
        size = (after[0][0].shape[1], after[0][0].shape[0])
        before = [[resize(side[k].rgb, *size) for k in inner] for side in self._sides]
        a_pixel, a_frame = (min(took) / pixels, 0.0) if chain.on_folders else self._seconds_per_pixel(chain)
        return DenoiseEffect(
            filter=FILTER,
            window=chain.window,
            despike=chain.despike,
            thorough=chain.thorough,
            samples=self._samples,
            seconds_per_pixel=a_pixel + (0.0 if chain.on_folders else self._file_seconds / pixels),
            seconds_per_frame=a_frame,
            chain=words,
            own={step.name: step.fingerprint for step in chain.own},
            **self._ratios(before, after, [resized(run[k], size) for k in inner], inner),
        )

    def _inner(self, window: int) -> range:
        """The frames that have all their neighbours."""
        reach = max(1, window // 2)
        return range(reach, len(self._sides[0]) - reach)

    def _ratios(self, before: list[list[np.ndarray]], after: list[list[np.ndarray]], guides: list[Picture], inner: range) -> dict[str, Any]:
        """What is left of noise and flicker, by two seeds where there are two."""
        vectors = [p.vectors for p in guides]
        middle, count = len(guides) // 2, len(guides)
        flickers = [flicker([_lightness(p) for p in side[0]], vectors, middle) for side in (before, after)]
        flicker_ratio = flickers[1] / flickers[0] if flickers[0] > 0 and count > 1 else 1.0
        told: dict[str, float] = {"noise_ratio": flicker_ratio}
        if len(self._sides) > 1:
            told = self._told(before, after, guides, inner)
            flicker_ratio = told["noise_ratio"] if count == 1 else flicker_ratio
        return {**told, "flicker_ratio": flicker_ratio, "flicker_L": flickers[0]}

    def _seconds_per_pixel(self, chain: Chain) -> tuple[float, float]:
        """Of finishing a frame: a pixel, and what every frame takes however small it is, told by a corner of the same frames."""
        sides = [self._sides[0], [_corner(p) for p in self._sides[0]]]
        took = []
        for run in sides:
            frames = range(len(run))
            size = None if chain.size is None else _in_proportion(chain.size, self._sides[0][0], run[0])
            finisher = Finisher(replace(chain, size=size), run.__getitem__)
            finisher.finish(0, finisher.chain.needed(0, frames))  # then each frame needs one more, as in a long shot
            each = []
            for k in frames[1 : 1 + TIMED]:
                began = time.perf_counter()
                finisher.finish(k, finisher.chain.needed(k, frames))
                each.append(time.perf_counter() - began)
            took.append(float(np.median(each)))
        pixels = [r[0].width * r[0].height for r in sides]
        if pixels[0] <= pixels[1]:
            return took[0] / pixels[0], 0.0
        a_pixel = max(0.0, took[0] - took[1]) / (pixels[0] - pixels[1])
        return a_pixel, max(0.0, took[1] - a_pixel * pixels[1])

    def _finished(self, side: int, way: Way, inner: range) -> list[np.ndarray]:
        """The inner frames of a run, finished as the frames of a shot are."""
        run = self._sides[side]
        chain = way.chain
        if way.despiked or way.window == 1:
            finisher, known = Finisher(chain, lambda k: run[k]), range(len(run))
            return [finisher.finish(k, chain.needed(k, known)).rgb for k in inner]
        key = (side, way.thorough)
        if key not in self._denoisers:
            longest = Chain(window=len(run) | 1, thorough=way.thorough).denoising
            self._denoisers[key] = Denoiser(longest, lambda k: run[k])
        return [self._denoisers[key].denoise(k, range(len(run)), way.window // 2) for k in inner]

    def _told(self, before: list[list[np.ndarray]], after: list[list[np.ndarray]], guides: list[Picture], inner: range) -> dict[str, float]:
        """What two seeds tell: noise and what is seen of it, detail and what changed besides noise."""
        half = [[(a + b) / np.float32(2.0) for a, b in zip(*sides)] for sides in zip(before, after)]
        noises = [float(np.sqrt(np.mean([noise_linear(a, b) ** 2 for a, b in zip(*both)]))) for both in (before, after, half)]
        told = {name: n / noises[0] if noises[0] > 0 else 1.0 for name, n in zip(("noise_ratio", "noise_half"), noises[1:])}
        planes = [[[_lightness(p) for p in side] for side in both] for both in (before, after)]
        edges = [float(np.mean([_edges(a, b) for a, b in zip(*both)])) for both in planes]
        told["detail"] = float(np.sqrt(max(0.0, edges[1]) / edges[0])) if edges[0] > 0 else 1.0
        changed = [np.mean(changed_squares((a1, a2), (b1, b2))) for a1, b1, a2, b2 in zip(*before, *after)]
        told["bias_L"] = float(np.sqrt(max(0.0, float(np.mean(changed)))))
        if len(guides) >= FEWEST:
            key = inner.start, inner.stop, guides[0].width
            if key not in self._seen:
                self._seen[key] = self._seen_noise(before, guides)
            raw = self._seen[key]
            if raw > 0:
                told["seen_ratio"], told["seen_half"] = self._seen_noise(after, guides) / raw, self._seen_noise(half, guides) / raw
        return told

    def _seen_noise(self, both: Sequence[Sequence[np.ndarray]], guides: list[Picture]) -> float:
        """Seen flicker of the noise that two seeds tell apart."""
        stacks = FrameStacks(self._density, self._fps)
        for k, (a, b) in enumerate(zip(*both)):
            pair = None
            if k + 1 < len(guides):
                pair = frame_pair(guides[k].vectors, guides[k].guides.get("Z"), guides[k + 1].guides.get("Z"))
            seen = _lightness(a)
            stacks.take(seen, (seen - _lightness(b)) / np.float32(np.sqrt(2.0)), pair)
        return seen_in_all(stacks.noise)


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


def changed_squares(one: tuple[np.ndarray, np.ndarray], two: tuple[np.ndarray, np.ndarray]) -> np.ndarray:
    """Return the square of what finishing changed besides noise, (h, w) in L* squared; its mean is right, single pixels are noisy.

    Parameters
    ----------
    one, two : a frame with two seeds, each before and after, (h, w, 3) scene-linear light
    """
    before, after = ([_lightness(side[k]) for side in (one, two)] for k in (0, 1))
    return common_squares(before, after)


def _in_proportion(size: tuple[int, int], of: Picture, to: Picture) -> tuple[int, int]:
    return max(1, round(size[0] * to.width / of.width)), max(1, round(size[1] * to.height / of.height))


def _through_files(chain: Chain, run: Sequence[Picture], cancel: CancelToken | None, progress: Progress) -> list[Picture]:
    """A run finished as the frames of a shot are, from files to files."""
    with temporary_folder("chain") as folder:
        before, after = folder / "before", folder / "after"
        before.mkdir()
        after.mkdir()
        for k, picture in enumerate(run):
            write_picture(before / FRAME_FILE.format(k), picture)
        frames = range(len(run))
        finish_sequence(
            chain, frames, lambda k: before / FRAME_FILE.format(k), lambda k: after / FRAME_FILE.format(k), progress, cancel
        )  # fmt: skip
        return [read_picture(after / FRAME_FILE.format(k)) for k in frames]


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
