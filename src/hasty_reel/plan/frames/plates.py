"""Layers that could be held as plates: nothing in them moves, and their light does not change."""

from __future__ import annotations

from hasty_reel.evidence.motion import speeds_of
from hasty_reel.evidence.relight import relights_of
from hasty_reel.evidence.rows import Evidence
from hasty_reel.plan.shot import ShotPlan

STILL = 0.25
"""Change of the parts of a picture over the whole shot, in L*, that is none: a quarter of what is seen (our own choice)."""
SPAN = 0.8
"""Share of the shot that the proof frames must span."""


def still_plate(plan: ShotPlan, evidence: Evidence) -> tuple[int, float] | None:
    """Return the frame that a layer can be held at, and what changes over the shot, in L*; None where it moves or that is not known.

    Parameters
    ----------
    plan : of the layer as a shot of its own
    evidence : of it
    """
    first, last = int(plan.frames[0]), int(plan.frames[-1])
    if "." not in plan.shot.id or first == last:
        return None
    steps = relights_of(evidence)
    if not steps or steps[-1].last - steps[0].first < SPAN * (last - first):
        return None
    speeds = speeds_of(evidence)
    if not speeds or any(s.share > 0 or s.fresh > 0 for s in speeds):
        return None
    change = sum(s.change for s in steps)
    return (plan.shot.nearest((first + last) // 2), change) if change <= STILL else None
