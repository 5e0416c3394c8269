"""Proofs that are chosen within a time against the usual set made by hand in the same time: how sure the total is, how far noise is off.

`python benchmarks/proving.py [SECONDS [SHOT]]` prints a line a shot and way: the width of the 9-in-10 total as a share of it, and how far
seconds, noise and seen flicker that the plan tells are off on five frames that neither way looked at (median and most of them, factor).
By hand: nine frames over the shot, a scan, a run of nine around the middle, each at its usual size and samples, as far as the time goes.
Shots: three of the demo, a glass scene by the second renderer through its command line. Where it was never run it must be run twice: the
first time counts the compiler.
"""

from __future__ import annotations

import sys
import tempfile
import time
from collections.abc import Iterable
from pathlib import Path

import msgspec
import numpy as np

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

from hasty_reel.bench.render import warm_up
from hasty_reel.demo import NAME, SOURCE
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.picks import run_around, spread
from hasty_reel.farm.proofs import make_proof
from hasty_reel.farm.provewithin import ProveWithin
from hasty_reel.farm.renderers import renderer_of
from hasty_reel.farm.renderers.links import Link
from hasty_reel.farm.usual import scan_order
from hasty_reel.plan.shot import ShotPlan, plan_shot
from hasty_reel.plan.time.spread import total_draws
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.document import Reel
from hasty_reel.reel.file import read_reel
from hasty_reel.reel.shot import Shot
from second_link import SECOND

HELD = (0.08, 0.31, 0.52, 0.69, 0.93)
"""Where along the shot frames are held back."""
HELD_SAMPLES, SEEN_AT = 4, 6
BENCH = Link(name="Bench renderer", command=None)


def planned(reel: Reel, root: Path, shot: Shot) -> tuple[ShotPlan | None, ShotModel | None]:
    """What the proofs of a folder say of a shot."""
    evidence = EvidenceReader().read(root, shot)
    if not any(np.isfinite(row.variance) for row in evidence.frames):
        return None, None
    model = ShotModel(evidence, shot.frames)
    return plan_shot(reel, shot, model), model


def by_itself(reel: Reel, root: Path, shot: Shot, link: Link, seconds: float) -> int:
    """Prove within a time; returns the number of proofs."""
    work, count, turn = ProveWithin(reel, shot, seconds, link.crops), 0, time.monotonic()
    while (step := work.next(*planned(reel, root, shot))) is not None:
        for order in step.orders:
            make_proof(reel, root, order, renderer_of(link))
            count += 1
        now = time.monotonic()
        work.took(now - turn)
        turn = now
    return count


def by_hand(reel: Reel, root: Path, shot: Shot, link: Link, seconds: float) -> int:
    """The usual proofs, one after another until the time is over."""
    recipe, middle, began, count = reel.recipe_of(shot), (shot.begin + shot.past) // 2, time.monotonic(), 0
    scan = scan_order(shot, recipe, reel.picture_size)
    orders: Iterable[ProofOrder] = (ProofOrder(shot, recipe, spread(shot)), scan, ProofOrder(shot, recipe, run_around(shot, middle)))
    for order in orders:
        if time.monotonic() - began < seconds:
            make_proof(reel, root, order, renderer_of(link))
            count += 1
    return count


def main() -> None:
    """Print the figures."""
    warm_up()
    seconds = float(sys.argv[1]) if len(sys.argv) > 1 else 60.0
    reel = read_reel(SOURCE / NAME)
    second = msgspec.structs.replace(
        reel, width=480, height=270, shots=(msgspec.structs.replace(reel.shots[0], id="glass", scene="crossing", first=1, last=48),)
    )
    cases = [(reel, reel.shot(name), BENCH) for name in ("sh010", "sh030", "sh050")] + [(second, second.shots[0], SECOND)]
    only = sys.argv[2] if len(sys.argv) > 2 else ""
    for of, shot, link in (case for case in cases if only in ("", case[1].id)):
        with tempfile.TemporaryDirectory() as room:
            held = Path(room) / "held"
            frames = tuple(list(shot.frames)[round(share * (len(shot.frames) - 1))] for share in HELD)
            make_proof(of, held, ProofOrder(shot, of.recipe_of(shot), frames, HELD_SAMPLES, 100.0, guides=False), renderer_of(link))
            truth = EvidenceReader().read(held, shot)
            for words, way in (("by itself", by_itself), ("by hand", by_hand)):
                root, began = Path(room) / words, time.monotonic()
                count = way(of, root, shot, link, seconds)
                took = time.monotonic() - began
                plan, model = planned(of, root, shot)
                if plan is None or model is None:
                    print(f"{shot.id:6} {words:10} no plan after {took:.0f} s", flush=True)
                    continue
                at, k = plan.frame_model, [plan.index(int(row.frame)) for row in truth.frames]
                real = ShotModel(truth, shot.frames).at(plan.recipe, of.width * of.height)
                draws = total_draws(plan)
                width = float(np.quantile(draws, 0.9) / draws.mean() - 1.0)
                cost = np.array([row.cost for row in truth.frames])
                variance = np.array([row.variance for row in truth.frames])
                seen = at.seen_table(plan.degrees) / real.seen_table(plan.degrees)
                told = (at.cost[k] / cost, np.sqrt(at.variance[k] / variance), seen[k, SEEN_AT])
                off = [np.exp(np.abs(np.log(ratio))) for ratio in told]
                figures = ", ".join(f"{n} {np.median(o):.2f} ({o.max():.2f})" for n, o in zip(("seconds", "noise", "seen"), off))
                tried = "denoising tried" if "denoise_window" not in plan.unproven else "denoising not tried"
                print(
                    f"{shot.id:6} {words:10} {count} proofs in {took:3.0f} s: 9 in 10 within {100 * width:.0f} %; off by {figures}; "
                    f"{tried}, {plan.total_seconds / 3600:.1f} h, caution {100 * plan.caution_seconds / plan.total_seconds:.0f} %",
                    flush=True,
                )


if __name__ == "__main__":
    main()
