"""A plan as a table to read and as a document for programs."""

from __future__ import annotations

import numpy as np

from hasty_reel.cli.answers import clean
from hasty_reel.farm.nextproof import NextProof
from hasty_reel.plan.answer import span
from hasty_reel.plan.compare.bundles import Alternatives
from hasty_reel.plan.compare.savings import Saving
from hasty_reel.plan.compare.sizes import SizeRow, trade_words
from hasty_reel.plan.compare.steps import Step
from hasty_reel.plan.frames.caches import Placing
from hasty_reel.plan.frames.shutter import GAP, Shutter
from hasty_reel.plan.heldback import HeldBack
from hasty_reel.plan.shot import PARTS, ShotPlan
from hasty_reel.plan.time.spread import day_factors, frame_band, total_draws
from hasty_reel.reel.caching import owners_of
from hasty_reel.reel.document import Reel
from hasty_reel.reel.durations import spoken
from hasty_reel.reel.frames import proof_frames_text
from hasty_reel.reel.rate import timecode
from hasty_reel.viewers import seen_by, seen_words, who_sees


def shot_document(plan: ShotPlan, reel: Reel) -> dict:
    low, high = frame_band(plan)
    seen_low, seen_high = plan.seen_band
    sparks, total = plan.seen_sparks, total_draws(plan) * day_factors()
    rows = [
        {
            "frame": int(plan.frames[k]),
            "timecode": _film_timecode(reel, plan, int(plan.frames[k])),
            "samples": int(plan.samples[k]),
            "seconds": float(plan.seconds[k]),
            "seconds_low": float(low[k]),
            "seconds_high": float(high[k]),
            **{f"{part}_seconds": float(getattr(plan, part)[k]) for part in PARTS},
            "noise": float(plan.noise[k]),
            "noise_L": float(plan.noise_L[k]),
            "seen_flicker": float(plan.seen_flicker[k]),
            "seen_flicker_low": float(seen_low[k]),
            "seen_flicker_high": float(seen_high[k]),
            "seen_sparks": float(sparks[k]),
            "viewers": seen_by(float(plan.seen_flicker[k])),
        }
        for k in range(len(plan.frames))
    ]
    return {
        "id": plan.shot.id,
        "recipe": plan.recipe.name,
        "rendered": [plan.width, plan.height],
        "total_seconds": plan.total_seconds,
        "sure5_seconds": float(np.quantile(total, 0.5)),
        "sure9_seconds": float(np.quantile(total, 0.9)) if plan.frame_model.fixed.known else None,
        "unseen_frames": plan.frame_model.unseen,
        "parts": {part: float(getattr(plan, part).sum()) for part in PARTS},
        "worst_noise": float(plan.noise.max()),
        "calm_percent": 100.0 * seen_by(plan.eyes.limit),
        "caution_seconds": plan.caution_seconds,
        "solved": plan.budget.solved,
        "why": plan.budget.why,
        "not_proven": list(plan.unproven),
        "frames": rows,
    }


def shutter_table(shot: str, shutter: Shutter | None) -> list[str]:
    if shutter is None:
        return [f"{shot}: motion blur not known: no proof has motion vectors"]
    gaps = f"gaps of {shutter.gap:.2f}" if shutter.steps else "random times"
    return [
        f"{shot}: longest motion blur {shutter.blur.max():.1f} delivered pixels at frame {shutter.fastest}, {gaps}; "
        f"{shutter.needed()} steps leave none above {GAP:g}; {shutter.product}"
    ]


def shutter_document(shutter: Shutter | None) -> dict | None:
    if shutter is None:
        return None
    return {
        "steps": shutter.steps,
        "needed": shutter.needed(),
        "gap": shutter.gap,
        "frames": [{"frame": int(f), "blur": float(b)} for f, b in zip(shutter.frames, shutter.blur)],
    }


def cache_table(plan: ShotPlan, placing: Placing | None) -> list[str]:
    if placing is None:
        return []
    now = owners_of(plan.shot, plan.recipe)
    have = f"{len(now)} light caches" if now else "no light cache"
    return [
        f"{plan.shot.id}: {have}; placed by the view {len(placing.placed)}, a fixed step of {placing.same_as_step} leaves no more new: "
        f"{proof_frames_text(placing.placed)}"
    ]


def cache_document(plan: ShotPlan, placing: Placing | None) -> dict | None:
    if placing is None:
        return None
    return {
        "now": owners_of(plan.shot, plan.recipe),
        "by_view": list(placing.placed),
        "share": placing.share,
        "same_as_step": placing.same_as_step,
        "seconds_each": placing.seconds,
    }


def size_table(shot: str, rows: list[SizeRow], speed: float) -> list[str]:
    out = [
        f"{shot}: {r.scale:g} %, {r.width}x{r.height}: {spoken(r.seconds / speed)} as calm with {r.samples:.0f} samples, "
        + (f"seen by {who_sees(r.seen)} in the same time with {r.same_time:.0f}" if r.same_time > 0 else "no samples left in the same time")
        + f"; with the same samples {spoken(r.alike_seconds / speed)}, seen by {who_sees(r.alike_seen)}"
        + ("" if r.sharpness is None else f"; {100 * r.sharpness:.0f} % as sharp")
        + ("" if r.shimmer is None else f", {100 * r.shimmer:.0f} % of the shimmer")
        for r in rows
    ]
    return out + ([f"{shot}: {words}"] if (words := trade_words(rows)) else [])


def size_document(row: SizeRow) -> dict:
    return {
        "scale": row.scale,
        "rendered": [row.width, row.height],
        "seconds": row.seconds,
        "samples": row.samples,
        "same_time_samples": row.same_time,
        "same_time_seen_flicker": row.seen if row.same_time > 0 else None,
        "same_samples_seconds": row.alike_seconds,
        "same_samples_seen_flicker": row.alike_seen,
        "look_L": row.loss,
        "sharpness": row.sharpness,
        "shimmer": row.shimmer,
    }


def saving_table(shot: str, found: list[Saving], speed: float) -> list[str]:
    return [
        f"{shot}: {s.words}: {spoken(s.seconds / speed)} less at equal seen flicker "
        f"({spoken(s.low / speed)} to {spoken(s.high / speed)} nine times in ten), look {s.loss:+.1f} L*"
        for s in found
    ]


def saving_document(saving: Saving) -> dict:
    return {
        "words": saving.words,
        "changes": saving.changes,
        "held": saving.held,
        "seconds": saving.seconds,
        "low": saving.low,
        "high": saving.high,
        "look_L": saving.loss,
    }


def next_document(proof: NextProof) -> dict:
    order = proof.orders[0]
    return {
        "frames": proof_frames_text(order.frames),
        "samples": order.samples,
        "scale": order.scale,
        "scan": order.scan,
        "crops": [list(o.crop) for o in proof.orders if o.crop is not None],
        "seconds": proof.seconds,
        "narrows_seconds": proof.narrows,
        "why": proof.why,
    }


def bundle_document(found: Alternatives) -> dict:
    bundles = [
        {
            "name": b.name,
            "changes": list(b.words),
            "seconds": b.seconds,
            "samples": [int(b.plan.samples.min()), int(b.plan.samples.max())],
            "seen_flicker": b.plan.worst_flicker,
            "loss_L": b.loss,
            "viewers": seen_by(b.plan.worst_flicker),
            "calm_percent": 100.0 * seen_by(b.plan.eyes.limit),
            "in_time": b.in_time,
        }
        for b in found.bundles
    ]
    return {"bundles": bundles, "why": found.why, "missing": found.missing}


def step_document(step: Step, speed: float) -> dict:
    return {
        "words": step.sentence(speed),
        "changes": dict(step.changes),
        "calm_percent": step.calm,
        "calm": step.reaches,
        "seen_flicker": step.seen,
        "viewers": seen_by(step.seen),
        "seconds": step.seconds,
        "spare_seconds": step.spare_seconds,
    }


def bundle_table(shot: str, found: Alternatives, speed: float) -> list[str]:
    lines = [
        f"{shot}: {b.name}: {spoken(b.seconds / speed)}{'' if b.in_time else ', late'}, {span(b.plan)} samples, "
        f"{seen_words(b.plan.worst_flicker)}, look ± {b.loss:.1f} L*: {', '.join(b.words) or 'as it is'}"
        for b in found.bundles
    ]
    return [*lines, *(f"{shot}: {words}" for words in (found.why, found.missing and f"missing: {found.missing}") if words)]


def held_document(held: HeldBack) -> dict:
    rows = [
        {"frame": f.frame, "seconds_ratio": f.seconds, "noise_ratio": clean(f.noise), "seen_ratio": clean(f.seen), "inside": f.inside}
        for f in held.frames
    ]
    errors = {f"{name}_error": clean(held.error(name)) for name in ("seconds", "noise", "seen")}
    return {"frames": rows, **errors, "inside_90": clean(held.coverage), "words": held.words, "mend": held.mend}


def held_table(shot: str, held: HeldBack) -> list[str]:
    if not held.frames:
        return [f"{shot}: nothing can be held back yet: too few frames have a proof"]
    lines = [f"{shot}: {held.words}; {100 * held.coverage:.0f} % of their seconds inside the 90 % band"]
    lines += [f"{f.frame:>8g}  predicted/measured: seconds {f.seconds:.2f}, noise {f.noise:.2f}, seen {f.seen:.2f}" for f in held.frames]
    return [*lines, *([f"{shot}: {held.mend}"] if held.mend else [])]


def _film_timecode(reel: Reel, plan: ShotPlan, frame: int) -> str | None:
    """Where a frame plays in the film; None for a handle before its begin."""
    place = reel.film_place(plan.shot, frame)
    return None if place is None else timecode(reel.start_frame + place, reel.fps, reel.drop_frame)


def shot_table(plan: ShotPlan) -> list[str]:
    lines = [
        f"{plan.shot.id} {plan.shot.name}: {len(plan.frames)} frames at {plan.width}x{plan.height}, recipe {plan.recipe.name}",
        f"{'frame':>6} {'samples':>8} {'load s':>8} {'cache s':>8} {'sample s':>9} {'denoise s':>10} {'write s':>8} {'all s':>8} "
        f"{'noise':>8} {'L*':>6} {'JND':>6}  seen by",
    ]
    for k, frame in enumerate(plan.frames):
        lines.append(
            f"{frame:>6} {plan.samples[k]:>8} {plan.load[k]:>8.2f} {plan.cache[k]:>8.2f} {plan.sample[k]:>9.2f} {plan.denoise[k]:>10.2f} "
            f"{plan.write[k]:>8.2f} {plan.seconds[k]:>8.2f} {plan.noise[k]:>8.4f} {plan.noise_L[k]:>6.2f} {plan.seen_flicker[k]:>6.2f}  "
            f"{who_sees(float(plan.seen_flicker[k]))}"
        )
    lines.append(f"{plan.shot.id}: {spoken(plan.total_seconds)} on a machine of speed 1, worst noise {plan.noise.max():.4f}")
    if not plan.budget.solved:
        lines.append(f"{plan.shot.id}: cannot, {plan.budget.why}")
    elif plan.budget.why:
        lines.append(f"{plan.shot.id}: {plan.budget.why}")
    if plan.unproven:
        lines.append(f"{plan.shot.id}: not proven yet: {', '.join(plan.unproven)}")
    if plan.untold_words:
        lines.append(f"{plan.shot.id}: {plan.untold_words}")
    if plan.unseen_words:
        lines.append(f"{plan.shot.id}: {plan.unseen_words}")
    return lines
