"""The bounding hierarchy of a scene: built for a frame, or kept and fitted to what moved."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

LEAF = 1


class Tree(NamedTuple):
    """A hierarchy without its boxes: it stays good while the shapes move, only less tight.

    order : of the shapes; ways : see `hierarchy`; members : the shapes below each node
    """

    order: list[int]
    ways: np.ndarray
    members: list[np.ndarray]

    def refitted(self, bounds: np.ndarray) -> np.ndarray:
        """Return the boxes of the nodes for shapes that moved, (n, 6).

        Parameters
        ----------
        bounds : (n, 6) low and high corners of the shapes
        """
        low = np.array([bounds[m, :3].min(axis=0) for m in self.members]).reshape(-1, 3)
        high = np.array([bounds[m, 3:].max(axis=0) for m in self.members]).reshape(-1, 3)
        return np.hstack([low, high])


def hierarchy(bounds: np.ndarray, offset: int) -> tuple[list[int], np.ndarray, np.ndarray, list[np.ndarray]]:
    """Return a bounding hierarchy by the surface area rule (Goldsmith and Salmon 1987).

    Returns the order of the shapes, the boxes (n, 6), and for each octant of
    directions where to go on and the shapes of each box (8, n, 4), and the shapes below each box.

    Parameters
    ----------
    bounds : (n, 6) low and high corners of the shapes
    offset : added to the indices of the shapes
    """
    order: list[int] = []
    boxes: list[np.ndarray] = []
    below: list[np.ndarray] = []
    leaves: list[tuple[int, int]] = []
    forks: dict[int, tuple[int, int, int]] = {}

    def _surface(some: np.ndarray) -> float:
        size = bounds[some, 3:].max(axis=0) - bounds[some, :3].min(axis=0)
        return float(size[0] * size[1] + size[1] * size[2] + size[2] * size[0])

    def _grow(members: np.ndarray) -> int:
        me = len(boxes)
        boxes.append(np.concatenate([bounds[members, :3].min(axis=0), bounds[members, 3:].max(axis=0)]))
        below.append(members)
        leaves.append((0, 0))
        # of all cuts along the axes the one that costs least: shapes on each side times the surface of their box
        best = None
        if len(members) > LEAF:
            for axis in range(3):
                ranked = members[np.argsort(bounds[members, axis] + bounds[members, axis + 3], kind="stable")]
                for cut in range(1, len(ranked)):
                    cost = cut * _surface(ranked[:cut]) + (len(ranked) - cut) * _surface(ranked[cut:])
                    if best is None or cost < best[0]:
                        best = (cost, axis, ranked[:cut], ranked[cut:])
        # too few to cut: a leaf, whose shapes stand side by side in the order
        if best is None:
            leaves[me] = (offset + len(order), offset + len(order) + len(members))
            order.extend(int(m) for m in members)
        else:
            forks[me] = (best[1], _grow(best[2]), _grow(best[3]))
        return me

    def _lay_ways(octant: int, me: int, after: int) -> None:
        # where to go on when the box is missed, and when it is hit: into its nearer half first, seen from this octant
        ways[octant, me] = (after, after, *leaves[me])
        if me in forks:
            axis, low, high = forks[me]
            near, far = (high, low) if octant >> axis & 1 else (low, high)
            ways[octant, me, 0] = near
            _lay_ways(octant, near, far)
            _lay_ways(octant, far, after)

    if len(bounds):
        _grow(np.arange(len(bounds)))
    ways = np.full((8, len(boxes), 4), -1, np.int16)
    for octant in range(8 if boxes else 0):
        _lay_ways(octant, 0, -1)
    return order, np.array(boxes).reshape(-1, 6), ways, below
