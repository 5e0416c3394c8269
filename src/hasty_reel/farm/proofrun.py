"""Runs of consecutive frames among those of a proof, and what denoising over time does on one."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np

from hasty_reel.evidence.proof import DenoiseEffect, Proof
from hasty_reel.measure.seen import pixels_per_degree
from hasty_reel.pictures.frame import Picture, read_picture

SHORTEST_RUN = 5
"""Consecutive frames from which denoising over time can be measured: two more than the shortest window."""
BEYOND = 2
"""Frames that a run must have beyond a window for its effect to be measured: with fewer a long window looks worse for that alone."""
LONGEST_RUN = 9
"""Of a longer run its middle is measured."""


def runs_of(frames: Sequence[int | float]) -> list[list[int]]:
    """Return the longest stretch of consecutive frames, where it is long enough to judge motion by.

    Parameters
    ----------
    frames : numbers of the frames
    """
    runs: list[list[int]] = []
    for frame in sorted({int(f) for f in frames if f == int(f)}):
        if runs and frame == runs[-1][-1] + 1:
            runs[-1].append(frame)
        else:
            runs.append([frame])
    longest = max(runs, key=len, default=[])
    return [longest] if len(longest) >= SHORTEST_RUN else []


def measure_run(folder: Path, proof: Proof, run: Sequence[int], rows: int, fps: float = 24.0) -> list[DenoiseEffect]:
    """Return what despiking, and denoising over 3, 5 and 7 frames quickly and thoroughly, do on a run of consecutive frames of a proof.

    Parameters
    ----------
    folder : of the proof
    proof : the proof
    run : numbers of consecutive frames
    rows : of the delivered picture, whose pixels those of the proof stand for
    fps : frames a second of the reel
    """
    from hasty_reel.finish.effect import EffectMeasurer, Way  # brings the compiler along

    by_frame = proof.by_frame()
    middle = len(run) // 2
    near = run[max(0, middle - LONGEST_RUN // 2) : middle + LONGEST_RUN // 2 + 1]
    began = time.perf_counter()
    seeds: list[list[Picture]] = [[read_picture(folder / by_frame[f][k].file) for f in near] for k in range(min(2, len(by_frame[near[0]])))]
    files = (time.perf_counter() - began) / (len(seeds) * len(near)) + float(np.mean([p.write_seconds for p in proof.pictures]))
    if len(seeds) > 1:  # guides hardly depend on the seed: a picture without them takes those of the other
        seeds[1] = [b if b.guides else replace(b, guides=a.guides) for a, b in zip(*seeds)]
    other = seeds[1] if len(seeds) > 1 else None
    measurer = EffectMeasurer(seeds[0], other, proof.samples, files, pixels_per_degree(rows), fps)
    ways = [Way(1, despiked=True), *(Way(window, thorough) for thorough in (False, True) for window in (3, 5, 7))]
    return [measurer.measure(way) for way in ways if way.window + BEYOND <= len(near)]
