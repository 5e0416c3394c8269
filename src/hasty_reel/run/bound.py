"""How long a frame may take before its renderer counts as hung: told by the plan, and by how the run goes."""

from __future__ import annotations

import time

from hasty_reel.errors import RendererFault, Stopped
from hasty_reel.work import CancelToken

LEAST_SECONDS, FACTOR = 60.0, 6.0
"""A frame that is planned to take a second may take a minute: a renderer starts, a disk sleeps. Sixfold is no slow machine any more."""


def longest_seconds(planned: float, pace: float = 1.0) -> float:
    """Return the seconds after which a frame is given up.

    Parameters
    ----------
    planned : seconds of the frame by the plan, on this machine
    pace : real seconds / planned ones of the frames so far; less than 1 counts as 1
    """
    return max(LEAST_SECONDS, FACTOR * planned * max(1.0, pace))


class BoundToken(CancelToken):
    """Asks the work on one frame to stop when all of it is to stop, or when the frame takes too long.

    Parameters
    ----------
    whole : of the run
    seconds : from now on
    """

    def __init__(self, whole: CancelToken, seconds: float) -> None:
        super().__init__()
        self._whole, self.seconds = whole, seconds
        self._until = time.monotonic() + seconds

    @property
    def late(self) -> bool:
        """Whether the frame takes too long."""
        return time.monotonic() > self._until

    @property
    def cancelled(self) -> bool:
        """Whether somebody asked, or the frame takes too long."""
        return self._whole.cancelled or super().cancelled or self.late

    def check(self) -> None:
        """Leave the work where it is to stop.

        Raises
        ------
        Stopped
            When it is.
        """
        if self.cancelled:
            raise Stopped("Stopped on request; what was finished is kept.")

    def fault(self, frame: int, planned: float) -> RendererFault:
        """Return what is said of a frame that was given up.

        Parameters
        ----------
        frame : as the shot numbers it
        planned : seconds of it by the plan
        """
        return RendererFault(
            f"Frame {frame}: the renderer was ended after {self.seconds:.0f} s; expected about {max(planned, 0.1):.1f} s by the plan."
        )
