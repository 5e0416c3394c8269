"""Final frames being rendered, or a night rehearsed: begun, paused, gone on with, ended; what happens is kept as a record."""

from __future__ import annotations

import shutil
import tempfile
import time
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from psygnal import Signal

from hasty_reel.pictures.colour import codes8
from hasty_reel.plan.shot import ShotPlan, plan_shot
from hasty_reel.plan.time.slip import NewPlan
from hasty_reel.run.control import RunControl
from hasty_reel.run.crew import MOST_WORKERS, THIS_MACHINE, Crew, LocalCrew
from hasty_reel.run.events import DueTime, FrameEvent
from hasty_reel.run.framestate import FAILED, FINISHED
from hasty_reel.run.shotrun import Run
from hasty_reel.studio.background import BackgroundTask
from hasty_reel.studio.eventloop import Timer
from hasty_reel.studio.run.record import RunRecord
from hasty_reel.studio.run.rehearsal import rehearsing_crew
from hasty_reel.typednumbers import read_number
from hasty_reel.wholefile import part_folder

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session

TICK_SECONDS = 1.0
"""How often the time left is shown anew while nothing ends."""


class FramesAtWork:
    """The run that is under way, and the record of the last one.

    workers : frames rendered at once on this machine; trouble_first : first, last, slowest and worst frames before the rest
    automatic : a new plan is taken without asking where the run slips
    run : the one under way, or whose record is shown; record : of it, None before the first; waiting : runs that follow it
    changed() : something of this; grown(frame, state, codes) : a picture came, as (h, w, 3) display codes; ended() : it ended

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()
    grown = Signal(int, str, object)
    ended = Signal()

    def __init__(self, session: Session) -> None:
        self._session = session
        self._task: BackgroundTask | None = None
        self._control: RunControl | None = None
        self._due: DueTime | None = None
        self._timer = Timer(session.loop, TICK_SECONDS, self._tick, again=True)
        self._folder: Path | None = None
        self.words = ""
        self.workers, self.trouble_first, self.automatic = 1, False, False
        self.run: Run | None = None
        self.record: RunRecord | None = None
        self.rehearsal = False
        self.waiting: list[Run] = []

    @property
    def busy(self) -> bool:
        """Whether frames are being rendered."""
        return self._task is not None

    @property
    def paused(self) -> bool:
        """Whether no new frame begins."""
        return self._control is not None and self._control.paused

    @property
    def ending(self) -> bool:
        """Whether it ends after the frames under way."""
        return self._control is not None and self._control.ending

    @property
    def offer(self) -> NewPlan | None:
        """Fewer samples with which the run is ready when due; None while it does not slip."""
        return self.run.offer if self.busy and self.run is not None else None

    # -- how it is to be done

    def type_workers(self, text: str) -> None:
        """Render so many frames at once; what is no such number is said, and nothing changes.

        Parameters
        ----------
        text : as typed
        """
        try:
            value = read_number(text)
        except ValueError:
            value = None
        if value is None or value != int(value) or not 1 <= value <= MOST_WORKERS:
            self._session.said.emit(f"Workers: '{text}'; expected a whole number from 1 to {MOST_WORKERS}.")
        else:
            self.workers = int(value)
        self.changed.emit()

    def set_trouble_first(self, on: bool) -> None:
        """Render the frames that show trouble early before the rest, or not.

        Parameters
        ----------
        on : whether
        """
        self.trouble_first = on
        self.changed.emit()

    def set_automatic(self, on: bool) -> None:
        """Take a new plan without asking where the run slips, or ask.

        Parameters
        ----------
        on : whether
        """
        self.automatic = on
        self.changed.emit()

    # -- doing it

    def begin(self, run: Run) -> None:
        """Render what is not finished yet.

        Parameters
        ----------
        run : its frames and how they stand
        """
        workers = self.workers

        def _crew(task: BackgroundTask) -> Crew:
            def _wait(words: str) -> None:
                task.tell(0.0, words)
                task.cancel.check()

            self._session.preparing.wait(_wait)
            return LocalCrew(run.renderer, workers)

        reel = self._session.reel
        self._start(
            run, _crew, [(THIS_MACHINE, 1.0)] * workers, lambda clock: (reel.due_time - datetime.now().astimezone()).total_seconds()
        )

    def follow_with(self, run: Run) -> None:
        """Render a run after those that wait already, or at once where none is under way.

        Parameters
        ----------
        run : of another shot
        """
        if not self.busy:
            self.begin(run)
        elif run.shot.id not in {r.shot.id for r in (*self.waiting, *([self.run] if self.run is not None else []))}:
            self.waiting.append(run)
            self.changed.emit()

    def rehearse(self, run: Run) -> None:
        """Play the night with simulated machines in accelerated time; what they write is thrown away.

        Parameters
        ----------
        run : as it would be begun
        """
        reel, plan = self._session.reel, run.plan
        self._folder = part_folder(Path(tempfile.gettempdir()), "rehearsal")
        stand_in = Run(reel, plan, self._folder, run.frames, run.renderer, finish=False)
        hands = [(m.name, m.frame_speed / m.workers) for m in reel.machines for _ in range(m.workers)]
        seconds = sum(stand_in.planned_rendering(f) for f in run.frames) / sum(speed for _, speed in hands)
        seed = int(time.time())
        # all of the free time until the due time counts as free: hours in which a machine is not free are for the schedule to tell
        until = (reel.due_time - datetime.now().astimezone()).total_seconds()
        self.rehearsal = True
        self._start(
            stand_in,
            lambda task: rehearsing_crew(reel.machines, run.frames, seconds, task.cancel, seed),
            hands,
            lambda clock: until - clock,
        )

    def _start(
        self, run: Run, crew: Callable[[BackgroundTask], Crew], hands: list[tuple[str, float]], seconds_left: Callable[[float], float]
    ) -> None:
        session = self._session
        if self._task is not None:
            return
        model = session.planner.outlook.models.get(run.shot.id)
        reel, eyes, plan = session.reel, session.own.eyes, run.plan
        began = time.perf_counter()
        self.run = run
        self.record = RunRecord(
            hands, [(f, run.planned_rendering(f)) for f in run.frames if run.states[f] != FINISHED], rehearsed=self.rehearsal
        )
        trouble, automatic = self.trouble_first, self.automatic
        clock: list[Callable[[], float]] = [lambda: time.perf_counter() - began]

        def _planned(samples: np.ndarray) -> ShotPlan:
            assert model is not None
            return plan_shot(reel, plan.shot, model, plan.recipe, eyes, samples=samples)

        self._due = due = None if model is None else DueTime(lambda: seconds_left(clock[0]()), _planned, automatic)

        def _work(task: BackgroundTask) -> None:
            def _listen(event: FrameEvent) -> None:
                picture = None if event.picture is None or self.rehearsal else codes8(event.picture)
                task.send((event, clock[0](), run.left, run.share_done, picture))

            self._control = control = RunControl(task.cancel)
            hired = crew(task)
            if hasattr(hired, "clock"):
                clock[0] = lambda: float(hired.clock)
            try:
                run.workers = len(hands)
                run.go(_listen, task.cancel, len(hands), hired, control, trouble, due)
            finally:
                hired.close()

        self.words = ""
        self._task = task = session.background.start(_work)
        task.came.connect(self._came)
        task.progressed.connect(self._progressed)
        task.failed.connect(self._failed)
        task.ended.connect(self._ended)
        self._timer.start()
        self.changed.emit()

    def pause(self) -> None:
        """Begin no new frame until it is gone on with."""
        if self._control is not None:
            self._control.pause()
            self.changed.emit()

    def go_on(self) -> None:
        """Begin new frames again."""
        if self._control is not None:
            self._control.go_on()
            self.changed.emit()

    def end_soon(self) -> None:
        """End after the frames under way."""
        if self._control is not None:
            self.waiting = []
            self._control.go_on()
            self._control.end_soon()
            self.changed.emit()

    def stop(self) -> None:
        """Stop at once; finished frames stay, the rest can be gone on with."""
        self.waiting = []
        if self._task is not None:
            self._task.cancel.cancel()
            self.words = "Stopping …"
            self.changed.emit()

    def take_offer(self) -> None:
        """Render the frames that are left with the samples that are offered."""
        if self.run is not None and self.run.offer is not None and self._due is not None:
            words = self.run.offer.words
            self.run.take_offer(self._due)
            if self.record is not None:
                self.record.say(f"Planned anew: {words}")
            self.changed.emit()

    # -- what happens

    def _progressed(self, share: float, words: str) -> None:
        self.words = words
        self.changed.emit()

    def _tick(self) -> None:
        if self.record is not None and self.run is not None and self.run.crew is not None and not self.rehearsal:
            self.record.clock += TICK_SECONDS
        self.changed.emit()

    def _came(self, thing: tuple) -> None:
        event, clock, left, share, picture = thing
        self.words = ""
        assert self.record is not None
        self.record.take(event, clock, left, share)
        if event.state == FAILED and not self.rehearsal:
            self._session.said.emit(f"Frame {event.frame} failed: {event.words} The rest goes on.")
        if self.offer is not None:
            self.record.say(f"It slips: {self.offer.words}")
        if picture is not None:
            self.grown.emit(event.frame, event.state, picture)
        self.changed.emit()

    def _failed(self, words: str) -> None:
        if self.record is not None:
            self.record.say(words, trouble=True)
        self._session.said.emit(words)

    def _ended(self) -> None:
        self._task, self._control, self._due = None, None, None
        self._timer.stop()
        if self._folder is not None:
            shutil.rmtree(self._folder, ignore_errors=True)
            self._folder = None
        self.rehearsal = False
        if self.waiting:
            self.begin(self.waiting.pop(0))
        self.ended.emit()
