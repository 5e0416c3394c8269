"""Flicker: what is left of a frame when the mean of its neighbours is taken away, along the motion.

d_t = L_t - (L_{t-1} + L_{t+1})/2, flicker = RMS(d)/sqrt(1.5): a linear fade gives 0,
white noise of standard deviation s gives s, a held pattern before a still camera 0.
"""

from __future__ import annotations

import numpy as np

from hasty_reel.measure.motion import fetch, places

MISMATCH = 4.0
"""A neighbour further off than this many robust deviations (and 10 L*) is another surface, not flicker."""


def flicker_field(frames: list[np.ndarray], vectors: list[np.ndarray | None], at: int) -> tuple[np.ndarray, np.ndarray]:
    """The unrest of frame `at` per pixel and where it has a match.

    Parameters
    ----------
    frames : (h, w) each: L* or any other quantity, over time
    vectors : (h, w, 2) each, pixels to the next frame; None where nothing moves
    at : index of the frame; at the ends of the run the one-sided difference counts

    Returns
    -------
    d : (h, w), scaled so that its RMS is the flicker
    match : (h, w) bool
    """
    here = frames[at]
    sides = [k for k in (at - 1, at + 1) if 0 <= k < len(frames)]
    if not sides:
        return np.zeros_like(here), np.zeros(here.shape, bool)
    match = np.ones(here.shape, np.bool_)
    mean = np.zeros(here.shape, np.float64)
    for k in sides:
        x, y = places(vectors, at, k, (here.shape[0], here.shape[1]))
        carried = np.empty(here.shape, np.float32)
        inside = np.empty(here.shape, np.bool_)
        fetch(np.ascontiguousarray(frames[k], np.float32), x, y, carried, inside)
        off = np.abs(carried - here)
        robust = 1.4826 * float(np.median(off)) + 1e-6
        match &= inside & (off <= max(10.0, MISMATCH * robust))
        mean += carried / len(sides)
    return (here - mean) / np.sqrt(1.5 if len(sides) == 2 else 2.0), match


def flicker(frames: list[np.ndarray], vectors: list[np.ndarray | None], at: int) -> float:
    """Flicker of frame `at` of a run, in the unit of the frames; see `flicker_field`."""
    d, match = flicker_field(frames, vectors, at)
    return float(np.sqrt(np.mean(d[match] ** 2))) if match.any() else 0.0
