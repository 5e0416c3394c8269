"""The map of samples that stop at noise, foretold from two seeds, against the samples that the bench renderer then counted.

`python benchmarks/stopmap.py` prints a line a scene: mean samples foretold / counted, the same of the share of the picture that ended by
its noise, and how alike both maps are over tiles of 8 pixels (Spearman's rank correlation).
"""

from __future__ import annotations

import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
from scipy.stats import spearmanr

sys.path.insert(0, str(Path(__file__).parent.parent / "tests" / "measure"))

from planted import HELD_BACK, TUNED, deep, fog, jewels, room

from hasty_reel.bench.library import find_scene
from hasty_reel.bench.render import Settings, render, warm_up
from hasty_reel.bench.scene import Scene
from hasty_reel.budget.stopping import Stopping
from hasty_reel.image.luminance import luminance
from hasty_reel.image.tiles import tile_means
from hasty_reel.measure.bodysparks import body_and_sparks
from hasty_reel.measure.noise import left_out
from hasty_reel.measure.varianceshares import WEIGHTS, place_variance, variance_shares

SIZE, PROOF, MOST, FLOOR, TILE = (240, 136), 16, 256, 8, 8


def compared(name: str, scene: Scene, frame: int) -> None:
    """Print how well the map of a frame was foretold."""

    def shot(seed: int, **more):
        return render(scene, frame, Settings(*SIZE, steps=0, bounces=4, ceiling=5.0, seed=seed, guides=False, **more))

    a, b = (shot(seed, samples=PROOF).rgb for seed in (1, 2))
    one, two = (luminance(p).astype(np.float64) for p in (a, b))
    square = np.where(left_out(one, two), 0.0, (one - two) ** 2 / 2.0) * PROOF
    variance = place_variance(square)
    even = np.array([float(MOST)])
    sparks = np.array([body_and_sparks(a, b, PROOF).spark_share])
    stopping = Stopping(np.array([variance.mean()]), variance_shares(square)[None], WEIGHTS, sparks, 1.0, FLOOR, 1)
    stopping = replace(stopping, stop=float(f"{stopping.balance(even):.3g}"))
    foretold = stopping.counts_of(variance, float(MOST))
    counted = shot(7, samples=MOST, floor=FLOOR, stop_noise=stopping.stop).counts.astype(np.float64)
    tiles = [tile_means(np.ascontiguousarray(m), TILE).ravel() for m in (foretold, counted)]
    ended = [float(np.mean(m < MOST)) for m in (foretold, counted)]
    print(
        f"{name:10} stop at {stopping.stop:7.4f}: samples {foretold.mean() / counted.mean():5.2f}, ended {100 * ended[0]:3.0f} % of "
        f"{100 * ended[1]:3.0f} %, alike {spearmanr(*tiles).statistic:5.2f}",
        flush=True,
    )


def main() -> None:
    """Print the lines."""
    warm_up()
    for name, scene, frame in (
        ("hall", room(HELD_BACK), 1020), ("glassware", jewels(TUNED), 1020), ("mist", fog(HELD_BACK), 1020),
        ("close", deep(HELD_BACK), 1020), ("comet", find_scene("comet_pass"), 1030), ("tide dial", find_scene("tide_dial"), 1040),
    ):  # fmt: skip
        compared(name, scene, frame)


if __name__ == "__main__":
    main()
