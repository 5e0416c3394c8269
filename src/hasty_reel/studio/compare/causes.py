"""The causes of unrest of one side: which is looked at, where it is in the picture, and what helps and costs."""

from __future__ import annotations

from typing import TYPE_CHECKING

from psygnal import Signal

from hasty_reel.evidence.sides import Side
from hasty_reel.measure.causes.found import HEARD, Cause, Causes
from hasty_reel.plan.compare.levers import Lever, levers
from hasty_reel.plan.compare.remedies import REMEDIES
from hasty_reel.studio.compare.sides import ComparedSides
from hasty_reel.studio.compare.study import Study

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session


class CausesModel:
    """The causes of the side that is looked through.

    which : 0 for A, 1 for B; causes : of it, None while they are not known; words : why there are none
    name : of the cause that is looked at, '' for none; levers : what helps against it, None while it is not known
    lack : why nothing helps has a price
    watched : somebody looks at them, so that they are looked for
    changed() : something of this; region_changed() : another part of the picture is meant

    Parameters
    ----------
    session : the open reel
    sides : what is compared
    study : finds the causes
    """

    changed = Signal()
    region_changed = Signal()

    def __init__(self, session: Session, sides: ComparedSides, study: Study) -> None:
        self._session, self._sides, self._study = session, sides, study
        self.which = 0
        self.causes: Causes | None = None
        self.words = ""
        self.name = ""
        self.levers: list[Lever] | None = None
        self.lack = ""
        self.watched = False
        session.planner.plan_changed.connect(self._price_again)

    @property
    def side(self) -> Side | None:
        """The side whose causes are asked for."""
        sides = self._sides.sides
        return sides[min(self.which, len(sides) - 1)] if sides else None

    @property
    def cause(self) -> Cause | None:
        """The cause that is looked at."""
        return None if self.causes is None else next((c for c in self.causes.causes if c.name == self.name), None)

    @property
    def heard(self) -> tuple[Cause, ...]:
        """Causes that are worth a word."""
        return () if self.causes is None else self.causes.heard

    @property
    def studied(self) -> bool:
        """Whether a run of this shot was looked through for causes."""
        return any(self._study.seen_through(s) for s in self._sides.sides)

    @property
    def region(self) -> tuple[float, float, float, float] | None:
        """Where the cause is that is looked at: left, top, right, bottom as shares of the picture; None for nowhere."""
        cause = self.cause
        if cause is None or self.causes is None or not self.watched:
            return None
        (x, y, w, h), (rows, columns) = cause.region, self.causes.report.shape
        return x / columns, y / rows, (x + w) / columns, (y + h) / rows

    def other_sides(self) -> None:
        """Others are compared now."""
        self.which = min(self.which, max(0, len(self._sides.sides) - 1))
        self.region_changed.emit()

    def turn_to(self, which: int) -> None:
        """Look through the other side.

        Parameters
        ----------
        which : 0 for A, 1 for B
        """
        self.which = which
        self.look()

    def watch(self, watched: bool) -> None:
        """Say whether anybody looks at the causes.

        Parameters
        ----------
        watched : whether they are in sight
        """
        self.watched = watched
        self.look()

    def look(self) -> None:
        """Look through the side, where somebody wants to see it and it is not known."""
        side, run = self.side, self._sides.run
        if side is not None and run and self.watched:
            self._study.look_through(side, run)
        self.refresh()
        self.region_changed.emit()

    def refresh(self) -> None:
        """Take up what is known."""
        side, run = self.side, self._sides.run
        if side is None or not run:
            self._show(None, "Nothing to look at yet.")
            return
        known = self._study.of(side, run)
        words = known.fault or ("Looking for causes …" if len(run) > 1 else "Causes show in motion: a run of frames is needed.")
        if known.causes is not self.causes or known.causes is None:
            self._show(known.causes, words)

    def _show(self, causes: Causes | None, words: str) -> None:
        self.causes, self.words = causes, words
        names = [] if causes is None else [c.name for c in causes.causes]
        first = causes.causes[0] if causes is not None else None
        if self.name not in names:
            self.name = first.name if first is not None and first.score >= HEARD else ""
        self._look_at()

    def pick(self, name: str) -> None:
        """Look at a cause, or at none where it is looked at already.

        Parameters
        ----------
        name : of the cause
        """
        self.name = "" if name == self.name else name
        self._look_at()

    def _look_at(self) -> None:
        self.levers = None
        self.changed.emit()
        self.region_changed.emit()
        if self.cause is not None:
            self._price()

    # -- what helps

    def _price_again(self) -> None:
        if self.cause is not None and self.watched:
            self._price()

    def _price(self) -> None:
        session, cause = self._session, self.cause
        assert cause is not None
        plan, shot, reel = session.plan, session.shot, session.reel
        model = session.planner.outlook.models.get(shot.id)
        remedies = REMEDIES[cause.name]
        if plan is None or model is None:
            lack = session.lack or "the plan is not made yet"
            self.levers, self.lack = [], f"Helps: {', '.join(r.words for r in remedies)}. No price: {lack}"
            self.changed.emit()
            return

        def done(found: list[Lever]) -> None:
            if self.cause is not None and self.cause.name == cause.name:
                self.levers, self.lack = found, ""
                self.changed.emit()

        task = session.background.start(lambda task: levers(reel, model, plan, remedies))
        task.done.connect(done)
        task.failed.connect(session.said)

    def use(self, lever: Lever) -> None:
        """Use what helps: the recipe or the hold changes, and can be changed back.

        Parameters
        ----------
        lever : the change
        """
        if lever.recipe is not None:
            self._session.use_recipe(lever.recipe, f"Use {lever.words}")
        elif lever.hold is not None:
            self._session.set_hold(lever.hold)
