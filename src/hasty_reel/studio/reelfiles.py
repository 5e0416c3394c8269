"""Files of an open reel: an earlier save taken up, shots brought in and exported, frames looked at for a proof."""

from __future__ import annotations

import re
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from hasty_reel.errors import HastyReelError
from hasty_reel.pictures.foreign import ENDINGS as PICTURES
from hasty_reel.pictures.sequence import FramePattern
from hasty_reel.reel.edits import brought_in
from hasty_reel.reel.file import read_reel
from hasty_reel.reel.fresh import fresh_reel
from hasty_reel.reel.incoming import ENDINGS, read_shots
from hasty_reel.reel.shottable import write_table
from hasty_reel.reel.timeline import write_timeline
from hasty_reel.reel.untitled import UNTITLED, keep_untitled

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session

LONGEST_NAME = 60
"""Characters of a file name made of a reel's."""


def file_name(name: str) -> str:
    """Return the name of a reel as one of a file.

    Parameters
    ----------
    name : of the reel

    Returns
    -------
    str
        Letters, digits, dots and dashes.
    """
    return re.sub(r"[^\w.-]+", "-", name).strip("-.").lower()[:LONGEST_NAME] or "reel"


def begin_untitled(session: Session) -> Path | None:
    """Begin a reel that has no name yet.

    Parameters
    ----------
    session : the open reel, whose scene it begins with

    Returns
    -------
    Path | None
        Its path; None where it cannot be kept, which is said.
    """
    now = datetime.now().astimezone()
    try:
        return keep_untitled(fresh_reel(UNTITLED, session.shot.scene, now), now)
    except HastyReelError as error:
        session.said.emit(str(error))
        return None


def go_back(session: Session, path: Path) -> None:
    """Take up an earlier save, as an edit that can be undone; a fault is said.

    Parameters
    ----------
    session : the open reel
    path : of the save
    """
    try:
        reel = read_reel(path)
    except HastyReelError as error:
        session.said.emit(str(error))
        return
    session.edit(f"Go back to the save of {path.name[11:19].replace('-', ':')}", reel)


def kind_of_file(path: Path) -> str:
    """Return what a file is to a reel, by its ending.

    Parameters
    ----------
    path : of the file

    Returns
    -------
    str
        'reel', 'picture', 'shots', or '' for nothing.
    """
    ending = path.suffix.lower()
    return "reel" if ending == ".reel" else "picture" if ending in PICTURES else "shots" if ending in ENDINGS else ""


def unknown_words(path: Path) -> str:
    """Return that a file is nothing to a reel, and what was expected.

    Parameters
    ----------
    path : of the file

    Returns
    -------
    str
        A sentence.
    """
    return f"{path}: expected a reel, a picture of a sequence, or a file ending in {' or '.join(ENDINGS)}."


def bring_in_shots(session: Session, path: Path) -> None:
    """Add the shots of a file, read beside everything else.

    Parameters
    ----------
    session : the open reel
    path : an OpenTimelineIO file or a CSV table
    """
    reel = session.reel
    task = session.background.start(lambda task: read_shots(path, reel))
    task.done.connect(lambda shots: session.do(f"Bring in {len(shots)} shots", lambda now: brought_in(now, shots)))
    task.failed.connect(session.said)


def sequence_of(session: Session, path: Path) -> FramePattern | None:
    """Return the sequence a picture belongs to.

    Parameters
    ----------
    session : where it is said that it belongs to none
    path : of the picture

    Returns
    -------
    FramePattern | None
        FramePattern, or None.
    """
    from hasty_reel.farm.patternof import pattern_of, sequences_in

    try:
        found = sequences_in([path]) if path.is_file() else []
        return found[0] if found else pattern_of(path)
    except HastyReelError as error:
        session.said.emit(str(error))
        return None


def export_shots(session: Session, path: Path) -> None:
    """Write the shots with their plan, beside everything else; the ending says as what.

    Parameters
    ----------
    session : the open reel
    path : ending in .csv for a table, else OpenTimelineIO
    """
    reel, outlook = session.reel, session.planner.outlook
    seconds = {s.id: t for s in reel.shots if (t := outlook.seconds_of(s)) is not None}
    write = write_table if path.suffix.lower() == ".csv" else write_timeline
    task = session.background.start(lambda task: write(path, reel, seconds))
    task.done.connect(lambda _: session.said.emit(f"{len(reel.shots)} shots written to {path.name}."))
    task.failed.connect(session.said)
