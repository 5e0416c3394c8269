"""Effects of small runs as they would be at the size of the largest one.

A small picture holds more detail a pixel, and denoising leaves more of its noise. A run nearer to the delivered size says by how much: what
small runs told of the samples and of other frames is kept, and moved to the level of the large one. Where large runs tell of several sample
counts themselves, small ones of the same frames go: the more samples, the less noise and the more detail their pictures hold, and the less
is taken out.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import numpy as np
from msgspec.structs import replace

from hasty_reel.evidence.proof import DenoiseEffect

Kind = tuple[int, bool] | str
"""What was tried: frames denoised over and whether with care, or the words of a whole chain."""
BY_SIZE = ("noise_ratio", "seen")
"""Ratios that small pictures tell too high."""
SAME_PLACE = 6.0
"""Frames that the middles of two runs may lie apart, so that both tell of the same."""
NEAR = 0.7
"""Share of the width of the largest run from which on another one counts as large."""


def at_largest_size(kinds: Mapping[Kind, Sequence[DenoiseEffect]]) -> dict[Kind, list[DenoiseEffect]]:
    """Return effects of each way of denoising, those of small runs moved to the level of the largest.

    A way that no large run tried moves as the others do in the mean.

    Parameters
    ----------
    kinds : effects by what was tried
    """
    widest = max((e.width for effects in kinds.values() for e in effects), default=0)
    enough = NEAR * widest
    split = {k: ([e for e in found if e.width >= enough], [e for e in found if e.width < enough]) for k, found in kinds.items()}
    moves = {k: [_times(large, small, name) for name in BY_SIZE] for k, (large, small) in split.items() if large and small}
    if not moves:
        return {k: list(effects) for k, effects in kinds.items()}
    mean = np.exp(np.mean(np.log(list(moves.values())), axis=0)).tolist()
    return {
        k: large + [_moved(e, large, moves.get(k, mean)) for e in small if not _told_by(large, e)] for k, (large, small) in split.items()
    }


def _told_by(large: Sequence[DenoiseEffect], small: DenoiseEffect) -> bool:
    """Whether large runs tell of the frames of a small one, and of several sample counts: its own rise is too steep."""
    near = [e for e in large if e.frame is not None and small.frame is not None and abs(e.frame - small.frame) <= SAME_PLACE]
    return len({e.samples for e in near}) > 1


def _moved(e: DenoiseEffect, large: Sequence[DenoiseEffect], times: Sequence[float]) -> DenoiseEffect:
    """An effect of a small run at the level of large ones; detail and what changes besides noise are theirs, where they tried it."""
    noise, seen = times
    kept = {name: float(np.mean([getattr(x, name) for x in large])) for name in ("detail", "bias_L")} if large else {}
    return replace(
        e, noise_ratio=min(1.0, e.noise_ratio * noise), noise_half=_half(e.noise_ratio, e.noise_half, noise),
        seen_ratio=min(1.0, e.seen * seen), seen_half=_half(e.seen, e.seen_half, seen), **kept,
    )  # fmt: skip


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
