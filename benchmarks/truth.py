"""What is promised against what comes: held-back frames of bench scenes, and simulated shots of four kinds.

Scenes, seeds and simulated shots are none that anything was tuned on. `python benchmarks/truth.py [SHOTS]` prints the
tables of docs/truth.md; SHOTS is how many simulated shots of each kind there are.
"""

from __future__ import annotations

import sys
import time
import zlib
from dataclasses import replace
from pathlib import Path

import msgspec
import numpy as np

sys.path.insert(0, str(Path(__file__).parent.parent / "tests" / "measure"))

from planted import HELD_BACK, TUNED, deep, fog, jewels, room

from hasty_reel.bench.library import find_scene
from hasty_reel.bench.render import Settings, render, warm_up
from hasty_reel.bench.scene import Scene
from hasty_reel.evidence.rows import SAMPLE_GRID, Evidence, ProofFrame, noise_of_pictures
from hasty_reel.finish.chain import Chain
from hasty_reel.finish.effect import DenoiseEffect, measure_effect
from hasty_reel.finish.finisher import Finisher
from hasty_reel.image.size import scaled_size
from hasty_reel.measure.noise import noise_linear
from hasty_reel.measure.seen import STANDARD, grain_weight
from hasty_reel.measure.sequence import measure_sequence
from hasty_reel.pictures.frame import Picture
from hasty_reel.plan.shot import MARGIN
from hasty_reel.plan.spread import DAY, DEGREES, day_factors
from hasty_reel.predict.effects import Effects
from hasty_reel.predict.model import ShotModel
from hasty_reel.predict.paths import drawn_paths
from hasty_reel.predict.process import COST, Carried, Observed, likely_cells
from hasty_reel.predict.tables import table_at
from hasty_reel.reel.recipe import Recipe

SIZE, FRAMES = (240, 136), 48
PROOFS, HELD, RUN = (0, 9, 21, 36, 47), tuple(range(26, 34)), tuple(range(11, 20))
"""Places in the shot: of proof frames, of frames held back, of the run on which denoising is tried."""
SECOND = tuple(range(40, 45))
"""Places of a second, shorter run, as it is offered as the next proof."""
FEW = 4
"""Samples of the quarter-size proofs; what is held back has 4 and 16 times as many."""
RECIPE = Recipe(name="Truth", brightness_ceiling=5.0)
NOWHERE = np.full(len(SAMPLE_GRID), np.nan)
WINDOW = 3


def picture(scene: Scene, first: int, place: int, samples: int, seed: int, scale: float = 100.0) -> tuple[Picture, float]:
    """One picture and its seconds."""
    width, height = scaled_size(SIZE, scale)
    made = Settings(
        width, height, samples, steps=0, bounces=4, ceiling=5.0, seed=zlib.crc32(f"{scene.name} {place} {seed} {samples}".encode())
    )
    done = render(scene, first + place, made)
    return Picture(done.rgb, done.guides), done.sample_seconds


def proof_frame(scene: Scene, first: int, place: int, samples: int, scale: float, seeds: int = 2) -> ProofFrame:
    """A proof frame as the application keeps it."""
    return proof_of([picture(scene, first, place, samples, s, scale) for s in range(1, seeds + 1)], place, samples, scale)


def proof_of(made: list[tuple[Picture, float]], place: int, samples: int, scale: float) -> ProofFrame:
    """The same from pictures that are there."""
    seeds = len(made)
    seconds = [t for _, t in made]
    noise = noise_of_pictures(made[0][0].rgb, made[1][0].rgb, samples) if seeds == 2 else None
    return ProofFrame(
        proof=f"{scale:g} {samples}", frame=place, recipe=RECIPE, pixels=int(np.prod(scaled_size(SIZE, scale))), samples=samples,
        load_seconds=0.0, cache_seconds=0.0, sample_seconds=float(np.mean(seconds)), write_seconds=1e-6,
        variance=np.nan if noise is None else noise.variance, worst_variance=np.nan if noise is None else noise.worst_variance,
        lightness_noise=NOWHERE if noise is None else np.array(noise.lightness_noise),
        contrast_noise=NOWHERE if noise is None else np.array(noise.contrast_noise),
        spark_noise=NOWHERE if noise is None else np.array(noise.spark_noise),
        noise_linear=np.nan if noise is None else noise.noise_linear, noise_L=np.nan if noise is None else noise.noise_L,
        picture=Path("."), apart=float(np.log(seconds[0] / seconds[1])) if seeds == 2 else np.nan, scan=seeds == 1,
    )  # fmt: skip


def finished(run: list[Picture]) -> list[Picture]:
    """The inner frames of a run, denoised over time, with the guides they had."""
    finisher, frames = Finisher(Chain(window=WINDOW), lambda k: run[k]), range(len(run))
    return [Picture(finisher.finish(k, finisher.chain.needed(k, frames)).rgb, run[k].guides) for k in range(1, len(run) - 1)]


def seen_noise(a: list[Picture], b: list[Picture]) -> float:
    """Seen flicker of the noise of a run, as it is measured."""
    return measure_sequence(range(len(a)), lambda f, w: a[f], lambda f, w: b[f]).seen_noise


def at_place(effect: DenoiseEffect, run: tuple[int, ...]) -> DenoiseEffect:
    """An effect, and the place of its run."""
    return msgspec.structs.replace(effect, frame=float(run[len(run) // 2]))


def held_back_scene(name: str, scene: Scene, first: int) -> None:
    """Proofs of a scene predict a run that had none."""
    rows = [proof_frame(scene, first, p, 4 * FEW, 50.0) for p in PROOFS]
    rows += [proof_frame(scene, first, p, 1, 100.0) for p in PROOFS]
    rows += [proof_frame(scene, first, p, 4, 25.0, seeds=1) for p in range(0, FRAMES, 2)]
    runs = {n: [[picture(scene, first, p, n, s) for p in RUN] for s in (1, 2)] for n in (FEW, 4 * FEW)}
    rows += [proof_of([one, two], p, n, 100.0) for n, seeds in runs.items() for p, one, two in zip(RUN, *seeds)]
    density = STANDARD.pixels_per_degree(SIZE[1])
    pictures = {n: [[p for p, _ in side] for side in seeds] for n, seeds in runs.items()}
    found = [at_place(measure_effect(one, two, WINDOW, n, 0.0, density), RUN) for n, (one, two) in pictures.items()]
    one, two = ([picture(scene, first, p, 4 * FEW, s)[0] for p in SECOND] for s in (1, 2))
    known = Effects(tuple(found)), Effects((*found, at_place(measure_effect(one, two, WINDOW, 4 * FEW, 0.0, density), SECOND)))
    at = ShotModel(Evidence(tuple(rows)), range(FRAMES)).at(RECIPE, float(np.prod(SIZE)))
    weight = grain_weight(STANDARD.pixels_per_degree(SIZE[1]), 24.0)
    k = np.array(HELD)
    inside, kept, ratios, words = [], [], [], []
    for times in (4, 16):
        n = FEW * times
        made = [[picture(scene, first, p, n, s) for p in HELD] for s in (3, 4)]
        one, two = ([p for p, _ in side] for side in made)
        seconds = np.array([[t for _, t in side] for side in made])
        work = n * float(np.prod(SIZE))
        day = np.resize(day_factors(), len(at.cost_draws))[:, None]
        low, high = np.percentile(at.cost_draws[:, k] * day, (5, 95), axis=0)
        inside += list(((seconds >= low * work) & (seconds <= high * work)).ravel())
        ratios.append(float((at.cost[k] * work).sum() / seconds.mean(axis=0).sum()))
        measured = np.array([noise_linear(a.rgb, b.rgb) ** 2 for a, b in zip(one, two)])
        kept += list(measured <= at.variance[k] * np.exp(MARGIN * at.variance_spread[k]) / n)
        noise = np.sqrt(np.mean(at.variance[k] / n)) / np.sqrt(np.mean(measured))
        predicted = table_at(at.contrast_table[k], np.full(len(k), float(n))) * weight
        raw = float(np.sqrt(np.mean(predicted**2))) / seen_noise(one, two)
        really, fine = seen_noise(finished(one), finished(two)), []
        for effects in known:
            effect, over = effects.at(WINDOW, float(n)), effects.over(WINDOW, float(n), True, 1.0, HELD)
            assert effect is not None
            fine.append(float(np.sqrt(np.mean((predicted * over.seen)[1:-1] ** 2))) * effect.seen / really)
        words.append(f"noise {noise:5.2f}  seen raw {raw:5.2f}  finished, one run {fine[0]:5.2f}, two {fine[1]:5.2f}")
    head = f"{name:10} seconds {np.exp(np.mean(np.log(ratios))):5.2f}, in band {np.mean(inside):4.2f}, noise kept {np.mean(kept):4.2f}"
    print(f"{head} | 4x {words[0]} | 16x {words[1]}", flush=True)


def simulated_curve(kind: str, rng: np.random.Generator) -> np.ndarray:
    """Logarithm of the cost over a shot: slow, medium, rough, or one hump on a slow one."""
    frames = np.arange(96.0)

    def wave(scale: float, length: float) -> np.ndarray:
        return drawn_paths(frames, np.array([scale]), np.array([length]), np.array([True]), rng)[0].astype(np.float64)

    own = rng.standard_normal(96) * 0.03
    if kind == "hump":
        height, at, width = rng.uniform(0.5, 1.2), rng.uniform(15, 80), rng.uniform(3, 6)
        return wave(0.15, 40.0) + height * np.exp(-0.5 * ((frames - at) / width) ** 2) + own
    return wave(*{"slow": (0.4, 50.0), "medium": (0.3, 15.0), "rough": (0.25, 5.0)}[kind]) + own


def simulated(kind: str, proofs: str, scanned: bool, rng: np.random.Generator) -> tuple[float, bool, float]:
    """One simulated shot: share of frames in their band, whether the total held, logarithm of planned over real."""
    count = int(proofs[0])
    at = np.linspace(0, 95, count).round().astype(int)
    if proofs.endswith("run"):
        at = np.unique(np.concatenate([at, np.arange(43, 53)]))
    if proofs.endswith("uneven"):
        at = np.unique(np.round(95 * np.array([0, 0.09, 0.27, 0.41, 0.66, 0.82, 1.0])).astype(int))
    real = simulated_curve(kind, rng)
    told = real[at] + rng.normal(-0.035, 0.045) + rng.standard_normal(len(at)) * 0.02
    scan = np.zeros(96)
    if scanned:
        scan = np.interp(np.arange(96), np.arange(0, 96, 2), real[::2] + rng.standard_normal(48) * 0.35 / np.sqrt(800))
        scan = scan - scan.mean()
    seen = Observed(at.astype(float), np.full(len(at), 0.025), scan[at], np.full(len(at), np.log(1 / 16)), np.zeros(len(at)))
    logs = told - scan[at]
    curve = Carried(seen, likely_cells(seen, logs, COST), np.arange(96), scan if scanned else None, humps=True)
    draws = curve.draws(logs) + scan + DAY * np.random.default_rng(8).standard_t(DEGREES, len(curve.draws(logs)))[:, None]
    real = real + 0.05 / np.sqrt(2) * rng.standard_t(DEGREES)
    low, high = np.percentile(draws, (5, 95), axis=0)
    totals = np.exp(draws).sum(axis=1)
    error = float(np.log(totals.mean() / np.exp(real).sum()))
    return float(np.mean((real >= low) & (real <= high))), bool(np.exp(real).sum() <= np.quantile(totals, 0.9)), error


def main() -> None:
    """Print both tables."""
    shots = int(sys.argv[1]) if len(sys.argv) > 1 else 300
    began = time.perf_counter()
    if shots:
        print(f"simulated shots, {shots} of each kind: frames in the 90 % band / totals under the stated 9 in 10 (mean error of the total)")
    for proofs, scanned in (("3", 0), ("5", 0), ("9", 0), ("7 uneven", 0), ("5 + run", 0), ("5", 1), ("5 + run", 1)) if shots else ():
        cells = []
        for kind in ("slow", "medium", "rough", "hump"):
            rng = np.random.default_rng(zlib.crc32(f"{proofs} {kind} {scanned}".encode()))
            found = np.array([simulated(kind, proofs, bool(scanned), rng) for _ in range(shots)], float)
            cells.append(f"{kind} {found[:, 0].mean():.2f} / {found[:, 1].mean():.2f} ({found[:, 2].mean():+.2f})")
        print(f"{proofs + (' + scan' if scanned else ''):15}" + "   ".join(cells), flush=True)
    warm_up()
    print(f"held-back frames of bench scenes, {SIZE[0]}x{SIZE[1]}: predicted / measured")
    for name, scene, first in (
        ("hall", room(HELD_BACK), 1001), ("glassware", jewels(TUNED), 1001), ("mist", fog(HELD_BACK), 1001),
        ("close", deep(HELD_BACK), 1001), ("comet", find_scene("comet_pass"), 1010), ("tide dial", find_scene("tide_dial"), 1020),
    ):  # fmt: skip
        held_back_scene(name, replace(scene, name=f"{scene.name} held back"), first)
    print(f"{time.perf_counter() - began:.0f} s")


if __name__ == "__main__":
    main()
