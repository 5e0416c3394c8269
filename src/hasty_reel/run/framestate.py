"""How a frame of a run stands: the same words in memory, in the journal and on the screen."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

ATTEMPTS = 3
"""How often a frame is begun before it is set aside."""
WITHOUT = "Finished without"
"""How the words of a finished frame begin whose neighbours failed."""


class FrameState(StrEnum):
    """What there is of a frame."""

    WAITING = "waiting"
    RENDERING = "rendering"
    RENDERED = "rendered"
    FINISHED = "finished"
    FAILED = "failed"
    OTHER = "other settings"
    """Rendered or finished with other settings: to be rendered again."""


WAITING, RENDERING, RENDERED, FINISHED, FAILED, OTHER = FrameState
TO_COME = frozenset((WAITING, RENDERING, OTHER))
"""States of which a rendered picture is still to come."""


@dataclass(frozen=True)
class Frame:
    """One frame of a run.

    attempts : how often it was begun; a machine that went away takes back the one it had
    wanted : its rendered picture is to come, whatever its state: it is gone or damaged, and a neighbour needs it
    for_neighbours : it is finished, and rendered once more only for its neighbours
    lost : its rendered picture will never be had; damaged : its picture on disk could not be read once
    fault : why it failed
    """

    state: FrameState
    attempts: int = 0
    wanted: bool = False
    for_neighbours: bool = False
    lost: bool = False
    damaged: bool = False
    fault: str = ""
