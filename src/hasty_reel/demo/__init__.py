"""The demo reel 'Tidal Orrery' and its proofs, rendered by the bench renderer, copied to where they may be changed.

make  render the proofs of the demo reel anew: `python -m hasty_reel.demo.make [SHOT ...]` (a few minutes)
"""

from __future__ import annotations

import shutil
from datetime import datetime, timedelta
from pathlib import Path

import msgspec
import platformdirs

from hasty_reel.errors import ReelError
from hasty_reel.reel.file import read_reel, save_reel
from hasty_reel.reel.hours import local_zone

SOURCE = Path(__file__).parent
FILM = SOURCE / "film"
"""Pictures of the start page, rendered by `python docs/film.py FOLDER`."""
NAME = "tidal-orrery.reel"
OPENS = 9
"""The museum opens at nine, and the film must run."""
LEAST = timedelta(hours=8)
"""How far ahead of now the copy is due at least: one night must fit in."""


def demo_folder() -> Path:
    """Return where the copy of the demo reel lives."""
    return Path(platformdirs.user_data_dir("hasty-reel")) / "demo"


def copy_demo(folder: Path, now: datetime) -> Path:
    """Copy the demo reel and its proofs, due at the morning after next night, in the time zone of this place; a copy stays.

    Parameters
    ----------
    folder : where the copy goes
    now : the time

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
    due = now.replace(hour=OPENS, minute=0, second=0, microsecond=0)
    while due < now + LEAST:
        due += timedelta(days=1)
    reel = read_reel(SOURCE / NAME)
    zone = local_zone()
    machines = tuple(msgspec.structs.replace(m, zone=zone) for m in reel.machines)
    save_reel(target, msgspec.structs.replace(reel, due=due.isoformat(timespec="seconds"), machines=machines))
    return target
