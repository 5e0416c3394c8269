"""The demo reel 'Tidal Orrery' and its proofs, rendered by the bench renderer, copied to where they may be changed."""

from __future__ import annotations

import shutil
from datetime import datetime, timedelta
from pathlib import Path

import msgspec
import platformdirs

from hasty_reel.errors import ReelError
from hasty_reel.reel.file import read_reel, save_reel

SOURCE = Path(__file__).parent
NAME = "tidal-orrery.reel"
ROOM = timedelta(hours=3)
"""How far ahead the copy is due: the museum opens then."""


def demo_folder() -> Path:
    """Where the copy of the demo reel lives."""
    return Path(platformdirs.user_data_dir("hasty-reel")) / "demo"


def copy_demo(folder: Path, now: datetime) -> Path:
    """Copy the demo reel and its proofs, due on the next quarter of an hour after `ROOM`; a copy already there stays.

    Raises
    ------
    ReelError
        When the folder cannot be written.
    """
    target = folder / NAME
    if target.is_file():
        return target
    try:
        folder.mkdir(parents=True, exist_ok=True)
        shutil.copytree(SOURCE / "proofs", folder / "proofs", dirs_exist_ok=True)
    except (OSError, shutil.Error) as error:
        reason = getattr(error, "strerror", None) or error
        raise ReelError(f"{folder}: the demo reel cannot be copied there ({reason}).") from error
    late = now + ROOM
    due = late.replace(minute=0, second=0, microsecond=0) + timedelta(minutes=15 * (late.minute // 15 + 1))
    save_reel(target, msgspec.structs.replace(read_reel(SOURCE / NAME), due=due.isoformat(timespec="seconds")))
    return target
