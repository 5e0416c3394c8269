"""Where light caches belong: one whenever a share of the picture is new since the last one, or its light is another.

A fixed step keeps as many caches of a camera that stands as of one that turns. What is new is counted by the motion vectors of
proofs: what comes in at the borders of the picture, and what is uncovered. A lamp that wakes or passes changes the light where
nothing else does: that is counted by the picture in coarse parts, from one proof frame to the next.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from hasty_reel.evidence.motion import FrameSpeed
from hasty_reel.evidence.relight import Relight
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.reel.caching import cache_frames

FRESH = 0.25
"""Share of the picture that may be new from one cache to the next, unless another one is asked for: our own choice."""
LIGHT = 2.0
"""Root mean square change of the picture's parts, in L*, that takes a cache of its own: our own choice, about twice what is seen."""
DUE = 1.0 + 1e-9
"""Growth of either that takes a cache, over the rounding of sums."""


@dataclass(frozen=True)
class Placing:
    """Light caches of a shot, placed by how fast the view changes.

    frames : (f,); fresh : (f,) share of each that the frame before did not show, 0 in the first
    relit : (f,) change of the parts of each against the frame before, in L*
    placed : frames that own a cache; share : that is new from one to the next at most
    seconds : of one cache; 0 where no proof tells
    """

    frames: np.ndarray
    fresh: np.ndarray
    relit: np.ndarray
    placed: tuple[int, ...]
    share: float
    seconds: float

    def farthest(self, owners: Sequence[int]) -> float:
        """Return the largest share of the picture that is new from one cache to the next, 0 to 1.

        Parameters
        ----------
        owners : frames that own one, in order
        """
        return min(1.0, self._most(self.fresh, owners))

    def light(self, owners: Sequence[int]) -> float:
        """Return the largest change of the picture's parts from one cache to the next, in L*.

        Parameters
        ----------
        owners : frames that own one, in order
        """
        return self._most(self.relit, owners)

    def since(self, owners: Sequence[int]) -> np.ndarray:
        """Return how much of what takes a new cache came together since the last one, (f,), 1 where it is due.

        Parameters
        ----------
        owners : frames that own one, in order
        """
        owns = np.isin(self.frames, owners)
        last = np.maximum.accumulate(np.where(owns, np.arange(len(owns)), 0))
        totals = _due(self.fresh, self.relit, self.share)
        return (totals - totals[:, last]).max(axis=0)

    def _most(self, changes: np.ndarray, owners: Sequence[int]) -> float:
        at = np.searchsorted(self.frames, owners, "right") - 1
        since = np.diff(np.cumsum(changes)[at])
        return float(since.max()) if len(since) else 0.0

    @cached_property
    def same_as_step(self) -> int:
        """The fixed step that leaves no more new from one cache to the next."""
        first, last = int(self.frames[0]), int(self.frames[-1])
        at = np.searchsorted(self.frames, np.arange(first, last + 1), "right") - 1
        totals = _due(self.fresh, self.relit, self.share)[:, at]  # by frame number: caches need not lie on frames of the shot
        step = 1
        while step < last - first:
            owners = np.array(cache_frames(first, last, step + 1)) - first
            if np.diff(totals[:, owners]).max() > DUE:
                break
            step += 1
        return step


def placed_by_view(frames: np.ndarray, fresh: np.ndarray, share: float, relit: np.ndarray | None = None) -> tuple[int, ...]:
    """Return the fewest frames that own a cache so that from each to the next at most a share is new, and the light changes by `LIGHT`.

    The first and the last frame own one, so that no frame lies beyond the ends. Where a single frame brings more, it owns one.

    Parameters
    ----------
    frames : (f,) in order
    fresh : (f,) share of each that the frame before did not show
    share : 0 to 1
    relit : (f,) change of the parts of each against the frame before, in L*; None for none
    """
    totals = _due(fresh, np.zeros(len(frames)) if relit is None else relit, share)
    owners, end = [0], len(frames) - 1
    while owners[-1] < end:
        reached = min(int(np.searchsorted(total, total[owners[-1]] + DUE, "right")) - 1 for total in totals)
        owners.append(max(owners[-1] + 1, reached))
    return tuple(int(frames[k]) for k in owners)


def _due(fresh: np.ndarray, relit: np.ndarray, share: float) -> np.ndarray:
    """What takes a new cache, summed up to each frame, (2, f): a cache is due where one of both grew by 1."""
    return np.cumsum(np.stack([fresh / share, relit / LIGHT]), axis=1)


def placing_of(plan: ShotPlan, speeds: Sequence[FrameSpeed], relights: Sequence[Relight] = (), share: float = FRESH) -> Placing | None:
    """Return where the light caches of a planned shot belong; None where no proof has vectors.

    Parameters
    ----------
    plan : of the shot
    speeds : of proof frames, by frame; between them it is taken to change evenly
    relights : changes of light between proof frames
    share : of the picture that may be new from one cache to the next
    """
    if not speeds:
        return None
    told = np.interp(plan.frames, [s.frame for s in speeds], [s.fresh for s in speeds])
    fresh = np.minimum(1.0, np.concatenate([[0.0], told[:-1]]) * plan.shot.step)
    # spread evenly over the frames between two proof frames
    relit = np.zeros(len(fresh))
    for step in relights:
        inside = (plan.frames > step.first) & (plan.frames <= step.last)
        relit[inside] += step.change * plan.shot.step / (step.last - step.first)
    return Placing(plan.frames, fresh, relit, placed_by_view(plan.frames, fresh, share, relit), share, plan.frame_model.cache_seconds)
