"""Motion blur of a shot: how long it is, the gaps that shutter steps leave in it, and the steps that close them.

A shutter that is sampled in k equally spaced moments shows an edge k times along its way; the first ghost of full contrast
is at k / b cycles a pixel for a blur of b pixels. It hides behind the pixel filter where the gap b / k is about one
delivered pixel (common practice, no source).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hasty_reel.evidence.motion import FrameSpeed
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.settings.recipe import SETTING

GAP = 1.0
"""Delivered pixels between two moments of the open shutter that do not show."""
MOST_STEPS = int(SETTING["shutter_steps"].high)


@dataclass(frozen=True)
class Shutter:
    """Motion blur over the frames of a shot.

    frames : (f,); blur : (f,) its length in delivered pixels, below which 95 % of the edges stay
    steps : of the recipe, 0 for random times; least, most : samples of the frames as they are planned
    told : frames whose vectors were read
    """

    frames: np.ndarray
    blur: np.ndarray
    steps: int
    least: int
    most: int
    told: tuple[float, ...]

    @property
    def fastest(self) -> int:
        """The frame with the longest blur."""
        return int(self.frames[int(self.blur.argmax())])

    @property
    def gaps(self) -> np.ndarray:
        """The gap between two moments in each frame, in delivered pixels, (f,); 0 with random times."""
        return self.blur / self.steps if self.steps else np.zeros(len(self.blur))

    @property
    def gap(self) -> float:
        """The longest of them."""
        return float(self.gaps.max())

    def needed(self, gap: float = GAP) -> int:
        """Return the fewest steps that leave no longer gap in any frame.

        Parameters
        ----------
        gap : in delivered pixels
        """
        return steps_needed(float(self.blur.max()), gap)

    @property
    def product(self) -> str:
        """Samples a step x steps = samples, in words."""
        if not self.steps:
            return f"{self.least} to {self.most} samples, each at a time of its own" if self.least < self.most else f"{self.least} samples"
        low, high = self.least // self.steps, self.most // self.steps
        each = f"{low}" if low == high else f"{low} to {high}"
        whole = f"{self.least}" if self.least == self.most else f"{self.least} to {self.most}"
        return f"{each} samples a step × {self.steps} steps = {whole} samples"


def steps_needed(blur: float, gap: float) -> int:
    """Return the fewest steps of the shutter that leave no longer gap, ceil(blur / gap).

    Parameters
    ----------
    blur : its length in pixels
    gap : in pixels
    """
    return min(MOST_STEPS, max(1, math.ceil(blur / gap - 1e-9)))


def strobed_line(blur: float, steps: int, pixels: int) -> np.ndarray:
    """Return how a bright line of one pixel looks that moves over a row while the shutter is open, (pixels,).

    Parameters
    ----------
    blur : how far it moves, in pixels; the way is centred in the row
    steps : equally spaced moments; 0 for all the time
    pixels : of the row

    Returns
    -------
    np.ndarray
        Light of each pixel as a share of the line's at rest.
    """
    moments = steps or 4 * max(1, math.ceil(blur))
    start = (pixels - 1) / 2.0 - blur / 2.0
    at = start + blur * (np.arange(moments) + 0.5) / moments
    covered = np.maximum(0.0, 1.0 - np.abs(np.arange(pixels)[:, None] - at[None, :]))
    return covered.sum(axis=1) / moments


def shutter_of(plan: ShotPlan, speeds: Sequence[FrameSpeed], width: int) -> Shutter | None:
    """Return the motion blur of a planned shot; None where no proof has vectors.

    Parameters
    ----------
    plan : of the shot
    speeds : of proof frames, by frame; between them it is taken to change evenly
    width : delivered, in pixels
    """
    if not speeds:
        return None
    at = np.array([s.frame for s in speeds])
    share = np.interp(plan.frames, at, [s.share for s in speeds])
    blur = share * width * plan.recipe.shutter_angle / 360.0
    return Shutter(
        plan.frames, blur, plan.recipe.shutter_steps, int(plan.samples.min()), int(plan.samples.max()), tuple(float(f) for f in at)
    )
