"""One bundle for each shot of the reel, so that all play clean and are in time: looked for when asked, taken with one click."""

from __future__ import annotations

from typing import TYPE_CHECKING

from psygnal import Signal

from hasty_reel.evidence.looks import looks_of
from hasty_reel.plan.compare.bundles import every_bundle
from hasty_reel.plan.compare.reelbundle import ReelBundle, reel_bundle
from hasty_reel.plan.compare.wouldhelp import Help, would_help
from hasty_reel.reel.document import Reel
from hasty_reel.reel.durations import spoken
from hasty_reel.studio.background import BackgroundTask
from hasty_reel.studio.budget.alternatives import with_bundle

if TYPE_CHECKING:
    from hasty_reel.studio.context import ShotContext


class ReelBundleModel:
    """The bundles for all shots, as they were found for the plan as it stands. changed() : they are found, or no longer true.

    found : None before they were looked for; words : what they come to; helps : what would have the reel ready sooner

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()

    def __init__(self, session: ShotContext) -> None:
        self._session = session
        self.found: ReelBundle | None = None
        self.words = ""
        self.helps: list[Help] = []
        self._task: BackgroundTask | None = None
        session.planner.plan_changed.connect(self._forget)

    @property
    def looking(self) -> bool:
        """Whether they are being looked for."""
        return self._task is not None

    def _forget(self) -> None:
        if self._task is not None:
            self._task.cancel.cancel()
        self.helps = []
        self._say(None, "")

    def _say(self, found: ReelBundle | None, words: str) -> None:
        self.found, self.words = found, words
        self.changed.emit()

    def find(self) -> None:
        """Look for them beside everything else."""
        outlook, when = self._session.planner.outlook, self._session.planner.outlook.deadline
        if self._task is not None or when is None or self._session.planner.stale:
            return
        if when.missing:
            self._say(None, f"No plan yet for {', '.join(when.missing)}: a proof of each comes first.")
            return
        reel, plans, models = self._session.reel, dict(outlook.plans), dict(outlook.models)
        allowed = when.sure_work

        start = when.start

        def _work(task: BackgroundTask) -> ReelBundle | str:
            task.send(would_help(reel, plans, when, start))
            found = {}
            for k, (shot, plan) in enumerate(plans.items()):
                task.cancel.check()
                task.tell(k / len(plans), f"weighing {shot}")
                clean = [b for b in every_bundle(reel, plan, models[shot], looks_of(models[shot].evidence), allowed) if b.clean]
                if not clean:
                    return f"{shot}: no settings that proofs tried are calm enough."
                found[shot] = clean
            return reel_bundle(found, allowed) or "Nothing to weigh."

        self._task = task = self._session.background.start(_work)
        self._say(None, "Weighing what proofs tried, shot by shot …")
        task.progressed.connect(lambda share, words: self._say(None, f"{words[:1].upper()}{words[1:]} …"))
        task.came.connect(self._helps)
        task.done.connect(self._came)
        task.failed.connect(lambda words: self._say(None, words))
        task.ended.connect(self._ended)

    def _helps(self, found: list[Help]) -> None:
        self.helps = found

    def _came(self, found: ReelBundle | str) -> None:
        if isinstance(found, str):
            self._say(None, found)
            return
        hours = spoken(found.seconds / self._session.reel.frame_speed)
        fits = "in time" if found.in_time else "not in time: these are the fastest that are calm"
        self._say(found, f"All shots calm in {hours}, {fits}; look ± {found.loss:.1f} L*, settings of {found.changed} shots change.")

    def _ended(self) -> None:
        self._task = None
        self.changed.emit()

    def take(self) -> None:
        """Plan all shots with them; one undo takes all back."""
        found = self.found
        if found is None:
            return

        def _edit(reel: Reel) -> Reel:
            for shot, bundle in found.chosen.items():
                reel = with_bundle(reel, shot, bundle)
            return reel

        self._session.do("Take the bundles of all shots", _edit)
