"""Which frame of a run is rendered first: in the order of the film, or those first that show trouble early."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from hasty_reel.plan.shot import ShotPlan

WORST = 3
"""Frames with the most seconds, and with the most seen flicker, that come before the rest."""


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
