"""Machines that render."""

from __future__ import annotations

import msgspec

from hasty_reel.reel.hours import FreeHours, Window, windows


class Machine(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """One machine.

    speed : relative to the machine the proofs were rendered on; 2 halves the seconds
    workers : frames it renders at the same time, each at its full speed
    zone : time zone of its free hours, a name of the tz database
    free : its free hours; none told: always
    price_per_hour : of the machine while it works, in whatever money the artist counts; 0 for none
    """

    name: str
    speed: float = 1.0
    workers: int = 1
    zone: str = "UTC"
    free: tuple[FreeHours, ...] = ()
    price_per_hour: float = 0.0

    @property
    def frame_speed(self) -> float:
        """Frames rendered in the time one takes on a machine of speed 1."""
        return self.speed * self.workers

    def windows(self, begin: float, end: float) -> list[Window]:
        """Its free windows between two times, in seconds since 1970.

        Parameters
        ----------
        begin, end : seconds since 1970
        """
        return windows(self.free, self.zone, begin, end)
