"""Files that are whole or not there: written beside their place under another name, then moved into it."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Iterator
from pathlib import Path


@contextlib.contextmanager
def whole_file(path: Path, flush: bool = False) -> Iterator[Path]:
    """The name to write to; it is moved to `path` when the block ends well, and removed when it does not.

    Parameters
    ----------
    flush : also wait until the bytes are on the disk

    Raises
    ------
    OSError
        When the folder cannot be made or the file not moved.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
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
