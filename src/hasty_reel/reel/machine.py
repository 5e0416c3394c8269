"""Machines that render."""

from __future__ import annotations

import msgspec

from hasty_reel.reel.hours import FreeHours, Window, windows


class Machine(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """One machine.

    speed : relative to the machine the proofs were rendered on; 2 halves the seconds
    workers : frames it renders at the same time
    together : frames all its workers render in the time of one that has the machine to itself; None: not measured, taken as one
    zone : time zone of its free hours, a name of the tz database
    free : its free hours; none told: always
    memory_gb : that its workers share, in GB of 2^30 bytes; None: not told
    price_per_hour : of the machine while it works, in whatever money the artist counts; 0 for none
    """

    name: str
    speed: float = 1.0
    workers: int = 1
    together: float | None = None
    zone: str = "UTC"
    free: tuple[FreeHours, ...] = ()
    price_per_hour: float = 0.0
    memory_gb: float | None = None

    @property
    def frame_speed(self) -> float:
        """Frames rendered in the time one takes on a machine of speed 1."""
        return self.speed * (self.together if self.together is not None and self.workers > 1 else 1.0)

    @property
    def workers_words(self) -> str:
        """How many frames it renders at once, and what that gains, in words."""
        if self.workers == 1:
            return "1 at a time"
        gain = "not measured, counted as one" if self.together is None else f"as fast as {self.together:.3g} by themselves"
        return f"{self.workers} at a time, {gain}"

    def windows(self, begin: float, end: float) -> list[Window]:
        """Its free windows between two times, in seconds since 1970.

        Parameters
        ----------
        begin, end : seconds since 1970
        """
        return windows(self.free, self.zone, begin, end)
