"""A plan that is held calm, rendered and finished for real: how many frames are under the limit, and how many with a fifth fewer samples.

`python benchmarks/clean.py [NAMES]` prints a line a scene, of both renderers; NAMES (with commas) says which. The limit is set for
each scene so that some forty samples should just do; proof frames and seeds are those of `truth.py`; denoising is tried on three runs of
five frames: at the beginning with 4 and 16 samples, in the middle and at the end with about as many as will be planned, as the next proof
offers them. The frames that are rendered had no proof.
"""

from __future__ import annotations

import sys
import time
from pathlib import Path

import msgspec
import numpy as np

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))
sys.path.insert(0, str(Path(__file__).parent.parent / "tests" / "measure"))

from planted import HELD_BACK, TUNED, deep, fog, jewels, room

from hasty_reel.bench.library import find_scene
from hasty_reel.bench.render import warm_up
from hasty_reel.evidence.rows import Evidence
from hasty_reel.finish.chain import Chain
from hasty_reel.finish.effect import measure_effect
from hasty_reel.finish.finisher import Finisher
from hasty_reel.measure.seen import STANDARD, Eyes
from hasty_reel.measure.sequence import measure_sequence
from hasty_reel.pictures.frame import Picture
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.document import Reel
from hasty_reel.reel.machine import Machine
from hasty_reel.reel.shot import CLEAN, Shot
from truth import FEW, FRAMES, PROOFS, RECIPE, SIZE, WINDOW, Source, bench, proof_frame, proof_of, second

HELD, NEAR, ABOUT = tuple(range(24, 36)), 2, 40
"""Places that are rendered by the plan; frames on each side of one over which its seen flicker is told; samples it should take."""
RUNS = ((range(5), FEW), (range(5), 4 * FEW), (range(18, 23), ABOUT), (range(43, 48), ABOUT))
"""Places of runs and their samples."""
PLAIN = msgspec.structs.replace(RECIPE, denoise_window=WINDOW, denoise_thorough=1, samples_floor=1, samples_ceiling=4096, shutter_steps=0)


def model_of(source: Source) -> ShotModel:
    """What the usual proofs of a scene tell, with denoising tried at two sample counts."""
    rows = [proof_frame(source, p, 4 * FEW, 50.0) for p in PROOFS]
    rows += [proof_frame(source, p, 1, 100.0) for p in PROOFS]
    effects = []
    for run, n in RUNS:
        seeds = [source.pictures(run, n, s) for s in (1, 2)]
        rows += [proof_of([one, two], p, n, 100.0) for p, one, two in zip(run, *seeds)]
        one, two = ([t.picture for t in side] for side in seeds)
        effect = measure_effect(one, two, WINDOW, n, 0.0, STANDARD.pixels_per_degree(SIZE[1]))
        effects.append(msgspec.structs.replace(effect, frame=float(run[len(run) // 2])))
    return ShotModel(Evidence(tuple(rows), tuple(effects)), range(FRAMES))


def measured(source: Source, samples: dict[int, int]) -> np.ndarray:
    """Seen flicker of the noise of the finished frames around each place, told by two seeds."""
    sides = []
    for seed in (5, 6):
        run = {p: source.take(p, n, seed, 100.0).picture for p, n in samples.items()}
        finisher = Finisher(Chain(window=WINDOW), run.__getitem__)
        sides.append({p: Picture(finisher.finish(p, finisher.chain.needed(p, run)).rgb, run[p].guides) for p in HELD})
    out = []
    for p in HELD[NEAR:-NEAR]:
        around = range(p - NEAR, p + NEAR + 1)
        out.append(measure_sequence(around, lambda f, w: sides[0][f], lambda f, w: sides[1][f]).seen_noise)
    return np.array(out)


def checked(source: Source) -> None:
    """Plan a scene calm, render it that way and with a fifth less."""
    name, model = source.name, model_of(source)
    shot = Shot(id=name, name=name, scene=name, first=0, last=FRAMES - 1, recipe=PLAIN.name, hold=CLEAN)
    machine = Machine(name="Bench", speed=1.0)
    reel = Reel(name="Calm", rate=(24, 1), width=SIZE[0], height=SIZE[1], shots=(shot,), recipes=(PLAIN,), machines=(machine,),
                calm="eyes", due="2026-01-01T00:00:00+00:00")  # fmt: skip
    even = plan_shot(reel, shot, model, samples=np.full(FRAMES, ABOUT))
    eyes = Eyes(limit=float(np.median(even.seen_band[1])))
    plan = plan_shot(reel, shot, model, eyes=eyes)
    far = range(HELD[0] - 5, HELD[-1] + 6)
    asked = {p: int(plan.samples[p]) for p in far}
    found = measured(source, asked) / eyes.limit
    less = measured(source, {p: max(1, round(0.8 * n)) for p, n in asked.items()}) / eyes.limit
    expected = np.median(plan.seen_flicker[list(HELD)]) / eyes.limit
    span = f"{min(asked.values())} to {max(asked.values())} samples, limit {eyes.limit:.2f} JND"
    words = (
        f"{100 * np.mean(found <= 1):3.0f} % under it, worst {found.max():.2f} of it; a fifth less: {100 * np.mean(less > 1):3.0f} % above"
    )
    print(f"{name:10} {span}: {words}; median {np.median(found):.2f}, predicted {expected:.2f}", flush=True)


def main() -> None:
    """Print the lines."""
    warm_up()
    began = time.perf_counter()
    wanted = sys.argv[1].split(",") if len(sys.argv) > 1 else None
    for source in (
        bench("hall", room(HELD_BACK), 1001), bench("glassware", jewels(TUNED), 1001), bench("mist", fog(HELD_BACK), 1001),
        bench("close", deep(HELD_BACK), 1001), bench("tide dial", find_scene("tide_dial"), 1020), second("crossing"), second("lens"),
    ):  # fmt: skip
        if wanted is None or source.name in wanted:
            checked(source)
    print(f"{time.perf_counter() - began:.0f} s")


if __name__ == "__main__":
    main()
