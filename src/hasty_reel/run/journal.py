"""What happened in a run, line by line on disk, and the right to render into its folder.

Beside the frames of 'sh010' lie 'journal.jsonl', one JSON document a line, each written and flushed before the next thing
happens, and '.run.lock', which the system frees when its process dies, however it dies.
"""

from __future__ import annotations

import contextlib
import os
from datetime import datetime
from pathlib import Path

import filelock
import msgspec

from hasty_reel.errors import WrongInput, reason
from hasty_reel.regularfile import read_regular

NAME, LOCK = "journal.jsonl", ".run.lock"
CACHED = "light cache"
"""What is told of a frame whose light cache was computed."""
NOTED = "noted"
"""What is told of the run as a whole and changes nothing."""
RETRIED = "retried"
"""What is told of a frame that is begun again."""
LARGEST_BYTES = 256 << 20
"""Bytes of a journal that is read: a million lines."""


class JournalLine(msgspec.Struct, frozen=True, omit_defaults=True):
    """Something that happened.

    at : when, ISO 8601 with zone
    what : 'begun', 'planned anew', 'ended' of the run; else the state of a frame: 'rendered', 'finished', 'retried', 'failed';
        'light cache': that of the frame was computed; 'noted' of the run: what only informs
    frame : as the shot numbers it; 0 for the run as a whole
    seconds : it took on its machine; planned : by the plan
    machine : that rendered it; attempt : which, from 1
    words : what is to be said of it
    samples : per pixel, the most a place got
    seen, noise, held_noise : by the plan: seen flicker in JND of the noise of the finished frame, noise in linear light of the rendered
        one, and of the finished one, which is what a shot holds
    load : of the seconds, those before the first sample
    measured : noise of the frame in linear light, from its halves; 0 where it is not rendered in halves
    one_number : of the seconds, those that grow are not told from the rest
    objects, object_memory : seconds and bytes by object or texture, where the renderer tells them
    frames : of the run, where it begins; settings : hash of how they are rendered
    """

    at: str
    what: str
    frame: int = 0
    seconds: float = 0.0
    planned: float = 0.0
    machine: str = ""
    attempt: int = 1
    words: str = ""
    samples: int = 0
    seen: float = 0.0
    noise: float = 0.0
    held_noise: float = 0.0
    load: float = 0.0
    measured: float = 0.0
    one_number: bool = False
    objects: dict[str, float] = {}
    object_memory: dict[str, float] = {}
    frames: str = ""
    settings: str = ""


class Journal:
    """The journal of one folder of frames, written to while the right to render into it is held.

    Parameters
    ----------
    folder : of the finished frames
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._lock = filelock.FileLock(folder / LOCK)
        self._file: int | None = None

    def __enter__(self) -> Journal:
        """Take the right to render into the folder.

        Raises
        ------
        WrongInput
            When another run holds it, the folder takes no files, or journal or lock are symbolic links.
        """
        for name in (NAME, LOCK):  # what lies elsewhere is not ours to write to
            if (self.folder / name).is_symlink():
                raise WrongInput(f"{self.folder / name}: is a symbolic link; expected a file of this folder, or none.")
        try:
            self._lock.acquire(timeout=0)
        except filelock.Timeout:
            raise WrongInput(f"{self.folder}: another run renders into it; expected to wait for it, or another folder.") from None
        except (OSError, NotImplementedError):  # filelock raises either where a file system has no locks (flock(2): ENOLCK, ENOSYS)
            pass  # nobody can be kept out there: a folder that takes no files is told below, when its journal is opened
        try:
            self._file = os.open(self.folder / NAME, os.O_WRONLY | os.O_CREAT | os.O_APPEND | os.O_NOFOLLOW, 0o644)
        except OSError as error:
            self._lock.release()
            raise WrongInput(f"{self.folder}: its journal cannot be written ({reason(error)}).") from error
        return self

    def __exit__(self, *error: object) -> None:
        """Let the folder go."""
        if self._file is not None:
            os.close(self._file)
            self._file = None
        with contextlib.suppress(OSError):
            self._lock.release()

    def tell(self, line: JournalLine) -> None:
        """Write a line; one that cannot be written is done without: frames on disk tell for themselves.

        Parameters
        ----------
        line : what happened
        """
        if self._file is not None:
            with contextlib.suppress(OSError):
                os.write(self._file, msgspec.json.encode(line) + b"\n")
                os.fsync(self._file)


def now_text() -> str:
    """Return the time of the clock as journals write it."""
    return datetime.now().astimezone().isoformat(timespec="seconds")


def read_journal(folder: Path) -> list[JournalLine]:
    """Return what happened in a folder of frames, oldest first; nothing where there is no journal. Broken lines are left out.

    Parameters
    ----------
    folder : of the finished frames
    """
    path = folder / NAME
    if not path.is_file():
        return []
    out = []
    for text in read_regular(path, LARGEST_BYTES, "the journal of a run").splitlines():
        with contextlib.suppress(msgspec.DecodeError):
            out.append(msgspec.json.decode(text, type=JournalLine))
    return out
