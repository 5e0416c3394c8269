"""Compile all kernels into the cache, once at set-up, with progress shown: `python -m hasty_reel.warm`."""

from __future__ import annotations

import os
import sys
import time
from collections.abc import Callable

import numpy as np

from hasty_reel.bench.render import warm_up
from hasty_reel.budget.samples import Problem, hold_noise
from hasty_reel.finish.chain import Chain
from hasty_reel.finish.effect import measure_effect
from hasty_reel.finish.finisher import Finisher
from hasty_reel.image.plaincodes import plain_codes
from hasty_reel.machinecode import DIAL, is_prepared, mark_prepared
from hasty_reel.measure.causes import find_causes
from hasty_reel.measure.flow import optical_flow
from hasty_reel.measure.othersamples import two_renders
from hasty_reel.measure.sequence import measure_sequence
from hasty_reel.pictures.colour import dither_of
from hasty_reel.pictures.frame import Picture


def tiny_run() -> list[Picture]:
    """Three tiny frames with all guides, to run every kernel of the finishing chain on."""
    plane = np.full((12, 12), 0.5, np.float32)
    names = ("albedo.R", "albedo.G", "albedo.B", "normal.X", "normal.Y", "normal.Z", "Z", "motion.X", "motion.Y")
    return [Picture(np.full((12, 12, 3), 0.5, np.float32), dict.fromkeys(names, plane)) for _ in range(3)]


def warm_dial() -> None:
    """Run the kernels by which frames are shown at other samples, as they were rendered."""
    a, b = (np.random.default_rng(seed).random((12, 12, 3), np.float32) for seed in (1, 2))
    two = two_renders(a, b, 16.0)
    for samples in (4.0, 16.0, 64.0):
        plain_codes(two.at(samples, 1), dither_of(12, 12))
    mark_prepared(DIAL)


def warm_finishing() -> None:
    """Run every kernel of the finishing chain, with guides and without."""
    run = tiny_run()
    measure_effect(run, None, 3)
    bare = [Picture(p.rgb) for p in run]
    Finisher(Chain(window=3, despike=True), lambda k: bare[k]).finish(1, range(3))


def measure_tiny() -> None:
    """Run every kernel of the measures: a few frames of noise, one pair large enough for its flow to be set right."""
    rng = np.random.default_rng(1)
    frames = [Picture(rng.random((40, 40, 3), np.float32)) for _ in range(3)]
    find_causes(range(3), lambda frame, wanted: frames[frame])
    measure_sequence(range(3), lambda frame, wanted: frames[frame])
    large = np.repeat(np.repeat(rng.random((110, 110), np.float32) * 100.0, 8, axis=0), 8, axis=1)
    optical_flow(large[:, 8:], large[:, :-8])
    run = tiny_run()
    measure_sequence(range(3), lambda frame, wanted: run[frame])


def main() -> None:
    """Compile what is not in the cache yet and say how long it took."""
    if is_prepared():
        print("  kernels are there already", file=sys.stderr)
        return
    if "--beside" in sys.argv:  # somebody works meanwhile
        os.nice(5)
    began = time.perf_counter()
    steps: tuple[tuple[str, Callable[[], object]], ...] = (
        ("sample dial", warm_dial),
        ("bench renderer", warm_up),
        ("finishing chain", warm_finishing),
        ("measures", measure_tiny),
        ("budget solver", lambda: hold_noise(Problem(np.ones(5000), np.ones(5000), np.zeros(5000), ratio=1.25), 0.5)),
    )
    for k, (name, step) in enumerate(steps):
        at = time.perf_counter()
        print(f"  {k + 1} of {len(steps)}  {name} …", end="", file=sys.stderr, flush=True)
        step()
        print(f" {time.perf_counter() - at:.1f} s", file=sys.stderr)
    mark_prepared()
    print(f"  kernels ready after {time.perf_counter() - began:.1f} s", file=sys.stderr)


if __name__ == "__main__":
    main()
