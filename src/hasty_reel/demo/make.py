"""Render the proofs of the demo reel anew: `python -m hasty_reel.demo.make` (a few minutes).

With `--reel` only the reel is written and what denoising does measured again on the proofs there are.
"""

from __future__ import annotations

import shutil
import sys

import msgspec

from hasty_reel.bench.render import warm_up
from hasty_reel.demo import NAME, SOURCE
from hasty_reel.farm.proofs import SHORTEST_RUN, Order, make_proof, measure_run
from hasty_reel.finish.effect import measure_effect
from hasty_reel.pictures.frame import read_picture
from hasty_reel.predict.proof import DENOISE, proof_folders, read_proof, write_effects
from hasty_reel.reel.document import Reel
from hasty_reel.reel.file import read_reel, save_reel
from hasty_reel.reel.machine import Machine
from hasty_reel.reel.recipe import Recipe
from hasty_reel.reel.shot import Hold, Shot

SCALE = 20.0
VARIED = (
    {"bounces": 0},
    {"bounces": 2},
    {"bounces": 12},
    {"brightness_ceiling": None},
    {"brightness_ceiling": 1.5},
    {"shutter_angle": 0.0},
    {"shutter_steps": 1},
)


def demo_reel() -> Reel:
    """The reel as it ships; its due time is set when it is copied."""
    return Reel(
        name="Tidal Orrery",
        rate=(24, 1),
        width=960,
        height=540,
        due="2027-01-08T09:00:00+00:00",
        shots=(
            Shot(id="sh010", name="Lamp wakes", scene="lamp_wakes", first=1001, last=1096, recipe="Final",
                 hold=Hold(kind="noise", value=0.0075)),
            Shot(id="sh020", name="Comet pass", scene="comet_pass", first=1001, last=1072, recipe="Final",
                 departures={"shutter_steps": 16}, hold=Hold(kind="noise", value=0.0075)),
        ),
        recipes=(
            Recipe(name="Final", samples_floor=16, samples_ceiling=512, brightness_ceiling=5.0),
            Recipe(name="Preview", samples_floor=4, samples_ceiling=32, bounces=2, render_scale=50.0, denoise_window=3),
        ),
        machines=(Machine(name="Harbour desk"),),
    )  # fmt: skip


def main() -> None:
    """Write the reel and render all its proofs."""
    warm_up()
    save_reel(SOURCE / NAME, demo_reel())
    reel = read_reel(SOURCE / NAME)
    root = SOURCE / "proofs"
    if "--reel" in sys.argv:
        for shot in reel.shots:
            _warm_filter(root, shot.id)
            for folder in proof_folders(root, shot.id):
                proof = read_proof(folder)
                if len(proof.by_frame()) >= SHORTEST_RUN and (folder / DENOISE).is_file():
                    write_effects(folder, measure_run(folder, proof, sorted(proof.by_frame())))
        return
    shutil.rmtree(root, ignore_errors=True)
    for shot in reel.shots:
        recipe = reel.recipe_of(shot)
        middle = (shot.first + shot.last) // 2
        spread = tuple(round(shot.first + k * (shot.last - shot.first) / 8) for k in range(9))
        orders = [
            Order(shot, recipe, spread, 16, SCALE),
            Order(shot, recipe, tuple(range(middle - 4, middle + 5)), 16, SCALE),
        ]
        orders += [Order(shot, msgspec.structs.replace(recipe, **lines), (spread[5],), 16, SCALE) for lines in VARIED]
        for k, order in enumerate(orders):
            if k == 1 and shot is reel.shots[0]:
                _warm_filter(root, shot.id)
            proof = make_proof(reel, root, order)
            print(f"{shot.id} {proof.id}: {len(proof.pictures)} pictures", file=sys.stderr)


def _warm_filter(root, shot: str) -> None:
    """Compile the filter before it is timed."""
    folder = proof_folders(root, shot)[0]
    picture = read_picture(folder / read_proof(folder).pictures[0].file)
    measure_effect([picture] * 3, None, 3)


if __name__ == "__main__":
    main()
