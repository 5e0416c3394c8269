"""The lines of a machine: how each is written and read, and edits of them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from hasty_reel.errors import HastyReelError
from hasty_reel.reel.edits import removed_machine, with_machine
from hasty_reel.reel.hours import hours_text, read_hours
from hasty_reel.reel.machine import Machine
from hasty_reel.typednumbers import need_number, need_whole_number

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session

FREE_EXAMPLES = "weeknights 19:00-08:00, weekends · mon+wed 20:00-06:00 · 2026-11-25T19:00/2026-11-26T08:00 · always"


@dataclass(frozen=True)
class MachineLine:
    """One line of a machine: its field, its words for undo, label and unit on the screen, how it is read, and what it means."""

    field: str
    words: str
    label: str
    unit: str
    read: Callable[[str], Any]
    meaning: str

    def text(self, machine: Machine) -> str:
        """Return its value as it is written.

        Parameters
        ----------
        machine : the machine

        Returns
        -------
        str
            Words.
        """
        value = getattr(machine, self.field)
        if value is None:
            return ""
        return hours_text(value) if self.field == "free" else f"{value:g}" if isinstance(value, float) else str(value)


MACHINE_LINES = (
    MachineLine("name", "name", "Name", "", str.strip, "Its name"),
    MachineLine("speed", "speed", "Speed", "", lambda t: need_number(t, "Speed"),
                "Against the machine the proofs were rendered on: 2 halves the seconds"),
    MachineLine("workers", "workers", "Workers", "frames", lambda t: need_whole_number(t, "Workers"),
                "Frames it renders at the same time"),
    MachineLine("together", "gain of workers", "Together", "frames", lambda t: need_number(t, "Together") if t.strip() else None,
                "Frames its workers render in the time of one that has the machine to itself: they slow each other. Empty: counted as one"),
    MachineLine("zone", "time zone", "Time zone", "", str.strip, "Of its free hours, a name of the tz database: UTC, Europe/Oslo …"),
    MachineLine("free", "free hours", "Free", "", read_hours, FREE_EXAMPLES),
    MachineLine("memory_gb", "memory", "Memory", "GB", lambda t: need_number(t, "Memory") if t.strip() else None,
                "That its workers share. Empty: not told"),
    MachineLine("price_per_hour", "price", "Price", "an hour", lambda t: need_number(t, "Price"),
                "Of an hour of it, in your money; 0 for none"),
)  # fmt: skip


def type_machine_line(session: Session, place: int, line: MachineLine, text: str) -> str:
    """Set a line of a machine as it is typed.

    Parameters
    ----------
    session : the open reel
    place : of the machine, from 0
    line : which line
    text : as typed

    Returns
    -------
    str
        What is wrong with it; '' when nothing is.
    """
    try:
        reel = with_machine(session.reel, place, **{line.field: line.read(text)})
    except HastyReelError as error:
        return str(error)
    session.edit(f"Set {line.words} of {session.reel.machines[place].name}", reel)
    return ""


def remove_machine(session: Session, place: int) -> str:
    """Take a machine out.

    Parameters
    ----------
    session : the open reel
    place : of the machine, from 0

    Returns
    -------
    str
        Why it must stay; '' when it is out.
    """
    name = session.reel.machines[place].name
    try:
        reel = removed_machine(session.reel, place)
    except HastyReelError as error:
        return str(error)
    session.edit(f"Remove machine {name}", reel)
    return ""
