"""A process of a renderer that stays open, asked for one thing at a time: what it has loaded, and what becomes of what it is asked for."""

from __future__ import annotations

import contextlib
import math
import time
from collections.abc import Callable
from dataclasses import dataclass

from hasty_reel.errors import RendererFault, Stopped
from hasty_reel.farm.renderers.links import Link
from hasty_reel.farm.renderers.messages import (
    PROTOCOL,
    Answer,
    Asked,
    Cancel,
    Cancelled,
    Failed,
    Greeting,
    Hello,
    Load,
    Loaded,
    Quit,
    Result,
)
from hasty_reel.farm.renderers.openprocess import OpenProcess
from hasty_reel.programs.commands import find_program
from hasty_reel.programs.watched import last_line
from hasty_reel.work import CancelToken, Progress, silent

LOOK_SECONDS = 0.05
"""How often it is looked whether to stop while a renderer works."""
CANCEL_SECONDS = 2.0
"""Seconds that a renderer has for giving up a frame; then it is ended."""
MOST_WORDS = 300


class Refused(RendererFault):
    """A renderer said that it cannot, or was not asked since it cannot: it is as it was."""


@dataclass
class Worker:
    """A process and what it has.

    whose : renderer it is, in words for messages; timeout : seconds that an answer may take
    scene, frame : that is loaded, and that was rendered last; thread : that had it; number : of the message last sent
    start_seconds : that its start took, until a frame has paid for it
    """

    process: OpenProcess
    greeting: Greeting
    whose: str
    timeout: float
    scene: str | None = None
    frame: float | None = None
    thread: int = 0
    number: int = 0
    start_seconds: float = 0.0

    def can(self, ability: str) -> bool:
        """Whether it said that it can something.

        Parameters
        ----------
        ability : of `messages.ABILITIES`
        """
        return ability in self.greeting.can

    def next_number(self) -> int:
        """Return the number of the next message."""
        self.number += 1
        return self.number

    def ask(
        self,
        message: Asked,
        what: str,
        cancel: CancelToken | None,
        progress: Progress = silent,
        grown: Callable[[], None] | None = None,
    ) -> Result:
        """Ask for something under the number of its message, and wait until it is done; an answer to anything else is none.

        Parameters
        ----------
        message : to the renderer
        what : is worked on, in words for messages
        cancel : looked at meanwhile; None: it cannot be stopped
        progress : called with the share that is done, 0 to 1, and words
        grown : called when a preview was written; None for nobody

        Raises
        ------
        RendererFault
            What went wrong; `Refused` where the renderer said so itself.
        Stopped
            When `cancel` asked for it.
        """
        process, number, began = self.process, self.number, time.perf_counter()
        process.share = process.grown = None
        process.say(message, what)
        token = _Between(process, number, progress, grown, cancel)
        try:
            while True:
                answer = next_answer(process, what, self.whose, token, began, self.timeout)
                if getattr(answer, "id", None) != number:
                    continue  # of something that was given up, or of nothing that was asked for
                if isinstance(answer, Result):
                    return answer
                if isinstance(answer, Loaded):
                    return Result(id=number, seconds={} if answer.seconds is None else {"load": answer.seconds})
                if isinstance(answer, Cancelled):
                    raise RendererFault(f"{what}: {self.whose} gave it up by itself.")
                if isinstance(answer, Failed):
                    self.frame = None
                    words = " ".join(answer.words.split())[:MOST_WORDS] or "it did not say why"
                    raise Refused(f"{what}: {self.whose} failed: {words}{'' if words.endswith('.') else '.'}")
        except Stopped:
            self._give_up(what)
            raise

    def _give_up(self, what: str) -> None:
        """Ask it to give up what it does; one that does not is ended."""
        self.frame = None
        with contextlib.suppress(RendererFault):
            self.process.say(Cancel(id=self.number), what)
            until = time.perf_counter() + CANCEL_SECONDS
            while time.perf_counter() < until and self.process.there:
                answer = self.process.answer(LOOK_SECONDS)
                if isinstance(answer, Cancelled | Result | Failed) and answer.id == self.number:
                    return
        self.process.end()

    def load(self, scene: str, keep: bool, what: str, cancel: CancelToken | None) -> float:
        """Have a scene read, where it is not loaded or is not to stay so; returns the seconds that took.

        Parameters
        ----------
        scene : its name
        keep : it may stay loaded
        what : is worked on, in words for messages
        cancel : looked at meanwhile; None: it cannot be stopped
        """
        if self.scene == scene and keep and self.can("keep"):
            return 0.0
        self.scene = self.frame = None
        began = time.perf_counter()
        self.ask(Load(id=self.next_number(), scene=scene), what, cancel)
        self.scene = scene
        return time.perf_counter() - began

    def quit(self) -> None:
        """Let it end by itself, and end it where it does not."""
        with contextlib.suppress(RendererFault):
            self.process.say(Quit(), "Quit")
        self.process.end(well=True)


def started(link: Link, what: str, whose: str, cancel: CancelToken | None) -> Worker:
    """Start a process and wait for its greeting.

    Parameters
    ----------
    link : the renderer link
    what : is worked on, in words for messages
    whose : renderer it is, in words for messages
    cancel : looked at meanwhile; None: it cannot be stopped

    Raises
    ------
    RendererFault
        When it cannot be started, or does not answer as expected.
    Stopped
        When `cancel` asked for it.
    """
    assert link.command is not None
    began = time.perf_counter()
    process = OpenProcess(find_program(list(link.command)), what, whose)
    try:
        process.say(Hello(), what)
        greeting = next_answer(process, what, whose, cancel, began, link.timeout)
        if not isinstance(greeting, Greeting):
            raise RendererFault(f"{what}: {whose} did not answer with 'hello'; expected that first.")
        if greeting.protocol != PROTOCOL:
            raise RendererFault(f"{what}: {whose} speaks protocol {greeting.protocol}; expected {PROTOCOL}.")
    except BaseException:
        process.end()
        raise
    return Worker(process, greeting, whose, link.timeout, start_seconds=time.perf_counter() - began)


def next_answer(process: OpenProcess, what: str, whose: str, cancel: CancelToken | None, began: float, timeout: float) -> Answer:
    """Wait for an answer, whatever it is.

    Parameters
    ----------
    process : that is to answer
    what : is worked on, in words for messages
    whose : renderer it is, in words for messages
    cancel : looked at meanwhile; None: it cannot be stopped
    began : when it was asked, by the clock of `time.perf_counter`
    timeout : seconds from then on

    Raises
    ------
    RendererFault
        When it is gone, or takes longer.
    Stopped
        When `cancel` asked for it.
    """
    while True:
        # looked at before an answer is taken: one that never falls silent would never be stopped otherwise
        if cancel is not None:
            cancel.check()
        if time.perf_counter() - began > timeout:
            raise RendererFault(f"{what}: {whose} was ended after {timeout:g} s, its time-out.{last_line(process.messages())}")
        answer = process.answer(LOOK_SECONDS)
        if answer is not None:
            return answer
        if not process.there:
            raise RendererFault(process.why(what))


class _Between(CancelToken):
    """Looked at while a renderer works: passes on its progress and its previews, and whether to stop."""

    def __init__(
        self, process: OpenProcess, number: int, progress: Progress, grown: Callable[[], None] | None, cancel: CancelToken | None
    ) -> None:
        super().__init__()
        self._process, self._number, self._progress, self._grown, self._outer = process, number, progress, grown, cancel

    def check(self) -> None:
        """Leave the work where somebody asked; else tell what is news."""
        if self._outer is not None:
            self._outer.check()
        if (news := self._process.share) is not None and news[0] == self._number and math.isfinite(news[1]):
            self._process.share = None
            share = min(1.0, max(0.0, news[1]))
            self._progress(share, f"{100 * share:.0f} %")
        if self._grown is not None and self._process.grown == self._number:
            self._process.grown = None
            self._grown()
