"""What denoising does at the samples that are planned, from proof runs at other counts."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hasty_reel.evidence.proof import DenoiseEffect

UNTOLD = 16.0
"""Samples of a run that did not keep them."""


@dataclass(frozen=True)
class Effects:
    """Effects of denoising on the proof runs of a shot."""

    found: tuple[DenoiseEffect, ...] = ()

    def of(self, window: int, despike: bool = False) -> list[DenoiseEffect]:
        """Return the effects of one window, those measured at one sample count averaged; the fewest samples first.

        Parameters
        ----------
        window : frames denoised over
        despike : sparks are taken out first
        """
        by_samples: dict[float, list[DenoiseEffect]] = {}
        for effect in sure_effects(self.found):
            if effect.window == window and effect.despike == despike:
                by_samples.setdefault(effect.samples or UNTOLD, []).append(effect)
        return [_mean(same, count) for count, same in sorted(by_samples.items())]

    def at(self, window: int, samples: float | None = None, despike: bool = False) -> DenoiseEffect | None:
        """Return the effect of a window at a sample count, interpolated in its logarithm and held beyond what was tried.

        Parameters
        ----------
        window : frames denoised over
        samples : per pixel; None: their mean over all that was tried
        despike : sparks are taken out first
        """
        tried = self.of(window, despike)
        if len(tried) < 2 or samples is None:
            return _mean(tried, tried[0].samples) if tried else None
        at = np.log([e.samples for e in tried])

        def _figure(name: str) -> float:
            return float(np.interp(math.log(samples), at, [getattr(e, name) for e in tried]))

        return DenoiseEffect(
            window=window,
            despike=despike,
            samples=samples,
            noise_ratio=_figure("noise_ratio"),
            flicker_ratio=_figure("flicker_ratio"),
            seen_ratio=_figure("seen"),
            seconds_per_pixel=_mean(tried, samples).seconds_per_pixel,
            resize_seconds_per_pixel=_figure("resize_seconds_per_pixel"),
        )

    @property
    def resize_seconds_per_pixel(self) -> float:
        """Of resizing, mean over what was tried; 0 where nothing was."""
        return float(np.mean([e.resize_seconds_per_pixel for e in self.found])) if self.found else 0.0


def sure_effects(found: Sequence[DenoiseEffect]) -> list[DenoiseEffect]:
    """Return effects that two seeds told, or all where none did: without a second seed detail that is lost counts as noise.

    Parameters
    ----------
    found : effects of denoising
    """
    return [e for e in found if e.seen_ratio > 0] or list(found)


def _mean(same: Sequence[DenoiseEffect], samples: float) -> DenoiseEffect:
    def _figure_of(name: str) -> float:
        return float(np.mean([getattr(e, name) for e in same]))

    return DenoiseEffect(
        window=same[0].window,
        despike=same[0].despike,
        samples=samples,
        noise_ratio=_figure_of("noise_ratio"),
        flicker_ratio=_figure_of("flicker_ratio"),
        seen_ratio=_figure_of("seen"),
        seconds_per_pixel=_figure_of("seconds_per_pixel"),
        resize_seconds_per_pixel=_figure_of("resize_seconds_per_pixel"),
    )
