"""What is rendered of each frame: all of it, or a crop, and one frame whole that stands around the crops."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from hasty_reel.budget.samples import EASE, Budget, Problem
from hasty_reel.reel.shot import Shot
from hasty_reel.settings.recipe import Recipe

SAME = 1.05
"""Noise around the crops that is so many times that within is the same (our own choice)."""


def rendered_pixels(shot: Shot, recipe: Recipe, width: int, height: int) -> np.ndarray:
    """Return the pixels that are rendered of each frame, (f,): of a crop its share, but all of the frame that stands around it.

    Parameters
    ----------
    shot : the shot or layer
    recipe : with its departures
    width, height : of a frame as rendered
    """
    pixels, box = np.full(len(shot.frames), float(width * height)), recipe.crop_box(width, height)
    if box is not None:
        pixels[:] = box[2] * box[3]
        pixels[shot.index(shot.middle)] = width * height
    return pixels


def with_calm_around(shot: Shot, recipe: Recipe, problem: Problem, samples: np.ndarray, denoised: np.ndarray) -> np.ndarray:
    """Return samples with which the frame that stands around the crops is as calm as denoising makes the others, within its bounds.

    Around the crops nothing changes from frame to frame, so that denoising over time finds nothing to average there.

    Parameters
    ----------
    shot : the shot or layer
    recipe : with its departures
    problem : what was solved for; its variance counts after finishing
    samples : (f,) of the frames
    denoised : (f,) standard deviation of noise after denoising / before

    Returns
    -------
    np.ndarray
        (f,), whole multiples of the steps; never fewer than before.
    """
    if not any(recipe.crop) or len(samples) < 2:
        return samples
    k = shot.index(shot.middle)
    calm = (float(denoised[k]) * float(np.median(np.delete(problem.noise(samples), k)))) ** 2
    steps, most = max(1, problem.steps), int(problem.bounds[1][k])
    wanted = np.ceil(float(problem.variance[k]) / calm / steps * (1 - EASE)) * steps if calm > 0 else 0.0
    out = samples.copy()
    out[k] = max(int(samples[k]), int(min(wanted, most)))
    return out


def noisier_around(shot: Shot, recipe: Recipe, noise: np.ndarray, denoised: np.ndarray) -> float | None:
    """Return how many times as noisy as the others are the frame that stands around the crops stays there; None where it does not.

    Parameters
    ----------
    shot : the shot or layer
    recipe : with its departures
    noise : (f,) of the finished frames, standard deviation of linear luminance
    denoised : (f,) standard deviation of noise after denoising / before
    """
    if not any(recipe.crop) or len(noise) < 2:
        return None
    k = shot.index(shot.middle)
    around, calm = float(noise[k] / denoised[k]), float(np.median(np.delete(noise, k)))
    return around / calm if around > calm * SAME else None


def told_around(shot: Shot, recipe: Recipe, problem: Problem, budget: Budget, noise: np.ndarray, denoised: np.ndarray) -> Budget:
    """Return an answer that says so where the frame around the crops stays noisier there than the others are.

    A noise that is held is not kept then, where it is above it; flicker is none, for nothing changes there.

    Parameters
    ----------
    shot : the shot or layer
    recipe : with its departures
    problem : what was solved for
    budget : the answer
    noise : (f,) of the finished frames, standard deviation of linear luminance
    denoised : (f,) standard deviation of noise after denoising / before
    """
    times = noisier_around(shot, recipe, noise, denoised)
    if times is None:
        return budget
    k = shot.index(shot.middle)
    at = f"at {budget.samples[k]} samples" + (", the most it may get" if budget.samples[k] >= problem.bounds[1][k] else "")
    why = f"frame {shot.middle} stays {times:.1f} times as noisy around the crops as the others are within, {at}"
    kept = shot.hold.kind != "noise" or float(noise[k] / denoised[k]) <= shot.hold.value * (1 + EASE)
    return replace(budget, solved=budget.solved and kept, why="; ".join(w for w in (budget.why, why) if w))
