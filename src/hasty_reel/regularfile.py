"""Reading files that may be anything: only regular files, and only up to a stated size.

A device never ends, a named pipe never begins, and a file of many gigabytes fills the memory;
whoever names a file to be read may have named one of these by mistake or on purpose.
"""

from __future__ import annotations

import os
import stat
from pathlib import Path

from hasty_reel.errors import HastyReelError, WrongInput, reason

KINDS = (
    (stat.S_ISDIR, "a folder"),
    (stat.S_ISFIFO, "a named pipe"),
    (stat.S_ISSOCK, "a socket"),
    (stat.S_ISCHR, "a device"),
    (stat.S_ISBLK, "a device"),
)


def read_regular(path: Path, most: int, expected: str, error: type[HastyReelError] = WrongInput) -> bytes:
    """Read a whole regular file.

    Parameters
    ----------
    path : the file
    most : the largest size that is read, in bytes
    expected : what the file is expected to hold, in words
    error : the kind of error raised

    Returns
    -------
    bytes
        Its bytes.

    Raises
    ------
    error
        When it is missing, no regular file, too large, or cannot be read.
    """
    need_regular(path, most, expected, error)
    try:
        # opening without waiting: what was a file a moment ago may be a pipe by now
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        with open(handle, "rb") as stream:
            if not stat.S_ISREG(os.fstat(handle).st_mode):
                raise error(f"{path}: no regular file; expected {expected}.")
            raw = stream.read(most + 1)
    except (OSError, ValueError, MemoryError) as fault:
        raise error(f"{path}: cannot be read ({reason(fault)}).") from fault
    if len(raw) > most:
        raise error(f"{path}: larger than {size_text(most)}; expected {expected}.")
    return raw


def need_regular(path: Path, most: int, expected: str, error: type[HastyReelError] = WrongInput) -> None:
    """Raise an error where a path is no regular file of at most some size.

    Parameters
    ----------
    path : the file
    most : the largest size allowed, in bytes
    expected : what the file is expected to hold, in words
    error : the kind of error raised

    Raises
    ------
    error
        When it is missing, no regular file, or too large.
    """
    try:
        found = os.stat(path)
    except (OSError, ValueError) as fault:
        raise error(f"{path}: cannot be read ({reason(fault)}).") from fault
    if not stat.S_ISREG(found.st_mode):
        kind = next((words for is_kind, words in KINDS if is_kind(found.st_mode)), "no regular file")
        raise error(f"{path}: is {kind}; expected {expected}.")
    if found.st_size > most:
        raise error(f"{path}: larger than {size_text(most)}; expected {expected}.")


def size_text(count: int) -> str:
    """Return a number of bytes as one says it, such as 64 MiB.

    Parameters
    ----------
    count : bytes

    Returns
    -------
    str
        A whole number with the largest unit that leaves nothing over.
    """
    for power, unit in ((30, "GiB"), (20, "MiB"), (10, "KiB")):
        if count >= 1 << power and count % (1 << power) == 0:
            return f"{count >> power} {unit}"
    return f"{count} bytes"
