"""Shots rendered one after another: all of the reel by their priority, or one added to what is under way."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hasty_reel.run.framestate import OTHER
from hasty_reel.run.shotrun import Run
from hasty_reel.studio.background import BackgroundTask
from hasty_reel.studio.run.final import FinalFrames, left_of

if TYPE_CHECKING:
    from hasty_reel.studio.context import ShotContext


class ShotQueue:
    """What follows what is rendered.

    Parameters
    ----------
    session : the open reel
    final : the run of the shot that is looked at
    """

    def __init__(self, session: ShotContext, final: FinalFrames) -> None:
        self._session, self._final = session, final

    @property
    def several(self) -> bool:
        """Whether the reel has more than one shot or layer to render."""
        return len(self._session.reel.queue) > 1

    def begin(self) -> None:
        """Render all shots one after another, by their priority; those with frames made with other settings are told and left out."""
        session, final = self._session, self._final
        if final.held_back or session.planner.stale:
            return
        reel, plans, folder, link = session.reel, session.planner.outlook.plans, final.folder, session.own.links.current
        wanted = [plans[t.id] for t in reel.queue if t.id in plans]

        def _make(task: BackgroundTask) -> list[Run]:
            from hasty_reel.farm.renderers import renderer_of  # brings the compiler along

            return [Run(reel, plan, folder, None, renderer_of(link)) for plan in wanted]

        task = session.background.start(_make)
        task.done.connect(self._follow)
        task.failed.connect(session.said)

    def _follow(self, runs: list[Run]) -> None:
        for run in runs:
            if run.count(OTHER):
                self._session.said.emit(f"{run.shot.id}: {run.count(OTHER)} frames were made with other settings; it is left out.")
            elif left_of(run):
                self._final.work.follow_with(run)

    @property
    def may_follow(self) -> bool:
        """Whether the shot that is looked at could be rendered after the one that is under way."""
        run, work = self._final.run, self._final.work
        taken = {r.shot.id for r in work.waiting} | ({work.run.shot.id} if work.run is not None else set())
        return work.busy and not work.rehearsal and run is not None and run.shot.id not in taken and left_of(run) > 0

    def add_this(self) -> None:
        """Render the shot that is looked at after the one that is under way."""
        run = self._final.run
        if run is not None and self.may_follow and not self._final.held_back:
            self._follow([run])
