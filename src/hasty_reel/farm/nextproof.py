"""The next best proof: what narrows the 9-in-10 total of a shot, or the caution in it, most for each second it costs.

How much a proof would tell follows from the joint draws of the plan: the share of the total's variance that goes
with what the proof would measure (the squared correlation, as in a Gaussian process).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from msgspec import structs

from hasty_reel.evidence.places import noisiest_place
from hasty_reel.evidence.proof import DenoiseEffect
from hasty_reel.farm.forecast import order_seconds, telling_scan
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.proofrun import BEYOND, SHORTEST_RUN
from hasty_reel.farm.usual import MOST_SAMPLES, denoising_orders, noise_order, scan_order
from hasty_reel.plan.shot import MARGIN, ShotPlan
from hasty_reel.plan.time.spread import total_draws
from hasty_reel.predict.effects import Effects, sure_effects
from hasty_reel.predict.model import ASKED_GAP, ShotModel
from hasty_reel.predict.process import VARIANCE
from hasty_reel.reel.document import Reel
from hasty_reel.reel.durations import spoken
from hasty_reel.scaledsize import scaled_size

WORTH = 0.005
"""Share of the total that a proof must save or narrow it by to be named."""
USUALLY_LEFT = 0.5
"""Of seen flicker that denoising leaves on most scenes that were measured (docs/finish.md): what a run may find that tries it first."""
LITTLE = 0.01
"""Share of the total below which what a proof costs hardly matters: else the cheapest would always be the next."""
LOOKING = (16, 25.0)
"""Samples and size of an ordinary proof."""
APART = 3.0
"""How many times as much work as the largest proof one must have that tells how seconds grow with it."""
TELLING = ((16, 50.0), (64, 25.0), (64, 50.0), (16, 100.0), (64, 100.0), (256, 100.0))
"""Those of a proof that tells growing seconds from fixed ones: the cheapest whose growing seconds match its fixed ones is enough."""


@dataclass(frozen=True)
class NextProof:
    """A proof worth making.

    orders : what is rendered; seconds : it takes, on a machine of speed 1
    narrows : seconds by which the 9-in-10 total comes down towards the expected one, or that less caution saves
    what : it, in words; why : what it tells, in words
    kind : of proof, in a word
    """

    orders: tuple[ProofOrder, ...]
    seconds: float
    narrows: float
    what: str
    why: str
    kind: str = ""

    @property
    def words(self) -> str:
        """All of it in one sentence."""
        return f"{self.what}, {spoken(self.seconds)}: {self.why}"


def next_proof(reel: Reel, plan: ShotPlan, model: ShotModel, crops: bool = True) -> NextProof | None:
    """Return the proof that narrows most for what it costs; None where none is worth it.

    Parameters
    ----------
    reel : says size
    plan : of the shot
    model : what its proofs say
    crops : the renderer can be told to render a part of a frame
    """
    found = [p for p in candidates(reel, plan, model, crops) if p.narrows > WORTH * plan.total_seconds and p.narrows > p.seconds]
    return max(found, key=lambda p: p.narrows / (p.seconds + LITTLE * plan.total_seconds), default=None)


def candidates(reel: Reel, plan: ShotPlan, model: ShotModel, crops: bool) -> list[NextProof]:
    """Return the proofs that may be worth making, one of each kind, with what each narrows.

    Parameters
    ----------
    reel : says size
    plan : of the shot
    model : what its proofs say
    crops : the renderer can be told to render a part of a frame
    """
    shot, recipe = plan.shot, plan.recipe
    # what each candidate narrows: the share of the spread of the total that goes with what it would tell
    total = total_draws(plan)
    width = max(0.0, float(np.quantile(total, 0.9) - total.mean()))
    curves = np.log(np.resize(plan.frame_model.cost_draws, (len(total), len(plan.frames))))
    seen = np.unique(np.clip(np.searchsorted(plan.frames, [r.frame for r in model.rows]), 0, len(plan.frames) - 1))
    out = []

    def _offer(kind: str, orders: ProofOrder | list[ProofOrder], narrows: float, what: str, why: str) -> None:
        all_of = (orders,) if isinstance(orders, ProofOrder) else tuple(orders)
        out.append(NextProof(all_of, order_seconds(all_of, plan, reel.picture_size), narrows, what, why, kind))

    # a scan, where long stretches were not looked at: it tells all but the level
    if plan.frame_model.unseen >= ASKED_GAP:
        level = curves[:, seen].mean(axis=1)
        narrows = width * (1.0 - abs(float(np.corrcoef(total, level)[0, 1])))
        order = telling_scan(scan_order(shot, recipe, reel.picture_size), plan, reel.picture_size)
        _offer(
            "scan",
            order,
            narrows,
            f"a scan of {len(order.frames)} frames",
            f"nothing has looked at up to {plan.frame_model.unseen} frames in a row",
        )
    # noise at full size, where it was proven smaller: the margin that is held shrinks
    largest = max((r.pixels for r in model.rows if np.isfinite(r.variance)), default=1)
    away = abs(VARIANCE.size * np.log(plan.width * plan.height / largest))
    spread = plan.frame_model.variance_spread
    if shot.hold.kind in ("noise", "clean") and away > 0.1:
        less = np.sqrt(np.maximum(spread**2 - away**2, 0.1**2))
        saved = float(np.sum(plan.sample * (1.0 - np.exp(MARGIN * (less - spread)))))
        order = noise_order(shot, recipe, reel.picture_size)
        _offer("noise", order, saved, f"noise of {len(order.frames)} frames at full size", f"{spoken(saved)} of the plan is caution")
    if not plan.frame_model.fixed.known:
        fixed = np.resize(plan.frame_model.fixed_draws, len(total))
        narrows = width * (1.0 - np.sqrt(max(0.0, 1.0 - float(np.corrcoef(total, fixed)[0, 1]) ** 2)))
        k = int(seen[len(seen) // 2])
        frame = int(plan.frames[k])
        order = _telling(reel, plan, model, k)
        # without it nothing is promised: it is worth the whole spread, whatever the draws say
        what = f"frame {frame} at {order.scale:g} % with {order.samples} samples"
        _offer("start", order, max(narrows, width, 2.0 * WORTH * plan.total_seconds), what, "fixed seconds are not told from growing ones")
    run = _untried(plan, model, width) or _run(plan, model)
    if run is not None:
        middle, saved = run
        at = noisiest_place(model.evidence, middle)
        orders = denoising_orders(shot, recipe, reel.picture_size, middle, plan.typical_samples, at, crops)
        what = f"a run of frames {orders[0].frames[0]} to {orders[0].frames[-1]}"
        _offer(
            "run",
            orders,
            saved,
            what,
            "what denoising leaves there is told by no run near" if _tried(plan, model) else "no run tells what denoising does",
        )
    # one frame: the one whose seconds go most with the total
    off = curves - curves.mean(axis=0)
    along = (total - total.mean()) @ off / np.sqrt(np.maximum((off**2).sum(axis=0), 1e-30) * ((total - total.mean()) ** 2).sum())
    along[seen] = 0.0
    k = int(np.argmax(along))
    narrows = width * (1.0 - float(np.sqrt(max(0.0, 1.0 - along[k] ** 2))))
    frame = int(plan.frames[k])
    _offer("frame", ProofOrder(shot, recipe, (frame,), *LOOKING), narrows, f"frame {frame}", "the total hangs on it more than on any other")
    return out


def _telling(reel: Reel, plan: ShotPlan, model: ShotModel, k: int) -> ProofOrder:
    """The cheapest proof of one frame that tells fixed seconds from growing ones: those must be as many, and more than in any proof yet."""
    most = max(r.pixels * r.samples for r in model.rows)
    cost, fixed = float(np.mean(plan.frame_model.cost_draws[:, k])), plan.frame_model.fixed.mean
    found = []
    for samples, scale in TELLING:
        pixels = int(np.prod(scaled_size(reel.picture_size, scale)))
        if pixels * samples >= APART * most:
            found.append((cost * pixels * samples, samples, scale))
    found = found or [(cost * np.prod(scaled_size(reel.picture_size, s)) * n, n, s) for n, s in TELLING[-1:]]
    enough = [f for f in sorted(found) if f[0] >= fixed] or [max(found)]
    return ProofOrder(plan.shot, plan.recipe, (int(plan.frames[k]),), *enough[0][1:], guides=False)


def _tried(plan: ShotPlan, model: ShotModel) -> list[DenoiseEffect]:
    """What is known of denoising as the recipe has it."""
    kind = plan.recipe.denoise_window, bool(plan.recipe.denoise_thorough)
    return [e for e in sure_effects(model.effects.found) if not e.chain and (e.window, e.thorough) == kind]


def _untried(plan: ShotPlan, model: ShotModel, width: float) -> tuple[int, float] | None:
    """The middle of the shot, where denoising is planned that no run tried: without one nothing is promised of it."""
    if plan.recipe.denoise_window < 3 or plan.shot.step != 1 or len(plan.frames) < SHORTEST_RUN or _tried(plan, model):
        return None
    return int(plan.frames[len(plan.frames) // 2]), max(width, (1.0 - USUALLY_LEFT**2) * float(plan.sample.sum()))


def _run(plan: ShotPlan, model: ShotModel) -> tuple[int, float] | None:
    """Middle of the run that would tell most of denoising, and the seconds of caution it saves; None where clean is not held by it."""
    shot, recipe = plan.shot, plan.recipe
    window, thorough, strength = recipe.denoise_window, bool(recipe.denoise_thorough), recipe.denoise_strength / 100.0
    length, frames = max(SHORTEST_RUN, window + BEYOND), list(shot.frames)
    if shot.hold.kind != "clean" or window < 3 or strength <= 0 or shot.step != 1 or len(frames) < length:
        return None
    tried = _tried(plan, model)
    if not tried or plan.unproven:
        return None
    # where caution costs most; half a run from the ends, so that all of it lies in the shot
    place = int(np.argmax(np.convolve(plan.sample * plan.seen_spread, np.ones(length), "same")))
    place = min(max(place, length // 2), len(frames) - 1 - (length - 1) // 2)
    made = structs.replace(tried[-1], frame=float(frames[place]), samples=float(_run_samples(plan)))
    known = Effects((*model.effects.found, made))
    left = strength * known.seen_spreads(window, thorough, frames, np.array([plan.typical_samples]))[0]
    own = plan.frame_model.variance_spread / 2.0
    less = np.exp(2.0 * MARGIN * (np.hypot(own, np.minimum(left, plan.seen_spread)) - np.hypot(own, plan.seen_spread)))
    return frames[place], float(np.sum(plan.sample * (1.0 - less)))


def _run_samples(plan: ShotPlan) -> int:
    return int(np.clip(round(plan.typical_samples), 1, MOST_SAMPLES))
