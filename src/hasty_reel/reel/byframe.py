"""Values that are told of single frames, such as pins and weights: moved along with their frames, and let go outside of them."""

from __future__ import annotations

from collections.abc import Container
from typing import TypeVar

V = TypeVar("V", int, float)


def moved_along(by_frame: dict[int, V], off: int) -> dict[int, V]:
    """Return values of frames that are numbered otherwise now.

    Parameters
    ----------
    by_frame : value by frame
    off : how much higher the frames are numbered
    """
    return {f + off: v for f, v in by_frame.items()}


def inside(by_frame: dict[int, V], frames: Container[int]) -> dict[int, V]:
    """Return the values of frames that are among some.

    Parameters
    ----------
    by_frame : value by frame
    frames : numbers of frames
    """
    return {f: v for f, v in by_frame.items() if f in frames}
