"""Whose eyes count: the limits found by the eye test, kept for each person and screen."""

from __future__ import annotations

from typing import Annotated

import msgspec

from hasty_reel.errors import ReelError
from hasty_reel.measure.seen import STANDARD, Eyes, heights_of
from hasty_reel.own.chosenlist import ChosenList, KeptList

APART = 1.5
"""Limits of one person further apart than this factor are told."""
LONGEST_NAME = 120
"""Characters of a name."""
Name = Annotated[str, msgspec.Meta(max_length=LONGEST_NAME)]


class Watcher(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """One person at one screen.

    distance_cm : of the eyes from the screen; screen_cm : height of the picture on it
    limit : seen flicker in JND from which on this person sees it; None: not tested, the standard observer's
    factor : standard error of the limit, as a factor; made : date of the test
    limits : by the kind of unrest that was shown; `limit` is the lowest of them
    """

    person: Name
    screen: Name
    distance_cm: Annotated[float, msgspec.Meta(ge=10, le=5000)] = 100.0
    screen_cm: Annotated[float, msgspec.Meta(ge=3, le=2000)] = 33.5
    limit: Annotated[float, msgspec.Meta(gt=0, le=1000)] | None = None
    factor: float | None = None
    made: str = ""
    limits: dict[Name, Annotated[float, msgspec.Meta(gt=0, le=1000)]] = {}

    @property
    def apart(self) -> bool:
        """Whether the limits differ so much that the weighting of unrest does not fit this person."""
        return len(self.limits) > 1 and max(self.limits.values()) > APART * min(self.limits.values())

    @property
    def eyes(self) -> Eyes:
        """What the measures need of it."""
        return Eyes(heights_of(self.distance_cm, self.screen_cm), self.limit or STANDARD.limit)

    @property
    def name(self) -> str:
        """As it is named in a list."""
        return f"{self.person} at {self.screen}"


def eyes_of(watchers: ChosenList[Watcher]) -> Eyes:
    """Return whose eyes count.

    Parameters
    ----------
    watchers : those who were tested, and the one that is chosen

    Returns
    -------
    Eyes
        The eyes that measures and plans go by.
    """
    return STANDARD if watchers.choice is None else watchers.choice.eyes


def check_watcher(watcher: Watcher, where: str) -> None:
    """Raise an error where somebody is not told apart.

    Parameters
    ----------
    watcher : one person at one screen
    where : the same in words, for the message

    Raises
    ------
    ReelError
        Says what was expected.
    """
    if not watcher.person.strip() or not watcher.screen.strip():
        raise ReelError(f"{where}: without a name; expected a person and a screen in up to {LONGEST_NAME} characters each.")


WATCHERS = KeptList("eyes.json", "watchers", Watcher, "eye tests", ChosenList((), optional=True), check_watcher, ReelError)
"""The eye tests of this person's screens; none of them chosen is the standard observer."""
