"""A rough pass: all frames of a shot, small, with few samples and one seed, to be played; it tells the cost of every frame, too."""

from __future__ import annotations

from hasty_reel.farm.forecast import order_seconds
from hasty_reel.farm.order import ProofOrder
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.reel.shot import Shot
from hasty_reel.scaledsize import scaled_size
from hasty_reel.settings.recipe import Recipe

LADDER = (
    (75.0, 16), (75.0, 8), (50.0, 16), (50.0, 8), (50.0, 4), (33.0, 8), (33.0, 4), (25.0, 8), (25.0, 4), (16.0, 4), (10.0, 4), (10.0, 2),
)  # fmt: skip
"""Sizes in percent and samples of a pass, the best first; the last is what can just be looked at (by choice)."""
STEPS = (1, 2, 3, 4, 6, 8, 12, 16, 24)
"""Every so many frames: all of them first, since a gap shows more than a coarse picture."""
USUAL = (25.0, 4)
"""Size and samples while nothing tells what a sample costs; then a cap a picture keeps the time."""
LEAST_PIXELS = 32 * 18


def rough_order(shot: Shot, recipe: Recipe, size: tuple[int, int], seconds: float, plan: ShotPlan | None = None) -> ProofOrder:
    """Return the best rough pass that takes at most so long: all frames as large as fits, else every n-th.

    Parameters
    ----------
    shot : the shot or layer
    recipe : with its departures
    size : pixels of the delivered picture, across and down
    seconds : for all pictures, on a machine of speed 1
    plan : of the shot, by which it is told what a sample costs; None: nothing tells, and each picture is capped
    """
    frames = tuple(shot.frames)
    if plan is None:
        # a picture takes at most its share: the renderer stops there, at one sample or more
        return ProofOrder(shot, recipe, frames, USUAL[1], USUAL[0], seeds=1, guides=False, floor=1, cap=seconds / len(frames))
    last = ProofOrder(shot, recipe, frames, LADDER[-1][1], LADDER[-1][0], seeds=1, guides=False)
    for step in STEPS:
        for scale, samples in LADDER:
            width, height = scaled_size(size, scale)
            if width * height < LEAST_PIXELS or len(frames) < step:
                continue
            last = ProofOrder(shot, recipe, frames[::step], samples, scale, seeds=1, guides=False)
            if order_seconds([last], plan, size) <= seconds:
                return last
    return last
