"""Which frame of a loop is due at its true rate; frames are left out rather than shown late."""

from __future__ import annotations

import time
from collections import deque

from psygnal import Signal

from hasty_reel.studio.eventloop import EventLoop, Timer

SEEN_OVER = 1.0
"""Seconds over which the rate reached is taken."""
TOLD_EVERY = 0.5
LOOKS_A_FRAME = 4
"""Looked at oftener than the frames change, so that none is late by more than a few milliseconds."""
SHORTEST_LOOK = 0.002


class LoopPlayer:
    """Tells which frame of a loop is due.

    due(int) : place in the loop; rate(float) : frames a second that were shown, told twice a second

    Parameters
    ----------
    loop : in whose thread it is told
    """

    due = Signal(int)
    rate = Signal(float)

    def __init__(self, loop: EventLoop) -> None:
        self._timer = Timer(loop, 0.01, self._look, again=True)
        self._began, self._fps, self._count, self._first = 0.0, 24.0, 0, 0
        self._last = -1
        self._shown: deque[float] = deque()
        self._told = 0.0

    @property
    def playing(self) -> bool:
        """Whether it plays."""
        return self._timer.active

    def play(self, count: int, fps: float, first: int = 0) -> None:
        """Play a loop.

        Parameters
        ----------
        count : of its frames
        fps : frames a second
        first : place it begins at
        """
        if count < 1:
            return
        self._count, self._fps, self._first, self._last = count, fps, first, -1
        self._began = self._told = time.perf_counter()
        self._shown.clear()
        self._timer.seconds = max(SHORTEST_LOOK, 1.0 / (LOOKS_A_FRAME * fps))
        self._timer.start()

    def stop(self) -> None:
        """Stop where it is."""
        self._timer.stop()

    def _look(self) -> None:
        number = int((time.perf_counter() - self._began) * self._fps)
        if number == self._last:
            return
        self._last = number
        self.due.emit((self._first + number) % self._count)
        shown = time.perf_counter()
        self._shown.append(shown)
        while self._shown and shown - self._shown[0] > SEEN_OVER:
            self._shown.popleft()
        if shown - self._told >= TOLD_EVERY and len(self._shown) > 1:
            self._told = shown
            self.rate.emit((len(self._shown) - 1) / (self._shown[-1] - self._shown[0]))
