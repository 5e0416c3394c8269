"""Bundles that play clean, and single changes that buy time: looked for beside everything else, taken with one click."""

from __future__ import annotations

from typing import TYPE_CHECKING

from psygnal import Signal

from hasty_reel.evidence.looks import Looks, looks_of
from hasty_reel.evidence.rows import Evidence
from hasty_reel.plan.bundles import Alternatives, Bundle, alternatives, room_of
from hasty_reel.plan.savings import Saving, savings
from hasty_reel.reel.document import Reel
from hasty_reel.reel.durations import spoken
from hasty_reel.reel.edits import departed, rejoined, with_hold, with_line
from hasty_reel.reel.recipe import LINES

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session


Found = tuple[str, tuple[Evidence, Looks], Alternatives, list[Saving]]


class AlternativesModel:
    """The bundles and changes as they were found last. changed() : they are known anew, or looked for.

    found : None while they are looked for the first time; savings : single changes, what buys most first

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()

    def __init__(self, session: Session) -> None:
        self._session = session
        self.found: Alternatives | None = None
        self.savings: list[Saving] = []
        self._looks: tuple[Evidence, Looks] | None = None
        self._outdated, self._looking, self._watchers = True, False, 0
        self._shot = ""
        for signal in (session.planner.plan_changed, session.playhead.shot_changed):
            signal.connect(self._outdate)

    def watch(self, watched: bool) -> None:
        """Say whether anybody looks at it: else it waits. Each who came tells when they go.

        Parameters
        ----------
        watched : whether it is in sight
        """
        self._watchers = max(0, self._watchers + (1 if watched else -1))
        self._look()

    @property
    def stale(self) -> bool:
        """Whether they are being looked for."""
        return self._outdated or self._looking

    @property
    def words(self) -> str:
        """What there is besides the bundles, in a sentence; '' for nothing."""
        if self.found is None:
            return "Looking for settings that play clean …" if self._session.plan is not None else ""
        told = [self.found.why[:1].upper() + self.found.why[1:]] if self.found.why else []
        told += [f"More could be weighed with {self.found.missing}"] if self.found.missing else []
        return ". ".join(told)

    def price(self, bundle: Bundle) -> str:
        """Return what a bundle takes, in words.

        Parameters
        ----------
        bundle : one of the bundles
        """
        late = "" if bundle.in_time else ", late"
        return f"{spoken(bundle.seconds / self._session.reel.frame_speed)}{late}"

    def take(self, bundle: Bundle) -> None:
        """Plan the shot with a bundle from now on; other shots of its recipe stay as they are.

        Parameters
        ----------
        bundle : one of the bundles
        """
        shot = self._session.playhead.shot_id

        self._session.do(f"Take the {bundle.name}", lambda reel: with_bundle(reel, shot, bundle))

    def change(self, saving: Saving) -> None:
        """Make a single change, for every shot of the recipe, as in the ledger.

        Parameters
        ----------
        saving : one of the changes
        """
        shot = self._session.playhead.shot_id

        def _edit(reel: Reel) -> Reel:
            for field, value in saving.changes.items():
                reel = with_line(reel, shot, field, value)
            return reel

        self._session.do(f"Set {saving.words}", _edit)

    def hours(self, seconds: float) -> float:
        """Return hours on the machines of the reel.

        Parameters
        ----------
        seconds : on a machine of speed 1
        """
        return seconds / self._session.reel.frame_speed / 3600.0

    def taken(self, bundle: Bundle) -> bool:
        """Whether the shot is planned with a bundle already.

        Parameters
        ----------
        bundle : one of the bundles
        """
        now = self._session.recipe
        return self._session.shot.hold == bundle.hold and all(getattr(now, x.field) == getattr(bundle.recipe, x.field) for x in LINES)

    def _outdate(self) -> None:
        self._outdated = True
        if self._shot != self._session.playhead.shot_id:
            self._shot, self.found, self.savings = self._session.playhead.shot_id, None, []
        self.changed.emit()
        self._look()

    def _look(self) -> None:
        if self._looking or not (self._outdated and self._watchers):
            return
        session, shot = self._session, self._session.playhead.shot_id
        plan, model, when = session.plan, session.planner.outlook.models.get(shot), session.planner.outlook.deadline
        if session.planner.stale:
            return  # a new plan is on its way, and tells
        self._outdated = False
        if plan is None or model is None or when is None:
            self.found, self.savings = None, []
            self.changed.emit()
            return
        self._looking = True
        reel, known = session.reel, self._looks

        def _find(task: object) -> Found:
            looks = known if known is not None and known[0] is model.evidence else (model.evidence, looks_of(model.evidence))
            return shot, looks, alternatives(reel, plan, model, looks[1], room_of(when, plan)), savings(reel, plan, model, looks[1])

        task = session.background.start(_find)
        task.done.connect(self._came)
        task.failed.connect(session.said)
        task.ended.connect(self._looked)

    def _came(self, thing: Found) -> None:
        shot, self._looks, found, changes = thing
        if shot == self._session.playhead.shot_id:
            self.found, self.savings = found, changes

    def _looked(self) -> None:
        self._looking = False
        self.changed.emit()
        self._look()


def with_bundle(reel: Reel, shot: str, bundle: Bundle) -> Reel:
    """Return the reel with a shot that is planned with a bundle; other shots of its recipe stay as they are.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot : id of the shot, or of the layer as SHOT.LAYER
    bundle : its settings, and what it holds

    Returns
    -------
    Reel
        The changed reel.
    """
    common = reel.recipe(reel.shot(shot).recipe)
    for line in LINES:
        value = getattr(bundle.recipe, line.field)
        follows = value == getattr(common, line.field)
        reel = rejoined(reel, shot, line.field) if follows else departed(reel, shot, line.field, value)
    return with_hold(reel, shot, bundle.hold)
