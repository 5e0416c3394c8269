"""Which frame of a run is rendered next: in the order of the film, those first that show trouble early, or on end where history counts."""

from __future__ import annotations

from collections.abc import Collection, Sequence

import numpy as np

from hasty_reel.plan.frames.chunks import chunk_starts
from hasty_reel.plan.shot import ShotPlan

WORST = 3
"""Frames with the most seconds, and with the most seen flicker, that come before the rest."""
LEAST_PARTED = 3
"""Frames of a stretch that one worker leaves to another: of fewer the pre-roll costs more than it saves."""


def trouble_first(plan: ShotPlan, frames: Sequence[int]) -> list[int]:
    """Return the frames with the first, the last, the slowest and those of the most seen flicker in front, the rest in their order.

    Parameters
    ----------
    plan : of the shot
    frames : to be rendered, in their order
    """
    if len(frames) <= 2:
        return list(frames)
    at = [plan.index(f) for f in frames]
    slow, seen = np.argsort(-plan.seconds[at], kind="stable"), np.argsort(-plan.seen_flicker[at], kind="stable")
    front = [0, len(frames) - 1, *(int(k) for pair in zip(slow[:WORST], seen[:WORST]) for k in pair)]
    first = [frames[k] for k in dict.fromkeys(front)]
    return [*first, *(f for f in frames if f not in set(first))]


class OnEnd:
    """Frames on end: a stretch for each worker, so that each frame finds the history that the one before has left.

    Parameters
    ----------
    frames : to be rendered, in their order
    workers : that render at once
    """

    def __init__(self, frames: Sequence[int], workers: int) -> None:
        self._workers = max(1, workers)
        self.firsts = {frames[k] for k in chunk_starts(len(frames), min(self._workers, len(frames)))} if frames else set()

    def next_of(self, queue: Sequence[int], under_way: Collection[int]) -> int | None:
        """Return the frame that a free worker takes; None: it waits, since the little that is left is another one's.

        Where every stretch has its worker, the longest rest is parted in halves.

        Parameters
        ----------
        queue : frames that wait
        under_way : frames that somebody renders
        """
        if len(under_way) >= self._workers:
            return None
        rests: dict[int, list[int]] = {}
        for frame in sorted(queue):
            rests.setdefault(self._first(frame), []).append(frame)
        taken = {self._first(frame) for frame in under_way}
        for first, rest in rests.items():
            if first not in taken:
                return rest[0]
        longest = max(rests.values(), key=len, default=[])
        if len(longest) < LEAST_PARTED:
            return None
        frame = longest[len(longest) // 2]
        self.firsts.add(frame)
        return frame

    def _first(self, frame: int) -> int:
        return max((first for first in self.firsts if first <= frame), default=frame)
