"""The queue of proofs: in order, one after another, held, reordered and cancelled while it runs."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from statistics import median

from hasty_reel.errors import HastyReelError, Stopped
from hasty_reel.farm.order import ProofOrder
from hasty_reel.work import CancelToken

WAITING, RENDERING, DONE, FAILED, CANCELLED = "waiting", "rendering", "done", "failed", "cancelled"
TELLING_SHARE = 0.05
"""Share of the work from which on its pace tells how long the rest takes."""


@dataclass
class Entry:
    """One order in the queue.

    faults : frame -> what was wrong; words : what happens, or happened
    expected : seconds it takes by the plan, None where there is none; worked : seconds it has taken since the
        share `begun` was done, without those held; what comes before, as loading the renderer, is not its pace
    """

    number: int
    order: ProofOrder
    state: str = WAITING
    share: float = 0.0
    words: str = ""
    proof: str = ""
    faults: dict[int | float, str] = field(default_factory=dict)
    cancel: CancelToken = field(default_factory=CancelToken, repr=False)
    expected: float | None = None
    worked: float = 0.0
    begun: float = 0.0

    @property
    def pace(self) -> float | None:
        """Seconds that all of it takes at the pace it has had; None while that is not known."""
        done = self.share - self.begun
        return self.worked / done if done >= TELLING_SHARE and self.worked > 0 else None

    @property
    def seconds_left(self) -> float | None:
        """Seconds until it is done: by its own pace once a twentieth is done, before by the plan; None where neither tells."""
        if self.ended:
            return 0.0
        if self.pace is not None:
            return self.pace * (1.0 - self.share)
        return None if self.expected is None else max(0.0, self.expected - self.worked)

    @property
    def ended(self) -> bool:
        """Whether nothing more will happen."""
        return self.state in (DONE, FAILED, CANCELLED)


Make = Callable[[Entry, Callable[[float, str], None]], str]
"""Renders an entry and returns the id of its proof; told a way to report progress."""


class ProofQueue:
    """Orders of proofs. Any thread may look at it and change it; one thread works it off."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._entries: list[Entry] = []
        self._number = 0
        self._going = threading.Event()
        self._going.set()

    @property
    def entries(self) -> list[Entry]:
        """What is in it, in order."""
        with self._lock:
            return list(self._entries)

    def add(self, order: ProofOrder, expected: float | None = None) -> Entry:
        """Put an order at the end.

        Parameters
        ----------
        order : what is to be rendered
        expected : seconds it takes by the plan, None where there is none
        """
        with self._lock:
            self._number += 1
            entry = Entry(self._number, order, expected=expected)
            self._entries.append(entry)
            return entry

    def move(self, number: int, way: int) -> None:
        """Move a waiting entry before or behind its neighbours that wait.

        Parameters
        ----------
        number : of the entry
        way : -1 earlier, 1 later
        """
        with self._lock:
            waiting = [k for k, e in enumerate(self._entries) if e.state == WAITING]
            here = next((j for j, k in enumerate(waiting) if self._entries[k].number == number), None)
            if here is None or not 0 <= here + way < len(waiting):
                return
            a, b = waiting[here], waiting[here + way]
            self._entries[a], self._entries[b] = self._entries[b], self._entries[a]

    def cancel(self, number: int) -> None:
        """Take an entry out of the work; a rendering one stops, and keeps the frames it has.

        Parameters
        ----------
        number : of the entry
        """
        with self._lock:
            for entry in self._entries:
                if entry.number == number and not entry.ended:
                    entry.cancel.cancel()
                    if entry.state == WAITING:
                        entry.state, entry.words = CANCELLED, "cancelled before it began"

    def cancel_all(self) -> None:
        """Take everything out of the work."""
        for entry in self.entries:
            self.cancel(entry.number)
        self._going.set()

    def clear_ended(self) -> None:
        """Forget what has ended."""
        with self._lock:
            self._entries = [e for e in self._entries if not e.ended]

    def pause(self) -> None:
        """Hold: the picture under way is finished, then nothing more begins."""
        self._going.clear()

    def resume(self) -> None:
        """Go on."""
        self._going.set()

    @property
    def paused(self) -> bool:
        """Whether it is held."""
        return not self._going.is_set()

    @property
    def rendering(self) -> Entry | None:
        """The entry that is being rendered."""
        return next((e for e in self.entries if e.state == RENDERING), None)

    @property
    def seconds_left(self) -> float | None:
        """Seconds until all of it is done, at the pace of this machine so far; None where that is not known."""
        entries = self.entries
        paces = [e.pace / e.expected for e in entries if e.expected and e.pace is not None and e.state in (RENDERING, DONE)]
        pace = median(paces) if paces else 1.0
        left = 0.0
        for entry in entries:
            own = entry.seconds_left
            if own is None:
                return None
            left += own * (pace if entry.state == WAITING else 1.0)
        return left

    @property
    def waiting(self) -> bool:
        """Whether there is something to do."""
        return any(e.state == WAITING for e in self.entries)

    def wait_while_paused(self, *cancels: CancelToken) -> None:
        """Stay here while the queue is held.

        Parameters
        ----------
        *cancels : tokens that are looked at

        Raises
        ------
        Stopped
            When one of the tokens asked for it meanwhile.
        """
        while not self._going.wait(0.1):
            for cancel in cancels:
                cancel.check()

    def work(self, make: Make, notify: Callable[[Entry], None], stop: CancelToken) -> None:
        """Work the queue off; a proof that fails is told, the next one begins.

        Parameters
        ----------
        make : makes the proof of an entry
        notify : called when an entry stands otherwise
        stop : ends the work
        """
        while True:
            entry = self._next()
            if entry is None:
                return
            try:
                self.wait_while_paused(stop)
            except Stopped:
                entry.state = WAITING
                return
            notify(entry)
            since = [time.monotonic()]

            def tell(share: float, words: str, entry: Entry = entry, since: list[float] = since) -> None:
                if entry.begun > 0:
                    entry.worked += time.monotonic() - since[0]
                entry.begun = entry.begun or share
                entry.share, entry.words = share, words
                if stop.cancelled:
                    entry.cancel.cancel()
                self.wait_while_paused(entry.cancel, stop)
                since[0] = time.monotonic()
                notify(entry)

            try:
                entry.proof = make(entry, tell)
                entry.state, entry.share = DONE, 1.0
                count = len(entry.faults)
                entry.words = f"{count} frame{'s' if count > 1 else ''} failed: {next(iter(entry.faults.values()))}" if count else ""
            except Stopped:
                entry.state, entry.words = CANCELLED, "cancelled; its finished frames are kept"
            except (HastyReelError, MemoryError) as error:
                first = next(iter(entry.faults.values()), "")
                entry.state, entry.words = FAILED, _once(str(error) or "There is not enough memory for it.", first)
            notify(entry)
            if stop.cancelled:
                return

    def _next(self) -> Entry | None:
        with self._lock:
            entry = next((e for e in self._entries if e.state == WAITING), None)
            if entry is not None:
                entry.state = RENDERING
            return entry


def _once(words: str, first: str) -> str:
    """Why a proof failed, with what was wrong with its first frame where that is not said yet."""
    return words if first in words else f"{words} {first}"
