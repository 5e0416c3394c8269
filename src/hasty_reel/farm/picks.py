"""Frames for a proof, as one picks them."""

from __future__ import annotations

import numpy as np

from hasty_reel.reel.shot import Shot

RUN_LENGTH = 9
SPREAD = 9
EVERY = 12


def run_around(shot: Shot, frame: int) -> tuple[int, ...]:
    """Return the consecutive frames around one, within the shot.

    Parameters
    ----------
    shot : the shot or layer
    frame : as the shot numbers it
    """
    first = min(max(frame - RUN_LENGTH // 2, shot.begin), max(shot.begin, shot.past - RUN_LENGTH))
    return tuple(range(first, min(shot.past, first + RUN_LENGTH)))


def ends(shot: Shot) -> tuple[int, ...]:
    """First, middle and last frame.

    Parameters
    ----------
    shot : the shot or layer
    """
    return tuple(sorted({shot.begin, (shot.begin + shot.past - 1) // 2, shot.past - 1}))


def every(shot: Shot) -> tuple[int, ...]:
    """Every so many frames from the first on.

    Parameters
    ----------
    shot : the shot or layer
    """
    return tuple(range(shot.begin, shot.past, EVERY))


def spread(shot: Shot) -> tuple[int, ...]:
    """Return the frames spread evenly from the first to the last.

    Parameters
    ----------
    shot : the shot or layer
    """
    return tuple(sorted({round(f) for f in np.linspace(shot.begin, shot.past - 1, SPREAD)}))
