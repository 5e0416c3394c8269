"""A run at work: frames handed to the crew one by one, what came of them looked at, written, tried again or set aside."""

from __future__ import annotations

import shutil
import traceback
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

import msgspec
import numpy as np

from hasty_reel.errors import HastyReelError, PictureError, Stopped, WrongInput, reason
from hasty_reel.farm.finals.around import Around
from hasty_reel.farm.finals.control import RunControl
from hasty_reel.farm.finals.crew import Crew, LocalCrew, Outcome
from hasty_reel.farm.finals.finishes import Finishes
from hasty_reel.farm.finals.folder import FAILED, FINISHED, OTHER, RENDERED, RENDERING, WAITING
from hasty_reel.farm.finals.journal import CACHED, NOTED, Journal, JournalLine, now_text
from hasty_reel.farm.finals.order import trouble_first
from hasty_reel.farm.finals.slowness import SlownessWatch
from hasty_reel.farm.halves import NOISE
from hasty_reel.pictures.finite import mended
from hasty_reel.pictures.frame import Picture
from hasty_reel.pictures.writing import write_picture
from hasty_reel.plan.slip import SlipWatch, chance_late, new_plan
from hasty_reel.reel.frames import write_frames
from hasty_reel.wholefile import clear_folder, flush_folder, part_of

if TYPE_CHECKING:
    from hasty_reel.farm.finals.run import DueTime, Listener, Run

ATTEMPTS = 3
"""How often a frame is begun before it is set aside."""
LOOK_SECONDS = 0.1
"""How often somebody's wishes are looked at while nothing ends."""
LEAST_FREE = 16 << 20
"""Bytes that must stay free besides the next picture."""


class RunAtWork:
    """The work on one run.

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
        self._queue: list[int] = []
        self._under_way: set[int] = set()
        self._told: set[str] = set()
        self._slowness = SlownessWatch(here=isinstance(crew, LocalCrew))
        self._finishes = Finishes(run, self._tell, self._fail, control.cancel)

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
            todo = [f for f in run.frames if run.states[f] in (WAITING, OTHER, FAILED)]
            todo = sorted({*todo, *self._finishes.gone()})
            if run.around is not None and todo:
                todo = self._with_around(run.around, todo)
            planned = sum(run.planned_seconds(f) for f in todo)
            self._journal.tell(
                JournalLine(now_text(), "begun", planned=planned, frames=write_frames(todo) if todo else "", settings=run.hash)
            )
            try:
                self._finishes.ready()
                self._render(todo)
                if not self._control.ending:
                    self._finishes.together(run.workers)
            except HastyReelError as error:
                self._journal.tell(JournalLine(now_text(), "ended", words=str(error)))
                raise
            else:
                self._journal.tell(JournalLine(now_text(), "ended"))
            finally:
                run.replaced |= self._finishes.replaced
                for folder in folders:
                    flush_folder(folder)

    def _with_around(self, around: Around, todo: list[int]) -> list[int]:
        """Frames to be rendered, with the one that stands around the others where that is not there."""
        if around.frame not in todo and not around.there():
            self._finishes.for_neighbours.add(around.frame)
            todo = sorted({*todo, around.frame})
        if around.frame in todo:
            around.await_it()
        return todo

    def _render(self, todo: list[int]) -> None:
        run, control = self._run, self._control
        self._queue = trouble_first(run.plan, todo) if self._trouble else list(todo)
        self._queue += [f for f in self._finishes.again() if f not in todo]
        if run.around is not None and run.around.frame in self._queue:  # the others wait for it
            self._queue = [run.around.frame, *(f for f in self._queue if f != run.around.frame)]
        history = bool(run.plan.recipe.preroll)
        try:
            while self._queue or self._under_way or self._caching:
                while self._next and self._crew.room() > 0 and not (control.held or control.ending or control.cancel.cancelled):
                    # a frame whose neighbour before was not just rendered by the same hands has no history of its own
                    chosen = (self._queue[0], False) if run.caches is None else run.caches.next_of(self._queue)
                    if chosen is None:
                        break
                    frame, cache = chosen
                    if cache:
                        self._begin_cache(frame)
                        continue
                    self._queue.remove(frame)
                    self._begin(frame, history and (frame == min(todo, default=frame) or self._trouble))
                if not self._under_way and not self._caching:
                    if control.ending or not self._queue:
                        break
                    if control.cancel.cancelled:
                        control.cancel.check()
                for outcome in self._crew.wait(LOOK_SECONDS):
                    self._take(outcome)
                    self._inform(self._look_at_the_clock)
                self._finishes.ready()
                self._queue += [f for f in self._finishes.again() if f not in self._queue and f not in self._under_way]
            control.cancel.check()
        finally:
            self._let_go()
            for crop in () if run.around is None else run.around.let_go():  # what was to stand around them did not come
                self._tell(crop.task.frame, WAITING)

    @property
    def _next(self) -> bool:
        """Whether another frame may be begun: none while crops that wait for the frame around them fill the memory, but that one."""
        around = self._run.around
        return bool(self._queue) and (around is None or not around.full or self._queue[0] == around.frame)

    def _begin(self, frame: int, preroll: bool) -> None:
        run = self._run
        run.attempts[frame] = run.attempts.get(frame, 0) + 1
        self._under_way.add(frame)
        self._tell(frame, RENDERING)
        self._crew.begin(run.task(frame, preroll), self._control.cancel)

    @property
    def _caching(self) -> bool:
        """Whether light caches are being computed."""
        return self._run.caches is not None and bool(self._run.caches.in_work)

    def _begin_cache(self, owner: int) -> None:
        assert self._run.caches is not None
        self._run.caches.in_work.add(owner)
        self._crew.begin(self._run.cache_task(owner), self._control.cancel)

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

    def _take_cache(self, outcome: Outcome) -> None:
        """Keep light caches that came; where they cannot be had, the frames compute them themselves."""
        from hasty_reel.farm.finals.run import FrameEvent

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

    def _take(self, outcome: Outcome) -> None:
        run, frame = self._run, outcome.task.frame
        if outcome.task.caches:
            self._take_cache(outcome)
            return
        self._under_way.discard(frame)
        finished = frame in self._finishes.for_neighbours
        if isinstance(outcome.error, Stopped):
            self._tell(frame, FINISHED if finished else WAITING)
            return
        if outcome.error is not None or outcome.made is None:
            if outcome.lost:
                run.attempts[frame] -= 1
            self._try_again(frame, outcome.error, outcome)
            return
        around = run.around
        try:
            picture, count = mended(outcome.made.picture, f"Frame {frame}")
            if count:
                run.replaced[frame] = count
            if around is not None and frame != around.frame:
                if run.states.get(around.frame) == FAILED:
                    self._fail(frame, around.lost_words, outcome)
                    return
                if not around.there():
                    around.hold(outcome)
                    return
                picture = around.with_crop(picture)
        except HastyReelError as error:
            self._try_again(frame, error, outcome)
            return
        if not run.folder.finishes:
            picture = Picture(picture.rgb, picture.guides, {**picture.attributes, "hr:final": run.hash})
        try:
            write_picture(run.folder.rendered.path(frame), picture)
        except PictureError as error:
            self._need_room(picture)
            self._try_again(frame, error, outcome)
            return
        if run.caches is not None:
            run.caches.forget([*self._queue, *self._under_way])
        self._inform(lambda: self._take_pace(outcome))
        if around is not None and frame == around.frame:
            around.take(picture)
            for one in around.let_go():
                self._take(one)
        self._finishes.rendered(frame)
        state = RENDERED if run.folder.finishes and not finished else FINISHED
        self._tell(frame, state, outcome.seconds, "", picture.rgb, outcome)

    def _take_pace(self, outcome: Outcome) -> None:
        """Take in how long a frame took, and say it where the run goes clearly slower than planned."""
        from hasty_reel.farm.finals.run import FrameEvent

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
        room = due.room()
        run.late = chance_late(run.left, room)
        if not self._watch.look(run.late):
            run.offer = None
            return
        done = {f for f, s in run.states.items() if s in (RENDERED, FINISHED, RENDERING, FAILED)} | self._under_way
        run.offer = new_plan(run.plan, done, room, run.left_with)
        if due.automatic and run.offer.frames:
            words = run.offer.words
            run.take_offer(due)
            self._watch.slips = False
            self._journal.tell(JournalLine(now_text(), "planned anew", words=words))

    def _need_room(self, picture: Picture) -> None:
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

    def _try_again(self, frame: int, error: Exception | None, outcome: Outcome) -> None:
        words = str(error) or "out of memory"
        attempt = self._run.attempts.get(frame, 1)
        # what is asked for wrongly stays wrong
        if attempt >= ATTEMPTS or type(error) is WrongInput:
            self._fail(frame, words, outcome)
            return
        self._tell(frame, WAITING, outcome.seconds, f"{words} It is tried again.", outcome=outcome)
        around = self._run.around
        self._queue.insert(0 if around is not None and frame == around.frame else len(self._queue), frame)

    def _fail(self, frame: int, words: str, outcome: Outcome | None = None) -> None:
        self._finishes.lost(frame)
        if frame in self._finishes.for_neighbours and self._run.states[frame] != FAILED:  # it is finished: only neighbours lack it
            self._tell(frame, FINISHED, words=f"{words} It stays as it was finished; its neighbours are finished without it.")
            return
        self._run.faults[frame] = words
        if self._run.around is not None and frame == self._run.around.frame:
            lost, self._queue = [o.task.frame for o in self._run.around.let_go()] + self._queue, []
            for other in lost:
                self._fail(other, self._run.around.lost_words)
        self._tell(frame, FAILED, 0.0 if outcome is None else outcome.seconds, words, outcome=outcome)

    def _tell(
        self, frame: int, state: str, seconds: float = 0.0, words: str = "", picture: np.ndarray | None = None,
        outcome: Outcome | None = None,
    ) -> None:  # fmt: skip
        from hasty_reel.farm.finals.run import FrameEvent

        run, machine, attempt = self._run, "" if outcome is None else outcome.machine, self._run.attempts.get(frame, 1)
        with run.lock:
            run.states[frame] = state
        if state in (RENDERED, FINISHED, FAILED) or words:
            at, made = run.plan.index(frame), None if outcome is None else outcome.made
            planned = float(run.plan.denoise[at]) if outcome is None else outcome.task.planned / outcome.speed
            line = JournalLine(
                now_text(), "retried" if state == WAITING else state, frame, round(seconds, 4), round(planned, 4), machine, attempt,
                words, int(run.plan.samples[at]), float(run.plan.seen_flicker[at]), float(run.plan.raw_noise[at]),
                float(run.plan.noise[at]),
            )  # fmt: skip
            if made is not None:
                measured = made.picture.attributes.get(NOISE, 0.0)
                line = msgspec.structs.replace(
                    line, load=round(made.load_seconds, 4), measured=float(str(measured)), one_number=made.one_number
                )
            self._journal.tell(line)
        self._inform(lambda: self._listen(FrameEvent(frame, state, seconds, words, picture, machine, attempt)))

    def _let_go(self) -> None:
        """Wait for what is under way when the run ends otherwise, so that no worker writes after it."""
        while self._under_way or self._caching:
            if not (self._control.cancel.cancelled or self._control.ending):
                self._control.cancel.cancel()
            for outcome in self._crew.wait(LOOK_SECONDS):
                self._take(outcome)


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
