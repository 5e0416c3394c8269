"""Prices of what a renderer that stays open keeps, against measured runs: each frame anew, scene kept, pre-roll, light caches.

`python benchmarks/openlink.py` prints a line a case and number of workers: seconds of work planned from seven proof frames, and what a run
of 24 frames took (clock times workers). The renderer is the stand-in of the tests that stays open: a start of .3 s, loading 1 s, a light
cache .8 s, .2 s a frame of history, .6 s of sampling a frame. No constant was chosen on it.
"""

from __future__ import annotations

import os
import sys
import tempfile
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

import msgspec

from hasty_reel.cli import main as cli
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.proofs import make_proof
from hasty_reel.farm.renderers import close_sessions, session_of
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.file import read_reel
from hasty_reel.run.shotrun import Run
from hasty_reel.work import CancelToken
from open_link import OPEN

CASES = {
    "each anew": {},
    "scene kept": {"keep_scene": 1},
    "pre-roll 12": {"keep_scene": 1, "preroll": 12},
    "light caches": {"keep_scene": 1, "cache_step": 4, "cache_blend": 2},
}


def call(*words: object) -> None:
    """Run a command."""
    try:
        cli([str(word) for word in words])
    except SystemExit as left:
        assert not left.code, words


def case(lines: dict[str, int], workers: int) -> tuple[float, float]:
    """Seconds of work planned, and measured."""
    folder = Path(tempfile.mkdtemp())
    file = folder / "open.reel"
    call("begin", "--out", file, "--scene", "tide", "--size", "96x54", "--range", "1001-1024", "--hold", "noise 0.06")
    plain = {"shutter_steps": "random", "samples_ceiling": 64, "denoise_window": 1, "despike": 0}
    call("set", file, *(f"recipe.Final.{name}={value}" for name, value in {**plain, **lines}.items()))
    reel = read_reel(file)
    reel = msgspec.structs.replace(reel, machines=(msgspec.structs.replace(reel.machines[0], workers=workers),))
    shot = reel.shots[0]
    root, recipe = folder / reel.proofs, reel.recipe_of(shot)
    for frames, scale in (((1001, 1008, 1016, 1024), 100.0), ((1004, 1005, 1020), 50.0)):
        make_proof(reel, root, ProofOrder(shot, recipe, frames, 16, scale), session_of(OPEN))
        close_sessions()
    plan = plan_shot(reel, shot, ShotModel(EvidenceReader().read(root, shot), shot.frames))
    run = Run(reel, plan, folder / "out", renderer=session_of(OPEN), finish=False)
    began = time.perf_counter()
    run.go(lambda event: None, CancelToken(), workers)
    took = time.perf_counter() - began
    close_sessions()
    return float(plan.total_seconds), took * workers


def main() -> None:
    """Print a line a case."""
    os.environ.update(XDG_CONFIG_HOME=tempfile.mkdtemp(), OPEN_LOAD="1.0", OPEN_CACHE="0.8", OPEN_SAMPLE="1e-5", OPEN_HISTORY="0.2")
    for words, lines in CASES.items():
        for workers in (1, 2):
            planned, took = case(lines, workers)
            print(f"| {words} | {workers} | {planned:.1f} | {took:.1f} | {100 * (planned / took - 1):+.0f} % |", flush=True)


if __name__ == "__main__":
    main()
