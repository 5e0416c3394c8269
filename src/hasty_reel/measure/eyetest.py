"""The eye test: how much flicker a person sees, on their screen, from where they sit.

Two loops one after the other (two-interval forced choice), one calm, one with a planned
amount of unrest; the person says which was restless. A staircase, one up and two down,
closes in on the amount that is found 70.7 % of the time (Levitt 1971, J. Acoust. Soc. Am. 49).
The limit and its error come from all answers (`psychometric`), not from the turns alone.
Amounts are in JND of the standard observer, so the limit that comes out scales every
prediction of seen flicker.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import cv2
import numpy as np

from hasty_reel.errors import WrongInput
from hasty_reel.image.lightness import lightness, lightness_slope
from hasty_reel.image.luminance import luminance
from hasty_reel.image.srgb import srgb_encode
from hasty_reel.measure.psychometric import Limit, fit_limit
from hasty_reel.measure.seen import Eyes, contrast_of
from hasty_reel.measure.seennoise import seen_over_all

FIRST, FACTOR, FINE = 4.0, 1.6, 1.25
"""Amount in JND it begins with, and by how much it changes: coarsely until the second reversal, then finely."""
REVERSALS, COARSE = 10, 2
"""Turns of the staircase until it ends, and how many of the first are made in coarse steps."""
MOST_TRIALS = 60
LEAST_JND, MOST_JND = 0.05, 40.0
PATCH, FRAMES = 256, 12
GREY = 0.35


@dataclass(frozen=True)
class Trial:
    """One answer: the amount shown in JND, and whether the restless loop was found."""

    amount: float
    right: bool


@dataclass(frozen=True)
class Staircase:
    """The course of a test; every answer makes a new one.

    amount : in JND, to be shown next; streak : right answers in a row at it
    reversals : amounts at which the course turned
    """

    amount: float = FIRST
    streak: int = 0
    falling: bool | None = None
    reversals: tuple[float, ...] = ()
    trials: tuple[Trial, ...] = ()

    @property
    def ended(self) -> bool:
        """Whether it has come to rest, or goes on for too long to."""
        return len(self.reversals) >= REVERSALS or len(self.trials) >= MOST_TRIALS

    @cached_property
    def fitted(self) -> Limit:
        """What all answers so far tell."""
        return fit_limit([t.amount for t in self.trials], [t.right for t in self.trials])

    @property
    def limit(self) -> float | None:
        """The limit in JND; None while it cannot be told, and for guesses."""
        return self.fitted.value if self.ended and not self.fitted.guessed else None

    @property
    def spread(self) -> float | None:
        """Standard error of the limit as a factor, e.g. 1.2; None while it cannot be told."""
        return self.fitted.spread if self.limit is not None else None

    def answered(self, right: bool) -> Staircase:
        """Return the course after one more answer: two right in a row go down, one wrong goes up.

        Parameters
        ----------
        right : whether the restless loop was found
        """
        trials = (*self.trials, Trial(self.amount, right))
        if right and self.streak == 0:
            return replace(self, streak=1, trials=trials)
        down = right
        turned = self.falling is not None and self.falling != down
        reversals = (*self.reversals, self.amount) if turned else self.reversals
        factor = FACTOR if len(reversals) < COARSE else FINE
        amount = float(np.clip(self.amount / factor if down else self.amount * factor, LEAST_JND, MOST_JND))
        return Staircase(amount, 0, down, reversals, trials)


@dataclass(frozen=True)
class Loops:
    """What is shown of one trial: codes (h, w, 3) uint8 of each frame, calm and restless."""

    calm: list[np.ndarray]
    restless: list[np.ndarray]


@dataclass(frozen=True)
class Stimulus:
    """What the unrest is added to, and of what kind it is.

    base : (h, w) display luminance 0..1 of each frame (one for a still patch), or (h, w, 3) display light
    grain : size of a grain in pixels; 1 is grain, 4 are blotches
    averaged : frames it is averaged over, as denoising over time leaves it: it crawls
    """

    base: tuple[np.ndarray, ...]
    grain: float = 1.0
    averaged: int = 1
    count: int = FRAMES
    _unit: list[float] = field(default_factory=list, compare=False)

    def loops(self, amount: float, eyes: Eyes, rows: int, fps: float, seed: int) -> Loops:
        """Both loops of a trial.

        Parameters
        ----------
        amount : of the unrest, in JND of the standard observer at this distance
        eyes : how far they sit
        rows : of the picture as high as the screen, of whose pixels the patch is a part
        fps : frames a second
        seed : of the pattern
        """
        rng = np.random.default_rng(seed)
        patterns = self._averaged([self._pattern(rng) for _ in range(max(self.count, len(self.base)))])
        strength = amount / self._seen_of_unit(patterns, eyes, rows, fps)
        calm, restless = [], []
        for k, pattern in enumerate(patterns):
            light = self.base[k % len(self.base)]
            flat = light if light.ndim == 2 else luminance(light)
            share = 1.0 + strength * pattern * _weber(flat)
            calm.append(_codes(light, rng))
            restless.append(_codes(np.clip(light * (share if light.ndim == 2 else share[..., None]), 0.0, 1.0), rng))
        return Loops(calm, restless)

    def _pattern(self, rng: np.random.Generator) -> np.ndarray:
        h, w = self.base[0].shape[:2]
        noise: np.ndarray = rng.standard_normal((h, w)).astype(np.float32)
        if self.grain > 1.0:
            noise = cv2.GaussianBlur(noise, (0, 0), self.grain)
            noise = noise / np.float32(max(float(noise.std()), 1e-9))
        return np.clip(noise, -3.0, 3.0)

    def _averaged(self, patterns: list[np.ndarray]) -> list[np.ndarray]:
        """Each averaged with those after it, around the loop, less what stands still in it, at the spread it had."""
        if self.averaged == 1:
            return patterns
        count = len(patterns)
        made = np.stack([np.mean([patterns[(k + j) % count] for j in range(self.averaged)], axis=0) for k in range(count)])
        made -= made.mean(axis=0)
        return list(made / np.float32(max(float(made.std()), 1e-9)))

    def _seen_of_unit(self, patterns: Sequence[np.ndarray], eyes: Eyes, rows: int, fps: float) -> float:
        """Seen flicker in JND where the contrast of the pattern is 1."""
        return max(seen_over_all(np.stack(patterns), eyes.pixels_per_degree(rows), fps), 1e-9)


def _weber(light: np.ndarray) -> np.ndarray:
    """Relative change of light that is a contrast of 1 to the eye (see `seen`)."""
    light = np.maximum(light, 1e-4)
    return 1.0 / np.maximum(contrast_of(np.ones_like(light), lightness(light)) * lightness_slope(light), 1e-6)


def _codes(light: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """8-bit sRGB codes with random dither: what is finer than a code is kept in the mean."""
    code = srgb_encode(light)
    dithered = np.floor(code * 255.0 + rng.random(code.shape, np.float32))
    codes = np.clip(dithered, 0, 255).astype(np.uint8)
    return codes if codes.ndim == 3 else np.repeat(codes[..., None], 3, axis=-1)


def grey_patch(side: int = PATCH) -> tuple[np.ndarray, ...]:
    """Return an even grey, the demo patch.

    Parameters
    ----------
    side : of the patch in pixels, at most
    """
    return (np.full((side, side), GREY, np.float32),)


def picture_patch(lights: Sequence[np.ndarray], side: int = PATCH) -> tuple[np.ndarray, ...]:
    """Return the middle of a proof's displayed frames (h, w, 3), display light 0..1, as a patch.

    Parameters
    ----------
    lights : (h, w, 3) display light, 0 to 1, of each frame
    side : of the patch in pixels, at most

    Raises
    ------
    WrongInput
        When there is none.
    """
    if not lights:
        raise WrongInput("No frames for the eye test; expected at least one.")
    h, w = lights[0].shape[:2]
    high, wide = min(h, side), min(w, side)
    y, x = (h - high) // 2, (w - wide) // 2
    return tuple(np.ascontiguousarray(p[y : y + high, x : x + wide], np.float32) for p in lights)
