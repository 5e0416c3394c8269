"""The draft cuts of a person: those that ship, those kept, and what makes sense in one."""

from __future__ import annotations

import math

from hasty_reel.errors import ReelError
from hasty_reel.own.chosenlist import ChosenList, KeptList
from hasty_reel.reel.draftcut import DraftCut
from hasty_reel.settings.recipe import SETTING

SHIPPED = ChosenList(
    (
        DraftCut(name="First look", size=10.0, samples=4, bounces=1, shutter_steps=1, fog_step=400.0, guides=False, seeds=1),
        DraftCut(name="Light check", size=15.0, samples=8, shutter_steps=1, fog_step=200.0),
    ),
    chosen="First look",
)


def check_cut(cut: DraftCut, where: str) -> None:
    """Raise an error where a draft cut makes no sense.

    Parameters
    ----------
    cut : the draft cut
    where : the cut in words, for the message

    Raises
    ------
    ReelError
        Names the line and what was expected.
    """
    for value, low, high, words in (
        (cut.size, 1, 200, "size"),
        (cut.samples, 1, 65536, "samples"),
        (cut.bounces, SETTING["bounces"].low, SETTING["bounces"].high, "bounces"),
        (cut.shutter_steps, 1, SETTING["shutter_steps"].high, "shutter steps"),
        (cut.fog_step, SETTING["fog_step"].low, SETTING["fog_step"].high, "fog step"),
        (cut.seeds, 1, 2, "seeds"),
    ):
        if value is not None and not low <= value <= high:
            raise ReelError(f"{where}: {words} {value:g}; expected {low:g} to {high:g}, or none.")
    names = [v.name for v in cut.own]
    if len(set(names)) != len(names) or not all(math.isfinite(v.value) for v in cut.own):
        raise ReelError(f"{where}: values of own settings; expected finite numbers, one for each setting.")


DRAFT_CUTS = KeptList("draft-cuts.json", "cuts", DraftCut, "draft cuts", SHIPPED, check_cut, ReelError)
"""The artist's draft cuts."""
