"""Where a frame stands in its shot, for what depends on other frames."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Moment:
    """Where a frame stands in its shot, for what depends on other frames.

    owners : frames that own a light cache; none: the frame itself. cache_blend : of these, how many nearest ones a frame blends
    history : frames rendered or simulated before this one in its chunk; None: as many as the scene may need
    placed : the owners do not follow each other by the step of the recipe
    """

    owners: tuple[int, ...] = ()
    cache_blend: int = 1
    history: int | None = None
    placed: bool = False


ALONE = Moment()
"""A frame by itself."""
