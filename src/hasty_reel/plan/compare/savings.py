"""What buys the most time: every change of one setting that proofs tried, at equal seen flicker, and what it costs in look."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import msgspec
import numpy as np

from hasty_reel.evidence.looks import SCALES, Looks
from hasty_reel.plan.compare.baseline import baseline
from hasty_reel.plan.compare.bundles import MOST_SAMPLES, OF_MOTION, denoise_ways
from hasty_reel.plan.compare.prices import plan_seen_alike
from hasty_reel.plan.frames.crops import DENSER, moving_crop
from hasty_reel.plan.frames.finishing import finishing_of
from hasty_reel.plan.frames.plates import still_plate
from hasty_reel.plan.frames.rendered import noisier_around
from hasty_reel.plan.shot import ShotPlan, plan_shot, stopping_of
from hasty_reel.plan.time.spread import total_draws
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.document import Reel
from hasty_reel.settings.recipe import Recipe, Value, departing, differences

LEAST = 0.02
"""Share of the seconds of a shot that a change must buy to be told."""


@dataclass(frozen=True)
class Saving:
    """One change of the recipe.

    words : what changes; changes : lines and their new values; held : frame that a layer is held at as a plate; None for no plate
    own : whether the shot alone is changed, instead of every shot of the recipe
    seconds : bought over the shot at equal seen flicker, on a machine of speed 1; low, high : between which nine times in ten
    loss : what it changes in the picture besides noise, root mean square in L*; of denoising what it changes more than now
    plan : of the shot with it
    """

    words: str
    changes: dict[str, Value]
    seconds: float
    low: float
    high: float
    loss: float
    plan: ShotPlan
    held: int | None = None
    own: bool = False


def savings(reel: Reel, plan: ShotPlan, model: ShotModel, looks: Looks) -> list[Saving]:
    """Return the changes that buy time, most of it first.

    Parameters
    ----------
    reel : says size and rate
    plan : of the shot, as it stands
    model : what its proofs say
    looks : what settings change in the picture
    """
    base = baseline(reel, plan, model)
    shot = base.shot
    took = total_draws(base)
    out = []
    # each change at the samples with which it shows as little as the plan does now
    for changes, loss in _changes(reel, base, model, looks):
        recipe = departing(base.recipe, changes)
        wide = msgspec.structs.replace(recipe, samples_ceiling=MOST_SAMPLES)
        alike = plan_shot(reel, shot, model, wide, plan.eyes, base.samples)
        other = plan_seen_alike(reel, shot, model, alike, base)
        if other.unproven or not base.total_seconds - other.total_seconds > LEAST * base.total_seconds:
            continue
        low, high = np.quantile(took - total_draws(other), (0.05, 0.95))
        words = ", ".join(differences(recipe, base.recipe))
        out.append(Saving(words, changes, base.total_seconds - other.total_seconds, float(low), float(high), loss, other))
    # rendering only what moves; at the low end it is as dense as the densest that was measured
    crop = moving_crop(base, model.evidence)
    if crop is not None:
        lines, change = crop
        recipe = departing(base.recipe, lines)
        other = plan_shot(reel, shot, model, recipe, plan.eyes)
        bought = took - total_draws(other)
        high = float(np.quantile(bought, 0.95))
        low = float(np.quantile(took - total_draws(replace(other, pixels=np.minimum(other.pixels * DENSER, base.pixels))), 0.05))
        share = float(np.median(other.pixels / base.pixels))
        words = f"render the {100 * share:.0f} % of the picture that move, frame {shot.middle} around them"
        around = noisier_around(shot, recipe, other.noise, other.denoised)
        words += "" if around is None else f", {around:.1f} times as noisy there"
        out.append(Saving(words, dict(lines), base.total_seconds - other.total_seconds, low, high, change, other, own=True))
    # rendering one frame instead of all, where nothing moves
    plate = still_plate(base, model.evidence)
    if plate is not None:
        frame, change = plate
        left = 1.0 - float(base.seconds[base.index(frame)]) / base.total_seconds
        low, high = (float(q) * left for q in np.quantile(took, (0.05, 0.95)))
        out.append(Saving(f"hold frame {frame} as a plate", {}, base.total_seconds * left, low, high, change, base, frame))
    return sorted(out, key=lambda s: -s.seconds)


def _changes(reel: Reel, plan: ShotPlan, model: ShotModel, looks: Looks) -> Iterator[tuple[dict[str, Value], float]]:
    """Single changes whose look is known, and that look, in L*."""
    recipe = plan.recipe
    for field in model.settings:
        factor, now = model.factors[field], recipe.value(field)
        if field in OF_MOTION or factor is None or not factor.covers(now):
            continue
        for value in {r.recipe.value(field) for r in model.rows} - {now}:
            loss = looks.between(field, now, value)
            if loss is not None:
                yield {field: value}, loss
    for scale in SCALES if recipe.render_scale == 100.0 else ():
        loss = looks.between("render_scale", 100.0, scale)
        if loss is not None:
            yield {"render_scale": scale}, loss

    def _bias(other: Recipe) -> float:
        return finishing_of(plan.shot, reel.resolved(plan.shot, other), model, plan.typical_samples).bias_L

    for way in denoise_ways(recipe, model):
        other = departing(recipe, way)
        if other != recipe:
            yield way, _bias(other) - _bias(recipe)
    if recipe.stop_noise is None:
        yield {"stop_noise": _balanced(plan)}, 0.0
    if not recipe.keep_scene and any(r.recipe.keep_scene for r in model.rows):
        yield {"keep_scene": 1}, 0.0


def _balanced(plan: ShotPlan) -> float:
    """The noise to stop at with which half of the picture would end by it, to three places."""
    stopping = stopping_of(msgspec.structs.replace(plan.recipe, stop_noise=1.0), plan.frame_model)
    assert stopping is not None
    return float(f"{stopping.balance(plan.samples.astype(np.float64)):.3g}")
