"""Shots from files of other programs, told apart by their ending."""

from __future__ import annotations

from pathlib import Path

from hasty_reel.errors import WrongInput
from hasty_reel.reel.document import Reel
from hasty_reel.reel.shot import Shot
from hasty_reel.reel.shottable import read_table
from hasty_reel.reel.timeline import read_timeline

ENDINGS = (".otio", ".csv")


def read_shots(path: Path, reel: Reel, scene: str | None = None) -> list[Shot]:
    """Return the shots of an OpenTimelineIO file or a CSV table, fit to be brought into a reel.

    Parameters
    ----------
    path : of the file
    reel : the reel; it stays as it was
    scene : of shots that name none; None takes that of the reel's first shot

    Raises
    ------
    WrongInput
        One sentence: the file, the place in it, what was expected.
    """
    scene = reel.shots[0].scene if scene is None else scene
    recipe = reel.recipes[0].name
    ending = path.suffix.lower()
    if ending == ".otio":
        return read_timeline(path, reel.fps, scene, recipe)
    if ending == ".csv":
        return read_table(path, scene, recipe)
    raise WrongInput(f"{path}: expected a file ending in {' or '.join(ENDINGS)}.")
