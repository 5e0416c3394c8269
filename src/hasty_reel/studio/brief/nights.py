"""What a night band shows and what is held in it: times and places, free windows, the due flag; no painting.

Time runs truly: the day on which the clocks change is as long as it lasts, 23 or 25 hours.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import datetime, time, timedelta
from typing import Literal

from hasty_reel.errors import HastyReelError
from hasty_reel.reel.edits import with_machine
from hasty_reel.reel.hours import FreeHours, hours_text, shifted, single, windows, with_edge
from hasty_reel.studio.session import Session

LEFT, RIGHT_PAD, HEAD, LANE, FOOT = 150.0, 112.0, 6.0, 26.0, 36.0
SNAP = 900.0
HOUR, DAY = 3600.0, 86400.0
NEAR = 5.0
Part = Literal["start", "end", "body", "due", "lane", "axis", "name", "none"]


@dataclass(frozen=True)
class Held:
    """What is under the pointer or dragged: a part, of a window of a machine where there is one."""

    part: Part = "none"
    machine: int = -1
    rule: int = -1
    begin: float = 0.0
    end: float = 0.0


def snapped(instant: float) -> float:
    """Return a time on the next quarter of an hour.

    Parameters
    ----------
    instant : seconds since 1970
    """
    return round(instant / SNAP) * SNAP


def local_midnights(begin: float, end: float) -> list[float]:
    """Return the midnights of this place between two times, so that a day with a change of the clocks keeps its length.

    Parameters
    ----------
    begin, end : seconds since 1970
    """
    day = datetime.fromtimestamp(begin).date()
    out: list[float] = []
    while True:
        at = datetime.combine(day, time()).timestamp()
        if at > end:
            return out
        out.append(at)
        day += timedelta(days=1)


@dataclass
class Band:
    """The part of time in view and what the hand does in it.

    begin, span : first second in view, in seconds since 1970, and how many are; width : of the widget, in pixels
    hover, held : under the pointer, and dragged; origin, to : times where the drag began and where it is
    lane : of the machine that has the keys; chosen : machine and rule of the window that Delete takes out
    """

    session: Session
    begin: float
    span: float = 3 * DAY
    width: float = 800.0
    hover: Held = field(default_factory=Held)
    held: Held = field(default_factory=Held)
    origin: float = 0.0
    to: float = 0.0
    lane: int = 0
    chosen: tuple[int, int] | None = None

    @property
    def right(self) -> float:
        """Where the lanes end."""
        return self.width - RIGHT_PAD

    @property
    def lanes(self) -> int:
        """How many machines there are."""
        return len(self.session.reel.machines)

    @property
    def bottom(self) -> float:
        """Where the lowest lane ends."""
        return self.lane_top(self.lanes)

    @property
    def due(self) -> float:
        """When the reel is due, in seconds since 1970."""
        return self.session.reel.due_time.timestamp()

    @property
    def dragging(self) -> bool:
        """Whether something is held and was moved."""
        return self.held.part != "none" and self.to != self.origin

    def x_of(self, instant: float) -> float:
        """Return where a time, in seconds since 1970, lies in the widget.

        Parameters
        ----------
        instant : seconds since 1970
        """
        return LEFT + (instant - self.begin) / self.span * (self.right - LEFT)

    def instant_at(self, x: float) -> float:
        """Return the time under a place in the widget.

        Parameters
        ----------
        x : in pixels
        """
        return self.begin + (x - LEFT) / (self.right - LEFT) * self.span

    def lane_top(self, machine: int) -> float:
        """Upper edge of a machine's lane.

        Parameters
        ----------
        machine : its index
        """
        return HEAD + machine * LANE

    def spans(self, machine: int) -> list[Held]:
        """Return the free windows of a machine in view, each with the rule it comes from.

        Parameters
        ----------
        machine : its index
        """
        m = self.session.reel.machines[machine]
        out = []
        for rule, hours in enumerate(m.free):
            # a day more at both ends: the window shows its true ends where they are dragged
            for a, b in windows((hours,), m.zone, self.begin - 2 * DAY, self.begin + self.span + 2 * DAY):
                if b > self.begin and a < self.begin + self.span:
                    out.append(Held("body", machine, rule, a, b))
        return out

    def under(self, x: float, y: float) -> Held:
        """Return what lies under a place.

        Parameters
        ----------
        x, y : in pixels of the widget
        """
        if abs(x - self.x_of(self.due)) <= NEAR + 1 and y < self.bottom + 14:
            return Held("due")
        machine = int((y - HEAD) // LANE)
        if not 0 <= machine < self.lanes:
            return Held("axis") if x >= LEFT else Held()
        if x < LEFT - 4 or x > self.right + 4:
            return Held("name", machine)
        for span in self.spans(machine):
            x0, x1 = self.x_of(span.begin), self.x_of(span.end)
            for part, at in (("start", x0), ("end", x1)):
                if abs(x - at) <= NEAR:
                    return Held(part, span.machine, span.rule, span.begin, span.end)  # type: ignore[arg-type]
            if x0 < x < x1:
                return span
        return Held("lane", machine)

    def dragged(self, held: Held) -> FreeHours | None:
        """Return the window as it would be if it were let go now; None for none.

        Parameters
        ----------
        held : what is held

        Raises
        ------
        HastyReelError
            When it would be no window, in words.
        """
        m = self.session.reel.machines[held.machine]
        if held.part == "lane":
            a, b = snapped(self.origin), snapped(self.to)
            return single(a, b, m.zone) if a != b else None
        hours = m.free[held.rule]
        if held.part == "body":
            return shifted(hours, m.zone, snapped(self.to - self.origin))
        side: Literal["start", "end"] = "start" if held.part == "start" else "end"
        at = snapped(self.to)
        if (side == "start" and at >= held.end) or (side == "end" and at <= held.begin):
            return None
        return with_edge(hours, m.zone, side, at)

    def zoom(self, x: float, factor: float) -> None:
        """Show more or fewer days; the time under a place stays there.

        Parameters
        ----------
        x : in pixels
        factor : by which the span grows
        """
        at = self.instant_at(max(LEFT, x))
        span = min(max(self.span * factor, 8 * HOUR), 28 * DAY)
        self.begin = at - (at - self.begin) * span / self.span
        self.span = span

    # -- words and edits

    def tip(self, held: Held) -> str:
        """Return what lies under the pointer, and what can be done with it.

        Parameters
        ----------
        held : what lies there

        Returns
        -------
        str
            Lines of words.
        """
        reel = self.session.reel
        if held.part == "due":
            return f"Due {reel.due_time.astimezone():%a %d %b %H:%M}. Drag it, or click the clock."
        if held.part == "axis":
            return "Drag to see earlier or later days; wheel to zoom."
        if held.machine < 0:
            return ""
        m = reel.machines[held.machine]
        words = f"{m.name}: free {hours_text(m.free)}, {m.zone}; speed {m.speed:g}, {m.workers_words}"
        if held.rule >= 0:
            return words + "\nDrag its ends or the whole; Delete takes it out. A window of the week changes on all its days."
        return words + ("\nDrag here for a window on this day alone." if held.part == "lane" else "\nClick to change it.")

    def drop(self, held: Held) -> None:
        """Let go of what was dragged: the due time or the free hours change; what would be no window is said.

        Parameters
        ----------
        held : what was dragged
        """
        session = self.session
        if held.part == "due":
            session.set_due(datetime.fromtimestamp(snapped(self.to)).astimezone())
            return
        try:
            new = self.dragged(held)
        except HastyReelError as error:
            session.said.emit(str(error))
            return
        if new is None:
            return
        m = session.reel.machines[held.machine]
        free = (*m.free, new) if held.part == "lane" else (*m.free[: held.rule], new, *m.free[held.rule + 1 :])
        name = "Add free hours" if held.part == "lane" else "Move free hours"
        session.do(f"{name} of {m.name}", lambda reel: with_machine(reel, held.machine, free=free))

    def take_out(self) -> None:
        """Take the chosen window out of the free hours."""
        if self.chosen is None:
            return
        (machine, rule), self.chosen = self.chosen, None
        m = self.session.reel.machines[machine]
        if rule < len(m.free):
            free = m.free[:rule] + m.free[rule + 1 :]
            self.session.do(f"Take out free hours of {m.name}", lambda reel: with_machine(reel, machine, free=free))
