"""The memory of a shot held against what each machine has."""

from __future__ import annotations

import math
from collections.abc import Sequence

from hasty_reel.evidence.proof import Proof
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.predict.memory import GB, MemoryAhead, memory_ahead
from hasty_reel.reel.document import Reel
from hasty_reel.reel.machine import Machine
from hasty_reel.settings.recipe import SETTING

MOST_TILES = int(SETTING["tiles"].high)
STEP = 5
"""Percent in which a render scale that fits is looked for."""


def memory_of(plan: ShotPlan, proofs: Sequence[Proof]) -> MemoryAhead | None:
    """Return the memory of a frame of a plan; None where no proof tells any.

    Parameters
    ----------
    plan : of the shot
    proofs : of the shot
    """
    return memory_ahead(proofs, plan.width * plan.height / plan.recipe.tiles**2)


def memory_words(reel: Reel, plan: ShotPlan, proofs: Sequence[Proof]) -> str:
    """Return what the frames of a plan need, and which machines have too little of it, in a sentence; '' where nothing is known.

    Parameters
    ----------
    reel : says the machines
    plan : of the shot
    proofs : of the shot
    """
    found = memory_of(plan, proofs)
    if found is None:
        return ""
    short = [m for m in reel.machines if m.memory_gb is not None and found.high > m.memory_gb * GB / m.workers]
    tiles = plan.recipe.tiles
    whole = f"A frame of {plan.width} × {plan.height}"
    told = f"{whole if tiles == 1 else f'{whole} in {tiles} × {tiles} tiles'} needs {found.words}."
    if not short:
        return told
    return " ".join([told, *(_short(m, found, plan, proofs) for m in short)])


def _short(machine: Machine, found: MemoryAhead, plan: ShotPlan, proofs: Sequence[Proof]) -> str:
    assert machine.memory_gb is not None
    has = f"{machine.name} has {machine.memory_gb:g} GB"
    at_once = int(machine.memory_gb * GB // found.high)
    if machine.workers > 1 and at_once >= 1:
        return f"{has} for {machine.workers} at a time: {at_once} at a time fit."
    scale, pixels, room = plan.recipe.render_scale, plan.width * plan.height, machine.memory_gb * GB
    side = next((n for n in range(plan.recipe.tiles + 1, MOST_TILES + 1) if _needs(proofs, pixels / n**2) <= room), 0)
    tiles = f"in {side} × {side} tiles" if side else ""
    for percent in range(int(scale) // STEP * STEP, 20, -STEP):
        if _needs(proofs, pixels / plan.recipe.tiles**2 * (percent / scale) ** 2) <= room:
            return f"{has}: render at {percent} % and enlarge{', or ' if tiles else ''}{tiles}."
    return f"{has}: render {tiles}." if tiles else f"{has}: too little at any size; expected at least {math.ceil(found.high / GB)} GB."


def _needs(proofs: Sequence[Proof], pixels: float) -> float:
    """The most bytes that a picture of so many pixels may take."""
    found = memory_ahead(proofs, pixels)
    return math.inf if found is None else found.high
