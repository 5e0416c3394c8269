"""What is promised against what comes: simulated shots of four kinds, held-back frames of bench scenes, and of a second renderer.

Scenes, seeds and simulated shots are none that anything was tuned on. `python benchmarks/truth.py [SHOTS] [NAMES]` prints the
tables of docs/truth.md; SHOTS is how many simulated shots of each kind there are, NAMES (with commas) which scenes are rendered.
The second renderer (tests/second_renderer.py) shares no code with the first: it is started anew for each frame, takes a second and a
half to start, and tells one number of seconds; it is reached through a renderer link, as an artist's would be.
"""

from __future__ import annotations

import sys
import time
import zlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import msgspec
import numpy as np

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))
sys.path.insert(0, str(Path(__file__).parent.parent / "tests" / "measure"))

from planted import HELD_BACK, TUNED, deep, fog, jewels, room

from hasty_reel.bench.library import find_scene
from hasty_reel.bench.render import Settings, render, warm_up
from hasty_reel.bench.scene import Scene
from hasty_reel.evidence.rows import Evidence, ProofFrame, noise_of_pictures, sight_of
from hasty_reel.evidence.seentable import SAMPLE_GRID
from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.renderers import renderer_of
from hasty_reel.finish.chain import Chain
from hasty_reel.finish.effect import DenoiseEffect, measure_effect
from hasty_reel.finish.finisher import Finisher
from hasty_reel.measure.noise import noise_linear
from hasty_reel.measure.seen import STANDARD, grain_weight
from hasty_reel.measure.sequence import measure_sequence
from hasty_reel.pictures.frame import Picture
from hasty_reel.plan.shot import MARGIN
from hasty_reel.plan.time.spread import DAY, DEGREES, day_factors
from hasty_reel.predict.effects import Effects
from hasty_reel.predict.model import ShotModel
from hasty_reel.predict.paths import drawn_paths
from hasty_reel.predict.process import COST, Carried, Observed, likely_cells
from hasty_reel.predict.tables import table_at
from hasty_reel.scaledsize import scaled_size
from hasty_reel.settings.recipe import Recipe
from hasty_reel.work import silent
from second_link import slow_start

SIZE, FRAMES = (240, 136), 48
PROOFS, HELD, RUN = (0, 9, 21, 36, 47), tuple(range(26, 34)), tuple(range(11, 20))
"""Places in the shot: of proof frames, of frames held back, of the run on which denoising is tried."""
SECOND = tuple(range(40, 45))
"""Places of a second, shorter run, as it is offered as the next proof."""
START = 0.6
"""Seconds of work with which the second renderer starts, besides the second or so of its language."""
EYES = STANDARD
FEW = 4
"""Samples of the quarter-size proofs; what is held back has 4 and 16 times as many."""
RECIPE = Recipe(name="Truth", brightness_ceiling=5.0)
NOWHERE = np.full(len(SAMPLE_GRID), np.nan)
WINDOW = 3


@dataclass(frozen=True)
class Taken:
    """A picture and its seconds: those that grow, where they are told apart, and those before them."""

    picture: Picture
    seconds: float
    load: float
    one_number: bool


@dataclass(frozen=True)
class Source:
    """Renders pictures of one scene; first : number of its first frame."""

    name: str
    take: Callable[[int, int, int, float], Taken]
    first: int = 0

    def pictures(self, places: Sequence[int], samples: int, seed: int) -> list[Taken]:
        """Frames of a run at the planned size."""
        return [self.take(p, samples, seed, 100.0) for p in places]


def bench(name: str, scene: Scene, first: int) -> Source:
    """A scene of the renderer that ships."""
    scene = replace(scene, name=f"{scene.name} held back")

    def take(place: int, samples: int, seed: int, scale: float) -> Taken:
        width, height = scaled_size(SIZE, scale)
        made = Settings(
            width, height, samples, steps=0, bounces=4, ceiling=5.0, seed=zlib.crc32(f"{scene.name} {place} {seed} {samples}".encode())
        )
        done = render(scene, first + place, made)
        return Taken(Picture(done.rgb, done.guides), done.sample_seconds, 1e-6, False)

    return Source(name, take, first)


def second(scene: str) -> Source:
    """A scene of the second renderer, through a link; its processor seconds count, so that other work on this machine does not."""
    renderer = renderer_of(slow_start(START))

    def take(place: int, samples: int, seed: int, scale: float) -> Taken:
        width, height = scaled_size(SIZE, scale)
        recipe = msgspec.structs.replace(RECIPE, bounces=8, shutter_steps=0, shutter_angle=0.0)
        # as the seeds of a run: each frame and seed a pattern of its own
        made = renderer(FrameJob(scene, place, width, height, samples, recipe, seed * 100 + samples), silent, None, None)
        return Taken(made.picture, made.cpu_seconds, 0.0, made.one_number)

    return Source(scene, take)


def proof_frame(source: Source, place: int, samples: int, scale: float, seeds: int = 2) -> ProofFrame:
    """A proof frame as the application keeps it."""
    return proof_of([source.take(place, samples, s, scale) for s in range(1, seeds + 1)], place, samples, scale)


def proof_of(made: list[Taken], place: int, samples: int, scale: float) -> ProofFrame:
    """The same from pictures that are there."""
    seeds = len(made)
    seconds = [t.seconds for t in made]
    noise = noise_of_pictures(made[0].picture.rgb, made[1].picture.rgb, samples) if seeds == 2 else None
    return ProofFrame(
        proof=f"{scale:g} {samples}", frame=place, recipe=RECIPE, pixels=int(np.prod(scaled_size(SIZE, scale))), samples=samples,
        load_seconds=made[0].load, cache_seconds=0.0, sample_seconds=float(np.mean(seconds)), write_seconds=1e-6,
        variance=np.nan if noise is None else noise.variance, worst_variance=np.nan if noise is None else noise.worst_variance,
        lightness_noise=NOWHERE if noise is None else np.array(noise.lightness_noise),
        contrast_noise=NOWHERE if noise is None else np.array(noise.contrast_noise),
        spark_noise=NOWHERE if noise is None else np.array(noise.spark_noise),
        noise_linear=np.nan if noise is None else noise.noise_linear, noise_L=np.nan if noise is None else noise.noise_L,
        picture=Path("."), apart=float(np.log(seconds[0] / seconds[1])) if seeds == 2 else np.nan, scan=seeds == 1,
        one_number=made[0].one_number, **({} if noise is None else {"sight": sight_of(noise)}),
    )  # fmt: skip


def finished(run: list[Picture]) -> list[Picture]:
    """The inner frames of a run, denoised over time, with the guides they had."""
    finisher, frames = Finisher(Chain(window=WINDOW), lambda k: run[k]), range(len(run))
    return [Picture(finisher.finish(k, finisher.chain.needed(k, frames)).rgb, run[k].guides) for k in range(1, len(run) - 1)]


def seen_noise(a: list[Picture], b: list[Picture]) -> float:
    """Seen flicker of the noise of a run, as it is measured."""
    return measure_sequence(range(len(a)), lambda f, w: a[f], lambda f, w: b[f], eyes=EYES).seen_noise


def at_place(effect: DenoiseEffect, run: tuple[int, ...]) -> DenoiseEffect:
    """An effect, and the place of its run."""
    return msgspec.structs.replace(effect, frame=float(run[len(run) // 2]))


def held_back_scene(source: Source) -> None:
    """Proofs of a scene predict a run that had none."""
    rows = [proof_frame(source, p, 4 * FEW, 50.0) for p in PROOFS]
    rows += [proof_frame(source, p, 1, 100.0) for p in PROOFS]
    rows += [proof_frame(source, p, 4, 25.0, seeds=1) for p in range(0, FRAMES, 2)]
    runs = {n: [source.pictures(RUN, n, s) for s in (1, 2)] for n in (FEW, 4 * FEW)}
    rows += [proof_of([one, two], p, n, 100.0) for n, seeds in runs.items() for p, one, two in zip(RUN, *seeds)]
    density = EYES.pixels_per_degree(SIZE[1])
    pictures = {n: [[t.picture for t in side] for side in seeds] for n, seeds in runs.items()}
    found = [at_place(measure_effect(one, two, WINDOW, n, 0.0, density), RUN) for n, (one, two) in pictures.items()]
    one, two = ([t.picture for t in source.pictures(SECOND, 4 * FEW, s)] for s in (1, 2))
    known = Effects(tuple(found)), Effects((*found, at_place(measure_effect(one, two, WINDOW, 4 * FEW, 0.0, density), SECOND)))
    at = ShotModel(Evidence(tuple(rows)), range(FRAMES)).at(RECIPE, float(np.prod(SIZE)))
    weight = grain_weight(EYES.pixels_per_degree(SIZE[1]), 24.0)
    k = np.array(HELD)
    inside, kept, ratios, words = [], [], [], []
    for times in (4, 16):
        n = FEW * times
        made = [source.pictures(HELD, n, s) for s in (3, 4)]
        one, two = ([t.picture for t in side] for side in made)
        seconds = np.array([[t.seconds for t in side] for side in made])
        work = n * float(np.prod(SIZE))
        day = np.resize(day_factors(), len(at.cost_draws))[:, None]
        low, high = np.percentile((at.cost_draws[:, k] * work + at.fixed_draws[:, None]) * day, (5, 95), axis=0)
        inside += list(((seconds >= low) & (seconds <= high)).ravel())
        ratios.append(float((at.cost[k] * work + at.fixed.mean).sum() / seconds.mean(axis=0).sum()))
        measured = np.array([noise_linear(a.rgb, b.rgb) ** 2 for a, b in zip(one, two)])
        kept += list(measured <= at.variance[k] * np.exp(MARGIN * at.variance_spread[k]) / n)
        noise = np.sqrt(np.mean(at.variance[k] / n)) / np.sqrt(np.mean(measured))
        predicted = table_at(at.seen_table(EYES.degrees(SIZE[1]))[k], np.full(len(k), float(n))) * weight
        raw = float(np.sqrt(np.mean(predicted**2))) / seen_noise(one, two)
        done = [finished(side) for side in (one, two)]
        really, fine, calm = seen_noise(*done), [], []
        left = float(np.sqrt(np.mean([noise_linear(a.rgb, b.rgb) ** 2 for a, b in zip(*done)])))
        for effects in known:
            effect, over = effects.at(WINDOW, float(n)), effects.over(WINDOW, float(n), True, 1.0, HELD)
            assert effect is not None
            fine.append(float(np.sqrt(np.mean((predicted * over.seen)[1:-1] ** 2))) * effect.seen / really)
            calm.append(float(np.sqrt(np.mean((at.variance[k] / n * over.noise**2)[1:-1]))) * effect.noise_ratio / left)
        noises = f"noise {noise:4.2f}, finished {calm[0]:4.2f} {calm[1]:4.2f}"
        words.append(f"{noises}  seen raw {raw:4.2f}  finished, one run {fine[0]:4.2f}, two {fine[1]:4.2f}")
    fixed = "" if at.fixed.mean == 0 else f" (fixed {at.fixed.mean:4.2f} s, {'told' if at.fixed.known else 'not told'})"
    told = f"seconds {np.exp(np.mean(np.log(ratios))):5.2f}, in band {np.mean(inside):4.2f}{fixed}"
    head = f"{source.name:10} {told}, noise kept {np.mean(kept):4.2f}"
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
    wanted = sys.argv[2].split(",") if len(sys.argv) > 2 else None
    print(f"held-back frames of bench scenes and of the second renderer, {SIZE[0]}x{SIZE[1]}: predicted / measured")
    for source in (
        bench("hall", room(HELD_BACK), 1001), bench("glassware", jewels(TUNED), 1001), bench("mist", fog(HELD_BACK), 1001),
        bench("close", deep(HELD_BACK), 1001), bench("comet", find_scene("comet_pass"), 1010),
        bench("tide dial", find_scene("tide_dial"), 1020), *(second(name) for name in ("crossing", "embers", "lens", "gallery")),
    ):  # fmt: skip
        if wanted is None or source.name in wanted:
            held_back_scene(source)
    print(f"{time.perf_counter() - began:.0f} s")


if __name__ == "__main__":
    main()
