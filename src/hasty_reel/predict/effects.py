"""What denoising does at the samples that are planned, from proof runs at other counts."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from msgspec.structs import replace

from hasty_reel.evidence.proof import DenoiseEffect

FIGURES = ("noise_ratio", "flicker_ratio", "seen")
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
        return self._by_kind.get((window, despike), [])

    @cached_property
    def _by_kind(self) -> dict[tuple[int, bool], list[DenoiseEffect]]:
        groups: dict[tuple[int, bool], dict[float, list[DenoiseEffect]]] = {}
        for effect in sure_effects(self.found):
            groups.setdefault((effect.window, effect.despike), {}).setdefault(effect.samples or UNTOLD, []).append(effect)
        return {kind: [_mean(same, count) for count, same in sorted(by.items())] for kind, by in groups.items()}

    @cached_property
    def _tables(self) -> dict[tuple[int, bool], tuple[np.ndarray, dict[str, list[float]], DenoiseEffect]]:
        """Of each kind: logarithms of the sample counts, figures at them, and the mean of all."""
        return {
            kind: (np.log([e.samples for e in tried]), {n: [getattr(e, n) for e in tried] for n in FIGURES}, _mean(tried, tried[0].samples))
            for kind, tried in self._by_kind.items()
        }

    def at(self, window: int, samples: float | None = None, despike: bool = False) -> DenoiseEffect | None:
        """Return the effect of a window at a sample count, interpolated in its logarithm and held beyond what was tried.

        Parameters
        ----------
        window : frames denoised over
        samples : per pixel; None: their mean over all that was tried
        despike : sparks are taken out first
        """
        if (window, despike) not in self._tables:
            return None
        at, figures, mean = self._tables[window, despike]
        if len(at) < 2 or samples is None:
            return mean
        noise, flicker, seen = (float(np.interp(math.log(samples), at, figures[n])) for n in FIGURES)
        return replace(mean, samples=samples, noise_ratio=noise, flicker_ratio=flicker, seen_ratio=seen)

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
