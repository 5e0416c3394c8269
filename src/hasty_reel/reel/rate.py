"""Frame rates as exact fractions, and the way from frames to time and SMPTE timecode and back.

Frames are counted from 0 here; a shot's own frame numbers begin where it says.
"""

from __future__ import annotations

import math
import re
from fractions import Fraction

from hasty_reel.errors import WrongInput

CUSTOMARY = ("23.976", "24", "25", "29.97", "30", "48", "50", "59.94", "60")
SLOWEST, FASTEST = 1, 1000
_TIMECODE = re.compile(r"(\d{1,2})[:;.](\d{2})[:;.](\d{2})([:;.])(\d{2,3})\Z")
_FRACTION = re.compile(r"(\d{1,9})/(\d{1,9})\Z")
_DECIMAL = re.compile(r"\d{1,7}(\.\d{1,9})?\Z")
DAY = 86400


def read_rate(text: str) -> Fraction:
    """Return a frame rate as it is written: 24, 12.5, 30000/1001, or the customary decimals of rates over 1001.

    Parameters
    ----------
    text : as written

    Raises
    ------
    WrongInput
        When it is not a rate from 1 to 1000.
    """
    plain = text.strip().lower().removesuffix("fps").strip().replace(",", ".").replace(" ", "")
    match = _FRACTION.match(plain)
    if match and int(match[2]):
        rate = Fraction(int(match[1]), int(match[2]))
    elif _DECIMAL.match(plain):
        rate = Fraction(plain)
        slowed = Fraction(math.ceil(rate) * 1000, 1001)
        # 23.976, 23.98, 29.97, 59.94: rounded names of a whole rate slowed by 1000/1001
        if rate.denominator > 1 and abs(rate - slowed) < Fraction(1, 150):
            rate = slowed
    else:
        raise WrongInput(f"Rate '{text[:40]}'; expected frames a second such as 24, 23.976 or 24000/1001.")
    if not SLOWEST <= rate <= FASTEST:
        raise WrongInput(f"Rate '{text[:40]}'; expected {SLOWEST} to {FASTEST} frames a second.")
    return rate


def rate_text(rate: Fraction) -> str:
    """Return a rate as it is customarily written: 24, 23.976, 29.97, 12.5, or the fraction itself.

    Parameters
    ----------
    rate : frames a second, exact
    """
    if rate.denominator == 1:
        return str(rate.numerator)
    if is_slowed(rate):
        return f"{float(rate):.3f}".rstrip("0")
    decimal = f"{float(rate):.6f}".rstrip("0")
    return decimal if Fraction(decimal) == rate else f"{rate.numerator}/{rate.denominator}"


def is_slowed(rate: Fraction) -> bool:
    """Whether it is a whole rate slowed by 1000/1001.

    Parameters
    ----------
    rate : frames a second, exact
    """
    return rate.denominator == 1001 and (rate * Fraction(1001, 1000)).denominator == 1


def labels_a_second(rate: Fraction) -> int | None:
    """Frame labels a second of timecode: 24 at 23.976; None where SMPTE ST 12 has no timecode for the rate.

    Parameters
    ----------
    rate : frames a second, exact
    """
    whole = rate * Fraction(1001, 1000) if is_slowed(rate) else rate
    return int(whole) if whole.denominator == 1 else None


def can_drop(rate: Fraction) -> bool:
    """Whether drop-frame counting applies: 29.97 and its multiples (SMPTE ST 12-1, 12-3).

    Parameters
    ----------
    rate : frames a second, exact
    """
    return is_slowed(rate) and labels_a_second(rate) in (30, 60, 120)


def frames_in(seconds: float | Fraction, rate: Fraction) -> int:
    """Return whole frames in some seconds, to the nearest; halves go up.

    Parameters
    ----------
    seconds : duration
    rate : frames a second, exact
    """
    return math.floor(Fraction(seconds) * rate + Fraction(1, 2))


def timecode(frame: int, rate: Fraction, drop: bool = True) -> str:
    """Return the SMPTE timecode of a frame counted from 0, wrapping after 24 hours.

    With `drop` and a rate it applies to, the labels 00 and 01 (00 to 03 at 59.94) are left out at
    every minute but each tenth, and the last separator is a semicolon (SMPTE ST 12-1).
    A rate without timecode gives hours, minutes, seconds and thousandths.

    Parameters
    ----------
    frame : counted from 0
    rate : frames a second, exact
    drop : whether labels are left out (drop-frame)
    """
    base = labels_a_second(rate)
    sign = "-" if frame < 0 else ""
    frame = abs(frame)
    if base is None:
        millis = int(Fraction(frame) / rate * 1000)
        return f"{sign}{millis // 3_600_000:02d}:{millis // 60_000 % 60:02d}:{millis // 1000 % 60:02d}.{millis % 1000:03d}"
    dropping = drop and can_drop(rate)
    if dropping:
        skipped = base // 15
        ten = 600 * base - 9 * skipped
        tens, rest = divmod(frame, ten)
        first = 60 * base  # the first minute of ten has all its labels
        minutes = 0 if rest < first else 1 + (rest - first) // (first - skipped)
        frame += skipped * (9 * tens + minutes)
    frame %= DAY * base
    seconds, part = divmod(frame, base)
    digits = 3 if base > 100 else 2
    return f"{sign}{seconds // 3600:02d}:{seconds // 60 % 60:02d}:{seconds % 60:02d}{';' if dropping else ':'}{part:0{digits}d}"


def read_timecode(text: str, rate: Fraction, drop: bool = True) -> int:
    """Return the frame, counted from 0, of an SMPTE timecode.

    Parameters
    ----------
    text : as written
    rate : frames a second, exact
    drop : whether labels are left out (drop-frame)

    Raises
    ------
    WrongInput
        When it is no timecode of this rate, or a label that drop-frame counting leaves out.
    """
    base = labels_a_second(rate)
    match = _TIMECODE.match(text.strip())
    if base is None:
        raise WrongInput(f"Timecode '{text[:40]}': there is none at {rate_text(rate)} frames a second.")
    if not match:
        raise WrongInput(f"Timecode '{text[:40]}'; expected hours:minutes:seconds:frames such as 01:00:10:12.")
    hours, minutes, seconds, frames = (int(match[k]) for k in (1, 2, 3, 5))
    if hours > 23 or minutes > 59 or seconds > 59 or frames >= base:
        raise WrongInput(f"Timecode '{text[:40]}'; expected at most 23:59:59 and frames 0 to {base - 1}.")
    dropping = drop and can_drop(rate)
    count = ((hours * 60 + minutes) * 60 + seconds) * base + frames
    if dropping:
        skipped = base // 15
        if minutes % 10 and seconds == 0 and frames < skipped:
            raise WrongInput(f"Timecode '{text[:40]}': drop-frame counting leaves this label out; the next one ends in {skipped:02d}.")
        whole = hours * 60 + minutes
        count -= skipped * (whole - whole // 10)
    return count


def seconds_text(frames: int, rate: Fraction) -> str:
    """Return the time of some frames in seconds: 4 s, 2.5 s, 0.042 s.

    Parameters
    ----------
    frames : how many
    rate : frames a second, exact
    """
    text = f"{float(frames / rate):.3f}".rstrip("0").rstrip(".")
    return f"{text} s"


def place_text(frame: int, place: int, rate: Fraction, start: int = 0, drop: bool = True) -> str:
    """Frame, time and timecode as they are shown everywhere: '1048 · 1.958 s · 00:00:01:23'.

    Parameters
    ----------
    frame : as the shot numbers it
    place : in the film, counted from 0
    rate : frames a second, exact
    start : frames the film's timecode begins with
    drop : whether labels are left out (drop-frame)
    """
    return f"{frame} · {seconds_text(place, rate)} · {timecode(start + place, rate, drop)}"
