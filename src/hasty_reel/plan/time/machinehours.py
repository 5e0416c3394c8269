"""Machines as a table tells them: name, speed, free hours as times from and to, chance that a frame fails."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from pathlib import Path

import msgspec
import numpy as np

from hasty_reel.errors import WrongInput
from hasty_reel.plan.time.schedule import FAR, Hours
from hasty_reel.regularfile import read_regular

LARGEST_TABLE, MOST_MACHINES = 4 << 20, 4096
"""Bytes of a table, and machines in it."""


class FreeMachine(msgspec.Struct, frozen=True, forbid_unknown_fields=False, kw_only=True):
    """One machine.

    speed : 2 halves the seconds; free : times from and to, ISO 8601; None: always; fail_per_frame : chance that a frame fails
    """

    name: str
    speed: float = 1.0
    free: list[tuple[str, str]] | None = None
    fail_per_frame: float = 0.0


def read_instant(text: str, where: str) -> datetime:
    """Read a time with its zone.

    Parameters
    ----------
    text : ISO 8601
    where : whose it is, in words for the message

    Raises
    ------
    WrongInput
        When it is none, or has no zone.
    """
    try:
        found = datetime.fromisoformat(text)
    except ValueError as error:
        raise WrongInput(f"{where} '{text[:40]}'; expected a time as 2027-01-08T09:00:00+00:00.") from error
    if found.tzinfo is None:
        raise WrongInput(f"{where} '{text[:40]}' has no zone; expected a time as 2027-01-08T09:00:00+00:00.")
    return found


def read_machines(path: Path) -> list[FreeMachine]:
    """Read a table of machines.

    Parameters
    ----------
    path : JSON: a list of machines

    Raises
    ------
    WrongInput
        Names the file, the machine and what was expected.
    """
    try:
        found = msgspec.json.decode(read_regular(path, LARGEST_TABLE, "a table of machines"), type=list[FreeMachine])
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise WrongInput(f"{path}: {error}.") from error
    if not 1 <= len(found) <= MOST_MACHINES:
        raise WrongInput(f"{path}: {len(found)} machines; expected 1 to {MOST_MACHINES}.")
    for machine in found:
        where = f"{path}, machine '{machine.name[:40]}'"
        if not 1e-6 <= machine.speed <= 1e6:
            raise WrongInput(f"{where}: speed {machine.speed:g}; expected a number above 0.")
        if not 0 <= machine.fail_per_frame < 1:
            raise WrongInput(f"{where}: fail_per_frame {machine.fail_per_frame:g}; expected 0 to below 1.")
        for begin, end in machine.free or []:
            if not read_instant(begin, where) < read_instant(end, where):
                raise WrongInput(f"{where}: free from {begin[:40]} to {end[:40]}; expected the end after the begin.")
    return found


def hours_of(machines: Sequence[FreeMachine], start: datetime) -> Hours:
    """Return the free hours of machines, in seconds from a time on.

    Parameters
    ----------
    machines : of a table
    start : when the work begins
    """
    spans = []
    for machine in machines:
        if machine.free is None:
            spans.append([(0.0, FAR)])
            continue
        told = [((read_instant(t, "free") - start).total_seconds() for t in span) for span in machine.free]
        spans.append([(max(0.0, a), b) for a, b in map(tuple, told) if b > 0])
    edges = np.unique([0.0, FAR, *(t for of in spans for span in of for t in span)])
    middle = (edges[:-1] + edges[1:]) / 2.0
    free = np.zeros((len(spans), len(edges)))
    for row, of in zip(free, spans):
        inside = np.zeros(len(middle), bool)
        for a, b in of:
            inside |= (a <= middle) & (middle < b)
        row[1:] = np.cumsum(np.diff(edges) * inside)
    return Hours(edges, free)
