"""What denoising does at the samples that are planned, from proof runs at other counts."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from msgspec.structs import replace

from hasty_reel.evidence.proof import DenoiseEffect
from hasty_reel.predict.effectplaces import UNTOLD_PLACE, RatiosByPlace
from hasty_reel.predict.effectsizes import Kind, at_largest_size

FIGURES = ("noise_ratio", "flicker_ratio", "seen", "noise_half", "seen_half", "detail", "bias_L")
LESS = ("noise_ratio", "seen", "noise_half", "seen_half")
"""Ratios that rise with the samples: the cleaner a picture is, the less there is to take out."""
BY_PLACE = ("noise_ratio", "seen")
"""Ratios that differ over a shot by what is in the picture."""
SECONDS = ("seconds_per_pixel", "resize_seconds_per_pixel", "seconds_per_frame")
BEYOND = 4.0
"""How many times the samples of the cleanest run a rise is carried on to."""
MOST_TOLD = 96
"""Frames of a shot on which it is told how sure a ratio is; between them it is taken to change evenly."""
UNTOLD = 16.0
"""Samples of a run that did not keep them."""


@dataclass(frozen=True)
class Effects:
    """Effects of denoising on the proof runs of a shot."""

    found: tuple[DenoiseEffect, ...] = ()

    @cached_property
    def _of_kind(self) -> dict[Kind, list[DenoiseEffect]]:
        """Effects that two seeds told, by what was tried, all at the level of the largest run."""
        kinds: dict[Kind, list[DenoiseEffect]] = {}
        for effect in sure_effects(self.found):
            kinds.setdefault(effect.chain or (effect.window, effect.thorough), []).append(effect)
        return at_largest_size({kind: _parts_together(found) for kind, found in kinds.items()})

    @cached_property
    def _by_kind(self) -> dict[Kind, list[DenoiseEffect]]:
        groups: dict[Kind, dict[float, list[DenoiseEffect]]] = {}
        for kind, effects in self._of_kind.items():
            for effect in effects:
                groups.setdefault(kind, {}).setdefault(effect.samples or UNTOLD, []).append(effect)
        return {kind: [_mean(same, count) for count, same in sorted(by.items())] for kind, by in groups.items()}

    @cached_property
    def _tables(self) -> dict[Kind, tuple[list[float], dict[str, list[float]], DenoiseEffect]]:
        """Of each kind: logarithms of the sample counts, figures at them, and the mean of all."""
        return {
            kind: (
                [math.log(e.samples) for e in tried],
                {n: [getattr(e, n) for e in tried] for n in FIGURES},
                _mean(tried, tried[0].samples),
            )
            for kind, tried in self._by_kind.items()
        }

    @cached_property
    def recent(self) -> dict[tuple, Any]:
        """What was told last over the frames of a shot."""
        return {}

    @cached_property
    def remembered(self) -> dict[tuple, Any]:
        """What was computed from these effects, by what it was computed for: they never change."""
        return {}

    def at(self, window: int, samples: float | None = None, thorough: bool = True, strength: float = 1.0) -> DenoiseEffect | None:
        """Return the effect of a window at a sample count, interpolated in its logarithm; see `carried_on` for more than was tried.

        Parameters
        ----------
        window : frames denoised over; 1: despiking alone
        samples : per pixel; None: their mean over all that was tried
        thorough : with more care
        strength : share of the denoised picture in the result, 0 to 1

        Notes
        -----
        With a share s of a picture whose noise is r of the other's, and h of it in the mean of both, the variance is
        (1-s)^2 + s^2 r^2 + s (1-s) (4 h^2 - 1 - r^2): what both have in common is told by their mean.
        """
        effect = self._at((window, thorough), samples)
        if effect is None:
            return None
        noise, seen = (
            float(blended(r, h, strength)) for r, h in ((effect.noise_ratio, effect.noise_half), (effect.seen, effect.seen_half))
        )
        detail = 1.0 + strength * (effect.detail - 1.0)
        return replace(effect, noise_ratio=noise, seen_ratio=seen, bias_L=effect.bias_L * strength, detail=detail)

    def over(self, window: int, samples: float | None, thorough: bool, strength: float, frames: Sequence[int]) -> OverFrames:
        """Return how the effect of a window differs over frames from what `at` says, as runs in several places tell it.

        Parameters
        ----------
        window : frames denoised over
        samples : per pixel; None: about those of the runs
        thorough : with more care
        strength : share of the denoised picture in the result, 0 to 1
        frames : (f,) of the shot
        """
        kind, even = (window, thorough), np.ones(len(frames))
        effect, by_place = self._at(kind, samples), self._by_place(kind)
        if effect is None or by_place is None or len(set(by_place[0].frames)) < 2:
            return OverFrames(even, even)
        asked, at = self._asked(by_place[0], samples), np.asarray(frames, np.float64)
        curves = self._remember(("curves", kind, tuple(frames)), lambda: [told.by_frame(at) for told in by_place])
        found = []
        for told, curve, (ratio, half) in zip(by_place, curves, ((effect.noise_ratio, effect.noise_half), (effect.seen, effect.seen_half))):
            times = np.exp(np.minimum(told.at(asked) + curve, 0.0)) / max(ratio, 1e-6)
            found.append(blended(ratio, half, strength, times) / blended(ratio, half, strength))
        return OverFrames(*found)

    def seen_spreads(self, window: int, thorough: bool, frames: Sequence[int], samples: np.ndarray) -> np.ndarray:
        """Return how well runs tell what a window leaves of seen flicker on frames, (n, f) standard deviation of its logarithm.

        Parameters
        ----------
        window : frames denoised over
        thorough : with more care
        frames : (f,) of the shot
        samples : (n,) per pixel
        """
        by_place = self._by_place((window, thorough))
        if by_place is None:
            return np.full((len(samples), len(frames)), UNTOLD_PLACE)
        at = np.asarray(frames, np.float64)
        some = np.unique(np.linspace(at[0], at[-1], min(len(at), MOST_TOLD)))  # it changes slowly
        return np.array([np.interp(at, some, by_place[1].spread(some, self._asked(by_place[1], float(n)))) for n in samples])

    @staticmethod
    def _asked(told: RatiosByPlace, samples: float | None) -> float:
        return float(told.samples.mean()) if samples is None else min(math.log(samples), told.samples.max() + math.log(BEYOND))

    def _by_place(self, kind: Kind) -> list[RatiosByPlace] | None:
        """Ratios of noise and of what is seen of it, where it is known on which frames they were measured."""

        def find() -> list[RatiosByPlace] | None:
            tried = [e for e in self._of_kind.get(kind, ()) if e.frame is not None]
            if not tried:
                return None
            at, counts = np.array([e.frame for e in tried], np.float64), np.log([e.samples or UNTOLD for e in tried])
            return [RatiosByPlace(at, counts, np.log([max(getattr(e, n), 1e-6) for e in tried])) for n in BY_PLACE]

        return self._remember(("by place", kind), find)

    def _remember(self, key: tuple, find: Callable[[], Any]) -> Any:
        if key not in self.remembered:
            self.remembered[key] = find()
        return self.remembered[key]

    def chain_at(self, words: str, samples: float | None = None) -> DenoiseEffect | None:
        """Return the effect of a whole chain at a sample count, as `at` does for a window; None where no run tried it.

        Parameters
        ----------
        words : that tell it from other chains
        samples : per pixel; None: their mean over all that was tried
        """
        return self._at(words, samples)

    def _at(self, kind: Kind, samples: float | None) -> DenoiseEffect | None:
        if kind not in self._tables:
            return None
        at, figures, mean = self._tables[kind]
        if len(at) < 2 or samples is None:
            told = {n: float(getattr(mean, n)) for n in FIGURES}
        else:
            told = {n: _between(math.log(samples), at, figures[n]) for n in FIGURES}
            told |= {n: carried_on(math.log(samples), at, figures[n]) for n in LESS if all(figures[n])}
        told["seen_ratio"] = told.pop("seen")
        return replace(mean, samples=mean.samples if samples is None else samples, **told)

    @property
    def resize_seconds_per_pixel(self) -> float:
        """Of resizing, mean over what was tried; 0 where nothing was."""
        told = [e.resize_seconds_per_pixel for e in self.found if not e.chain]
        return float(np.mean(told)) if told else 0.0


@dataclass(frozen=True)
class OverFrames:
    """How an effect differs over the frames of a shot: ratios of noise and of what is seen of it / those of the shot, (f,) both."""

    noise: np.ndarray
    seen: np.ndarray


def sure_effects(found: Sequence[DenoiseEffect]) -> list[DenoiseEffect]:
    """Return effects that two seeds told, or all where none did: without a second seed detail that is lost counts as noise.

    Parameters
    ----------
    found : effects of denoising
    """
    return [e for e in found if e.seen_ratio > 0] or list(found)


def carried_on(at: float, known: Sequence[float], ratios: Sequence[float]) -> float:
    """Return a ratio at a sample count, on logarithmic axes.

    Beyond the cleanest run half of its last rise goes on, since a rise slows down, up to `BEYOND` times its samples.
    Held instead, frames with more samples than any run would be promised calmer than they get; a fall is not carried on.

    Parameters
    ----------
    at : logarithm of the samples
    known : (n,) logarithms of the samples of runs, rising
    ratios : (n,) after / before
    """
    logs = [math.log(max(r, 1e-6)) for r in ratios]
    found = _between(at, known, logs)
    past = min(at - known[-1], math.log(BEYOND))
    if past > 0 and len(known) > 1:
        found += 0.5 * past * max(0.0, (logs[-1] - logs[-2]) / (known[-1] - known[-2]))
    return min(1.0, math.exp(found))


def _between(at: float, known: Sequence[float], values: Sequence[float]) -> float:
    """As numpy.interp of one place does, without its start, which a plan would pay a thousand times."""
    if at <= known[0] or len(known) < 2:
        return float(values[0])
    k = min(bisect_right(known, at) - 1, len(known) - 2)
    share = min((at - known[k]) / (known[k + 1] - known[k]), 1.0)
    return float(values[k] + (values[k + 1] - values[k]) * share)


def blended(ratio: float, half: float, share: float, times: float | np.ndarray = 1.0) -> Any:
    """Return the noise of a mix of a picture as rendered and as denoised, as a ratio to that as rendered.

    Parameters
    ----------
    ratio : of the denoised picture
    half : of the mean of both; 0 where it was not measured, then both are taken to have all in common
    share : of the denoised picture, 0 to 1
    times : (f,) on the ratio, and on what both have in common, where a frame keeps more or less than others

    Returns
    -------
    float or np.ndarray
        As many as `times`.
    """
    common = 2.0 * ratio if half <= 0 else 4.0 * half**2 - 1.0 - ratio**2
    square = (1.0 - share) ** 2 + (share * ratio * times) ** 2 + share * (1.0 - share) * common * times
    return np.sqrt(np.maximum(square, 0.0))


def _parts_together(found: Sequence[DenoiseEffect]) -> list[DenoiseEffect]:
    """Effects of one kind, those of parts of the same frames as their mean: what parts differ by says nothing of other frames."""
    groups: dict[tuple, list[DenoiseEffect]] = {}
    for k, e in enumerate(found):
        groups.setdefault((e.frame if e.frame is not None else -1 - k, e.samples, e.width), []).append(e)
    return [same[0] if len(same) == 1 else _mean(same, same[0].samples) for same in groups.values()]


def _mean(same: Sequence[DenoiseEffect], samples: float) -> DenoiseEffect:
    """The mean of effects of one kind; of their seconds the least, since the work is the same and a busy machine only adds to it."""
    figures = {name: float(np.mean([getattr(e, name) for e in same])) for name in FIGURES}
    figures |= {name: float(min(getattr(e, name) for e in same)) for name in SECONDS}
    figures["seen_ratio"] = figures.pop("seen")
    return replace(same[0], samples=samples, **figures)
