"""Files that are whole or not there: written beside their place under another name, then moved into it."""

from __future__ import annotations

import contextlib
import glob
import os
from collections.abc import Iterator
from pathlib import Path


@contextlib.contextmanager
def whole_file(path: Path, flush: bool = False) -> Iterator[Path]:
    """The name to write to; it is moved to `path` when the block ends well, and removed when it does not.

    Parameters
    ----------
    flush : also wait until the bytes are on the disk, and clear away what killed writers of this file left

    Raises
    ------
    OSError
        When the folder cannot be made or the file not moved.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    if flush:
        clear_left_over(path)
    part = path.with_name(f".{path.name}.{os.getpid()}.part")
    try:
        yield part
        if flush:
            with open(part, "rb") as stream:
                os.fsync(stream.fileno())
        os.replace(part, path)
    finally:
        with contextlib.suppress(OSError):
            part.unlink()


def clear_left_over(path: Path) -> None:
    """Remove what writers of this file left behind that were killed on the way."""
    for left in path.parent.glob(f".{glob.escape(path.name)}.*.part"):
        writer = left.name.split(".")[-2]
        if writer.isdigit() and int(writer) != os.getpid() and not os.path.exists(f"/proc/{writer}"):
            with contextlib.suppress(OSError):
                left.unlink()
