"""Files that are whole or not there: written beside their place under another name, brought to the disk, then moved into it.

A part that a killed writer left is told by its name: it holds the machine and the process
that wrote it, so that it can be cleared away once that process is gone, and never before.
"""

from __future__ import annotations

import contextlib
import hashlib
import os
import re
import shutil
import socket
from collections.abc import Iterator
from pathlib import Path

HOST = re.sub(r"[^A-Za-z0-9]+", "_", socket.gethostname())[:40] or "here"
LONGEST_STEM = 160
"""Bytes of a file's name that its part repeats; a name may have 255 bytes on most file systems."""
_PART = re.compile(r"\..*\.(?P<host>[A-Za-z0-9_]+)-(?P<process>\d+)\.part\Z", re.DOTALL)


@contextlib.contextmanager
def whole_file(path: Path, make: bool = False) -> Iterator[Path]:
    """Give the name to write to; it is moved to `path` when the block ends well, and removed when it does not.

    Before it is moved its bytes are on the disk, so that after a power cut too a file with a final name is whole.

    Parameters
    ----------
    path : the final name
    make : whether a missing folder is made

    Yields
    ------
    The name to write to, in the same folder.

    Raises
    ------
    OSError
        When the folder is missing or cannot be made, the disk is full, or the file cannot be moved.
    """
    if make:
        path.parent.mkdir(parents=True, exist_ok=True)
    part = part_of(path)
    try:
        yield part
        with open(part, "rb") as stream:
            os.fsync(stream.fileno())
        os.replace(part, path)
    finally:
        with contextlib.suppress(OSError):
            part.unlink()


def part_of(path: Path) -> Path:
    """Return the name under which this process writes a file before it is whole.

    Parameters
    ----------
    path : the final name

    Returns
    -------
    Path
        A hidden name in the same folder.
    """
    return path.with_name(f".{_stem(path)}.{HOST}-{os.getpid()}.part")


def part_folder(folder: Path, kind: str) -> Path:
    """Make a hidden folder for files on their way to a final name; `clear_folder` removes it once this process is gone.

    Parameters
    ----------
    folder : in which it is made
    kind : what it is for, in a word

    Returns
    -------
    Path
        The folder.

    Raises
    ------
    OSError
        When it cannot be made.
    """
    for k in range(1000):
        made = folder / f".{kind}{k}.{HOST}-{os.getpid()}.part"
        with contextlib.suppress(FileExistsError):
            made.mkdir(mode=0o700)
            return made
    raise OSError(f"{folder}: too many folders of this process")


def writer_lives(name: str) -> bool:
    """Whether the writer that a name tells of may still be at work: one on another machine always may.

    Parameters
    ----------
    name : of a part

    Returns
    -------
    bool
        False where its process is gone, or the name is no part's.
    """
    match = _PART.match(name)
    return match is not None and (match["host"] != HOST or os.path.exists(f"/proc/{match['process']}"))


def clear_left_over(path: Path) -> None:
    """Remove what writers of one file left behind that were killed on the way.

    Parameters
    ----------
    path : the final name of the file
    """
    _clear(path.parent, f".{_stem(path)}.")


def clear_folder(folder: Path) -> None:
    """Remove every part in a folder that killed writers left, files and folders.

    Parameters
    ----------
    folder : looked through by itself, not below
    """
    _clear(folder, ".")


def flush_folder(folder: Path) -> None:
    """Bring the names in a folder to the disk, so that files moved into it are there after a power cut.

    Parameters
    ----------
    folder : the folder; one that cannot be flushed is left as it is, since its files are whole either way
    """
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def write_whole(path: Path, raw: bytes, make: bool = False) -> None:
    """Write a file whole or not at all.

    Parameters
    ----------
    path : the final name
    raw : its bytes
    make : whether a missing folder is made

    Raises
    ------
    OSError
        When the disk is full or the file cannot be written; says so.
    """
    with whole_file(path, make) as part:
        with open(part, "wb") as stream:
            stream.write(raw)
        if part.stat().st_size != len(raw):
            raise OSError(f"the disk took {part.stat().st_size} of {len(raw)} bytes")


def _stem(path: Path) -> str:
    """The name of a file, shortened where its part would be too long to be one."""
    raw = os.fsencode(path.name)
    return path.name if len(raw) <= LONGEST_STEM else f"{path.name[:30]}~{hashlib.sha1(raw).hexdigest()[:16]}"


def _clear(folder: Path, head: str) -> None:
    try:
        with os.scandir(folder) as entries:
            left = [e.path for e in entries if e.name.startswith(head) and _PART.match(e.name) and not writer_lives(e.name)]
    except OSError:
        return
    for name in left:
        if os.path.isdir(name) and not os.path.islink(name):
            shutil.rmtree(name, ignore_errors=True)
            continue
        with contextlib.suppress(OSError):
            os.unlink(name)


__all__ = ["clear_folder", "clear_left_over", "flush_folder", "part_folder", "part_of", "whole_file", "write_whole", "writer_lives"]
