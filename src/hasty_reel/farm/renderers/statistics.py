"""What a renderer tells of a frame besides its picture: seconds by part, samples, memory, and what takes time by object."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from pathlib import Path

import msgspec

from hasty_reel.errors import WrongInput
from hasty_reel.regularfile import read_regular

LONGEST_SECONDS = 1e9
"""More than 30 years: no time of a frame."""
MOST_OBJECTS, LONGEST_NAME = 200, 80
LARGEST_BYTES = 4 << 20
"""Of a file of statistics."""


class Statistics(msgspec.Struct, frozen=True):
    """As it stands in the file of `{stats}`: all of it may be left out.

    seconds : by part, of 'load', 'cache', 'sample' and 'write'; samples : a pixel got in the mean; memory_bytes : the most it took
    objects, object_memory : seconds and bytes by object or texture
    """

    seconds: dict[str, float] = {}
    samples: float | None = None
    memory_bytes: int = 0
    objects: dict[str, float] = {}
    object_memory: dict[str, float] = {}


NOTHING = Statistics()


def read_statistics(path: Path) -> Statistics:
    """Return the statistics that a renderer wrote; nothing where there is no such file, or it cannot be read.

    Parameters
    ----------
    path : JSON file
    """
    try:
        return msgspec.json.decode(read_regular(path, LARGEST_BYTES, "statistics", WrongInput), type=Statistics)
    except (WrongInput, msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        return NOTHING


def by_name(told: Mapping[str, float]) -> dict[str, float]:
    """Return figures by object, those that are figures; of very many the largest.

    Parameters
    ----------
    told : seconds or bytes by name
    """
    good = {" ".join(name.split())[:LONGEST_NAME]: value for name, value in told.items() if math.isfinite(value) and 0 < value < 1e18}
    return dict(sorted(good.items(), key=lambda item: -item[1])[:MOST_OBJECTS])


UNITS = {
    "ms": 1e-3, "msec": 1e-3, "s": 1.0, "sec": 1.0, "secs": 1.0, "second": 1.0, "seconds": 1.0, "m": 60.0, "min": 60.0, "mins": 60.0,
    "minute": 60.0, "minutes": 60.0, "h": 3600.0, "hr": 3600.0, "hrs": 3600.0, "hour": 3600.0, "hours": 3600.0,
}  # fmt: skip
"""Seconds of a unit as it is printed."""
_MEASURED = re.compile(r"([0-9]+(?:[.,][0-9]+)?)\s*([a-z]+)[\s,]*", re.IGNORECASE)


def read_seconds(text: str) -> float | None:
    """Return the seconds that a text tells: a number, with a comma for a point too; hours, minutes and seconds between colons; with units.

    Parameters
    ----------
    text : as '12.3', '1:02.5', '00:01:02,5', '1m 2.5s' or '250 ms'

    Returns
    -------
    float | None
        None where it tells none: what is printed may be 'inf' or 'nan'.
    """
    seconds, text = 0.0, text.strip()
    measured = _MEASURED.findall(text)
    if measured and _MEASURED.sub("", text) == "":
        if any(unit.lower() not in UNITS for _, unit in measured):
            return None
        seconds = sum(float(number.replace(",", ".")) * UNITS[unit.lower()] for number, unit in measured)
    else:
        for part in text.split(":"):
            try:
                seconds = 60.0 * seconds + float(part.replace(",", "."))
            except ValueError:
                return None
    return seconds if 0 <= seconds < LONGEST_SECONDS else None
