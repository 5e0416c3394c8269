"""A window with the stages of a reel, each made when it is first looked at, and the rest ahead while nobody waits."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from importlib import import_module
from typing import TYPE_CHECKING, Any, cast

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


@dataclass(frozen=True)
class StageEntry:
    """One stage: all that the window knows of it.

    name : in the stage line; module : of `desk.stages` that holds it, loaded when it is first looked at
    make : makes it for a window, given its module
    """

    name: str
    module: str
    make: Callable[[WindowWithStages, Any], QWidget]


def _compare(window: WindowWithStages, module: Any) -> QWidget:
    comparison = window.session.comparison
    follow(window, comparison.studied, window.refresh_marks)
    return module.CompareStage(window.session, comparison, window)


def _budget(window: WindowWithStages, module: Any) -> QWidget:
    budget = module.BudgetStage(window.session, window)
    budget.compare_wanted.connect(lambda: window.show_stage(COMPARE))
    budget.refresh()
    return budget


def _output(window: WindowWithStages, module: Any) -> QWidget:
    output = module.OutputStage(window.session, window)
    output.run_wanted.connect(lambda: window.show_stage(RUN))
    return output


ENTRIES: tuple[StageEntry, ...] = (
    StageEntry("Brief", "brief", lambda window, module: module.BriefStage(window.session, window)),
    StageEntry("Proofs", "proofs", lambda window, module: module.ProofsStage(window.session, window)),
    StageEntry("Compare", "compare", _compare),
    StageEntry("Budget", "budget", _budget),
    StageEntry("Finish", "finish", lambda window, module: module.FinishStage(window.session, window)),
    StageEntry("Output", "output", _output),
    StageEntry("Run", "run", lambda window, module: module.RunStage(window.session, window.session.final, window)),
)
"""The stages in the order of the work; one more is one entry here, and a line in `Session.verdicts` where it has a verdict."""
STAGES = [entry.name for entry in ENTRIES]
BRIEF, PROOFS, COMPARE, BUDGET, FINISH, OUTPUT, RUN = range(len(ENTRIES))
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
        return StageStack(tuple(partial(self._make, entry) for entry in ENTRIES), self)

    def _make(self, entry: StageEntry) -> QWidget:
        return entry.make(self, import_module(f"hasty_reel.desk.stages.{entry.module}.stage"))

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
