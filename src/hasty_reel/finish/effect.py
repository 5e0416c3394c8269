"""What denoising over time does on a proof run: noise, flicker and seen flicker before and after, and its seconds."""

from __future__ import annotations

import time
from collections.abc import Sequence

import numpy as np

from hasty_reel.evidence.proof import DenoiseEffect
from hasty_reel.finish.chain import Chain, Finisher
from hasty_reel.image.lightness import lightness
from hasty_reel.image.luminance import luminance
from hasty_reel.image.resize import resize
from hasty_reel.measure.flicker import flicker
from hasty_reel.measure.framepair import frame_pair
from hasty_reel.measure.noise import noise_linear
from hasty_reel.measure.stacks import FrameStacks
from hasty_reel.measure.worst import worst
from hasty_reel.pictures.frame import Picture

DENSITY, FPS = 28.28, 24.0
"""Pixels a degree and frames a second at which it is judged, where nothing else is told."""
FEWEST = 3
"""Frames that must have all their neighbours for a window to be judged."""


def measure_effect(
    run: list[Picture],
    other_seed: list[Picture] | None,
    window: int,
    samples: float = 0.0,
    file_seconds: float = 0.0,
    pixels_a_degree: float = DENSITY,
    despiked: bool = False,
) -> DenoiseEffect:
    """Return the effect of one window on a run of consecutive frames.

    Only frames with all their neighbours count, and they are the same before and after.

    Parameters
    ----------
    run : `window` + 2 frames or more, with guides
    other_seed : the same frames with another seed,
        which tells noise from detail; without it the flicker ratio stands for the noise
    window : frames denoised over
    samples : of the run
    file_seconds : of reading and writing a frame
    pixels_a_degree : of the pixels, as they are seen in the delivered picture
    despiked : sparks are taken out first
    """
    reach = max(1, window // 2)
    inner = range(reach, len(run) - reach)
    began = time.perf_counter()
    after = _finished(run, window, despiked, inner)
    filtered = (time.perf_counter() - began) / len(after)
    pixels = run[0].width * run[0].height
    before = [run[k].rgb for k in inner]
    vectors = [run[k].stack("motion.X", "motion.Y") for k in inner]

    middle = len(before) // 2
    flickers = [flicker([_seen(p) for p in side], vectors, middle) for side in (before, after)]
    flicker_ratio = flickers[1] / flickers[0] if flickers[0] > 0 and len(before) > 1 else 1.0
    noise_ratio, seen_ratio = flicker_ratio, 0.0
    if other_seed is not None:
        again = _finished(other_seed, window, despiked, inner)
        raw = [other_seed[k].rgb for k in inner]
        noises = [np.sqrt(np.mean([noise_linear(a, b) ** 2 for a, b in zip(*sides)])) for sides in ((before, raw), (after, again))]
        noise_ratio = float(noises[1] / noises[0]) if noises[0] > 0 else 1.0
        if len(before) == 1:
            flicker_ratio = noise_ratio
        if len(before) >= FEWEST:
            guides = [run[k] for k in inner]
            seen = [_seen_noise(*sides, guides, pixels_a_degree) for sides in ((before, raw), (after, again))]
            seen_ratio = seen[1] / seen[0] if seen[0] > 0 else 0.0
    began = time.perf_counter()
    resize(run[0].rgb, run[0].width * 2, run[0].height * 2)
    resized = time.perf_counter() - began
    return DenoiseEffect(
        window=window,
        despike=despiked,
        samples=samples,
        noise_ratio=noise_ratio,
        flicker_ratio=flicker_ratio,
        seen_ratio=seen_ratio,
        seconds_per_pixel=(filtered + file_seconds) / pixels,
        resize_seconds_per_pixel=resized / (4 * pixels),
        flicker_L=flickers[0],
    )


def _finished(run: Sequence[Picture], window: int, despiked: bool, inner: range) -> list[np.ndarray]:
    """The inner frames of a run, finished as the frames of a shot are."""
    chain = Chain(window=window, despike=despiked)
    finisher, known = Finisher(chain, lambda k: run[k]), range(len(run))
    return [finisher.finish(k, chain.needed(k, known)).rgb for k in inner]


def _seen(rgb: np.ndarray) -> np.ndarray:
    return lightness(np.clip(luminance(rgb), 0, 1)).astype(np.float32)


def _seen_noise(one: Sequence[np.ndarray], two: Sequence[np.ndarray], guides: Sequence[Picture], pixels_a_degree: float) -> float:
    """Seen flicker of the noise that two seeds tell apart, 95th percentile of its blocks."""
    stacks = FrameStacks(pixels_a_degree, FPS)
    for k, (a, b) in enumerate(zip(one, two)):
        pair = None
        if k + 1 < len(one):
            pair = frame_pair(guides[k].stack("motion.X", "motion.Y"), guides[k].guides.get("Z"), guides[k + 1].guides.get("Z"))
        seen = _seen(a)
        stacks.take(seen, (seen - _seen(b)) / np.float32(np.sqrt(2.0)), pair)
    return worst(np.concatenate([s.blocks.ravel() for s in stacks.noise]))
