"""Whether the folder of a run takes another frame: found out before the first hour, and again where a frame could not be written."""

from __future__ import annotations

import shutil
from pathlib import Path

from hasty_reel.errors import WrongInput, reason
from hasty_reel.pictures.frame import Picture
from hasty_reel.wholefile import part_of

LEAST_FREE = 16 << 20
"""Bytes that must stay free besides the next picture."""


def try_folder(folder: Path) -> None:
    """Find out now, not after the first hour, that a folder takes no files.

    Parameters
    ----------
    folder : of frames

    Raises
    ------
    WrongInput
        When it cannot be made, or written to.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
        probe = part_of(folder / "probe")
        probe.touch()
        probe.unlink()
    except OSError as error:
        raise WrongInput(f"{folder}: frames cannot be written there ({reason(error)}).") from error


def need_space(folder: Path, picture: Picture) -> None:
    """Find out whether a folder is gone or full, so that every frame that follows would fail as this one did.

    Parameters
    ----------
    folder : of frames
    picture : that could not be written

    Raises
    ------
    WrongInput
        When it is; the run ends then, and goes on when there is room.
    """
    try_folder(folder)
    free = shutil.disk_usage(folder).free
    needed = picture.nbytes // 2  # as half floats, compressed or not
    if free < needed + LEAST_FREE:
        raise WrongInput(
            f"{folder}: {free / 1e6:.3g} MB are free, a frame takes up to {needed / 1e6:.2g}, and {LEAST_FREE / 1e6:.0f} stay free; "
            "the run ends here, and goes on when there is room."
        )
