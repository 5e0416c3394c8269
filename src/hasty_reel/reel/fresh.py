"""A new reel: one shot, one recipe, one machine, due tomorrow morning."""

from __future__ import annotations

from datetime import datetime, timedelta

from hasty_reel.reel.checked import checked_reel
from hasty_reel.reel.document import Reel
from hasty_reel.reel.hours import local_zone
from hasty_reel.reel.machine import Machine
from hasty_reel.reel.shot import CLEAN, CUSTOMARY_FIRST, Shot
from hasty_reel.settings.recipe import Recipe

FIRST_SCENE = "lamp_wakes"
"""Of the bench renderer: what a new reel shows until it is told another."""
OPENS = 9
"""Due at nine: the usual morning."""


def fresh_reel(name: str, scene: str, now: datetime) -> Reel:
    """Return a reel to begin with: 4 s of a scene at 24 fps in HD, from frame 1001, due at the next morning but six hours.

    Parameters
    ----------
    name : of the reel
    scene : that is rendered
    now : the time

    Raises
    ------
    ReelError
        When the name or the scene cannot be used.
    """
    morning = (now + timedelta(hours=6)).replace(hour=OPENS, minute=0, second=0, microsecond=0)
    due = morning if morning >= now + timedelta(hours=6) else morning + timedelta(days=1)
    shot = Shot(
        id="sh010",
        name="First shot",
        scene=scene,
        first=CUSTOMARY_FIRST,
        last=CUSTOMARY_FIRST + 95,
        recipe="Final",
        hold=CLEAN,
    )
    return checked_reel(
        Reel(
            name=name,
            due=due.isoformat(timespec="seconds"),
            shots=(shot,),
            recipes=(Recipe(name="Final"),),
            machines=(Machine(name="This machine", zone=local_zone()),),
        )
    )
