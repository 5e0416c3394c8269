"""What rendering smaller or larger than delivered does: at equal seen flicker, in equal time, and with the same samples."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import msgspec
import numpy as np

from hasty_reel.evidence.looks import Looks
from hasty_reel.evidence.sizepairs import SizePair
from hasty_reel.plan.compare.baseline import baseline
from hasty_reel.plan.compare.bundles import MOST_SAMPLES
from hasty_reel.plan.compare.prices import plan_seen_alike
from hasty_reel.plan.shot import ShotPlan, plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.document import Reel

SCALES = (50.0, 67.0, 75.0, 90.0, 100.0, 110.0, 120.0, 125.0, 150.0)
"""Percent of the delivered width that are compared."""


@dataclass(frozen=True)
class SizeRow:
    """One render scale against the plan as it stands.

    scale : percent of the delivered width; width, height : rendered, in pixels
    seconds, samples : over the shot and per pixel (geometric mean) at the seen flicker of the plan as it stands
    same_time : samples per pixel with which the shot takes as long as it does now, 0 where no samples are left; seen : with them, in JND
    alike_seconds, alike_seen : over the shot with the samples of the plan as it stands, and what is seen then, in JND
    sharpness, shimmer : contrast of edges and unrest besides noise / those of the delivered size; None where no pair of proofs tells
    loss : what it changes in the picture besides noise, root mean square in L*; None where no proof tells
    now : it is the scale of the recipe
    plan : of the shot with it, at equal seen flicker; pair : the proofs of the delivered size and of this one; None where there are none
    """

    scale: float
    width: int
    height: int
    seconds: float
    samples: float
    same_time: float
    seen: float
    loss: float | None
    now: bool
    plan: ShotPlan
    sharpness: float | None = None
    shimmer: float | None = None
    alike_seconds: float = 0.0
    alike_seen: float = 0.0
    pair: tuple[str, str] | None = None


def size_rows(reel: Reel, plan: ShotPlan, model: ShotModel, looks: Looks, pairs: Sequence[SizePair] = ()) -> list[SizeRow]:
    """Return the render scales, smallest first; that of the recipe among them.

    Parameters
    ----------
    reel : says the delivered size
    plan : of the shot, as it stands
    model : what its proofs say
    looks : what settings change in the picture
    pairs : sizes that were proven against the delivered one; theirs are among the rows
    """
    base = baseline(reel, plan, model)
    here = plan.recipe.render_scale
    proven = {p.scale: p for p in pairs if 10.0 <= p.scale <= 200.0}
    out = []
    for scale in sorted({*SCALES, here, *proven}):
        row, pair = _row(reel, base, model, looks, scale), proven.get(scale)
        if pair is not None:
            row = replace(row, sharpness=pair.sharpness, shimmer=pair.shimmer, loss=pair.change, pair=pair.proofs)
        elif scale == 100.0 and proven:
            row = replace(row, sharpness=1.0, shimmer=1.0)
        out.append(row)
    return out


def _row(reel: Reel, base: ShotPlan, model: ShotModel, looks: Looks, scale: float) -> SizeRow:
    now = scale == base.recipe.render_scale
    recipe = msgspec.structs.replace(base.recipe, render_scale=scale, samples_ceiling=MOST_SAMPLES)
    alike = base if now else plan_shot(reel, base.shot, model, recipe, base.eyes, base.samples)
    other = base if now else plan_seen_alike(reel, base.shot, model, alike, base)
    spent = float(alike.sample.sum())
    factor = (base.total_seconds - (alike.total_seconds - spent)) / spent if spent > 0 else 0.0
    samples = base.samples * max(0.0, factor)
    steps = base.recipe.sample_step
    whole = np.maximum(steps, np.round(samples / steps) * steps).astype(np.int64)
    seen = base.worst_flicker if now else plan_shot(reel, base.shot, model, recipe, base.eyes, whole).worst_flicker
    return SizeRow(
        scale, other.width, other.height, other.total_seconds, other.typical_samples,
        float(np.exp(np.mean(np.log(samples)))) if factor > 0 else 0.0, seen, looks.between("render_scale", 100.0, scale), now, other,
        alike_seconds=alike.total_seconds, alike_seen=alike.worst_flicker,
    )  # fmt: skip


def trade_words(rows: list[SizeRow]) -> str:
    """Return the equal-time trade just above the delivered size in a sentence; '' where there is none.

    Parameters
    ----------
    rows : of all render scales
    """
    here = next((r for r in rows if r.now), None)
    larger = [r for r in rows if here is not None and r.scale > here.scale and r.same_time > 0]
    if here is None or not larger:
        return ""
    row = min(larger, key=lambda r: abs(r.scale - 1.2 * here.scale))
    return f"{row.scale:g} % at {row.same_time:.0f} samples takes as long as {here.scale:g} % at {here.same_time:.0f}."
