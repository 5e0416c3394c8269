"""A run at work: frames handed to the crew, what came of them told to the run's state, and what the state asks for carried out."""

from __future__ import annotations

import shutil
import time
import traceback
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

import msgspec
import numpy as np

from hasty_reel.errors import HastyReelError, PictureError, Stopped, WrongInput, reason
from hasty_reel.farm.halves import NOISE
from hasty_reel.pictures.finite import mended
from hasty_reel.pictures.frame import Picture
from hasty_reel.pictures.writing import write_picture
from hasty_reel.plan.time.slip import SlipWatch, chance_late, new_plan
from hasty_reel.reel.frames import write_frames
from hasty_reel.run.control import RunControl
from hasty_reel.run.crew import Crew, LocalCrew, Outcome
from hasty_reel.run.finishes import DamagedFrame, Finishes
from hasty_reel.run.framestate import FAILED, FINISHED, RENDERED, RENDERING
from hasty_reel.run.journal import CACHED, NOTED, RETRIED, Journal, JournalLine, now_text
from hasty_reel.run.order import trouble_first
from hasty_reel.run.slowness import SlownessWatch
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
from hasty_reel.wholefile import clear_folder, flush_folder, part_of

if TYPE_CHECKING:
    from hasty_reel.run.shotrun import DueTime, Listener, Run

LOOK_SECONDS = 0.1
"""How often somebody's wishes are looked at while nothing ends."""
LEAST_FREE = 16 << 20
"""Bytes that must stay free besides the next picture."""


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
        self._run, self._crew, self._listen, self._control = run, crew, listen, control
        self._trouble, self._due, self._watch = trouble, due, SlipWatch()
        self._journal = Journal(run.folder.final.folder)
        self._to_finish: list[Finish] = []
        self._told: set[str] = set()
        self._handed: set[int] = set()
        self._first = 0
        self._slowness = SlownessWatch(here=isinstance(crew, LocalCrew))
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
                self._tell(effect, *((outcome, seconds, picture) if effect.frame == of else (None, 0.0, None)))
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
        self._first = min(todo, default=0)
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
                    self._inform(self._look_at_the_clock)
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
            chosen = (queue[0], False) if run.caches is None else run.caches.next_of(list(queue))
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
            preroll = bool(run.plan.recipe.preroll) and (frame == self._first or self._trouble)
            self._crew.begin(run.task(frame, preroll), self._control.cancel)

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
                self._need_space(picture)
            except WrongInput:
                self._after(Dropped(frame))
                raise
            self._fail(outcome, error)
            return
        if run.caches is not None:
            run.caches.forget([*run.state.queue, *run.state.under_way])
        self._inform(lambda: self._take_pace(outcome))
        if around is not None and frame == around.frame:
            around.take(picture)
        self._after(Came(frame), outcome, outcome.seconds, picture.rgb)

    def _take_cache(self, outcome: Outcome) -> None:
        """Keep light caches that came; where they cannot be had, the frames compute them themselves."""
        from hasty_reel.run.shotrun import FrameEvent

        caches, owner = self._run.caches, outcome.task.frame
        assert caches is not None
        caches.in_work.discard(owner)
        if isinstance(outcome.error, Stopped) or outcome.lost:
            return
        found = () if outcome.made is None else outcome.made.light_caches
        caches.took(owner, found)
        words = "" if outcome.error is None else f"Light cache of frame {owner}: {outcome.error} Frames compute it themselves."
        self._journal.tell(
            JournalLine(
                now_text(), CACHED, owner, round(outcome.seconds, 4), round(outcome.task.planned / outcome.speed, 4), outcome.machine,
                words=words,
            )
        )  # fmt: skip
        self._inform(lambda: self._listen(FrameEvent(owner, CACHED, outcome.seconds, words, machine=outcome.machine)))

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

    # -- the clock, and telling

    def _take_pace(self, outcome: Outcome) -> None:
        """Take in how long a frame took, and say it where the run goes clearly slower than planned."""
        from hasty_reel.run.shotrun import FrameEvent

        run = self._run
        with run.lock:
            run.pace.ended(outcome.seconds, outcome.task.planned / outcome.speed, outcome.machine)
        words = self._slowness.words(run.pace)
        if words:
            self._journal.tell(JournalLine(now_text(), NOTED, words=words))
            self._listen(FrameEvent(outcome.task.frame, NOTED, words=words))

    def _look_at_the_clock(self) -> None:
        """Whether the run slips, and what would have it ready when due; taken at once where that is allowed."""
        run, due = self._run, self._due
        if due is None:
            return
        seconds_left = due.seconds_left()
        self._after(Slipped(chance_late(run.left, seconds_left)))
        if not self._watch.look(run.late):
            run.offer = None
            return
        done = {f for f, s in run.states.items() if s in (RENDERED, FINISHED, RENDERING, FAILED)} | run.state.under_way
        run.offer = new_plan(run.plan, done, seconds_left, run.left_with)
        if due.automatic and run.offer.frames:
            words = run.offer.words
            run.take_offer(due)
            self._watch.slips = False
            self._journal.tell(JournalLine(now_text(), "planned anew", words=words))

    def _need_space(self, picture: Picture) -> None:
        """End the run where its folder is gone or full: every frame that follows would fail alike."""
        folder = self._run.folder.rendered.folder
        try_folder(folder)
        free = shutil.disk_usage(folder).free
        needed = picture.nbytes // 2  # as half floats, compressed or not
        if free < needed + LEAST_FREE:
            raise WrongInput(
                f"{folder}: {free / 1e6:.3g} MB are free, a frame takes up to {needed / 1e6:.2g}, and {LEAST_FREE / 1e6:.0f} stay free; "
                "the run ends here, and goes on when there is room."
            )

    def _inform(self, call: Callable[[], None]) -> None:
        """Do what only informs somebody: a fault of ours in it is told once, and never ends the run."""
        try:
            call()
        except HastyReelError:
            raise
        except Exception as error:
            where = traceback.extract_tb(error.__traceback__)[-1]
            what = f"{type(error).__name__} in {where.name}"
            words = f"Telling how the run goes went wrong inside Hasty Reel ({what}): frames are not touched by it."
            if words not in self._told:
                self._told.add(words)
                self._journal.tell(JournalLine(now_text(), NOTED, words=words))

    def _tell(self, told: Tell, outcome: Outcome | None, seconds: float, picture: np.ndarray | None) -> None:
        """Write down how a frame stands, and say it."""
        from hasty_reel.run.shotrun import FrameEvent

        run, frame = self._run, told.frame
        machine, attempt = "" if outcome is None else outcome.machine, max(1, run.state.frames[frame].attempts)
        words = told.words
        if told.state in (RENDERED, FINISHED, FAILED) or words:
            at, made = run.plan.index(frame), None if outcome is None else outcome.made
            planned = float(run.plan.denoise[at]) if outcome is None else outcome.task.planned / outcome.speed
            line = JournalLine(
                now_text(), RETRIED if told.retried else told.state, frame, round(seconds, 4), round(planned, 4), machine, attempt,
                words, int(run.plan.samples[at]), float(run.plan.seen_flicker[at]), float(run.plan.raw_noise[at]),
                float(run.plan.noise[at]),
            )  # fmt: skip
            if made is not None:
                measured = made.picture.attributes.get(NOISE, 0.0)
                line = msgspec.structs.replace(
                    line, load=round(made.load_seconds, 4), measured=float(str(measured)), one_number=made.one_number
                )
            self._journal.tell(line)
        self._inform(lambda: self._listen(FrameEvent(frame, told.state, seconds, words, picture, machine, attempt)))


def try_folder(folder: Path) -> None:
    """Find out now, not after the first hour, that a folder takes no files.

    Parameters
    ----------
    folder : of frames

    Raises
    ------
    WrongInput
        When it cannot be made, or written to.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
        probe = part_of(folder / "probe")
        probe.touch()
        probe.unlink()
    except OSError as error:
        raise WrongInput(f"{folder}: frames cannot be written there ({reason(error)}).") from error
