"""The plan of a shot in one sentence: whether it keeps its promise, when it is ready, with which samples."""

from __future__ import annotations

import numpy as np

from hasty_reel.plan.compare.flat import even_saves
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.plan.time.deadline import Deadline
from hasty_reel.reel.durations import spoken
from hasty_reel.reel.frames import write_frames
from hasty_reel.viewers import who_sees

LITTLE = 0.01
"""Share of the hours that are not worth a word."""
TOLD_CAUTION = 0.1
"""Share of the hours from which on it is said that they are caution."""


def sentence(plan: ShotPlan, speed: float, when: Deadline | None = None) -> str:
    """Return the plan of a shot as one sentence with numbers in it.

    Parameters
    ----------
    plan : of the shot
    speed : frames rendered in the time one takes on a machine of speed 1
    when : the reel is ready; None where that is not known
    """
    hours = spoken(plan.total_seconds / speed)
    kind, value = plan.shot.hold.kind, plan.shot.hold.value
    if kind == "clean":
        return _clean(plan, hours, speed, when)
    if not plan.budget.solved:
        return f"Cannot hold this: {plan.budget.why}."
    worst = float(plan.noise.max())
    if kind == "noise":
        where = "nearly every place of " if plan.shot.hold.of == "worst" else ""
        return f"Noise at most {value:.3g} in {where}19 of 20 frames or more: {hours} with {span(plan)} samples."
    if kind == "total":
        return f"In {hours}: noise comes down to {worst:.3g} with {span(plan)} samples."
    if kind == "flat":
        saved = even_saves(plan)
        even = f"; even noise would save {spoken(saved / speed)}" if saved > LITTLE * plan.total_seconds else ""
        return f"{span(plan)} samples in every frame: {hours}, seen by up to {who_sees(plan.worst_flicker)}{even}."
    return f"At most {spoken(value)} a frame: noise reaches {worst:.3g} at frame {int(plan.frames[plan.noise.argmax()])}, {hours} in all."


def span(plan: ShotPlan) -> str:
    """Return the least and the most samples of a plan, in words.

    Parameters
    ----------
    plan : of the shot
    """
    low, high = int(plan.samples.min()), int(plan.samples.max())
    return f"{low}" if low == high else f"{low} to {high}"


def _clean(plan: ShotPlan, hours: str, speed: float, when: Deadline | None) -> str:
    many = who_sees(plan.eyes.limit)
    by = "" if when is None or when.never else f" by {when.ready.astimezone():%a %H:%M} ({'9 in 10' if when.promised else 'even chance'})"
    denoised = _denoised(plan)
    if plan.budget.solved:
        calm = f"Calm for all but {many}"
        caution = _caution(plan, speed)
        if when is not None and when.spare_seconds < 0:
            return f"{calm}, but {spoken(-when.spare_seconds)} late: {span(plan)} samples{denoised}, {hours} for the shot{caution}."
        return f"{calm}{by}: {span(plan)} samples{denoised}, {hours} for the shot{caution}."
    seen = plan.frames[plan.seen_flicker > plan.eyes.limit]
    which = write_frames([int(f) for f in seen]) if len(seen) else ""
    frames = (
        "all frames" if len(seen) == len(plan.frames) else f"frames {which}" if len(seen) and len(which) < 40 else f"{len(seen)} frames"
    )
    if not len(seen):
        return f"Not surely calm for all but {many}: {plan.budget.why}."
    of = "sparks, mostly" if float((plan.seen_sparks / plan.seen_flicker)[plan.seen_flicker.argmax()]) > 0.7 else "grain, mostly"
    most = who_sees(float(plan.seen_flicker.max()))
    return f"Not calm for all but {many}: {frames} seen by up to {most} ({of}) at {span(plan)} samples, {hours}{_needed(plan, speed)}."


def _denoised(plan: ShotPlan) -> str:
    """Over how many frames it is denoised, and that nothing is counted on it before a run tried it; '' where it is not."""
    window = plan.recipe.denoise_window
    if window <= 1 or len(plan.frames) <= 1 or plan.recipe.denoise_strength <= 0:
        return ""
    if "denoise_window" in plan.unproven:
        return f", denoising over {window} frames not counted on before a run tries it"
    return f", denoised over {window} frames"


def _caution(plan: ShotPlan, speed: float) -> str:
    """What of the hours is caution, and the proof that would take most of it away; '' where it is little."""
    seconds = plan.caution_seconds
    if seconds < TOLD_CAUTION * plan.total_seconds:
        return ""
    by_noise, by_finish = plan.frame_model.variance_spread / 2.0, plan.seen_spread
    if float(np.mean(by_finish)) > float(np.mean(by_noise)):
        proof = f"a run about frame {int(plan.frames[int(np.argmax(by_finish))])} to try denoising on"
    else:
        proof = f"a proof with two seeds at frame {int(plan.frames[int(np.argmax(by_noise))])}"
    return f", {spoken(seconds / speed)} of it caution, less with {proof}"


def _needed(plan: ShotPlan, speed: float) -> str:
    """What samples would do, and what they take more; '' where none would."""
    needed = plan.budget.needed
    if needed is None or not np.isfinite(needed).all():
        return "; no samples alone are enough"
    more = np.maximum(0.0, needed / np.maximum(plan.samples, 1) - 1.0) * plan.sample
    return f"; up to {int(np.ceil(needed.max()))} samples would do, for {spoken(float(more.sum()) / speed)} more"
