"""How many frames a shot has when it is told as a move: viewpoints, a turntable, a loop.

A move lasts some seconds; its frames follow from the rate. Where one part ends and
the next begins there is one frame, not two. In a loop the last frame is not the first again.
"""

from __future__ import annotations

from bisect import bisect_right
from fractions import Fraction
from itertools import accumulate
from typing import Literal

import msgspec

from hasty_reel.errors import ReelError
from hasty_reel.reel.rate import frames_in

LONGEST_SECONDS = 86400.0
Direction = Literal["clockwise", "anticlockwise"]


class Viewpoint(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """A place the camera rests at for `hold` seconds before it moves on for `move` seconds."""

    name: str
    hold: float = 0.0
    move: float = 0.0


class Viewpoints(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True, tag="viewpoints", tag_field="kind"):
    """Keyed viewpoints with holds and moves between them.

    loop : the last one moves back to the first; else its move does not count
    """

    views: tuple[Viewpoint, ...]
    loop: bool = False

    @property
    def goes_on(self) -> bool:
        """Whether the first frame comes again after the last one."""
        return self.loop

    @property
    def seconds(self) -> float:
        """All holds and moves."""
        return sum(self._spans)

    @property
    def _spans(self) -> list[float]:
        spans = [s for v in self.views for s in (v.hold, v.move)]
        return spans if self.loop else spans[:-1]

    def bounds(self, rate: Fraction) -> list[int]:
        """Return the frame, counted from 0, at which each hold and each move begins, and one past the last.

        Parameters
        ----------
        rate : frames a second, exact
        """
        return [frames_in(t, rate) for t in accumulate((Fraction(s) for s in self._spans), initial=Fraction(0))]

    def count(self, rate: Fraction) -> int:
        """Return the frames in all.

        Parameters
        ----------
        rate : frames a second, exact
        """
        return self.bounds(rate)[-1]

    def at(self, place: float, rate: Fraction) -> float:
        """Return where the camera is at a frame counted from 0: 1.0 is the second viewpoint, 1.5 half-way to the third.

        Parameters
        ----------
        place : frame counted from 0
        rate : frames a second, exact
        """
        bounds = self.bounds(rate)
        k = min(max(bisect_right(bounds, place) - 1, 0), len(bounds) - 2)
        view, moving = divmod(k, 2)
        if not moving:
            return float(view)
        # an open move with no rest after it arrives with its last frame
        ends = bounds[k + 1] - (1 if bounds[k + 1] == bounds[-1] and not self.loop else 0)
        share = min(1.0, max(0.0, (place - bounds[k]) / max(1, ends - bounds[k])))
        eased = share * share * (3 - 2 * share)
        return (view + eased) % len(self.views) if self.loop else view + eased

    def words(self) -> str:
        """As a table tells it."""
        return f"{len(self.views)} viewpoints, {self.seconds:g} s" + (", loop" if self.loop else "")


class Turntable(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True, tag="turntable", tag_field="kind"):
    """A turn from `start` to `end` degrees in some seconds.

    loop : the last frame is one step before the end, since the end is the start again;
        else the last frame stands at the end
    """

    start: float = 0.0
    end: float = 360.0
    seconds: float = 15.0
    direction: Direction = "clockwise"
    loop: bool = True

    @property
    def goes_on(self) -> bool:
        """Whether the first frame comes again after the last one."""
        return self.loop and (self.end - self.start) % 360.0 == 0.0

    def count(self, rate: Fraction) -> int:
        """Return the frames in all: 15 s at 24 fps are 360, a degree each for a full turn.

        Parameters
        ----------
        rate : frames a second, exact
        """
        return frames_in(self.seconds, rate)

    def step(self, rate: Fraction) -> float:
        """Return the degrees from frame to frame, with the sign of the direction.

        Parameters
        ----------
        rate : frames a second, exact
        """
        count = self.count(rate)
        span = (self.end - self.start) / max(1, count if self.loop else count - 1)
        return span if self.direction == "clockwise" else -span

    def at(self, place: float, rate: Fraction) -> float:
        """Return the angle in degrees at a frame counted from 0.

        Parameters
        ----------
        place : frame counted from 0
        rate : frames a second, exact
        """
        return self.start + self.step(rate) * place

    def words(self) -> str:
        """As a table tells it."""
        return f"turn {self.start:g}–{self.end:g}° in {self.seconds:g} s" + (", loop" if self.loop else "")


class Loop(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True, tag="loop", tag_field="kind"):
    """A loop of some seconds: the frame after the last is the first again."""

    seconds: float = 4.0

    @property
    def goes_on(self) -> bool:
        """Whether the first frame comes again after the last one."""
        return True

    def count(self, rate: Fraction) -> int:
        """Return the frames in all.

        Parameters
        ----------
        rate : frames a second, exact
        """
        return frames_in(self.seconds, rate)

    def at(self, place: float, rate: Fraction) -> float:
        """Return the share of the loop that has gone by at a frame counted from 0.

        Parameters
        ----------
        place : frame counted from 0
        rate : frames a second, exact
        """
        return place / self.count(rate)

    def words(self) -> str:
        """As a table tells it."""
        return f"loop of {self.seconds:g} s"


Move = Viewpoints | Turntable | Loop


def checked_move(move: Move, where: str) -> Move:
    """Return the move, if it can be made.

    Parameters
    ----------
    move : the move
    where : the same in words, for the message

    Raises
    ------
    ReelError
        Says where, what was given and what was expected.
    """
    if isinstance(move, Viewpoints):
        if not 2 <= len(move.views) <= 1000:
            raise ReelError(f"{where}.views: {len(move.views)}; expected 2 to 1000 viewpoints.")
        for k, view in enumerate(move.views):
            for part in ("hold", "move"):
                _bounded(getattr(view, part), f"{where}.views[{k}].{part}", 0.0, LONGEST_SECONDS, "seconds")
    else:
        _bounded(move.seconds, f"{where}.seconds", 0.0, LONGEST_SECONDS, "seconds")
    if isinstance(move, Turntable):
        for name in ("start", "end"):
            _bounded(getattr(move, name), f"{where}.{name}", -36000.0, 36000.0, "degrees")
        if move.start == move.end:
            raise ReelError(f"{where}.end: {move.end:g}; expected another angle than the start.")
    return move


def _bounded(value: float, where: str, low: float, high: float, unit: str) -> None:
    if not low <= value <= high:
        raise ReelError(f"{where}: {value:g}; expected {low:g} to {high:g} {unit}.")
