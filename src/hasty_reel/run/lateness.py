"""A run that slips: how likely it is late, and the fewer samples with which it would not be."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hasty_reel.plan.time.slip import SlipWatch, chance_late, new_plan
from hasty_reel.run.events import DueTime
from hasty_reel.run.framestate import FAILED, FINISHED, RENDERED, RENDERING
from hasty_reel.run.journal import Journal, JournalLine, now_text

if TYPE_CHECKING:
    from hasty_reel.run.shotrun import Run


class Lateness:
    """Watches whether a run is ready when it is due.

    Parameters
    ----------
    run : the run
    due : when it is to be ready
    journal : is told when another plan is taken
    """

    def __init__(self, run: Run, due: DueTime, journal: Journal) -> None:
        self._run, self._due, self._journal, self._watch = run, due, journal, SlipWatch()

    def chance(self) -> float:
        """Return how likely the run is late by now, 0 to 1."""
        return chance_late(self._run.left, self._due.seconds_left())

    def offer(self) -> None:
        """Where it slips, look for fewer samples with which it is ready; they are taken at once where that is allowed."""
        run, due = self._run, self._due
        if not self._watch.look(run.late):
            run.offer = None
            return
        # frames under way end as they began: only those that nobody has begun can be given other samples
        done = {f for f, s in run.states.items() if s in (RENDERED, FINISHED, RENDERING, FAILED)} | run.state.under_way
        run.offer = new_plan(run.plan, done, due.seconds_left(), run.left_with)
        if due.automatic and run.offer.frames:
            words = run.offer.words
            run.take_offer(due)
            self._watch.slips = False
            self._journal.tell(JournalLine(now_text(), "planned anew", words=words))
