"""What motion vectors of an unknown renderer mean: their unit and signs, found by which of them carries one frame onto the next.

Vectors back to the frame before are, but for changes of speed, those to the next one with both signs turned: they need no case
of their own.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import product

import numpy as np
from scipy.ndimage import gaussian_filter

from hasty_reel.image.sampling import remap_bilinear
from hasty_reel.image.warp import places_in_next

MOVED = 0.5
"""Pixels from which on a place counts as moving: below that no sign shows."""
LEAST_MOVING = 40
"""Pixels that must move."""
CLEARLY = 0.8
"""What the best sense leaves of the difference that the second best leaves, at most, to be told: by choice."""
SOFT = 0.7
"""Standard deviation, in pixels, of the blur that keeps noise from deciding."""


@dataclass(frozen=True)
class VectorSense:
    """What vectors are multiplied by to be pixels to the next frame, right and down positive.

    across, down : signs; of_size : they are in shares of the picture's width and height, not in pixels
    left : share of the difference between the frames that is left when one is carried onto the other
    runner_up : the same of the best other sense; nothing is told where that is near
    """

    across: int
    down: int
    of_size: bool
    left: float
    runner_up: float

    @property
    def clear(self) -> bool:
        """Whether it carries the frames clearly better than any other, and than none."""
        return self.left < CLEARLY * min(1.0, self.runner_up)

    @property
    def words(self) -> str:
        """The sense, in words."""
        unit = "shares of the picture" if self.of_size else "pixels"
        ways = {(1, 1): "right and down", (-1, 1): "left and down", (1, -1): "right and up", (-1, -1): "back, or left and up"}
        return f"{unit}, {ways[self.across, self.down]}"


def vector_sense(now: np.ndarray, after: np.ndarray, vectors: np.ndarray) -> VectorSense | None:
    """Return what vectors mean; None where too little moves to tell.

    Parameters
    ----------
    now, after : (h, w, 3) two frames that follow each other, scene-linear light
    vectors : (h, w, 2) of the first, as the renderer wrote them
    """
    height, width = vectors.shape[:2]
    # dark and bright places count alike, and a highlight does not decide alone
    a, b = (np.cbrt(np.maximum(gaussian_filter(x, (SOFT, SOFT, 0)), 0.0)) for x in (now, after))
    found = []
    for of_size in (False, True):
        field = np.nan_to_num(vectors.astype(np.float64), posinf=0.0, neginf=0.0) * (np.array([width, height]) if of_size else 1.0)
        length = np.hypot(field[..., 0], field[..., 1])
        if (length > max(width, height)).mean() > 0.01:
            continue  # further than the picture is wide: that is no motion of a frame
        moving = length > MOVED
        if moving.sum() < LEAST_MOVING:
            continue
        # a sign that turns nothing is not tried: of a pan across, 'down' stays as it is
        ways = [(1, -1) if np.abs(field[moving][:, k]).max() > MOVED else (1,) for k in range(2)]
        for across, down in product(*ways):
            at = places_in_next((field * (across, down)).astype(np.float32))
            inside = moving & (at[..., 0] >= 0) & (at[..., 1] >= 0) & (at[..., 0] <= width - 1) & (at[..., 1] <= height - 1)
            if inside.sum() < LEAST_MOVING:
                continue
            carried = remap_bilinear(np.ascontiguousarray(b, np.float32), at)
            plain = np.abs(b - a)[inside].mean()
            found.append((float(np.abs(carried - a)[inside].mean() / max(plain, 1e-9)), across, down, of_size))
    found.sort()
    # slow motion in pixels is a wild one in shares of the picture: that carries nothing, and nothing is told
    if not found or (found[0][0] >= CLEARLY and all(of_size for *_, of_size in found)):
        return None
    left, across, down, of_size = found[0]
    return VectorSense(across, down, of_size, left, found[1][0] if len(found) > 1 else 1.0)
