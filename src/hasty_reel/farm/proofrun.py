"""Runs of consecutive frames among those of a proof, and what denoising over time does on one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from hasty_reel.evidence.proof import DenoiseEffect, Proof
from hasty_reel.pictures.frame import Picture, read_picture

SHORTEST_RUN = 3
"""Consecutive frames from which denoising over time can be measured."""
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


def measure_run(folder: Path, proof: Proof, run: Sequence[int]) -> list[DenoiseEffect]:
    """Return what denoising over 3, 5 and 7 frames does on a run of consecutive frames of a proof.

    Parameters
    ----------
    folder : of the proof
    proof : the proof
    run : numbers of consecutive frames
    """
    from hasty_reel.finish.effect import measure_effect  # brings the compiler along

    by_frame = proof.by_frame()
    middle = len(run) // 2
    near = run[max(0, middle - LONGEST_RUN // 2) : middle + LONGEST_RUN // 2 + 1]
    seeds: list[list[Picture]] = [[read_picture(folder / by_frame[f][k].file) for f in near] for k in range(min(2, len(by_frame[near[0]])))]
    if len(seeds) > 1:  # guides hardly depend on the seed: a picture without them takes those of the other
        seeds[1] = [b if b.guides else replace(b, guides=a.guides) for a, b in zip(*seeds)]
    out = []
    for window in (3, 5, 7):
        if window > len(near):
            break
        out.append(measure_effect(seeds[0], seeds[1] if len(seeds) > 1 else None, window))
    return out
