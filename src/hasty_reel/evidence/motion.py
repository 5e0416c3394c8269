"""How fast the picture moves in the frames of a shot, and how much of it is new, by the motion vectors of its proofs."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import binary_closing

from hasty_reel.errors import PictureError
from hasty_reel.evidence.rows import Evidence
from hasty_reel.measure.plane import seen_frame
from hasty_reel.pictures.frame import MOTION, read_picture
from hasty_reel.reel.frames import evenly

MOST_FRAMES_READ = 24
"""Frames whose vectors are read: more tell hardly more, and each takes a moment."""
STAYS_BELOW = 0.95
"""Share of the edges whose speed stays below the one that is told."""
PLAIN = 2.0
"""Gradients below this many medians are noise and soft shading: nothing in them could show copies of an edge."""


@dataclass(frozen=True)
class FrameSpeed:
    """Speed of the edges in a frame.

    frame : as the shot numbers it; share : of the picture's width a frame, below which 95 % of the edges stay
    fresh : share of the next frame that shows what this one did not
    """

    frame: float
    share: float
    fresh: float = 0.0


def speeds_of(evidence: Evidence) -> list[FrameSpeed]:
    """Return how fast the edges of proof frames move, by frame; nothing where no proof has vectors.

    Parameters
    ----------
    evidence : of the shot
    """
    chosen: dict[float, tuple[int, str]] = {}
    for k, proof in enumerate(evidence.proofs):
        if not proof.whole:
            continue
        for frame in proof.by_frame():
            if frame not in chosen or evidence.proofs[chosen[frame][0]].width <= proof.width:
                chosen[frame] = k, proof.id
    out = []
    for frame in evenly(sorted(chosen), MOST_FRAMES_READ):
        proof = evidence.proofs[chosen[frame][0]]
        try:
            picture = read_picture(evidence.folders[proof.id] / proof.by_frame()[frame][0].file, MOTION)
        except PictureError:
            continue  # told where the evidence is read
        vectors = picture.vectors
        if vectors is not None:
            x, y = np.moveaxis(np.nan_to_num(vectors, nan=0.0, posinf=0.0, neginf=0.0), -1, 0)
            edges = edge_speed(seen_frame(picture.rgb).lightness, np.hypot(x, y))
            out.append(FrameSpeed(float(frame), edges / picture.width, fresh_share(x, y)))
    return out


def edge_speed(lightness: np.ndarray, speed: np.ndarray) -> float:
    """Return the speed below which 95 % of the edges of a picture stay, each pixel weighted by its gradient.

    Parameters
    ----------
    lightness : (h, w) in L*
    speed : (h, w) in pixels a frame

    Returns
    -------
    float
        In pixels a frame; 0 where there is no edge.
    """
    gradient = np.hypot(*np.gradient(lightness.astype(np.float64)))
    weight = np.maximum(gradient - PLAIN * float(np.median(gradient)), 0.0).ravel()
    if weight.sum() <= 0:
        return 0.0
    order = np.argsort(speed.ravel(), kind="stable")
    reached = np.cumsum(weight[order])
    return float(speed.ravel()[order][np.searchsorted(reached, STAYS_BELOW * reached[-1])])


def fresh_share(across: np.ndarray, down: np.ndarray) -> float:
    """Return the share of the next frame that no pixel of this one leads to: what comes in at the borders or is uncovered.

    Gaps of a pixel between places that part from each other, as when the camera goes near, are not counted.

    Parameters
    ----------
    across, down : (h, w) motion to the next frame, in pixels
    """
    h, w = across.shape
    rows, columns = np.indices((h, w))
    x, y = np.rint(columns + across).astype(np.int64), np.rint(rows + down).astype(np.int64)
    inside = (x >= 0) & (x < w) & (y >= 0) & (y < h)
    reached = np.zeros((h, w), bool)
    reached[y[inside], x[inside]] = True
    closed = binary_closing(np.pad(reached, 1, mode="edge"), np.ones((3, 3)))[1:-1, 1:-1]
    return float(1.0 - np.mean(closed | reached))
