"""Copies of edges at equal spacing along the motion: what too few shutter steps leave.

The change of lightness along the motion is compared with itself further on, the distance
taken as a share of the way of one frame. A smooth blur changes evenly: the likeness
falls all the way. Steps make it come back at their spacing, whatever the speed.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import cv2
import numpy as np

FAST = 8.0
"""Pixels a frame from which on steps can be told from the pixel's own edge."""
SHARES = np.linspace(0.0, 0.75, 61)
"""Distances looked at, as shares of the way of a frame."""
MOST_PIXELS = 20_000
"""Pixels looked at in a frame."""
LEAST_SPACING = 1.6
"""Pixels: closer copies hide behind the pixel."""


@dataclass
class Copies:
    """Likeness of edges with themselves along the motion, gathered frame by frame.

    likeness : per frame, at `SHARES`; nan where nothing is fast enough
    step : per frame, typical change of lightness of an edge, in L* a pixel
    places : per frame, rows and columns of the pixels looked at
    """

    likeness: list[np.ndarray] = field(default_factory=list)
    step: list[float] = field(default_factory=list)
    places: list[tuple[np.ndarray, np.ndarray]] = field(default_factory=list)
    speeds: list[float] = field(default_factory=list)

    def take(self, seen: np.ndarray, motion: np.ndarray, speed: np.ndarray) -> None:
        """Take a frame in: L* (h, w), its motion in pixels a frame and how fast that is.

        Parameters
        ----------
        seen : (h, w) L*
        motion : (h, w, 2) pixels a frame
        speed : (h, w) pixels a frame
        """
        rows, columns = np.nonzero(speed > FAST)
        if len(rows) < 64:
            return
        # the faster half: its steps lie furthest apart
        quick = speed[rows, columns] >= np.median(speed[rows, columns])
        rows, columns = rows[quick], columns[quick]
        thin = max(1, len(rows) // MOST_PIXELS)
        rows, columns = rows[::thin], columns[::thin]
        way = motion[rows, columns] / speed[rows, columns][:, None]
        length = speed[rows, columns]
        # the blur reaches beyond the thing that moves: look ahead and behind from where it is
        ahead = np.concatenate([np.zeros(len(rows)), 0.25 * length, -0.25 * length])
        x, y = np.tile(columns, 3) + ahead * np.tile(way[:, 0], 3), np.tile(rows, 3) + ahead * np.tile(way[:, 1], 3)
        way, length = np.tile(way, (3, 1)), np.tile(length, 3)
        first = _slope(seen, x, y, way)
        edge = np.abs(first) > max(0.4, float(np.percentile(np.abs(first), 80)))
        if np.count_nonzero(edge) < 32:
            return
        x, y, way, length, first = x[edge], y[edge], way[edge], length[edge], first[edge]
        total = float(np.sum(first * first))
        found = np.empty(len(SHARES))
        for k, share in enumerate(SHARES):
            found[k] = np.sum(first * _slope(seen, x + share * length * way[:, 0], y + share * length * way[:, 1], way)) / total
        self.likeness.append(found)
        self.step.append(float(np.sqrt(total / len(first))))
        self.places.append((y, x))
        self.speeds.append(float(np.median(length)))

    def comb(self) -> tuple[float, float, float]:
        """Return how clearly the likeness comes back (0..1), at which share of a frame's way, and of what height the steps are in L*.

        Returns
        -------
        clear : float
            How clearly the likeness comes back, 0 to 1.
        share : float
            At which share of a frame's way.
        height : float
            Of the steps, in L*.
        """
        if not self.likeness:
            return 0.0, 0.0, 0.0
        mean = np.mean(self.likeness, axis=0)
        speed = float(np.median(self.speeds))
        first = int(np.searchsorted(SHARES, LEAST_SPACING / speed))
        best, at = 0.0, 0.0
        for k in range(max(first, 2), len(SHARES) - 1):
            if mean[k] >= mean[k - 1] and mean[k] >= mean[k + 1]:
                # it must come back from well below and fall again
                rise = mean[k] - max(float(mean[1:k].min()), 0.0)
                fall = mean[k] - float(mean[k + 1 :].min())
                if min(rise, fall) > best:
                    best, at = float(min(rise, fall)), float(SHARES[k])
        return best, at, float(np.median(self.step))


def _slope(seen: np.ndarray, x: np.ndarray, y: np.ndarray, way: np.ndarray) -> np.ndarray:
    """Change of lightness along the way at places, in L* a pixel."""

    def at(share: float) -> np.ndarray:
        px, py = (x + share * way[:, 0]).astype(np.float32), (y + share * way[:, 1]).astype(np.float32)
        return _fetch(seen, px, py)

    return at(0.5) - at(-0.5)


def _fetch(seen: np.ndarray, x: np.ndarray, y: np.ndarray) -> np.ndarray:
    side = 1 << 14  # remap takes pictures of up to 32768 columns
    out = np.empty(len(x), np.float32)
    for k in range(0, len(x), side):
        part = slice(k, k + side)
        out[part] = cv2.remap(seen, x[part][None], y[part][None], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)[0]
    return out
