"""What denoising over time does on a proof run: noise and flicker before and after, and its seconds."""

from __future__ import annotations

import time

import numpy as np

from hasty_reel.evidence.proof import DenoiseEffect
from hasty_reel.finish.chain import prepare_picture
from hasty_reel.finish.overtime import denoise
from hasty_reel.image.lightness import lightness
from hasty_reel.image.luminance import luminance
from hasty_reel.image.resize import resize
from hasty_reel.measure.flicker import flicker
from hasty_reel.measure.noise import noise_linear
from hasty_reel.pictures.frame import Picture


def measure_effect(run: list[Picture], other_seed: list[Picture] | None, window: int) -> DenoiseEffect:
    """Return the effect of one window on a run of consecutive frames.

    Parameters
    ----------
    run : at least `window` frames with guides
    other_seed : the same frames with another seed,
        which tells noise from detail; without it the flicker ratio stands for the noise
    window : frames denoised over
    """
    reach = window // 2
    inner = range(reach, len(run) - reach)
    began = time.perf_counter()
    ready = [prepare_picture(p) for p in run]
    prepared = time.perf_counter() - began
    began = time.perf_counter()
    after = {k: denoise(ready[k - reach : k + reach + 1], reach) for k in inner}
    filtered = time.perf_counter() - began
    pixels = run[0].width * run[0].height
    vectors = [p.stack("motion.X", "motion.Y") for p in run]

    def _light(rgb: np.ndarray) -> np.ndarray:
        return lightness(np.clip(luminance(rgb), 0, 1)).astype(np.float32)

    middle = len(run) // 2
    near = [k for k in (middle - 1, middle, middle + 1) if k in after]
    before_flicker = flicker([_light(run[k].rgb) for k in near], [vectors[k] for k in near], near.index(middle))
    after_flicker = flicker([_light(after[k]) for k in near], [vectors[k] for k in near], near.index(middle))
    flicker_ratio = after_flicker / before_flicker if before_flicker > 0 and len(near) > 1 else 1.0
    noise_ratio = flicker_ratio
    if other_seed is not None:
        others = [prepare_picture(p) for p in other_seed]
        again = denoise(others[middle - reach : middle + reach + 1], reach)
        before = noise_linear(run[middle].rgb, other_seed[middle].rgb)
        noise_ratio = noise_linear(after[middle], again) / before if before > 0 else 1.0
        if len(near) == 1:
            flicker_ratio = noise_ratio
    began = time.perf_counter()
    resize(run[middle].rgb, run[0].width * 2, run[0].height * 2)
    resized = time.perf_counter() - began
    return DenoiseEffect(
        window=window,
        noise_ratio=noise_ratio,
        flicker_ratio=flicker_ratio,
        seconds_per_pixel=(prepared / len(run) + filtered / len(after)) / pixels,
        resize_seconds_per_pixel=resized / (4 * pixels),
        flicker_L=before_flicker,
    )
