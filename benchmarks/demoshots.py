"""Shots of the demo reel, rendered and finished at today's samples on frames far from any run: planned against measured.

`python benchmarks/demoshots.py [SHOT ...]` prints a line a shot. The frames are rendered at half the delivered size and looked at
from twice as far, so that they are as fine for the eye as the delivered ones; noise and what denoising leaves are told by two seeds.
"""

from __future__ import annotations

import sys
import tempfile
import time
from pathlib import Path

import msgspec
import numpy as np

from hasty_reel.demo import NAME, SOURCE
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.proofs import make_proof
from hasty_reel.finish.chain import Chain
from hasty_reel.finish.finisher import Finisher
from hasty_reel.measure.sequence import measure_sequence
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.plan.compare.calm import enough_strength
from hasty_reel.plan.frames.finishing import seen_ratio_at
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.document import Reel
from hasty_reel.reel.file import read_reel

AT, EACH_SIDE = 1024, 6
"""The frame in the middle, and frames rendered on each side of it."""
SHOTS = ("sh010", "sh020", "sh030", "sh040", "sh050")


def checked(reel: Reel, name: str) -> None:
    """Render, finish and measure frames of a shot."""
    began = time.perf_counter()
    shot = reel.shot(name)
    resolved = reel.resolved(shot)
    recipe = resolved.recipe
    model = ShotModel(EvidenceReader().read(SOURCE / "proofs", shot), shot.frames)
    plan = plan_shot(reel, shot, model)
    k, frames = plan.index(AT), tuple(range(AT - EACH_SIDE, AT + EACH_SIDE + 1))
    samples = int(np.median(plan.samples[k - EACH_SIDE : k + EACH_SIDE + 1]))
    even = plan_shot(reel, shot, model, samples=np.full(len(plan.frames), samples))
    found = enough_strength(even, model)
    with tempfile.TemporaryDirectory() as room:
        made = make_proof(reel, Path(room), ProofOrder(shot, recipe, frames, samples, 100.0))
        by, folder = made.by_frame(), Path(room) / name / made.id
        sides = [{f: read_picture(folder / by[f][s].file) for f in frames} for s in (0, 1)]
    guides = {f: p.guides for f, p in sides[0].items()}
    finished = []
    for side in sides:
        run = {f: Picture(p.rgb, guides[f]) for f, p in side.items()}
        finisher = Finisher(Chain.of(resolved, None, ()), run.__getitem__)
        finished.append({f: Picture(finisher.finish(f, finisher.chain.needed(f, run)).rgb, guides[f]) for f in frames})
    inner = range(AT - EACH_SIDE + 2, AT + EACH_SIDE - 1)
    raw, fine = (measure_sequence(inner, lambda f, w, s=s: s[0][f], lambda f, w, s=s: s[1][f]).seen_noise for s in (sides, finished))
    part = slice(k - EACH_SIDE + 2, k + EACH_SIDE - 1)
    planned, ratio = even.seen_flicker[part], seen_ratio_at(shot, resolved, model, even.samples, even.raw_seen)[part]
    low, high = (float(np.median(band[part])) for band in even.seen_band)
    raw_planned, fine_planned = (float(np.sqrt(np.mean(v**2))) for v in (planned / ratio, planned))
    print(
        f"{name}: {samples} samples, {len(inner)} frames; raw {raw_planned:.1f} planned, {raw:.1f} measured; "
        f"finished {fine_planned:.1f} planned ({low:.1f} to {high:.1f}), {fine:.1f} measured; limit {even.eyes.limit:.1f}, "
        f"strength found {found}; {time.perf_counter() - began:.0f} s",
        flush=True,
    )


def main() -> None:
    """Print the lines."""
    reel = msgspec.structs.replace(read_reel(SOURCE / NAME), width=480, height=270)
    for name in sys.argv[1:] or SHOTS:
        checked(reel, name)


if __name__ == "__main__":
    main()
