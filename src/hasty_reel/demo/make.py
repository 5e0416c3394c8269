"""Render the proofs of the demo reel anew: `python -m hasty_reel.demo.make [SHOT ...]` (a few minutes).

With `--reel` only the reel is written; with `--wider` a wider run of each shot is added, with `--denoised` runs of two parts of its frames,
as dense as they are delivered; with `--effects` what denoising does is measured
anew on the runs, rendered once more, and nothing else changes; with `--noise` the same for the noise of proofs that are kept small.
"""

from __future__ import annotations

import shutil
import sys
import tempfile
from dataclasses import replace
from pathlib import Path

import msgspec

from hasty_reel.bench.render import warm_up
from hasty_reel.demo import NAME, SOURCE
from hasty_reel.evidence.measured import ProofMeasures
from hasty_reel.evidence.places import noisiest_place
from hasty_reel.evidence.proof import Proof, proof_folders, read_effects, read_proof, write_effects, write_proof
from hasty_reel.evidence.rows import EvidenceReader, noise_of_pictures
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.proofs import keep_small, make_proof
from hasty_reel.farm.sweeps import sweep_orders
from hasty_reel.farm.usual import denoising_orders, noise_order, scan_order
from hasty_reel.farm.yardstick import recent_yardsticks
from hasty_reel.finish.effect import measure_effect
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.pictures.writing import write_picture
from hasty_reel.predict.effects import SECONDS
from hasty_reel.reel.document import Reel
from hasty_reel.reel.file import read_reel, save_reel
from hasty_reel.reel.hours import DAYS, Weekly
from hasty_reel.reel.machine import Machine
from hasty_reel.reel.moves import Turntable, Viewpoint, Viewpoints
from hasty_reel.reel.shot import CLEAN, Shot
from hasty_reel.scaledsize import scaled_size
from hasty_reel.settings.recipe import Recipe

VARIED = (
    {"bounces": 0},
    {"bounces": 2},
    {"bounces": 12},
    {"brightness_ceiling": None},
    {"brightness_ceiling": 1.5},
    {"shutter_angle": 0.0},
    {"shutter_steps": 1},
)
FEW_VARIED = ({"bounces": 0}, {"bounces": 2}, {"brightness_ceiling": None}, {"shutter_angle": 0.0}, {"shutter_steps": 1})
FOG_VARIED = (*FEW_VARIED, {"fog_step": 50.0}, {"fog_step": 300.0})
"""Each varies one line at one frame, so that every line has a price."""
PROVEN = {
    "sh010": (15.0, 9, VARIED),
    "sh020": (12.5, 7, VARIED),
    "sh030": (10.0, 7, FEW_VARIED),
    "sh040": (10.0, 7, FOG_VARIED),
    "sh050": (10.0, 7, FEW_VARIED),
}
"""Size of the proofs in percent, frames of the run, varied lines; small, since they ship with the application."""


CLEANER, CLEANER_RUN = 64, 7
"""Samples, and frames at most, of a second run: with it denoising is known at two counts."""
LARGE = {"sh010": (1052, 5, 32, 50.0)}
"""A run to look at: middle frame, frames, samples, size in percent; one seed."""
WIDER, WIDER_SAMPLES, WIDER_SMALL = 40.0, 32, 8
"""Size in percent and samples of a run of seven frames that tells what denoising does near the delivered size; its pictures are kept as
means of eight by eight pixels."""
DENSE_CLEANER = 128
"""Samples of a run of a part of the frames as dense as delivered, besides those with as many as the wider run."""
SCAN_SMALL, LARGE_WIDTH = 4, 400
"""Pixels a side that one of a scan stands for, as it is kept, and width from which on pictures are kept without guides."""
KEPT_GUIDES = ("motion.X", "motion.Y", "Z")
SWEPT = {"sh010": ("bounces", (0, 1, 2, 4, 6), 1084, 16, 14.0)}
"""A finished sweep: setting, values, frame, samples, size in percent."""


def demo_reel() -> Reel:
    """Return the reel as it ships; its due time, and the time zone of its machines, are set when it is copied."""
    return Reel(
        name="Tidal Orrery",
        rate=(24, 1),
        width=960,
        height=540,
        camera_aspect=(16, 9),
        due="2027-01-08T09:00:00+00:00",
        shots=(
            Shot(id="sh010", name="Lamp wakes", scene="lamp_wakes", first=1001, last=1096, recipe="Final", hold=CLEAN),
            Shot(id="sh020", name="Comet pass", scene="comet_pass", first=1001, last=1072, recipe="Final",
                 departures={"shutter_steps": 16}, hold=CLEAN),
            Shot(id="sh030", name="Gears and jewels", scene="gears_jewels", first=1001, last=1072, recipe="Final",
                 move=Viewpoints(views=(Viewpoint(name="Ruby", hold=1.0, move=1.5), Viewpoint(name="Sapphire", hold=0.5))),
                 hold=CLEAN, note="Both jewels in focus when the camera rests on them."),
            Shot(id="sh040", name="Fog over the bay", scene="bay_fog", first=1005, last=1080, handle_in=4, handle_out=4,
                 recipe="Final", departures={"bounces": 3, "fog_step": 300.0}, hold=CLEAN),
            Shot(id="sh050", name="Tide dial", scene="tide_dial", first=1001, last=1096, recipe="Final",
                 move=Turntable(seconds=4.0), hold=CLEAN, note="Plays as a loop beside the showcase."),
        ),
        recipes=(
            Recipe(name="Final", samples_floor=16, samples_ceiling=2048, brightness_ceiling=5.0, despike=1),
            Recipe(name="Preview", samples_floor=4, samples_ceiling=32, bounces=2, render_scale=50.0, denoise_window=3),
        ),
        machines=(
            Machine(name="Harbour desk", free=(Weekly(days=DAYS[:5], start="19:00", end="08:00"), Weekly(days=DAYS[5:]))),
            Machine(name="Lamp room", speed=0.6, free=(Weekly(days=DAYS, start="22:00", end="06:30"),), price_per_hour=0.4),
        ),
    )  # fmt: skip


def main() -> None:
    """Write the reel and render its proofs; with names of shots, of these alone."""
    warm_up()
    save_reel(SOURCE / NAME, demo_reel())
    reel = read_reel(SOURCE / NAME)
    root = SOURCE / "proofs"
    if "--reel" in sys.argv:
        return
    named = [a for a in sys.argv[1:] if a in PROVEN]
    for word, measure in (
        ("--wider", make_wider), ("--denoised", make_denoised), ("--cleaner", make_denoised),
        ("--effects", measure_effects), ("--noise", measure_noise),
    ):  # fmt: skip
        if word in sys.argv:
            for shot in (reel.shot(n) for n in named or PROVEN):
                measure(reel, root, shot)
            return
    for shot in (reel.shot(n) for n in named or PROVEN):
        shutil.rmtree(root / shot.id, ignore_errors=True)
        recipe = reel.recipe_of(shot)
        scale, run, varied = PROVEN[shot.id]
        begin, end = shot.begin, shot.past - 1
        middle = (begin + end) // 2
        spread = tuple(round(begin + k * (end - begin) / 8) for k in range(9))
        orders = [
            ProofOrder(shot, recipe, spread, 16, scale),
            ProofOrder(shot, recipe, tuple(range(middle - run // 2, middle + run // 2 + 1)), 16, scale),
        ]
        orders += [ProofOrder(shot, msgspec.structs.replace(recipe, **lines), (spread[5],), 16, scale) for lines in varied]
        for k, order in enumerate(orders):
            if k == 1:
                _warm_filter(root, shot.id)
            proof = make_proof(reel, root, order, yardstick=recent_yardsticks)
            print(f"{shot.id} {proof.id}: {len(proof.pictures)} pictures", file=sys.stderr)
        make_sweep(reel, shot)
        make_more(reel, shot)
        make_wider(reel, root, shot)
        make_denoised(reel, root, shot)
        lighten(root, shot.id)
        EvidenceReader().read(root, shot)  # measured once, and kept beside the proofs


def make_more(reel: Reel, shot: Shot) -> None:
    """The run of a shot once more with more samples, a scan, noise at full size, and a larger run where it has one.

    Parameters
    ----------
    reel : the reel
    shot : the shot
    """
    scale, run, _ = PROVEN[shot.id]
    middle, recipe = (shot.begin + shot.past - 1) // 2, reel.recipe_of(shot)
    run = min(run, CLEANER_RUN)
    orders = [
        ProofOrder(shot, recipe, tuple(range(middle - run // 2, middle + run // 2 + 1)), CLEANER, scale),
        scan_order(shot, recipe, reel.picture_size),
        noise_order(shot, recipe, reel.picture_size),
    ]
    if shot.id in LARGE:
        at, count, samples, size = LARGE[shot.id]
        orders.append(ProofOrder(shot, recipe, tuple(range(at - count // 2, at + count // 2 + 1)), samples, size, seeds=1))
    for order in orders:
        proof = make_proof(reel, SOURCE / "proofs", order, yardstick=recent_yardsticks)
        print(f"{shot.id} {proof.id}: {len(proof.pictures)} pictures of {proof.width} pixels across", file=sys.stderr)


def make_wider(reel: Reel, root: Path, shot: Shot) -> None:
    """A run of a shot near the delivered size: its noise and what denoising does to it are measured, then its pictures are kept small.

    Rendered on a busier machine than the other proofs its seconds are brought to theirs by hand, since a reel has one speed a machine.

    Parameters
    ----------
    reel : the reel
    root : folder of the proofs
    shot : the shot
    """
    middle = (shot.begin + shot.past - 1) // 2
    order = ProofOrder(shot, reel.recipe_of(shot), tuple(range(middle - 3, middle + 4)), WIDER_SAMPLES, WIDER)
    proof = make_proof(reel, root, order)
    folder = root / shot.id / proof.id
    for pictures in proof.by_frame().values():
        keep_small(folder, proof, pictures, WIDER_SMALL)
    write_proof(folder, msgspec.structs.replace(proof, small=WIDER_SMALL))
    print(f"{shot.id} {proof.id}: a run of {proof.width} pixels across", file=sys.stderr)


def make_denoised(reel: Reel, root: Path, shot: Shot) -> None:
    """Runs of two parts of the frames of a shot, as dense as they are delivered; their pictures are kept small.

    Their seconds are brought to those of its other runs, which were made on a quiet machine.

    Parameters
    ----------
    reel : the reel
    root : folder of the proofs
    shot : the shot
    """
    quiet = {(e.window, e.thorough): e.seconds_per_pixel for folder in proof_folders(root, shot.id) for e in read_effects(folder, True)}
    middle = (shot.begin + shot.past - 1) // 2
    at = noisiest_place(EvidenceReader().read(root, shot), middle)
    orders = denoising_orders(shot, reel.recipe_of(shot), reel.picture_size, middle, WIDER_SAMPLES, at)
    # the middle once more with more samples: how much less there is to take out then
    cleaner = replace(orders[-1], samples=DENSE_CLEANER, frames=orders[-1].frames[2:-2])
    for order in [*orders, cleaner] if "--cleaner" not in sys.argv else [cleaner]:
        proof = make_proof(reel, root, order)
        folder = root / shot.id / proof.id
        found = read_effects(folder)
        times = quiet[5, True] / next(e.seconds_per_pixel for e in found if (e.window, e.thorough) == (5, True))
        write_effects(folder, [msgspec.structs.replace(e, seconds_per_pixel=times * e.seconds_per_pixel) for e in found])
        for pictures in proof.by_frame().values():
            keep_small(folder, proof, pictures, WIDER_SMALL)
        write_proof(folder, msgspec.structs.replace(proof, small=WIDER_SMALL))
        print(f"{shot.id} {proof.id}: a run of {proof.size_words} pixels", file=sys.stderr)


def measure_effects(reel: Reel, root: Path, shot: Shot) -> None:
    """Measure effects of denoising anew, on the same frames with all their guides; seconds stay those of a quiet machine.

    Parameters
    ----------
    reel : the reel
    root : folder of the proofs
    shot : the shot
    """
    for folder in proof_folders(root, shot.id):
        kept = read_effects(folder, outdated=True)
        if not kept:
            continue
        proof = read_proof(folder)
        with tempfile.TemporaryDirectory() as room:
            made = make_proof(reel, Path(room), _order_of(reel, shot, proof))
            found = read_effects(Path(room) / shot.id / made.id)
        quiet = {(e.window, e.thorough, e.despike): {s: getattr(e, s) for s in SECONDS} for e in kept}
        write_effects(folder, [msgspec.structs.replace(e, **quiet.get((e.window, e.thorough, e.despike), {})) for e in found])
        print(f"{shot.id} {proof.id}: {len(found)} effects of {made.width} pixels across", file=sys.stderr)


def measure_noise(reel: Reel, root: Path, shot: Shot) -> None:
    """Measure noise anew of proofs that are kept small, on the same frames with the same seeds at their whole size.

    Parameters
    ----------
    reel : the reel
    root : folder of the proofs
    shot : the shot
    """
    for folder in proof_folders(root, shot.id):
        proof = read_proof(folder)
        if proof.scan or proof.small == 1:
            continue
        kept = ProofMeasures(folder)
        with tempfile.TemporaryDirectory() as room:
            made = make_proof(reel, Path(room), replace(_order_of(reel, shot, proof), guides=False))
            whole = Path(room) / shot.id / made.id
            for one, two in made.by_frame().values():
                a, b = (read_picture(whole / p.file).rgb for p in (one, two))
                kept.put([folder / p.file for p in (one, two)], float(made.samples), noise_of_pictures(a, b, made.samples))
        kept.save()
        print(f"{shot.id} {proof.id}: noise of {len(made.pictures)} pictures of {made.width} pixels across", file=sys.stderr)


def _order_of(reel: Reel, shot: Shot, proof: Proof) -> ProofOrder:
    """The order that renders a proof once more."""
    scale = 100.0 * proof.frame_size[0] / scaled_size(reel.picture_size, 100.0)[0]
    seeds = max(len(pictures) for pictures in proof.by_frame().values())
    crop = None if proof.crop is None else (proof.crop.left, proof.crop.top, proof.width, proof.height)
    return ProofOrder(shot, proof.recipe, tuple(sorted(proof.by_frame())), proof.samples, scale, seeds=seeds, crop=crop)


def lighten(root: Path, shot: str) -> None:
    """Leave guides out that only denoising needs, since its effect was measured: they ship with the application. Motion and depth stay.

    Parameters
    ----------
    root : folder of the proofs
    shot : id of the shot
    """
    for folder in proof_folders(root, shot):
        proof = read_proof(folder)
        if proof.scan and proof.small == 1:
            proof = msgspec.structs.replace(proof, small=SCAN_SMALL)
            write_proof(folder, proof)
            for picture in proof.pictures:
                keep_small(folder, proof, [picture], SCAN_SMALL)
        kept = () if proof.width > LARGE_WIDTH else KEPT_GUIDES
        for picture in proof.pictures:
            whole = read_picture(folder / picture.file)
            guides = {n: p for n, p in whole.guides.items() if n in kept and picture.seed == 1}
            if len(guides) < len(whole.guides):
                write_picture(folder / picture.file, Picture(whole.rgb, guides, whole.attributes))


def make_sweep(reel: Reel, shot: Shot) -> None:
    """The finished sweep of a shot, where it has one.

    Parameters
    ----------
    reel : the reel
    shot : the shot
    """
    if shot.id not in SWEPT:
        return
    name, values, frame, samples, scale = SWEPT[shot.id]
    base = ProofOrder(shot, reel.recipe_of(shot), (frame,), samples, scale)
    for order in sweep_orders(base, name, values, f"{name} 1"):
        proof = make_proof(reel, SOURCE / "proofs", order, yardstick=recent_yardsticks)
        print(f"{shot.id} {proof.id}: sweep over {name}", file=sys.stderr)


def _warm_filter(root, shot: str) -> None:
    """Compile the filter before it is timed."""
    folder = proof_folders(root, shot)[0]
    picture = read_picture(folder / read_proof(folder).pictures[0].file)
    measure_effect([picture] * 3, None, 3)


if __name__ == "__main__":
    main()
