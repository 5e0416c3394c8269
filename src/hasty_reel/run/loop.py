"""A run at work: frames handed to the crew, what came of them told to the run's state, and what the state asks for carried out."""

from __future__ import annotations

import shutil
import time
from typing import TYPE_CHECKING

import numpy as np

from hasty_reel.errors import HastyReelError, PictureError, Stopped, WrongInput
from hasty_reel.pictures.finite import mended
from hasty_reel.pictures.frame import Picture
from hasty_reel.pictures.writing import write_picture
from hasty_reel.reel.frames import write_frames
from hasty_reel.run.control import RunControl
from hasty_reel.run.crew import Crew, LocalCrew, Outcome
from hasty_reel.run.events import DueTime, Listener
from hasty_reel.run.finishes import DamagedFrame, Finishes
from hasty_reel.run.folder import LIGHT_CACHES
from hasty_reel.run.framestate import FINISHED, RENDERED
from hasty_reel.run.journal import Journal, JournalLine, now_text
from hasty_reel.run.lateness import Lateness
from hasty_reel.run.order import OnEnd, trouble_first
from hasty_reel.run.space import need_space, try_folder
from hasty_reel.run.state import (
    Asked,
    Begun,
    Came,
    CropCame,
    Damaged,
    Dropped,
    Effect,
    Ended,
    Events,
    Failed,
    Finish,
    Finished,
    FinishFailed,
    RunState,
    Slipped,
    TakeCrops,
    Tell,
)
from hasty_reel.run.telling import Telling
from hasty_reel.wholefile import clear_folder, flush_folder

if TYPE_CHECKING:
    from hasty_reel.run.shotrun import Run

LOOK_SECONDS = 0.1
"""How often somebody's wishes are looked at while nothing ends."""


class RunLoop:
    """The work on one run. It knows how to do things; what is to be done the state of the run says.

    Parameters
    ----------
    run : its frames and how they stand
    crew : who renders
    listen : called with everything that happens to a frame
    control : what somebody asks of it
    trouble : the frames that show trouble early come first
    due : when it is to be ready; None: that is not watched
    """

    def __init__(
        self, run: Run, crew: Crew, listen: Listener, control: RunControl, trouble: bool = False, due: DueTime | None = None
    ) -> None:
        self._run, self._crew, self._control, self._trouble = run, crew, control, trouble
        self._journal = Journal(run.folder.final.folder)
        self._telling = Telling(run, self._journal, listen, here=isinstance(crew, LocalCrew))
        self._lateness = None if due is None else Lateness(run, due, self._journal)
        self._to_finish: list[Finish] = []
        self._handed: set[int] = set()
        self._on_end: OnEnd | None = None
        self._finishes = Finishes(run, control.cancel)

    def work(self) -> None:
        """Render and finish what is not done yet.

        Raises
        ------
        Stopped
            When somebody asked for it; every finished frame is kept.
        WrongInput
            When the folder cannot be written, or another run renders into it.
        """
        run = self._run
        folders = {run.folder.final.folder, run.folder.rendered.folder}
        try_folder(run.folder.final.folder)
        with self._journal:
            for folder in folders:
                clear_folder(folder)
            todo = self._todo()
            planned = sum(run.planned_seconds(f) for f in todo)
            self._journal.tell(
                JournalLine(now_text(), "begun", planned=planned, frames=write_frames(todo) if todo else "", settings=run.hash)
            )
            try:
                self._render(todo)
                if not self._control.ending and run.state.together:
                    self._finish_together()
            except HastyReelError as error:
                self._journal.tell(JournalLine(now_text(), "ended", words=str(error)))
                raise
            else:
                self._journal.tell(JournalLine(now_text(), "ended"))
                if all(state is FINISHED for state in run.states.values()):
                    shutil.rmtree(run.folder.final.folder / LIGHT_CACHES, ignore_errors=True)
            finally:
                run.replaced |= self._finishes.replaced
                for folder in folders:
                    flush_folder(folder)

    # -- the state, and what it asks for

    def _after(self, event: Events, outcome: Outcome | None = None, seconds: float = 0.0, picture: np.ndarray | None = None) -> None:
        """Tell the state what happened, and carry out what it asks for; the frame's picture, seconds and outcome are told with it."""
        self._carry_out(*self._run.state.after(event), getattr(event, "frame", None), outcome, seconds, picture)

    def _carry_out(
        self, state: RunState, effects: tuple[Effect, ...], of: int | None = None, outcome: Outcome | None = None, seconds: float = 0.0,
        picture: np.ndarray | None = None,
    ) -> None:  # fmt: skip
        self._run.state = state
        for effect in effects:
            if isinstance(effect, Tell):
                self._telling.tell(effect, *((outcome, seconds, picture) if effect.frame == of else (None, 0.0, None)))
            elif isinstance(effect, TakeCrops):
                assert self._run.around is not None
                for crop in self._run.around.let_go():
                    self._write(crop)
            else:
                self._to_finish.append(effect)

    def _todo(self) -> list[int]:
        """The frames that are to be rendered, in the order of their numbers."""
        run = self._run
        todo = set(run.state.to_render(self._there()))
        if run.around is not None and todo and not run.around.there():
            todo.add(run.around.frame)
        return sorted(todo)

    def _there(self) -> set[int]:
        """Frames whose rendered picture lies on disk."""
        return set(self._run.folder.rendered.frames()) if self._run.folder.finishes else set()

    # -- rendering

    def _render(self, todo: list[int]) -> None:
        run, control, around = self._run, self._control, self._run.around
        around_there = around is not None and around.frame not in todo and around.there()
        if around is not None and not around_there:
            around.await_it()
        order = trouble_first(run.plan, todo) if self._trouble else todo
        if run.plan.recipe.preroll and not self._trouble and around is None and run.caches is None:
            self._on_end = OnEnd(order, len(self._crew.hands()))
        try:
            self._carry_out(*run.state.begin(order, self._there(), around_there))
            self._finish()
            while not self._over:
                self._after(Asked(control.paused, control.ending))
                self._begin_some()
                if self._over or not (run.state.under_way or self._caching):
                    control.cancel.check()
                for outcome in self._crew.wait(LOOK_SECONDS):
                    self._take(outcome)
                    self._telling.inform(self._look_at_the_clock)
                self._finish()
            control.cancel.check()
        finally:
            self._let_go()
            self._after(Ended())
            if around is not None:
                around.let_go()

    @property
    def _over(self) -> bool:
        return self._run.state.over and not self._caching

    @property
    def _caching(self) -> bool:
        """Whether light caches are being computed."""
        return self._run.caches is not None and bool(self._run.caches.in_work)

    def _begin_some(self) -> None:
        """Hand frames to the crew while it has hands free."""
        run = self._run
        while (queue := run.state.may_begin) and self._crew.free_hands() > 0 and not self._control.cancel.cancelled:
            if run.around is not None and run.around.full and queue[0] != run.around.frame:
                return  # crops that wait for the frame around them fill the memory
            chosen = self._next(queue)
            if chosen is None:
                return
            frame, cache = chosen
            if cache:
                assert run.caches is not None
                run.caches.in_work.add(frame)
                self._crew.begin(run.cache_task(frame), self._control.cancel)
                continue
            self._after(Begun(frame))
            self._handed.add(frame)
            # a frame whose neighbour before was not just rendered by the same hands has no history of its own
            preroll = bool(run.plan.recipe.preroll) and (self._on_end is None or frame in self._on_end.firsts)
            self._crew.begin(run.task(frame, preroll), self._control.cancel)

    def _next(self, queue: tuple[int, ...]) -> tuple[int, bool] | None:
        """The frame that is begun next, and whether its light caches are; None where all wait for something."""
        if self._run.caches is not None:
            return self._run.caches.next_of(list(queue))
        frame = queue[0] if self._on_end is None else self._on_end.next_of(queue, self._run.state.under_way)
        return None if frame is None else (frame, False)

    def _take(self, outcome: Outcome) -> None:
        """Take in what became of a frame, or of light caches."""
        frame = outcome.task.frame
        if outcome.task.caches:
            self._take_cache(outcome)
            return
        self._handed.discard(frame)
        if isinstance(outcome.error, Stopped):
            self._after(Dropped(frame))
        elif outcome.error is not None or outcome.made is None:
            self._fail(outcome, outcome.error)
        else:
            self._write(outcome)

    def _fail(self, outcome: Outcome, error: Exception | None) -> None:
        # what is asked for wrongly stays wrong
        event = Failed(outcome.task.frame, str(error) or "out of memory", type(error) is WrongInput, outcome.lost)
        self._after(event, outcome, outcome.seconds)

    def _write(self, outcome: Outcome) -> None:
        """Write a picture that came; a crop is put into the frame around it, or waits for it."""
        run, frame, around = self._run, outcome.task.frame, self._run.around
        assert outcome.made is not None
        try:
            picture, count = mended(outcome.made.picture, f"Frame {frame}")
            if count:
                run.replaced[frame] = count
            if around is not None and frame != around.frame:
                if not around.there():
                    self._after(CropCame(frame), outcome, outcome.seconds)
                    if frame in run.state.crops:
                        around.keep(outcome)
                    return
                picture = around.with_crop(picture)
        except HastyReelError as error:
            self._fail(outcome, error)
            return
        if not run.folder.finishes:
            picture = Picture(picture.rgb, picture.guides, {**picture.attributes, "hr:final": run.hash})
        try:
            write_picture(run.folder.rendered.path(frame), picture)
        except PictureError as error:
            try:
                need_space(run.folder.rendered.folder, picture)
            except WrongInput:
                self._after(Dropped(frame))
                raise
            self._fail(outcome, error)
            return
        if run.caches is not None:
            run.caches.forget([*run.state.queue, *run.state.under_way])
        self._telling.inform(lambda: self._telling.take_pace(outcome))
        if around is not None and frame == around.frame:
            around.take(picture)
        self._after(Came(frame), outcome, outcome.seconds, picture.rgb)

    def _take_cache(self, outcome: Outcome) -> None:
        """Keep light caches that came; where they cannot be had, the frames compute them themselves."""
        caches, owner = self._run.caches, outcome.task.frame
        assert caches is not None
        caches.in_work.discard(owner)
        if isinstance(outcome.error, Stopped) or outcome.lost:
            return
        found = () if outcome.made is None else outcome.made.light_caches
        caches.took(owner, found)
        self._telling.tell_cache(outcome)

    def _look_at_the_clock(self) -> None:
        """Whether the run slips, and what would have it ready when due."""
        if self._lateness is not None:
            self._after(Slipped(self._lateness.chance()))
            self._lateness.offer()

    def _let_go(self) -> None:
        """Wait for what is under way when the run ends otherwise, so that no worker writes after it."""
        while self._handed or self._caching:
            if not (self._control.cancel.cancelled or self._control.ending):
                self._control.cancel.cancel()
            for outcome in self._crew.wait(LOOK_SECONDS):
                self._take(outcome)

    # -- finishing

    def _finish(self) -> None:
        """Finish what can be finished, one frame after the other; each may be what another one waited for."""
        while self._to_finish:
            self._control.cancel.check()
            order = self._to_finish.pop(0)
            began = time.perf_counter()
            try:
                rgb = self._finishes.finish(order.frame, order.window)
            except DamagedFrame as damaged:
                self._after(Damaged(damaged.frame, str(damaged), order.frame))
            except Stopped:
                raise
            except (HastyReelError, MemoryError) as error:
                self._after(FinishFailed(order.frame, str(error) or "out of memory"))
            else:
                self._after(Finished(order.frame, order.without), None, time.perf_counter() - began, rgb)

    def _finish_together(self) -> None:
        """Finish all frames at once, where a step takes a folder; frames that failed are left out."""
        run = self._run
        there = [f for f in run.frames if run.states[f] in (RENDERED, FINISHED)]
        left = [f for f in there if run.states[f] == RENDERED]
        began = time.perf_counter()
        try:
            done = self._finishes.together(there, left, run.workers)
        except Stopped:
            raise
        except (HastyReelError, MemoryError) as error:
            for frame in left:
                self._after(FinishFailed(frame, str(error) or "out of memory"))
            return
        for frame, rgb in done:
            self._after(Finished(frame), None, (time.perf_counter() - began) / len(left), rgb)
