"""What follows from a run: its frames measured against the plan, its times kept as evidence, its pace taken for the plan."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np
from psygnal import Signal

from hasty_reel.measure.worst import worst
from hasty_reel.pictures.footage import Footage
from hasty_reel.reel.edits import with_machine
from hasty_reel.run.asproof import run_as_proof
from hasty_reel.run.framestate import FINISHED
from hasty_reel.run.journal import read_journal
from hasty_reel.studio.background import BackgroundTask
from hasty_reel.studio.run.final import FinalFrames
from hasty_reel.viewers import seen_words, who_sees

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session

FEWEST = 3
"""Frames in a row from which on flicker can be measured."""
BEYOND = 1.3
"""Times the plan above which it is said what else is measured."""


class MorningModel:
    """What can be done with the account of a run. words : what was found or is being done. changed() : otherwise.

    Parameters
    ----------
    session : the open reel
    final : the run of the shot that is looked at
    """

    changed = Signal()

    def __init__(self, session: Session, final: FinalFrames) -> None:
        self._session, self._final = session, final
        self._task: BackgroundTask | None = None
        self.words = ""
        self._about: tuple = ()
        final.changed.connect(self._changed)

    @property
    def busy(self) -> bool:
        """Whether something is being measured or kept."""
        return self._task is not None

    @property
    def may(self) -> bool:
        """Whether there are finished frames, and nothing else is being done."""
        return not self.busy and not self._final.busy and self._final.finished > 0

    def _changed(self) -> None:
        run = self._final.run
        about = () if run is None else (run.shot.id, run.folder.root, run.count(FINISHED))
        if about != self._about and not self.busy:  # what was measured was measured on other frames
            self._about, self.words = about, ""
        self.changed.emit()

    def measure(self) -> None:
        """Measure seen flicker of the finished frames, and hold it against the plan."""
        run, session = self._final.run, self._session
        if run is None or not self.may:
            return
        frames = [f for f in run.frames if run.states[f] == FINISHED]
        if len(frames) < FEWEST:
            self._say(f"Flicker is measured on {FEWEST} frames in a row or more.")
            return
        eyes, fps, pattern = run.plan.eyes, float(session.reel.fps), run.folder.final
        planned = worst(run.plan.seen_flicker[[run.plan.index(f) for f in frames]])

        def _work(task: BackgroundTask) -> str:
            from hasty_reel.measure.sequence import measure_sequence  # brings the compiler along

            found = measure_sequence(frames, Footage(pattern).read, eyes=eyes, fps=fps, progress=task.tell, cancel=task.cancel)
            over = np.mean([f.seen_flicker >= eyes.limit for f in found.frames if math.isfinite(f.seen_flicker)])
            more = "" if found.seen_flicker < BEYOND * planned else " Besides noise, ghosts, shimmer and lights that change are measured."
            return (
                f"Measured on {len(frames)} frames: {seen_words(found.seen_flicker)}, of the noise {who_sees(planned)} was planned, "
                f"{100 * over:.0f} % of the frames are less calm than {who_sees(eyes.limit)}.{more}"
            )

        self._start(_work, "Measuring the finished frames …", self._say)

    def keep(self) -> None:
        """Keep the times of the run as a proof."""
        run, session = self._final.run, self._session
        if run is None or not self.may:
            return
        root, lines, yardstick = session.proofs_root, read_journal(run.folder.final.folder), session.machine_speed.now
        self._start(
            lambda task: f"Kept as proof {run_as_proof(root, run, lines, yardstick, task.tell, task.cancel).id}: the plan counts with it.",
            "Keeping the times …",
            self._kept,
        )

    def _kept(self, words: str) -> None:
        self._say(words)
        self._session.read_evidence()

    def take_pace(self) -> None:
        """Let the plan count with the pace that the run had: the machine it ran on gets that speed."""
        pace, machines = self._final.account.pace, self._session.reel.machines
        if math.isfinite(pace) and machines:
            speed = float(f"{machines[0].speed / pace:.3g}")
            self._session.do(f"Take the pace of the run for {machines[0].name}", lambda reel: with_machine(reel, 0, speed=speed))

    def _start(self, work, words: str, then) -> None:
        self._task = task = self._session.background.start(work)
        task.progressed.connect(lambda share, told: self._say(f"{words} {told}"))
        task.done.connect(then)
        task.failed.connect(self._say)
        task.ended.connect(self._ended)
        self._say(words)

    def _say(self, words: str) -> None:
        self.words = words
        self.changed.emit()

    def _ended(self) -> None:
        self._task = None
        self.changed.emit()
