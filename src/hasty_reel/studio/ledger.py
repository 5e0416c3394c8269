"""The ledger of the recipe: values as they are typed and stepped, prices on all machines, each line in words."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import TYPE_CHECKING

from hasty_reel.plan.compare.prices import Price
from hasty_reel.reel.durations import price_text
from hasty_reel.reel.edits import departed, rejoined
from hasty_reel.settings.setting import Setting
from hasty_reel.viewers import who_sees

if TYPE_CHECKING:
    from hasty_reel.studio.context import ShotContext

EFFECT_WORDS = {
    "calmer": "Calms flicker: left out, it would be seen by {}.",
    "same": "Leaves flicker as it is.",
    "more": "Worsens flicker: left out, it would be seen by {}.",
    "unproven": "Its effect on flicker is not proven yet: no proof has been rendered without it.",
}
LEAST_DEAREST = 60.0
"""Seconds that a full price tag stands for at least."""


class LedgerModel:
    """Prices and values of the recipe of the shot that is looked at.

    Parameters
    ----------
    session : the open reel
    """

    def __init__(self, session: ShotContext) -> None:
        self._session = session

    @property
    def prices(self) -> dict[str, Price]:
        """Prices by line, in seconds of all machines together, as the totals of the shot are; empty without a plan."""
        if self._session.plan is None:
            return {}
        speed = self._session.reel.frame_speed
        found = self._session.planner.outlook.prices
        return {name: p if p.seconds is None else replace(p, seconds=p.seconds / speed) for name, p in found.items()}

    @staticmethod
    def dearest(prices: dict[str, Price]) -> float:
        """Return the largest price.

        Parameters
        ----------
        prices : by line

        Returns
        -------
        float
            Seconds, at least a minute.
        """
        return max([LEAST_DEAREST, *(abs(p.seconds) for p in prices.values() if p.seconds is not None)])

    def idle(self, prices: dict[str, Price]) -> set[str]:
        """Return the lines that are left out, and so cost and change nothing in this shot; without prices none is known to.

        Parameters
        ----------
        prices : by line
        """
        recipe, departs = self._session.recipe, self._session.shot.departures
        return {
            name for name, price in prices.items()
            if not price.line.always and name not in departs and recipe.value(name) == price.line.neutral and not price.seconds
        }  # fmt: skip

    def lack(self, line: Setting) -> str:
        """Return why a line does nothing in the chosen renderer, in a sentence; '' where it does.

        Parameters
        ----------
        line : the line
        """
        link = self._session.own.links.current
        words = link.lacks(line)
        return f"Does nothing in '{link.name}': {words}." if words else ""

    def tip(self, line: Setting, price: Price | None) -> str:
        """Return a line of the recipe in words.

        Parameters
        ----------
        line : the line
        price : of it; None where there is no plan

        Returns
        -------
        str
            Lines of words.
        """
        shot = self._session.shot
        tip = f"{line.meaning}\nTakes {line.expected}."
        if lack := self.lack(line):
            tip = f"{lack}\n{tip}"
        if line.field in shot.departures:
            tip += f"\nThis shot departs here from recipe '{shot.recipe}'; right click to follow it again."
        else:
            tip += "\nRight click to set it for this shot alone."
        if price is None:
            return tip
        if price.seconds is None:
            tip += "\nPrice not proven yet: render one proof without it (or with another value) and it is known."
        else:
            text, _ = price_text(price.seconds)
            tip += f"\nPrice: {text} over the shot with all machines at work, against leaving it out at the same seen flicker."
        plan = self._session.plan
        other = math.nan if plan is None else max(0.0, plan.worst_flicker - (price.flicker or 0.0))
        return tip + "\n" + EFFECT_WORDS[price.effect].format(who_sees(other))

    def type_value(self, line: Setting, text: str) -> None:
        """Set a line as it is typed; what is none is said.

        Parameters
        ----------
        line : the line
        text : as typed
        """
        try:
            value = line.read(text)
        except ValueError:
            self._session.said.emit(f"{line.label}: '{text}' is no number; expected {line.expected}.")
            return
        self._session.set_line(line.field, value)

    def step(self, line: Setting, way: int) -> None:
        """Move a line by its step.

        Parameters
        ----------
        line : the line
        way : -1 down, 1 up
        """
        value = self._session.recipe.value(line.field)
        if value is None:
            return
        step = self._session.recipe.sample_step if line.field.startswith("samples") else line.step
        new = min(max(value + way * step, line.low), line.high)
        self._session.set_line(line.field, int(new) if line.whole else new)

    def depart(self, line: Setting) -> None:
        """Let the shot depart from its recipe in a line.

        Parameters
        ----------
        line : the line
        """
        shot_id, value = self._session.playhead.shot_id, self._session.recipe.value(line.field)
        self._session.do(f"Depart in {line.words}", lambda reel: departed(reel, shot_id, line.field, value))

    def rejoin(self, line: Setting) -> None:
        """Let the shot follow its recipe again in a line.

        Parameters
        ----------
        line : the line
        """
        shot_id = self._session.playhead.shot_id
        self._session.do(f"Follow the recipe in {line.words}", lambda reel: rejoined(reel, shot_id, line.field))
