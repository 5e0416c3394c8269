"""A window with the stages of a reel, each made when it is first looked at, and the rest ahead while nobody waits."""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QMainWindow, QWidget

from hasty_reel.desk.follow import follow
from hasty_reel.desk.stack import StageStack
from hasty_reel.studio.session import Session

if TYPE_CHECKING:
    from hasty_reel.desk.stages.brief.stage import BriefStage
    from hasty_reel.desk.stages.budget.stage import BudgetStage
    from hasty_reel.desk.stages.compare.stage import CompareStage
    from hasty_reel.desk.stages.finish.stage import FinishStage
    from hasty_reel.desk.stages.output.stage import OutputStage
    from hasty_reel.desk.stages.proofs.stage import ProofsStage
    from hasty_reel.desk.stages.run.stage import RunStage

STAGES = ["Brief", "Proofs", "Compare", "Budget", "Finish", "Output", "Run"]
BRIEF, PROOFS, COMPARE, BUDGET, FINISH, OUTPUT, RUN = range(7)
LOADED_AHEAD = (
    "hasty_reel.bench.render",
    "hasty_reel.farm.bringin",
    "hasty_reel.image.resize",
    "hasty_reel.studio.compare.comparison",
    "hasty_reel.studio.run.final",
    "hasty_reel.studio.run.morning",
    "hasty_reel.studio.output.outputs",
    "hasty_reel.studio.output.foldercheck",
)
"""Modules that bring much along."""
BETWEEN_MS = 60
"""Between two stages that are made ahead, for what the person does meanwhile."""


def load_ahead() -> None:
    """Load what later stages need, so that the first look at one is quick; in a thread, where nobody waits for it."""
    for name in LOADED_AHEAD:
        import_module(name)


class WindowWithStages(QMainWindow):
    """The stages of a window's reel."""

    session: Session
    stage: StageStack
    _looked_ahead = False

    def make_stack(self) -> StageStack:
        """The stages, none of them made yet."""
        makers = (
            self._make_brief,
            self._make_proofs,
            self._make_compare,
            self._make_budget,
            self._make_finish,
            self._make_output,
            self._make_run,
        )
        return StageStack(makers, self)

    def _make_brief(self) -> QWidget:
        from hasty_reel.desk.stages.brief.stage import BriefStage

        return BriefStage(self.session, self)

    def _make_proofs(self) -> QWidget:
        from hasty_reel.desk.stages.proofs.stage import ProofsStage

        return ProofsStage(self.session, self)

    def _make_compare(self) -> QWidget:
        from hasty_reel.desk.stages.compare.stage import CompareStage

        follow(self, self.session.comparison.studied, self.refresh_marks)
        return CompareStage(self.session, self.session.comparison, self)

    def _make_budget(self) -> QWidget:
        from hasty_reel.desk.stages.budget.stage import BudgetStage

        budget = BudgetStage(self.session, self)
        budget.refresh()
        return budget

    def _make_finish(self) -> QWidget:
        from hasty_reel.desk.stages.finish.stage import FinishStage

        return FinishStage(self.session, self)

    def _make_output(self) -> QWidget:
        from hasty_reel.desk.stages.output.stage import OutputStage

        output = OutputStage(self.session, self)
        output.run_wanted.connect(lambda: self.show_stage(RUN))
        return output

    def _make_run(self) -> QWidget:
        from hasty_reel.desk.stages.run.stage import RunStage

        return RunStage(self.session, self.session.final, self)

    @property
    def brief(self) -> BriefStage:
        """The stage Brief."""
        return cast("BriefStage", self.stage.stage(BRIEF))

    @property
    def proofs(self) -> ProofsStage:
        """The stage Proofs."""
        return cast("ProofsStage", self.stage.stage(PROOFS))

    @property
    def compare(self) -> CompareStage:
        """The stage Compare."""
        return cast("CompareStage", self.stage.stage(COMPARE))

    @property
    def budget(self) -> BudgetStage:
        """The stage Budget."""
        return cast("BudgetStage", self.stage.stage(BUDGET))

    @property
    def finish(self) -> FinishStage:
        """The stage Finish."""
        return cast("FinishStage", self.stage.stage(FINISH))

    @property
    def output(self) -> OutputStage:
        """The stage Output."""
        return cast("OutputStage", self.stage.stage(OUTPUT))

    @property
    def run(self) -> RunStage:
        """The stage Run."""
        return cast("RunStage", self.stage.stage(RUN))

    def first_plan(self) -> None:
        """The first plan is painted: what the other stages need is loaded beside the window's thread, then they are made one by one."""
        if self._looked_ahead or self.session.planner.stale:  # its deadline is not there yet, and comes sooner alone
            return
        self._looked_ahead = True
        self.session.preparing.begin()
        task = self.session.background.start(lambda task: load_ahead())
        follow(self, task.done, self._make_ahead)

    def _make_ahead(self) -> None:
        if self.isVisible() and self.stage.make_next():
            QTimer.singleShot(BETWEEN_MS, self, self._make_ahead)

    def show_stage(self, index: int) -> None:
        """Go to a stage; each kind of window has its own way."""
        self.stage.show_stage(index)

    def refresh_marks(self) -> None:
        """Say anew how the stages stand; each kind of window has its own way."""
