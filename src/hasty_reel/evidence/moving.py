"""What moves or changes in a shot, as one box: outside of it all proof frames show the same."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hasty_reel.errors import PictureError
from hasty_reel.evidence.pictureparts import NOWHERE, PARTS, Box, moved_box
from hasty_reel.evidence.relight import LightParts, light_parts
from hasty_reel.evidence.rows import Evidence
from hasty_reel.measure.twoseeds import common_squares

ALIKE = 0.5
"""Change of a part of the picture, in L*, that is none: half of what is seen (our own choice)."""
CHANCE = 6.0
"""Times the variance of noise that a product of two seeds' noise hardly exceeds in any part of any frame."""


@dataclass(frozen=True)
class Moving:
    """What moves or changes.

    box : left, top, right and bottom, shares of the width and the height, 0 to 1; outside : what changes around it between the frame
        in the middle and the others, root mean square in L*, noise taken out
    first, last : proof frames by which it is told
    """

    box: Box
    outside: float
    first: float
    last: float

    @property
    def share(self) -> float:
        """Of the picture, 0 to 1."""
        left, top, right, bottom = self.box
        return max(0.0, right - left) * max(0.0, bottom - top)


def moving_of(evidence: Evidence, middle: float) -> Moving | None:
    """Return what moves or changes in a shot; None where proofs do not tell, by vectors and two seeds of three frames at least.

    What moves is followed half of the way to the proof frames beside. A part of the picture is put around it on each side.

    Parameters
    ----------
    evidence : of the shot
    middle : frame that would stand around the others
    """
    known = light_parts(evidence)
    if len(known) < 3:
        return None
    frames = np.array([k.frame for k in known])
    still = known[int(np.argmin(np.abs(frames - middle)))]
    changes = np.array([common_squares(still.parts, k.parts) for k in known])
    boxes = []
    rows, columns = np.nonzero(changes.max(axis=0) > ALIKE**2 + CHANCE * _noise(known))
    if len(rows):
        down, across = PARTS
        boxes.append((columns.min() / across, rows.min() / down, (columns.max() + 1) / across, (rows.max() + 1) / down))
    gap = float(np.diff(frames).max())
    for one in known:
        try:
            moved = moved_box(one.path, gap / 2.0)
        except PictureError:
            return None
        if moved is None:
            return None
        if moved != NOWHERE:
            boxes.append(moved)
    if not boxes:
        return Moving(NOWHERE, _outside(changes, NOWHERE), float(frames[0]), float(frames[-1]))
    low, high = np.min(boxes, axis=0)[:2], np.max(boxes, axis=0)[2:]
    margin = 1.0 / np.array(PARTS[::-1])
    low, high = np.clip(low - margin, 0.0, 1.0), np.clip(high + margin, 0.0, 1.0)
    box = (float(low[0]), float(low[1]), float(high[0]), float(high[1]))
    return Moving(box, _outside(changes, box), float(frames[0]), float(frames[-1]))


def _noise(known: Sequence[LightParts]) -> np.ndarray:
    """Variance of the noise of a change in each part, in the square of L*: of frames one by one, or of the picture where that is more."""
    between = np.array([k.parts[0] - k.parts[1] for k in known])
    each = np.mean(between**2, axis=0)  # a change is of two frames, each with half of the variance between two seeds
    return np.maximum(each, each.mean())


def _outside(changes: Sequence[np.ndarray] | np.ndarray, box: Box) -> float:
    """Root mean square change of the parts that lie outside a box, in L*."""
    down, across = PARTS
    x, y = (np.arange(across) + 0.5) / across, (np.arange(down) + 0.5) / down
    inside = ((y > box[1]) & (y < box[3]))[:, None] & ((x > box[0]) & (x < box[2]))[None]
    left = np.asarray(changes)[:, ~inside]
    return float(np.sqrt(max(0.0, left.mean()))) if left.size else 0.0
