"""Chunks of a shot: stretches of frames that one worker renders on end. Each begins with reading the scene whole, and with its pre-roll.

Pre-roll frames are gone through for the history they leave. What that takes proofs tell, where the renderer does so without a picture;
else they are rendered with one sample each, and dropped.
"""

from __future__ import annotations

import numpy as np

from hasty_reel.predict.model import FrameModel
from hasty_reel.reel.document import Reel
from hasty_reel.settings.recipe import Recipe

PREROLL_SAMPLES = 1
"""Samples per pixel of a frame that is rendered for its history alone."""


def chunk_count(reel: Reel, frames: int) -> int:
    """Return how many chunks a shot falls into: one for each worker of the machines, if it has frames for them.

    Parameters
    ----------
    reel : says the machines
    frames : of the shot
    """
    return max(1, min(frames, sum(m.workers for m in reel.machines)))


def chunk_starts(frames: int, chunks: int) -> np.ndarray:
    """Return the places of the first frames of chunks of a shot, as even as can be, (chunks,) int64.

    Parameters
    ----------
    frames : of the shot
    chunks : 1 to `frames`
    """
    return np.arange(chunks) * frames // chunks


def start_seconds(at: FrameModel, recipe: Recipe, pixels: float, chunks: int) -> np.ndarray:
    """Return the seconds before the first sample of each frame: reading the scene, and at the start of a chunk its pre-roll, (f,).

    Parameters
    ----------
    at : cost and noise of the recipe over the frames
    recipe : with its departures
    pixels : of a frame as rendered
    chunks : that the shot falls into
    """
    seconds = np.full(len(at.frames), at.load_seconds)
    starts = chunk_starts(len(at.frames), chunks)
    seconds[starts] = at.first_load_seconds
    each = at.history_seconds
    if each is None:
        each = at.load_seconds + at.fixed.mean + at.cost[starts] * pixels * PREROLL_SAMPLES
    seconds[starts] += recipe.preroll * each
    seconds += at.fixed.mean
    return seconds + (recipe.starts - 1) * (at.load_seconds + at.fixed.mean)
