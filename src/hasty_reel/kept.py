"""Small JSON files of the artist's own settings: read with what ships while none is kept, written whole."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

import msgspec

from hasty_reel.errors import HastyReelError, reason
from hasty_reel.regularfile import read_regular
from hasty_reel.wholefile import clear_left_over, write_whole

T = TypeVar("T")
LARGEST = 1 << 20


def read_kept(path: Path, kind: type[T], checked: Callable[[T], T], shipped: T, what: str, error: type[HastyReelError]) -> T:
    """What a file holds; `shipped` while there is none.

    Parameters
    ----------
    what : what the file is expected to hold, in words; error : the kind of error raised

    Raises
    ------
    error
        Names the file, the field and what was expected.
    """
    if not os.path.lexists(path):
        return shipped
    try:
        return checked(msgspec.json.decode(read_regular(path, LARGEST, what, error), type=kind))
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as fault:
        raise error(f"{path}: {fault}.") from fault


def save_kept(path: Path, value: object, error: type[HastyReelError]) -> None:
    """Write a file of settings.

    Raises
    ------
    error
        When it cannot be written; the earlier one is untouched.
    """
    raw = msgspec.json.format(msgspec.json.encode(value, order="sorted"), indent=2) + b"\n"
    try:
        clear_left_over(path)
        write_whole(path, raw, make=True)
    except OSError as fault:
        raise error(f"{path}: cannot be saved ({reason(fault)}).") from fault
