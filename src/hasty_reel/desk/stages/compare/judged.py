"""What is known of the sides, shown on its pages: measures of both, causes of one, what helps and its price."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from hasty_reel.desk.jobs import Job
from hasty_reel.desk.session import Session
from hasty_reel.desk.stages.compare.causes import CausesPage
from hasty_reel.desk.stages.compare.chosen import Chosen
from hasty_reel.desk.stages.compare.frames import Frames
from hasty_reel.desk.stages.compare.loop import Loop
from hasty_reel.desk.stages.compare.measured import MeasuredPage
from hasty_reel.desk.stages.compare.study import Study
from hasty_reel.evidence.sides import Side
from hasty_reel.measure.causes import Cause
from hasty_reel.plan.levers import Lever, levers
from hasty_reel.predict.model import ShotModel


class Judged(QObject):
    """Has found out what a page shows and shows it there.

    found_more : something more is known; region(object) : the part of the picture a cause was found in, as shares, or None
    """

    found_more = Signal()
    region = Signal(object)

    def __init__(self, session: Session, chosen: Chosen, frames: Frames, loop: Loop, stage: QWidget) -> None:
        super().__init__(stage)
        self._session, self._chosen, self._frames, self._loop, self._stage = session, chosen, frames, loop, stage
        self.study = Study(session, self)
        self.measured = MeasuredPage(stage)
        self.causes = CausesPage(stage)
        self.study.found.connect(self._found_more)
        self.study.failed.connect(session.said)
        session.plan_changed.connect(self._plan)
        self.measured.keep.connect(self._keep)
        self.causes.which_changed.connect(lambda _: self.find_out())
        self.causes.picked.connect(self._cause)
        self.causes.levers_wanted.connect(self._levers)
        self.causes.lever_wanted.connect(self._use)

    @property
    def _looked_at(self) -> Side | None:
        """The side whose causes are asked for."""
        sides = self._chosen.sides
        return sides[min(self.causes.which, len(sides) - 1)] if sides else None

    @property
    def heard(self) -> tuple[Cause, ...]:
        """Causes that are worth a word, of the side that was looked through."""
        return () if self.causes.found is None else self.causes.found.heard

    @property
    def heard_in(self) -> str:
        """The side they were found in."""
        side = self._looked_at
        return "" if side is None else side.name

    @property
    def studied(self) -> bool:
        """Whether a run of this shot was looked through for causes."""
        return any(self.study.seen_through(s) for s in self._chosen.sides)

    def other_sides(self) -> None:
        """Other sides were picked."""
        count = len(self._chosen.sides)
        self.causes.two = count == 2
        self.causes.which = min(self.causes.which, max(0, count - 1))
        self.region.emit(None)

    def find_out(self) -> None:
        """Find out what is looked at and not known yet."""
        side, run = self._looked_at, self._chosen.run
        self._cause(self.causes.cause)
        # nobody looks at a hidden page: what it shows waits until then
        if run and side is not None and self._stage.isVisible():
            for each in self._chosen.sides:
                self.study.measure(each, run)
            if self.causes.isVisible():
                self.study.look_through(side, run)
            self.tell_apart()
        self._show_known()

    def tell_apart(self) -> None:
        """Find out how far the two pictures that are shown are apart."""
        sides, shown = self._chosen.sides, self._chosen.frames
        if len(sides) == 2 and self.measured.isVisible() and not self._loop.playing:
            self.study.tell_apart(sides, shown, [self._frames.light(s, f) for s, f in zip(sides, shown)])

    def _found_more(self) -> None:
        self._show_known()
        self.found_more.emit()

    def _show_known(self) -> None:
        sides, run, study = self._chosen.sides, self._chosen.run, self.study
        busy = study.busy if study.busy.startswith("Measuring") else ""
        measures = [study.of(s, run).measures for s in sides]
        self.measured.show_measures(sides, measures, run, self._session.eyes, busy, study.apart(sides, self._chosen.frames))
        side = self._looked_at
        if side is None or not run:
            self.causes.show_causes(None, "Nothing to look at yet.")
            return
        one = study.of(side, run)
        words = one.fault or ("Looking for causes …" if len(run) > 1 else "Causes show in motion: a run of frames is needed.")
        if one.causes is not self.causes.found or one.causes is None:
            self.causes.show_causes(one.causes, words)

    # -- a cause and what helps

    def _cause(self, cause: Cause | None) -> None:
        found = self.causes.found
        if cause is None or found is None or not self.causes.isVisible():
            self.region.emit(None)
            return
        (x, y, w, h), (rows, columns) = cause.region, found.found.shape
        self.region.emit((x / columns, y / rows, (x + w) / columns, (y + h) / rows))

    def _plan(self) -> None:
        if self.causes.cause is not None and self.causes.isVisible():
            self._levers(self.causes.cause)

    def _levers(self, cause: Cause) -> None:
        session = self._session
        plan, shot, reel = session.plan, session.shot, session.reel
        if plan is None:
            lack = session.outlook.lacks.get(session.shot_id, "the plan is not made yet")
            self.causes.show_levers([], 1.0, f"Helps: {', '.join(cause.helps)}. No price: {lack}")
            return
        evidence = session.shot_evidence

        def work(job: Job) -> list[Lever]:
            return levers(reel, shot, ShotModel(evidence.without(shot.put_away), shot.frames), plan, cause.helps)

        def done(found: object) -> None:
            if self.causes.cause is not None and self.causes.cause.name == cause.name:
                self.causes.show_levers(found, reel.frame_speed)  # type: ignore[arg-type]

        job = session.jobs.start(work)
        job.done.connect(done)
        job.failed.connect(session.said)

    def _use(self, lever: Lever) -> None:
        if lever.recipe is not None:
            self._session.use_recipe(lever.recipe, f"Use {lever.words}")
        elif lever.hold is not None:
            self._session.set_hold(lever.hold)

    def _keep(self, which: int) -> None:
        sides = self._chosen.sides
        proof = sides[which].proof if which < len(sides) else None
        if proof is not None:
            self._session.use_settings(proof)
