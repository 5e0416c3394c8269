"""One writer for each reel: a lock beside its file, held by the window that may save it, and who holds it in words.

For 'orrery.reel' they are '.orrery.reel.lock', which the system frees when its process dies, however
it dies, and '.orrery.reel.writer', which says who took it. Where a file system knows no locks everybody
may write, and a file that changed meanwhile is noticed by its content.
"""

from __future__ import annotations

import contextlib
import hashlib
import os
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path

import filelock
import msgspec

from hasty_reel.errors import ReelError, WrongInput
from hasty_reel.reel.file import LARGEST_BYTES
from hasty_reel.regularfile import read_regular
from hasty_reel.wholefile import HOST, write_whole

SMALL = 4096


class Holder(msgspec.Struct, frozen=True):
    """Who took a lock."""

    host: str
    process: int
    since: str

    @property
    def words(self) -> str:
        """As one says it."""
        try:
            since = f" since {datetime.fromisoformat(self.since):%a %H:%M}"
        except ValueError:
            since = ""
        where = "on this machine" if self.host == HOST else f"on {self.host[:40]}"
        return f"another window {where} (process {self.process}){since}"


class ReelWriter:
    """The right to write one reel file.

    Parameters
    ----------
    path : of the reel
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self.held = False
        self._lock: filelock.FileLock | None = None

    def take(self) -> bool:
        """Take the right to write; True where it is ours now, or where no lock can be kept beside the reel.

        Raises
        ------
        ReelError
            When its lock is a symbolic link.
        """
        if self.held:
            return True
        for ending in ("lock", "writer"):  # what lies elsewhere is not ours to write to
            if _beside(self.path, ending).is_symlink():
                raise ReelError(f"{_beside(self.path, ending)}: is a symbolic link; expected a file of this folder, or none.")
        lock = filelock.FileLock(_beside(self.path, "lock"), thread_local=False)
        try:
            lock.acquire(timeout=0)
        except filelock.Timeout:
            return False
        except (OSError, NotImplementedError):  # a folder that takes no files, a file system without locks
            self.held = True
            return True
        self._lock, self.held = lock, True
        holder = Holder(HOST, os.getpid(), datetime.now().astimezone().isoformat(timespec="seconds"))
        with contextlib.suppress(OSError):
            write_whole(_beside(self.path, "writer"), msgspec.json.encode(holder))
        return True

    @property
    def holder(self) -> str:
        """Who holds it, in words; '' where nobody does or it is not known."""
        try:
            raw = read_regular(_beside(self.path, "writer"), SMALL, "who writes a reel")
            return msgspec.json.decode(raw, type=Holder).words
        except (WrongInput, msgspec.DecodeError, UnicodeDecodeError):
            return "another window"

    def release(self) -> None:
        """Give the right up; whoever asks next gets it."""
        if self._lock is not None:
            # the lock's own file stays: were it removed, two could hold locks on two files of its name
            with contextlib.suppress(OSError):
                _beside(self.path, "writer").unlink()
            self._lock.release()
            self._lock = None
        self.held = False


@contextlib.contextmanager
def writing(path: Path) -> Iterator[None]:
    """Hold the right to write a reel for a while, as a command does.

    Parameters
    ----------
    path : of the reel

    Raises
    ------
    ReelError
        When somebody else holds it; says who.
    """
    writer = ReelWriter(path)
    if not writer.take():
        raise ReelError(f"{path}: is open in {writer.holder}; expected a reel that nobody else writes, or another name.")
    try:
        yield
    finally:
        writer.release()


def content_of(path: Path) -> str | None:
    """Return what tells one content of a reel file from another.

    Parameters
    ----------
    path : of the reel

    Returns
    -------
    str | None
        A digest of its bytes; None where there is no file that can be read.
    """
    try:
        return hashlib.blake2b(read_regular(path, LARGEST_BYTES, "a reel file"), digest_size=16).hexdigest()
    except WrongInput:
        return None


def _beside(path: Path, ending: str) -> Path:
    return path.with_name(f".{path.name}.{ending}")
