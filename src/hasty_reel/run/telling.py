"""What happens in a run, written into its journal and told to who listens; none of it may ever end the run."""

from __future__ import annotations

import traceback
from collections.abc import Callable
from typing import TYPE_CHECKING

import msgspec
import numpy as np

from hasty_reel.errors import HastyReelError
from hasty_reel.farm.halves import NOISE
from hasty_reel.run.crew import Outcome
from hasty_reel.run.events import FrameEvent, Listener
from hasty_reel.run.framestate import FAILED, FINISHED, RENDERED
from hasty_reel.run.journal import CACHED, NOTED, RETRIED, Journal, JournalLine, now_text
from hasty_reel.run.slowness import SlownessWatch
from hasty_reel.run.state import Tell

if TYPE_CHECKING:
    from hasty_reel.run.shotrun import Run


class Telling:
    """Tells of one run.

    Parameters
    ----------
    run : the run
    journal : of its folder
    listen : called with everything that happens to a frame
    here : its frames are rendered on this machine
    """

    def __init__(self, run: Run, journal: Journal, listen: Listener, here: bool) -> None:
        self._run, self._journal, self._listen = run, journal, listen
        self._slowness = SlownessWatch(here=here)
        self._told: set[str] = set()

    def inform(self, call: Callable[[], None]) -> None:
        """Do what only informs somebody: a fault of ours in it is told once, and never ends the run.

        Parameters
        ----------
        call : does it
        """
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

    def tell(self, told: Tell, outcome: Outcome | None, seconds: float, picture: np.ndarray | None) -> None:
        """Write down how a frame stands, and say it.

        Parameters
        ----------
        told : how it stands
        outcome : what became of its rendering, where that is told; None: it is of its finishing
        seconds : that it took
        picture : (h, w, 3) to be shown; None for none
        """
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
                    line,
                    load=round(made.load_seconds, 4),
                    measured=float(str(measured)),
                    one_number=made.one_number,
                    objects=made.objects,
                    object_memory=made.object_memory,
                )
            self._journal.tell(line)
        self.inform(lambda: self._listen(FrameEvent(frame, told.state, seconds, words, picture, machine, attempt)))

    def tell_cache(self, outcome: Outcome) -> None:
        """Write down that a light cache was computed, or that it was not.

        Parameters
        ----------
        outcome : what became of it
        """
        owner = outcome.task.frame
        words = "" if outcome.error is None else f"Light cache of frame {owner}: {outcome.error} Frames compute it themselves."
        self._journal.tell(
            JournalLine(
                now_text(), CACHED, owner, round(outcome.seconds, 4), round(outcome.task.planned / outcome.speed, 4), outcome.machine,
                words=words,
            )
        )  # fmt: skip
        self.inform(lambda: self._listen(FrameEvent(owner, CACHED, outcome.seconds, words, machine=outcome.machine)))

    def take_pace(self, outcome: Outcome) -> None:
        """Take in how long a frame took, and say it where the run goes clearly slower than planned.

        Parameters
        ----------
        outcome : of its rendering
        """
        run = self._run
        with run.lock:
            run.pace.ended(outcome.seconds, outcome.task.planned / outcome.speed, outcome.machine)
        words = self._slowness.words(run.pace)
        if words:
            self._journal.tell(JournalLine(now_text(), NOTED, words=words))
            self._listen(FrameEvent(outcome.task.frame, NOTED, words=words))
