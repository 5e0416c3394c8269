"""Long work: a token that asks it to stop, and the shape of a progress report."""

from __future__ import annotations

import threading
from collections.abc import Callable

from hasty_reel.errors import Stopped

Progress = Callable[[float, str], None]
"""Called with the share done (0 to 1) and a few words on what is being done."""


def silent(share: float, words: str) -> None:
    """Take a progress report that nobody listens to.

    Parameters
    ----------
    share : done, 0 to 1
    words : what happens
    """


def part_of(progress: Progress, part: int, parts: int) -> Progress:
    """Return what takes the progress of one part of several, and reports that of all.

    Parameters
    ----------
    progress : of all
    part : which, from 0
    parts : how many
    """
    return lambda share, words: progress((part + share) / parts, words)


class CancelToken:
    """Asked for by one thread, looked at by another between two pieces of work."""

    def __init__(self) -> None:
        self._event = threading.Event()

    def cancel(self) -> None:
        """Ask the work to stop at the next chance."""
        self._event.set()

    @property
    def cancelled(self) -> bool:
        """Whether somebody asked."""
        return self._event.is_set()

    def check(self) -> None:
        """Leave the work where somebody asked.

        Raises
        ------
        Stopped
            When `cancel` was called.
        """
        if self._event.is_set():
            raise Stopped("Stopped on request; what was finished is kept.")
