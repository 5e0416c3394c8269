"""What a model of a stage may know of the open reel: the reel, the shot that is looked at, its plan, and how to change them.

Models ask for this instead of a whole session, so that it is plain what each rests on, and tests need no more.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from psygnal import SignalInstance

from hasty_reel.evidence.rows import Evidence
from hasty_reel.measure.seen import Eyes
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.reel.document import Reel
from hasty_reel.reel.shot import Hold, Shot
from hasty_reel.settings.recipe import Recipe
from hasty_reel.settings.setting import Value
from hasty_reel.studio.background import Background
from hasty_reel.studio.eventloop import EventLoop
from hasty_reel.studio.ownsettings import OwnSettings
from hasty_reel.studio.planner import Planner
from hasty_reel.studio.playhead import Playhead


class ShotContext(Protocol):
    """The open reel, as models of stages see it."""

    loop: EventLoop
    own: OwnSettings
    playhead: Playhead
    planner: Planner
    background: Background

    @property
    def said(self) -> SignalInstance:
        """Something to be read."""

    @property
    def reel(self) -> Reel:
        """The reel as it stands."""

    @property
    def shot(self) -> Shot:
        """The shot or layer that is looked at."""

    @property
    def eyes(self) -> Eyes:
        """Who looks at the shot, from where, and from which seen flicker on it is not as calm as it is to be."""

    @property
    def recipe(self) -> Recipe:
        """Its recipe with its departures."""

    @property
    def plan(self) -> ShotPlan | None:
        """Its plan; None while there is none."""

    @property
    def evidence(self) -> Evidence:
        """What its proofs say."""

    def do(self, name: str, change: Callable[[Reel], Reel]) -> bool:
        """Make an edit that may be refused; then it is said why, and nothing changes.

        Parameters
        ----------
        name : of the edit, as undoing it is offered
        change : makes the new reel

        Returns
        -------
        bool
            Whether it was made.
        """

    def set_line(self, field_name: str, value: Value) -> None:
        """Set a setting of the recipe; a value that does not do is said, and nothing changes.

        Parameters
        ----------
        field_name : of the setting
        value : in its unit; None where it has none
        """

    def set_hold(self, hold: Hold) -> None:
        """Set what the budget of the shot holds.

        Parameters
        ----------
        hold : the promise and its value
        """
