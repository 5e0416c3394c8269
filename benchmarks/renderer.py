"""Bench renderer: camera paths a second at 480x270 on one thread and on all, demo scenes, full light paths."""

from __future__ import annotations

import statistics

import numba

from hasty_reel.bench.library import find_scene
from hasty_reel.bench.render import Settings, render, warm_up

ROUNDS, SAMPLES = 5, 8


def paths_per_second(scene: str, threads: int) -> list[float]:
    """Millions of camera paths a second, one figure a round."""
    numba.set_num_threads(threads)
    made = find_scene(scene)
    settings = Settings(480, 270, SAMPLES, bounces=6, ceiling=5.0, steps=8)
    return [480 * 270 * SAMPLES / render(made, 1040, settings).sample_seconds / 1e6 for _ in range(ROUNDS)]


def main() -> None:
    """Print the figures."""
    warm_up()
    every = numba.config.NUMBA_NUM_THREADS
    for scene in ("lamp_wakes", "comet_pass"):
        one, many = paths_per_second(scene, 1), paths_per_second(scene, every)
        a, b = statistics.median(one), statistics.median(many)
        print(f"{scene}: {b:.2f} M paths/s on {every} threads (best {max(many):.2f}), {a:.2f} on one: {b / a:.2f} times")


if __name__ == "__main__":
    main()
