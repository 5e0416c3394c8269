"""A run as it goes, to be drawn: which worker had which frame when, the time left as it was told, and messages."""

from __future__ import annotations

import heapq
from collections.abc import Sequence
from dataclasses import dataclass, field

from hasty_reel.plan.time.timeleft import TimeLeft
from hasty_reel.run.events import FrameEvent
from hasty_reel.run.framestate import FAILED, FINISHED, RENDERED, RENDERING
from hasty_reel.run.journal import NOTED

MOST_MESSAGES = 500


@dataclass(frozen=True)
class Span:
    """A frame on a worker. lane : which; begin, end : seconds since the run began; state : what became of it"""

    lane: int
    frame: int
    begin: float
    end: float
    state: str


@dataclass(frozen=True)
class Told:
    """Time left as it was told. at : seconds since the run began; share : of the planned seconds that was done"""

    at: float
    share: float
    left: TimeLeft


@dataclass(frozen=True)
class Message:
    """Something that was said. at : seconds since the run began; frame : it is about, 0 for none; trouble : something went wrong"""

    at: float
    words: str
    frame: int = 0
    trouble: bool = False


@dataclass
class RunRecord:
    """What happened, second by second.

    hands : machine and speed of each worker, one lane each; planned : frame and planned seconds at speed 1, in their order
    rehearsed : by simulated machines
    """

    hands: list[tuple[str, float]]
    planned: list[tuple[int, float]]
    spans: list[Span] = field(default_factory=list)
    told: list[Told] = field(default_factory=list)
    messages: list[Message] = field(default_factory=list)
    clock: float = 0.0
    rehearsed: bool = False

    def take(self, event: FrameEvent, clock: float, left: TimeLeft, share: float) -> None:
        """Take in what happened to a frame.

        Parameters
        ----------
        event : what happened
        clock : seconds since the run began
        left : how long it still takes
        share : of the planned seconds that is done
        """
        self.clock = clock
        if event.machine and event.state != RENDERING:
            begin = max(0.0, clock - event.seconds)
            self.spans.append(Span(self._lane(event.machine, begin), event.frame, begin, clock, event.state))
        if event.state == NOTED:
            self.say(event.words, trouble=True)
        elif event.words:
            self.say(f"Frame {event.frame}: {event.words}" if not event.words.startswith("Frame") else event.words, event.frame, True)
        if event.state in (RENDERED, FINISHED, FAILED):
            self.told.append(Told(clock, share, left))

    def say(self, words: str, frame: int = 0, trouble: bool = False) -> None:
        """Keep a message; the same one twice in a row is kept once.

        Parameters
        ----------
        words : of it
        frame : it is about; 0 for none
        trouble : something went wrong
        """
        if not self.messages or self.messages[-1].words != words:
            self.messages = [*self.messages[-MOST_MESSAGES + 1 :], Message(self.clock, words, frame, trouble)]

    def _lane(self, machine: str, begin: float) -> int:
        """The lane of a worker of that machine that was free then; where none was, the one that was free first."""
        mine = [k for k, (name, _) in enumerate(self.hands) if name == machine]
        if not mine:
            self.hands.append((machine, 1.0))
            return len(self.hands) - 1
        until = {k: max((s.end for s in self.spans if s.lane == k), default=0.0) for k in mine}
        return next((k for k in mine if until[k] <= begin + 1e-6), min(mine, key=lambda k: until[k]))

    @property
    def planned_spans(self) -> list[Span]:
        """Frames on workers as they were planned: each free worker takes the next."""
        return scheduled_spans(self.planned, [speed for _, speed in self.hands])


def scheduled_spans(frames: Sequence[tuple[int, float]], speeds: Sequence[float]) -> list[Span]:
    """Return the frames on workers of which each takes the next one when it is free.

    Parameters
    ----------
    frames : number and seconds at speed 1, in their order
    speeds : of the workers
    """
    free = [(0.0, k) for k in range(len(speeds))]
    heapq.heapify(free)
    out = []
    for frame, seconds in frames:
        if not free:
            break
        at, k = free[0]
        end = at + seconds / speeds[k]
        out.append(Span(k, frame, at, end, "planned"))
        heapq.heapreplace(free, (end, k))
    return out
