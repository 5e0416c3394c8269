"""A run paused, gone on with, ended after the frames under way, or stopped at once."""

from __future__ import annotations

import threading

from hasty_reel.work import CancelToken


class RunControl:
    """What somebody asks of a run while it works; looked at between frames.

    Parameters
    ----------
    cancel : stops it at once, in the middle of frames
    """

    def __init__(self, cancel: CancelToken) -> None:
        self.cancel = cancel
        self._paused, self._ending = threading.Event(), threading.Event()

    @property
    def paused(self) -> bool:
        """Whether no new frame begins; those under way end as they do."""
        return self._paused.is_set()

    @property
    def ending(self) -> bool:
        """Whether the run ends after the frames under way."""
        return self._ending.is_set()

    def pause(self) -> None:
        """Begin no new frame until it is gone on with."""
        self._paused.set()

    def go_on(self) -> None:
        """Begin new frames again; a run that was to end goes on too."""
        self._paused.clear()
        self._ending.clear()

    def end_soon(self) -> None:
        """End after the frames under way."""
        self._ending.set()
