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

Held = TypeVar("Held")
Meant = TypeVar("Meant")
LARGEST_BYTES = 1 << 20
"""Bytes of a file of settings."""


def read_json(
    path: Path, kind: type[Held], taken: Callable[[Held], Meant], shipped: Meant, what: str, error: type[HastyReelError]
) -> Meant:  # fmt: skip
    """Return what a file of settings holds.

    Parameters
    ----------
    path : the file
    kind : type of what stands in it
    taken : makes of it what is meant, and raises what is wrong with it
    shipped : what counts while there is no file
    what : what the file is expected to hold, in words
    error : the kind of error raised

    Returns
    -------
    Meant
        What `taken` made of it, or `shipped`.

    Raises
    ------
    HastyReelError
        Of the kind `error`: names the file, the field and what was expected.
    """
    if not os.path.lexists(path):
        return shipped
    try:
        held = msgspec.json.decode(read_regular(path, LARGEST_BYTES, what, error), type=kind)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as fault:
        raise error(f"{path}: {fault}.") from fault
    try:
        return taken(held)
    except HastyReelError as fault:
        raise error(f"{path}: {fault}") from fault


def save_json(path: Path, value: object, error: type[HastyReelError]) -> None:
    """Write a file of settings, whole or not at all.

    Parameters
    ----------
    path : the file
    value : what it is to hold
    error : the kind of error raised

    Raises
    ------
    HastyReelError
        Of the kind `error`, when it cannot be written; the earlier one is untouched.
    """
    raw = msgspec.json.format(msgspec.json.encode(value, order="sorted"), indent=2) + b"\n"
    try:
        clear_left_over(path)
        write_whole(path, raw, make=True)
    except OSError as fault:
        raise error(f"{path}: cannot be saved ({reason(fault)}).") from fault
