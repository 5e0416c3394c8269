"""Folders for files of a moment, which are cleared at the next start where this program was killed before it could do so itself."""

from __future__ import annotations

import contextlib
import shutil
import tempfile
from collections.abc import Iterator
from pathlib import Path

from hasty_reel.wholefile import clear_folder, part_folder


@contextlib.contextmanager
def temporary_folder(kind: str, within: Path | None = None) -> Iterator[Path]:
    """Give a folder that is gone when the block ends.

    Parameters
    ----------
    kind : what it is for, in a word
    within : folder in which it is made; None for that of the system

    Yields
    ------
    The folder.

    Raises
    ------
    OSError
        When it cannot be made.
    """
    made = part_folder(Path(tempfile.gettempdir()) if within is None else within, kind)
    try:
        yield made
    finally:
        shutil.rmtree(made, ignore_errors=True)


def clear_temporary() -> None:
    """Remove what programs of ours left in the system's folder that were killed."""
    clear_folder(Path(tempfile.gettempdir()))
