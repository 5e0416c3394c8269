"""Durations in words: as they are read aloud, and as a difference of price."""

from __future__ import annotations

from typing import Literal

from hasty_reel.typednumbers import need_number

HOURS_FROM, MINUTES_FROM = 3570.0, 59.5
"""Seconds from which a duration is told in hours and minutes, and in minutes."""
TENTHS_BELOW = 9.95

Unit = Literal["h", "min", "s"]
_SECONDS = {"s": 1.0, "min": 60.0, "h": 3600.0}


def hours_minutes(seconds: float) -> tuple[int, int]:
    """Return whole hours and minutes, rounded to the minute.

    Parameters
    ----------
    seconds : 0 or more

    Returns
    -------
    hours, minutes : int
        In this order
    """
    return divmod(round(seconds / 60), 60)


def unit_of(seconds: float) -> Unit:
    """Return the unit a duration is told in.

    Parameters
    ----------
    seconds : 0 or more

    Returns
    -------
    Unit
        'h' for hours and minutes, 'min' or 's'.
    """
    return "h" if seconds >= HOURS_FROM else "min" if seconds >= MINUTES_FROM else "s"


def spoken(seconds: float) -> str:
    """Return a duration as it is read aloud: 6 h 12, 12 min, 45 s, 0.8 s.

    Parameters
    ----------
    seconds : 0 or more

    Returns
    -------
    str
        Words with the unit.
    """
    unit = unit_of(seconds)
    if unit == "h":
        return clock_hours(seconds)
    if unit == "min":
        return f"{round(seconds / 60)} min"
    return f"{seconds:.1f} s" if seconds < TENTHS_BELOW else f"{seconds:.0f} s"


def read_duration(text: str, what: str) -> float:
    """Return the seconds of a duration as it is typed: 90 s, 2 min, 1.5 h; a number alone is seconds.

    Parameters
    ----------
    text : as typed
    what : names it in the message

    Raises
    ------
    WrongInput
        When there is no number before the unit.
    """
    amount, factor = text.strip(), 1.0
    for unit, seconds in _SECONDS.items():
        if amount.endswith(unit) and amount[: -len(unit)].strip()[-1:].isdigit():
            amount, factor = amount[: -len(unit)].strip(), seconds
            break
    return factor * need_number(amount, what)


def clock_hours(seconds: float) -> str:
    """Return a duration in hours and minutes, however short: 0 h 05.

    Parameters
    ----------
    seconds : 0 or more

    Returns
    -------
    str
        Words with the unit.
    """
    hours, minutes = hours_minutes(seconds)
    return f"{hours} h {minutes:02d}"


def price_text(seconds: float) -> tuple[str, str]:
    """Return a price in hours as its tag has it.

    Parameters
    ----------
    seconds : what a setting costs over a shot, below 0 what it saves

    Returns
    -------
    text
        Such as '+1 h 05' or '−0 h 40'
    kind
        'costs', 'saves', or 'none' below half a minute
    """
    text = clock_hours(abs(seconds))
    if round(abs(seconds) / 60) == 0:
        return text, "none"
    return (f"+{text}", "costs") if seconds > 0 else (f"−{text}", "saves")
