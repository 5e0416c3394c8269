"""A run that goes slower than planned, noticed while it goes: whether other work on this machine slows it, or its frames are dearer."""

from __future__ import annotations

import math

import psutil

from hasty_reel.plan.time.timeleft import Pace

SLOW = 1.3
"""Times slower than planned from which on it is said."""
FEWEST = 3
"""Frames that must have ended before anything is said."""
AGAIN = 1.5
"""Times slower than when it was said from which on it is said again."""
MUCH = 0.15
"""Share of the processors that other programs take from which on they are the reason."""


class OtherWork:
    """How much of this machine's processors other programs take, since this was made."""

    def __init__(self) -> None:
        self._process = psutil.Process()
        self._busy, self._whole, self._own = self._now()

    def _now(self) -> tuple[float, float, float]:
        """Seconds of processors that were busy, that there were, and that this program and what it waited for took."""
        times, own = psutil.cpu_times(), self._process.cpu_times()
        idle = times.idle + getattr(times, "iowait", 0.0)
        # guest time is contained in user time
        whole = sum(times) - getattr(times, "guest", 0.0) - getattr(times, "guest_nice", 0.0)
        return whole - idle, whole, own.user + own.system + own.children_user + own.children_system

    @property
    def share(self) -> float:
        """Of the processors, 0 to 1."""
        busy, whole, own = self._now()
        return min(1.0, max(0.0, (busy - self._busy) - (own - self._own)) / max(1e-6, whole - self._whole))


class SlownessWatch:
    """What is to be said of the pace of a run.

    Parameters
    ----------
    here : it renders on this machine alone, whose other work can be told
    """

    def __init__(self, here: bool) -> None:
        self._others = OtherWork() if here else None
        self._frames, self._said = 0, 0.0

    def words(self, pace: Pace) -> str:
        """Return what is to be said now that one more frame ended; '' for nothing.

        Parameters
        ----------
        pace : of the run so far
        """
        self._frames += 1
        factor = pace.factor()
        sure = factor * math.exp(-2.0 * pace.spread_of({}))
        if self._frames < FEWEST or factor < max(SLOW, AGAIN * self._said) or sure <= 1.0:
            return ""
        self._said = factor
        slower = f"The run goes {factor:.1f} times slower than planned"
        if self._others is None:
            return f"{slower}."
        share = self._others.share
        if share > MUCH:
            return f"{slower}: other programs take {100 * share:.0f} % of this machine's processors."
        return f"{slower}, and has the machine to itself: its frames are dearer than the proofs said, or the machine is slower than then."
