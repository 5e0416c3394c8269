"""Effects of small runs as they would be at the size of the largest one.

A small picture holds more detail a pixel, and denoising leaves more of its noise. A run nearer to the delivered size says by how much: what
small runs told of the samples and of other frames is kept, and moved to the level of the large one.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from msgspec.structs import replace

from hasty_reel.evidence.proof import DenoiseEffect

NEAR = 0.7
"""Share of the width of the largest run from which on another one counts as large."""


def at_largest_size(found: Sequence[DenoiseEffect]) -> list[DenoiseEffect]:
    """Return effects of one way of denoising, those of small runs moved to the level of the largest.

    Parameters
    ----------
    found : effects of one way to denoise, or of one chain
    """
    widest = max((e.width for e in found), default=0)
    large = [e for e in found if e.width >= NEAR * widest]
    small = [e for e in found if e.width < NEAR * widest]
    if not small:
        return list(found)
    noise, seen = (_times(large, small, name) for name in ("noise_ratio", "seen"))
    detail, bias = (float(np.mean([getattr(e, name) for e in large])) for name in ("detail", "bias_L"))
    moved = [
        replace(
            e, noise_ratio=min(1.0, e.noise_ratio * noise), noise_half=_half(e.noise_ratio, e.noise_half, noise),
            seen_ratio=min(1.0, e.seen * seen), seen_half=_half(e.seen, e.seen_half, seen), detail=detail, bias_L=bias,
        )
        for e in small
    ]  # fmt: skip
    return large + moved


def _times(large: Sequence[DenoiseEffect], small: Sequence[DenoiseEffect], name: str) -> float:
    """By what factor large runs leave less than small ones do at their samples, which lie on a line over ln(samples)."""
    at = sorted({e.samples for e in small})
    logs = [float(np.mean([math.log(max(getattr(e, name), 1e-6)) for e in small if e.samples == n])) for n in at]
    told = np.interp(np.log([max(e.samples, 1.0) for e in large]), np.log(np.maximum(at, 1.0)), logs)
    return math.exp(float(np.mean([math.log(max(getattr(e, name), 1e-6)) - t for e, t in zip(large, told)])))


def _half(ratio: float, half: float, times: float) -> float:
    """Of the mean of a picture as rendered and as denoised: what both have in common falls as the ratio does."""
    if half <= 0:
        return half
    common = (4.0 * half**2 - 1.0 - ratio**2) * times
    return math.sqrt(max(0.0, 1.0 + (ratio * times) ** 2 + common)) / 2.0
