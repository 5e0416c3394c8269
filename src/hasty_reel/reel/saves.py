"""What is kept beside a reel file: the autosave with what is not saved yet, and the last five saves.

For 'orrery.reel' they are '.orrery.reel.autosave' and '.orrery.reel.saves/2026-11-24T21-14-03.512.reel'.
"""

from __future__ import annotations

import contextlib
import os
import re
from datetime import datetime
from pathlib import Path

from hasty_reel.errors import ReelError, reason
from hasty_reel.reel.document import Reel
from hasty_reel.reel.file import read_reel, reel_text, save_reel
from hasty_reel.wholefile import clear_left_over, write_whole

KEPT = 5
_SAVE = re.compile(r"\d{4}-\d\d-\d\dT\d\d-\d\d-\d\d\.\d{3}\.reel\Z")


def autosave_path(path: Path) -> Path:
    """Return where the autosave of a reel file lies.

    Parameters
    ----------
    path : of the reel file
    """
    return path.with_name(f".{path.name}.autosave")


def saves_folder(path: Path) -> Path:
    """Return where the last saves of a reel file lie.

    Parameters
    ----------
    path : of the reel file
    """
    return path.with_name(f".{path.name}.saves")


def autosave(path: Path, reel: Reel) -> None:
    """Keep a reel that is not saved yet beside its file.

    Parameters
    ----------
    path : of the reel file
    reel : the reel; it stays as it was

    Raises
    ------
    ReelError
        When it cannot be written.
    """
    try:
        clear_left_over(autosave_path(path))
        write_whole(autosave_path(path), reel_text(reel).encode())
    except OSError as error:
        raise ReelError(f"{path}: changes cannot be kept beside it ({reason(error)}).") from error


def forget_autosave(path: Path) -> None:
    """Remove the autosave: all is saved, or was not wanted.

    Parameters
    ----------
    path : of the reel file
    """
    with contextlib.suppress(OSError):
        autosave_path(path).unlink()
    clear_left_over(autosave_path(path))


def unsaved(path: Path, saved: Reel) -> Reel | None:
    """Return what an earlier session left unsaved, where it differs from the file; None without it.

    Parameters
    ----------
    path : of the reel file
    saved : what the file holds
    """
    kept = autosave_path(path)
    try:
        if not kept.is_file():
            return None
        reel = read_reel(kept)
    except (OSError, ReelError):  # an autosave that cannot be read is worth less than the file beside it
        return None
    return reel if reel != saved else None


def save_keeping(path: Path, reel: Reel, now: datetime) -> None:
    """Save a reel; what its file held before is kept among the last five saves.

    Parameters
    ----------
    path : of the reel file
    reel : the reel; it stays as it was
    now : the time

    Raises
    ------
    ReelError
        When the file cannot be written; the earlier one is untouched.
    """
    _keep_earlier(path, now)
    save_reel(path, reel)
    forget_autosave(path)


def earlier_saves(path: Path) -> list[Path]:
    """Return the kept saves of a reel file, newest first.

    Parameters
    ----------
    path : of the reel file
    """
    folder = saves_folder(path)
    try:
        return sorted((p for p in folder.iterdir() if _SAVE.match(p.name)), reverse=True)
    except OSError:
        return []


def _keep_earlier(path: Path, now: datetime) -> None:
    """Give the file a second name among the saves: nothing is copied, and nothing can be lost on the way."""
    folder = saves_folder(path)
    name = now.strftime("%Y-%m-%dT%H-%M-%S.") + f"{now.microsecond // 1000:03d}.reel"
    try:
        if not path.is_file():
            return
        folder.mkdir(exist_ok=True)
        os.link(path, folder / name)
    except FileExistsError:
        return
    except OSError:  # a file system without links: a copy does
        with contextlib.suppress(OSError):
            write_whole(folder / name, path.read_bytes())
    for old in earlier_saves(path)[KEPT:]:
        with contextlib.suppress(OSError):
            old.unlink()
