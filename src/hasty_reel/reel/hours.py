"""Free hours of a machine: windows of the week or single ones, in its own time zone.

Windows are told in wall time, so a night is a night on both sides of a change of the
clocks: 19:00 to 08:00 lasts 12 h when they go forward in it, and 14 h when they go back.
"""

from __future__ import annotations

import contextlib
import os
import re
from collections.abc import Iterable
from datetime import UTC, datetime, time, timedelta
from functools import lru_cache
from typing import Literal
from zoneinfo import ZoneInfo, available_timezones

import msgspec

from hasty_reel.errors import WrongInput

Day = Literal["mon", "tue", "wed", "thu", "fri", "sat", "sun"]
DAYS: tuple[Day, ...] = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
NAMED: dict[str, tuple[Day, ...]] = {"daily": DAYS, "weeknights": DAYS[:5], "weekdays": DAYS[:5], "weekends": DAYS[5:]}
_CLOCK = re.compile(r"([01]\d|2[0-3]):([0-5]\d)\Z|24:00\Z")
_SPAN = re.compile(r"(\d{1,2}:\d{2})\s*[-–]\s*(\d{1,2}:\d{2})\Z")
EXAMPLE = "such as 'weeknights 19:00-08:00, weekends' or '2026-11-25T19:00/2026-11-26T08:00'"


class Weekly(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True, tag="weekly", tag_field="kind"):
    """A window that begins on some days of every week.

    start, end : wall time as HH:MM; an end at or before the start is on the next day; 24:00 is the day's end
    """

    days: tuple[Day, ...]
    start: str = "00:00"
    end: str = "24:00"


class Once(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True, tag="once", tag_field="kind"):
    """A single window; ISO 8601, in the machine's zone where none is given."""

    start: str
    end: str


FreeHours = Weekly | Once
Window = tuple[float, float]
"""From and to, in seconds since 1970 (UTC)."""


@lru_cache(maxsize=64)
def zone_of(name: str) -> ZoneInfo:
    """Return the time zone of that name.

    Parameters
    ----------
    name : of the tz database

    Raises
    ------
    WrongInput
        When there is none.
    """
    if not re.fullmatch(r"[A-Za-z0-9_+\-/]{1,60}", name) or name not in available_timezones():
        raise WrongInput(f"Time zone '{name[:60]}'; expected a name of the tz database such as UTC or Europe/Oslo.")
    return ZoneInfo(name)


def local_zone() -> str:
    """Return the time zone of this place by its name in the tz database; UTC where the system does not tell it."""
    told = os.environ.get("TZ", "").lstrip(":")
    link = os.path.realpath("/etc/localtime")
    for name in (told, link.partition("/zoneinfo/")[2]):
        with contextlib.suppress(WrongInput):
            zone_of(name)
            return name
    return "UTC"


def checked_hours(hours: FreeHours, where: str) -> FreeHours:
    """Return the window, if it makes sense.

    Parameters
    ----------
    hours : the window
    where : the same in words, for the message

    Raises
    ------
    WrongInput
        Says where, what was given and what was expected.
    """
    if isinstance(hours, Weekly):
        if not hours.days or len(set(hours.days)) != len(hours.days):
            raise WrongInput(f"{where}.days: {list(hours.days)}; expected one or more different days.")
        for name in ("start", "end"):
            if not _CLOCK.match(getattr(hours, name)) or (name == "start" and hours.start == "24:00"):
                raise WrongInput(f"{where}.{name}: '{getattr(hours, name)[:20]}'; expected a time of the day such as 19:00.")
        return hours
    ends = []
    for name in ("start", "end"):
        try:
            ends.append(datetime.fromisoformat(getattr(hours, name)))
        except ValueError:
            ends = []
            break
    alike = len(ends) == 2 and (ends[0].tzinfo is None) == (ends[1].tzinfo is None)
    if not alike or ends[0] >= ends[1] or ends[0].year < 1971 or ends[1].year > 9000:
        raise WrongInput(f"{where}: {hours.start[:40]} to {hours.end[:40]}; expected two times, the first before the second.")
    return hours


def windows(free: Iterable[FreeHours], zone: str, begin: float, end: float) -> list[Window]:
    """Return the free windows between two times, in order and without overlap; always free where none is told.

    Parameters
    ----------
    free : windows
    zone : time zone, a name of the tz database
    begin, end : seconds since 1970 (UTC)
    """
    free = tuple(free)
    if not free:
        return [(begin, end)] if end > begin else []
    place = zone_of(zone)
    found: list[Window] = []
    for hours in free:
        if isinstance(hours, Once):
            found.append((_instant(datetime.fromisoformat(hours.start), place), _instant(datetime.fromisoformat(hours.end), place)))
            continue
        day = datetime.fromtimestamp(begin, place).date() - timedelta(days=1)
        last = datetime.fromtimestamp(end, place).date()
        while day <= last:
            if DAYS[day.weekday()] in hours.days:
                found.append(_on_day(hours, datetime.combine(day, time()), place))
            day += timedelta(days=1)
    return _merged((max(a, begin), min(b, end)) for a, b in found)


def _on_day(hours: Weekly, day: datetime, place: ZoneInfo) -> Window:
    start = day + _since_midnight(hours.start)
    stop = day + _since_midnight(hours.end)
    if stop <= start:
        stop += timedelta(days=1)
    return _instant(start, place), _instant(stop, place)


def _since_midnight(clock: str) -> timedelta:
    return timedelta(hours=int(clock[:2]), minutes=int(clock[3:]))


def _instant(when: datetime, place: ZoneInfo) -> float:
    """Seconds since 1970; a wall time that the clocks jump over counts as if they had not yet jumped (PEP 495)."""
    return (when if when.tzinfo else when.replace(tzinfo=place)).astimezone(UTC).timestamp()


def _merged(spans: Iterable[Window]) -> list[Window]:
    out: list[Window] = []
    for a, b in sorted(s for s in spans if s[1] > s[0]):
        if out and a <= out[-1][1]:
            out[-1] = (out[-1][0], max(b, out[-1][1]))
        else:
            out.append((a, b))
    return out


def hours_text(free: Iterable[FreeHours]) -> str:
    """Free hours as they are written: 'weeknights 19:00-08:00, weekends'; 'always' for none.

    Parameters
    ----------
    free : windows
    """
    parts = []
    for hours in free:
        if isinstance(hours, Once):
            parts.append(f"{hours.start}/{hours.end}")
            continue
        all_day = (hours.start, hours.end) == ("00:00", "24:00")
        names = {days: name for name, days in NAMED.items() if name != ("weeknights" if all_day else "weekdays")}
        ordered = tuple(d for d in DAYS if d in hours.days)
        span = "" if all_day else f" {hours.start}-{hours.end}"
        parts.append(names.get(ordered, "+".join(ordered)) + span)
    return ", ".join(parts) or "always"


def read_hours(text: str) -> tuple[FreeHours, ...]:
    """Free hours as they are written, see `hours_text`.

    Parameters
    ----------
    text : as written

    Raises
    ------
    WrongInput
        Names the part that is wrong.
    """
    if text.strip().lower() in ("", "always"):
        return ()
    return tuple(_read_part(p.strip()) for p in text.split(","))


def _read_part(part: str) -> FreeHours:
    if "/" in part:
        start, _, end = part.partition("/")
        return checked_hours(Once(start=start.strip(), end=end.strip()), "Free hours")
    name, _, span = part.lower().partition(" ")
    days = NAMED.get(name) or tuple(d for d in DAYS if d in re.split(r"[+ ]", name))
    if not days or (name not in NAMED and len(days) != len(name.split("+"))):
        raise WrongInput(f"Free hours '{part[:40]}'; expected days and times {EXAMPLE}.")
    if not span.strip():
        return Weekly(days=days)
    match = _SPAN.match(span.strip())
    if not match:
        raise WrongInput(f"Free hours '{part[:40]}'; expected times such as 19:00-08:00.")
    return checked_hours(Weekly(days=days, start=match[1].zfill(5), end=match[2].zfill(5)), f"Free hours '{part[:40]}'")


# -- dragged in a picture of the days


def with_edge(hours: FreeHours, zone: str, side: Literal["start", "end"], instant: float) -> FreeHours:
    """Return a window whose start or end was dragged to a time, in seconds since 1970; one of the week on all its days.

    Parameters
    ----------
    hours : the window
    zone : time zone, a name of the tz database
    side : 'start' or 'end'
    instant : seconds since 1970

    Raises
    ------
    WrongInput
        When the end would come before the start.
    """
    when = datetime.fromtimestamp(instant, zone_of(zone))
    if isinstance(hours, Once):
        return checked_hours(msgspec.structs.replace(hours, **{side: when.isoformat(timespec="minutes")}), "Free hours")
    clock = when.strftime("%H:%M")
    if side == "end" and clock == "00:00":
        clock = "24:00"
    if clock == (hours.end if side == "start" else hours.start):
        raise WrongInput(f"Free hours {hours.start}-{hours.end}: {side} at {clock}; expected a window that lasts.")
    return checked_hours(msgspec.structs.replace(hours, **{side: clock}), "Free hours")


def shifted(hours: FreeHours, zone: str, seconds: float) -> FreeHours:
    """Return a window that was dragged to another time; one of the week on all its days, by the clock on the wall.

    Parameters
    ----------
    hours : the window
    zone : time zone, a name of the tz database
    seconds : by which it was dragged
    """
    if isinstance(hours, Once):
        ends = []
        for text in (hours.start, hours.end):
            moved = datetime.fromtimestamp(_instant(datetime.fromisoformat(text), zone_of(zone)) + seconds, zone_of(zone))
            ends.append(moved.isoformat(timespec="minutes"))
        return checked_hours(Once(start=ends[0], end=ends[1]), "Free hours")
    minutes = round(seconds / 60)
    start = int(_since_midnight(hours.start).total_seconds()) // 60
    long = (int(_since_midnight(hours.end).total_seconds()) // 60 - start) % 1440 or 1440
    days, start = divmod(start + minutes, 1440)
    end = (start + long) % 1440 or 1440
    moved_days = tuple(d for d in DAYS if DAYS[(DAYS.index(d) - days) % 7] in hours.days)
    return checked_hours(
        Weekly(days=moved_days, start=f"{start // 60:02d}:{start % 60:02d}", end=f"{end // 60:02d}:{end % 60:02d}"), "Free hours"
    )


def single(begin: float, end: float, zone: str) -> Once:
    """Return a single window between two times in seconds since 1970, told in a zone.

    Parameters
    ----------
    begin, end : seconds since 1970
    zone : time zone, a name of the tz database
    """
    ends = [datetime.fromtimestamp(t, zone_of(zone)).isoformat(timespec="minutes") for t in sorted((begin, end))]
    return Once(start=ends[0], end=ends[1])
