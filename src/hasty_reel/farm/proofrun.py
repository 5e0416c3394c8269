"""Runs of consecutive frames among those of a proof, and what denoising over time does on one."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from msgspec import structs

from hasty_reel.evidence.proof import DenoiseEffect, Proof, read_effects, write_effects
from hasty_reel.measure.seen import pixels_per_degree
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.programs.ownsteps import OwnStep
from hasty_reel.reel.resolved import ResolvedRecipe
from hasty_reel.settings.recipe import DENOISE_WINDOWS
from hasty_reel.work import CancelToken, Progress

if TYPE_CHECKING:
    from hasty_reel.finish.chain import Chain
    from hasty_reel.finish.effect import EffectMeasurer

SHORTEST_RUN = 5
"""Consecutive frames from which denoising over time can be measured: two more than the shortest window."""
BEYOND = 2
"""Frames that a run must have beyond a window for its effect to be measured: with fewer a long window looks worse for that alone."""
LONGEST_RUN = 13
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
    """Return what despiking does on a run of consecutive frames of a proof, and denoising, quickly and thoroughly, over so many frames.

    Parameters
    ----------
    folder : of the proof
    proof : the proof
    run : numbers of consecutive frames
    rows : of the delivered picture, whose pixels those of the proof stand for
    fps : frames a second of the reel
    """
    from hasty_reel.finish.effect import Way  # brings the compiler along

    measurer, frames = _measurer(folder, proof, run, rows, fps)
    ways = [Way(1, despiked=True), *(Way(window, thorough) for thorough in (False, True) for window in DENOISE_WINDOWS)]
    middle = float(run[len(run) // 2])
    return [structs.replace(measurer.measure(way), frame=middle) for way in ways if way.window + BEYOND <= frames]


def try_chain(
    folder: Path,
    proof: Proof,
    resolved: ResolvedRecipe,
    own: Sequence[OwnStep],
    rows: int,
    fps: float,
    progress: Progress,
    cancel: CancelToken,
) -> DenoiseEffect | None:
    """Try the whole chain of a recipe on the run of a proof, and keep what it did beside the proof.

    Parameters
    ----------
    folder : of the proof
    proof : the proof
    resolved : recipe of the shot
    own : the artist's own steps that it names
    rows : of the delivered picture, whose pixels those of the proof stand for
    fps : frames a second of the reel
    progress : called with the share that is done, 0 to 1, and words
    cancel : looked at meanwhile

    Returns
    -------
    DenoiseEffect | None
        What it did; None where the proof has no run that is long enough, or the chain is the usual one.

    Raises
    ------
    HastyReelError
        When a step fails, or what comes out has another size than is delivered.
    """
    runs, words = runs_of(list(proof.by_frame())), resolved.chain
    if not runs or not words:
        return None
    measurer, frames = _measurer(folder, proof, runs[0], rows, fps)
    if resolved.window + BEYOND > frames:
        return None
    effect = measurer.measure_chain(chain_on(proof, resolved, own), words, cancel, progress)
    effect = structs.replace(effect, frame=float(runs[0][len(runs[0]) // 2]))
    others = [e for e in read_effects(folder) if e.chain != words]
    write_effects(folder, [*others, effect])
    return effect


def picture_of(folder: Path, proof: Proof, frame: int, seed: int) -> Picture:
    """Return a picture of a proof with its guides; those of the first seed where the second has none.

    Guides hardly depend on the seed.

    Parameters
    ----------
    folder : of the proof
    proof : the proof
    frame : as the proof numbers it
    seed : 0 or 1

    Raises
    ------
    PictureError
        When it cannot be read.
    """
    both = proof.by_frame()[frame]
    picture = read_picture(folder / both[seed].file)
    return picture if picture.guides or not seed else replace(picture, guides=read_picture(folder / both[0].file).guides)


def chain_on(proof: Proof, resolved: ResolvedRecipe, own: Sequence[OwnStep]) -> Chain:
    """Return the chain of a recipe for the run of a proof: what is not rendered as delivered is resized, and it is no loop.

    Parameters
    ----------
    proof : the proof
    resolved : recipe of the shot
    own : the artist's own steps that it names
    """
    from hasty_reel.finish.chain import Chain  # brings the compiler along

    size = delivered_size((proof.width, proof.height), resolved.recipe.render_scale) if resolved.scaled else None
    return replace(Chain.of(resolved, size, own), loop=None)


def delivered_size(rendered: tuple[int, int], scale: float) -> tuple[int, int]:
    """Return the size to which a picture is resized that was rendered at a scale.

    Parameters
    ----------
    rendered : width and height in pixels
    scale : size rendered / size delivered, in percent
    """
    return max(1, round(rendered[0] * 100.0 / scale)), max(1, round(rendered[1] * 100.0 / scale))


def _measurer(folder: Path, proof: Proof, run: Sequence[int], rows: int, fps: float) -> tuple[EffectMeasurer, int]:
    """What measures effects on a run, and how many of its frames it takes."""
    from hasty_reel.finish.effect import EffectMeasurer

    by_frame = proof.by_frame()
    middle = len(run) // 2
    near = run[max(0, middle - LONGEST_RUN // 2) : middle + LONGEST_RUN // 2 + 1]
    began = time.perf_counter()
    seeds: list[list[Picture]] = [[read_picture(folder / by_frame[f][k].file) for f in near] for k in range(min(2, len(by_frame[near[0]])))]
    files = (time.perf_counter() - began) / (len(seeds) * len(near)) + float(np.mean([p.write_seconds for p in proof.pictures]))
    if len(seeds) > 1:  # guides hardly depend on the seed: a picture without them takes those of the other
        seeds[1] = [b if b.guides else replace(b, guides=a.guides) for a, b in zip(*seeds)]
    other = seeds[1] if len(seeds) > 1 else None
    # as rendered: a time cap, or stopping at noise, leaves fewer than were asked for
    samples = float(np.mean([p.samples or proof.samples for f in near for p in by_frame[f]]))
    return EffectMeasurer(seeds[0], other, samples, files, pixels_per_degree(rows), fps), len(near)
