"""Reels that have no name yet: kept whole in a place of their own, until they are saved where the artist wants them.

Such a reel is a file like any other, so that its proofs, its autosave and a crash work as they always do.
"""

from __future__ import annotations

import contextlib
import os
import shutil
from datetime import datetime
from pathlib import Path

import msgspec
import platformdirs

from hasty_reel.errors import ReelError, reason
from hasty_reel.reel.document import Reel
from hasty_reel.reel.file import read_reel, save_reel
from hasty_reel.reel.writer import ReelWriter

NAME = "untitled.reel"
UNTITLED = "Untitled"
"""What a new reel is called until it is saved; then it is called like its file."""


def untitled_folder() -> Path:
    """Return where reels without a name are kept, each in a folder of its own."""
    return Path(platformdirs.user_data_dir("hasty-reel")) / "untitled"


def is_untitled(path: Path) -> bool:
    """Whether a reel has no name yet.

    Parameters
    ----------
    path : of its file
    """
    return path.name == NAME and path.parent.parent == untitled_folder()


def keep_untitled(reel: Reel, now: datetime) -> Path:
    """Keep a new reel that has no name yet.

    Parameters
    ----------
    reel : the new one
    now : names its folder

    Returns
    -------
    Path
        Where it is kept.

    Raises
    ------
    ReelError
        When nothing can be kept there.
    """
    base = untitled_folder()
    folder = base / f"{now:%Y-%m-%dT%H-%M-%S}-{os.getpid()}-{now.microsecond:06d}"
    try:
        folder.mkdir(parents=True)
    except OSError as error:
        raise ReelError(f"{folder}: a new reel cannot be kept there ({reason(error)}).") from error
    path = folder / NAME
    save_reel(path, reel)
    return path


def left_untitled() -> list[tuple[Path, Reel]]:
    """Return the reels without a name that no window has open, the newest first."""
    out = []
    with contextlib.suppress(OSError):
        for folder in sorted(untitled_folder().iterdir(), reverse=True):
            path = folder / NAME
            writer = ReelWriter(path)
            if not path.is_file() or not writer.take():
                continue
            writer.release()
            with contextlib.suppress(ReelError):
                out.append((path, read_reel(path)))
    return out


def drop_untitled(path: Path) -> None:
    """Throw a reel without a name away, with its proofs; a reel that has a name is left alone.

    Parameters
    ----------
    path : of its file
    """
    if is_untitled(path):
        shutil.rmtree(path.parent, ignore_errors=True)


def bring_proofs(path: Path, target: Path, reel: Reel) -> Reel:
    """Copy the proofs of a reel without a name to where it is saved.

    Parameters
    ----------
    path : of the reel so far
    target : where it is going to be saved
    reel : as it stands

    Returns
    -------
    Reel
        The reel, whose proofs are in a folder of another name where the usual one is taken.

    Raises
    ------
    ReelError
        When they cannot be copied; nothing is left behind then.
    """
    source = path.parent / reel.proofs
    if not source.is_dir():
        return reel
    name, number = reel.proofs, 1
    while (target.parent / name).exists():
        number += 1
        name = f"{target.stem}-{reel.proofs}" if number == 2 else f"{target.stem}-{reel.proofs}-{number}"
    goal = target.parent / name
    try:
        shutil.copytree(source, goal)
    except (OSError, shutil.Error) as error:
        shutil.rmtree(goal, ignore_errors=True)
        raise ReelError(f"{target}: its proofs cannot be copied beside it ({reason(error)}); nothing was changed.") from error
    return msgspec.structs.replace(reel, proofs=name)


def take_back_proofs(target: Path, reel: Reel) -> None:
    """Remove proofs that `bring_proofs` has copied, since the reel could not be saved beside them.

    Parameters
    ----------
    target : where the reel was going to be saved
    reel : as `bring_proofs` gave it; its proofs are in a folder that was not there before
    """
    shutil.rmtree(target.parent / reel.proofs, ignore_errors=True)


def named_after(reel: Reel, target: Path) -> Reel:
    """Return a reel called like the file it is saved in, unless it was given a name before.

    Parameters
    ----------
    reel : as it stands
    target : where it is going to be saved
    """
    name = "".join(c for c in target.stem if c.isprintable()).strip()[:200]
    return msgspec.structs.replace(reel, name=name) if reel.name == UNTITLED and name else reel
