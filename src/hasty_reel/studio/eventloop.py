"""Where the models wait: the next turn of an event loop, or a delay. All of them live in the loop's thread."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Protocol


class Handle(Protocol):
    """A call that was asked for and has not been made yet."""

    def cancel(self) -> None:
        """Make it never."""


class EventLoop(Protocol):
    """What the models need of an event loop; those of asyncio have it."""

    def call_soon_threadsafe(self, callback: Callable[..., object], *args: Any) -> object:
        """Call in the loop's thread, on its next turn; may be asked for by any thread.

        Parameters
        ----------
        callback : what is called
        *args : with these
        """

    def call_later(self, delay: float, callback: Callable[..., object], *args: Any) -> Handle:
        """Call after a delay; asked for in the loop's thread.

        Parameters
        ----------
        delay : in seconds
        callback : what is called
        *args : with these

        Returns
        -------
        Handle
            What the call can be taken back with.
        """
        raise NotImplementedError


class Timer:
    """Calls back after a delay, once or again and again; started anew, it begins its delay anew.

    Parameters
    ----------
    loop : whose thread is called back in
    seconds : of the delay
    act : what is called
    again : go on until it is stopped
    """

    def __init__(self, loop: EventLoop, seconds: float, act: Callable[[], object], again: bool = False) -> None:
        self._loop, self.seconds, self._act, self._again = loop, seconds, act, again
        self._handle: Handle | None = None

    @property
    def active(self) -> bool:
        """Whether it runs."""
        return self._handle is not None

    def start(self) -> None:
        """Begin the delay."""
        self.stop()
        self._handle = self._loop.call_later(self.seconds, self._due)

    def stop(self) -> None:
        """Call back no more."""
        if self._handle is not None:
            self._handle.cancel()
            self._handle = None

    def _due(self) -> None:
        self._handle = None
        if self._again:
            self.start()
        self._act()
