"""What somebody who listens to a run is told, and when it is to be ready."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from hasty_reel.plan.shot import ShotPlan


@dataclass(frozen=True)
class FrameEvent:
    """Something happened to a frame; `picture` where there is one to show, `machine` where one had it."""

    frame: int
    state: str
    seconds: float = 0.0
    words: str = ""
    picture: np.ndarray | None = field(default=None, repr=False)
    machine: str = ""
    attempt: int = 1


Listener = Callable[[FrameEvent], None]


@dataclass(frozen=True)
class DueTime:
    """When a run is to be ready.

    seconds_left : gives the seconds of the clock that there are
    planned : gives the plan with other samples (f,)
    automatic : whether a new plan is taken without asking
    """

    seconds_left: Callable[[], float]
    planned: Callable[[np.ndarray], ShotPlan]
    automatic: bool = False
