"""Shots of which only a part moves: that is rendered in each frame, and one frame is rendered whole, which stands around it."""

from __future__ import annotations

import math

from hasty_reel.evidence.moving import moving_of
from hasty_reel.evidence.pictureparts import Box
from hasty_reel.evidence.rows import Evidence
from hasty_reel.plan.frames.plates import SPAN
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.settings.recipe import CROP_SIDES

MOST_SHARE = 0.7
"""Share of the picture above which a crop is not worth its risk (our own choice)."""
SEEN = 1.0
"""Root mean square change around the crop, in L*, above which it would be missed: what is seen."""
DENSER = 2.0
"""What moves may cost so many times its share of the picture (our own choice): it is often what is hard to render."""


def moving_crop(plan: ShotPlan, evidence: Evidence) -> tuple[dict[str, int], float] | None:
    """Return the lines of a recipe that render what moves alone, and what changes around it in L*; None where that is not known.

    Parameters
    ----------
    plan : of the shot
    evidence : of it
    """
    first, last = int(plan.frames[0]), int(plan.frames[-1])
    if any(plan.recipe.crop) or last - first < 2:
        return None
    moving = moving_of(evidence, plan.shot.middle)
    if moving is None or moving.last - moving.first < SPAN * (last - first):
        return None
    if not 0.0 < moving.share <= MOST_SHARE or moving.outside > SEEN:
        return None
    return crop_lines(moving.box), moving.outside


def crop_lines(box: Box) -> dict[str, int]:
    """Return the lines of a recipe with which what lies outside of a box is not rendered anew, by field; whole percent, never too much.

    Parameters
    ----------
    box : left, top, right and bottom, shares of the width and the height, 0 to 1
    """
    left, top, right, bottom = box
    lines = {field: math.floor(100.0 * side) for field, side in zip(CROP_SIDES, (left, top, 1.0 - right, 1.0 - bottom), strict=True)}
    return {field: percent for field, percent in lines.items() if percent > 0}
