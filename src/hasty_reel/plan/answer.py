"""The plan of a shot in one sentence: whether it keeps its promise, when it is ready, with which samples."""

from __future__ import annotations

from hasty_reel.plan.shot import ShotPlan
from hasty_reel.plan.time.deadline import Deadline
from hasty_reel.reel.durations import spoken
from hasty_reel.reel.frames import write_frames


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
        return _clean(plan, hours, when)
    if not plan.budget.solved:
        return f"Cannot hold this: {plan.budget.why}."
    worst = float(plan.noise.max())
    if kind == "noise":
        where = "nearly every place of " if plan.shot.hold.of == "worst" else ""
        return f"Noise at most {value:.3g} in {where}19 of 20 frames or more: {hours} with {span(plan)} samples."
    if kind == "total":
        return f"In {hours}: noise comes down to {worst:.3g} with {span(plan)} samples."
    return f"At most {spoken(value)} a frame: noise reaches {worst:.3g} at frame {int(plan.frames[plan.noise.argmax()])}, {hours} in all."


def span(plan: ShotPlan) -> str:
    """Return the least and the most samples of a plan, in words.

    Parameters
    ----------
    plan : of the shot
    """
    low, high = int(plan.samples.min()), int(plan.samples.max())
    return f"{low}" if low == high else f"{low} to {high}"


def _clean(plan: ShotPlan, hours: str, when: Deadline | None) -> str:
    by = "" if when is None or when.never else f" by {when.ready.astimezone():%a %H:%M} ({'9 in 10' if when.promised else 'even chance'})"
    window = plan.recipe.denoise_window
    denoised = f", denoised over {window} frames" if window > 1 and len(plan.frames) > 1 and plan.recipe.denoise_strength > 0 else ""
    if plan.budget.solved:
        if when is not None and when.spare_seconds < 0:
            return f"Clean, but {spoken(-when.spare_seconds)} late: {span(plan)} samples{denoised}, {hours} for the shot."
        return f"Clean{by}: {span(plan)} samples{denoised}, {hours} for the shot."
    seen = plan.frames[plan.seen_flicker > plan.eyes.limit * plan.shot.hold.value / 100.0]
    which = write_frames([int(f) for f in seen]) if len(seen) else ""
    frames = (
        "all frames" if len(seen) == len(plan.frames) else f"frames {which}" if len(seen) and len(which) < 40 else f"{len(seen)} frames"
    )
    if not len(seen):
        return f"Not surely clean: {plan.budget.why}."
    of = "sparks, mostly" if float((plan.seen_sparks / plan.seen_flicker)[plan.seen_flicker.argmax()]) > 0.7 else "grain, mostly"
    return f"Not clean: {frames} show up to {plan.seen_flicker.max():.1f} JND ({of}) at {span(plan)} samples; {hours} for the shot."
