"""What is rendered of each frame: all of it, or a crop, and one frame whole that stands around the crops."""

from __future__ import annotations

import numpy as np

from hasty_reel.reel.recipe import LINE, Recipe
from hasty_reel.reel.shot import Shot

MOST = int(LINE["samples_ceiling"].high)
"""Samples of the frame that stands around the others, at most."""


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


def with_calm_around(shot: Shot, recipe: Recipe, samples: np.ndarray, gain: np.ndarray) -> np.ndarray:
    """Return samples with which the frame that stands around the crops is as calm as finishing makes the others.

    Around the crops nothing changes from frame to frame, so that denoising over time finds nothing to average there.

    Parameters
    ----------
    shot : the shot or layer
    recipe : with its departures
    samples : (f,) of the frames
    gain : (f,) standard deviation of noise after finishing / before

    Returns
    -------
    np.ndarray
        (f,), whole multiples of the recipe's step.
    """
    if not any(recipe.crop):
        return samples
    k = shot.index(shot.middle)
    others = np.delete(samples, k)
    steps = np.ceil(float(np.median(others)) / float(gain[k]) ** 2 / recipe.sample_step) if len(others) else 0.0
    out = samples.copy()
    out[k] = max(int(samples[k]), min(int(steps) * recipe.sample_step, MOST // recipe.sample_step * recipe.sample_step))
    return out
