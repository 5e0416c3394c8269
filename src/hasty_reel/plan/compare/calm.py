"""What denoising is worth: the samples it stands for, what it costs beside them, and how much of it is enough."""

from __future__ import annotations

from dataclasses import dataclass, replace

import msgspec
import numpy as np

from hasty_reel.evidence.seentable import SAMPLE_GRID
from hasty_reel.measure.worst import WORST_PERCENTILE, worst
from hasty_reel.plan.frames.finishing import finishing_of, seen_ratio_at
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.predict.model import ShotModel
from hasty_reel.predict.tables import table_at
from hasty_reel.reel.resolved import ResolvedRecipe
from hasty_reel.settings.recipe import Recipe
from hasty_reel.viewers import who_sees

MOST_SAMPLES = float(SAMPLE_GRID[-1])
"""Samples that a table speaks of; more are said as more."""
HALVINGS = 40
"""How often a stretch of samples is halved: far below one sample."""
LEAP, STEP = 10.0, 1.0
"""Percent of strength in which the least that is enough is looked for, first roughly."""


@dataclass(frozen=True)
class Worth:
    """What denoising does to the frame that stands for a shot.

    samples : of the frame; alike : that would show as little flicker without denoising, `MOST_SAMPLES` for that many or more
    seconds : of denoising a frame; saved : seconds of the samples that it stands for
    seen, raw : seen flicker with it and without it, in JND
    detail : contrast of edges after / before; bias_L : what it changes besides noise, in L*
    """

    samples: float
    alike: float
    seconds: float
    saved: float
    seen: float
    raw: float
    detail: float
    bias_L: float

    @property
    def words(self) -> str:
        """The same in a sentence."""
        if self.raw <= 0 or self.seen == self.raw:
            return "Denoising is off: frames are as rendered."
        if self.seen > self.raw:
            return f"The chain shows more flicker than frames as rendered: seen by {who_sees(self.seen)} instead of {who_sees(self.raw)}."
        alike = f"{self.alike:.0f} samples" if self.alike < MOST_SAMPLES else f"more than {MOST_SAMPLES:.0f} samples"
        lost = f"keeps {100 * min(1.0, self.detail):.0f} % of the contrast of edges"
        ghosts = f", changes {self.bias_L:.1f} L* besides noise" if self.bias_L >= 0.05 else ""
        return (
            f"As calm as {alike} instead of {self.samples:.0f}: {self.seconds:.2g} s a frame instead of {self.saved:.3g} s; {lost}{ghosts}."
        )


def worth_of(plan: ShotPlan, model: ShotModel, recipe: Recipe | None = None) -> Worth:
    """Return what denoising does at the samples of a plan, on the frame whose seen flicker stands for the shot.

    Parameters
    ----------
    plan : of the shot
    model : of the shot
    recipe : denoised otherwise than planned; None: as planned
    """
    resolved = plan.resolved if recipe is None else ResolvedRecipe.of(recipe, plan.shot, plan.resolved.delivered)
    finishing = finishing_of(plan.shot, resolved, model, plan.typical_samples)
    raw = _as_rendered(plan, model)
    left = seen_ratio_at(plan.shot, resolved, model, plan.samples, plan.raw_seen)
    seen = raw * left
    k = int(np.argsort(seen)[int(WORST_PERCENTILE / 100.0 * (len(seen) - 1))])
    table, ratio = plan.frame_model.seen_table(plan.degrees)[k : k + 1], float(left[k])
    low, high = float(plan.equal_samples[k]), MOST_SAMPLES
    wanted = float(table_at(table, np.array([low]))[0]) * ratio
    for _ in range(HALVINGS):
        middle = float(np.sqrt(low * high))
        low, high = (middle, high) if float(table_at(table, np.array([middle]))[0]) > wanted else (low, middle)
    samples = float(plan.samples[k])
    alike = high * samples / float(plan.equal_samples[k])
    saved = float(plan.sample[k] / plan.mean_samples[k]) * (alike - samples)
    return Worth(
        samples, min(alike, MOST_SAMPLES), finishing.seconds, saved, float(seen[k]), float(raw[k]), finishing.detail, finishing.bias_L
    )


def enough_strength(plan: ShotPlan, model: ShotModel) -> float | None:
    """Return the least strength of denoising with which the shot plays clean at the samples of its plan, in percent; None where none does.

    Parameters
    ----------
    plan : of the shot
    model : of the shot
    """
    raw = _as_rendered(plan, model)

    def _enough(strength: float) -> bool:
        weaker = replace(plan.resolved, recipe=msgspec.structs.replace(plan.recipe, denoise_strength=float(strength)))
        return worst(raw * seen_ratio_at(plan.shot, weaker, model, plan.samples, plan.raw_seen)) < plan.eyes.limit

    leap = next((s for s in np.arange(0.0, 100.0 + LEAP, LEAP) if _enough(s)), None)
    if not leap:
        return leap
    return float(next(s for s in np.arange(leap - LEAP + STEP, leap + STEP, STEP) if s == leap or _enough(s)))


def _as_rendered(plan: ShotPlan, model: ShotModel) -> np.ndarray:
    """Seen flicker of the frames before finishing, (f,) in JND."""
    return plan.seen_flicker / np.maximum(seen_ratio_at(plan.shot, plan.resolved, model, plan.samples, plan.raw_seen), 1e-9)
