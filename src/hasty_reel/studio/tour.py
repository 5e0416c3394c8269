"""A guided tour over the window: seven short steps, one a stage, each asking for one thing that is really done."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from psygnal import Signal

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session


@dataclass(frozen=True)
class Step:
    """One step of the tour.

    stage : where it is, as the stages are counted; words : what stands there; asks : what is to be done
    state : what of the reel is looked at: the step is done as soon as it differs from how it was
    """

    stage: int
    words: str
    asks: str
    state: Callable[[Session], object]


STEPS = (
    Step(
        0, "Brief says what is delivered and when. The film below holds the shots in true proportion.",
        "Choose another shot in the list.", lambda s: s.playhead.shot_id,
    ),
    Step(
        1, "Proofs are test frames: all that is predicted comes from them. Each dot over the frames is one.",
        "Drag the playhead along the strip at the foot.", lambda s: s.playhead.frame,
    ),
    Step(
        2, "Compare plays two of them against each other, as rendered or finished.",
        "Press Space, or the button under the picture, to play the loop.", lambda s: s.comparison.loop.playing,
    ),
    Step(
        3, "Budget finds the fewest samples that play clean. The sentence says what stands, the ledger what each setting costs.",
        "Change a setting in the ledger, bounces for one: the plan follows at once.", lambda s: s.reel,
    ),
    Step(
        4, "Finish shows what denoising over time does to the frames, before and after, and how many samples it stands for.",
        "Switch a step of the chain off or on.", lambda s: s.reel,
    ),
    Step(
        5, "Output says in which form frames are kept, and what the shot weighs in it.",
        "Take the last change back: Ctrl+Z.", lambda s: s.reel,
    ),
    Step(
        6, "Run renders the frames through the night and keeps the promise of the clock at the top right.",
        "Go to another frame with the arrow keys: frames come here as they are rendered.", lambda s: s.playhead.frame,
    ),
)  # fmt: skip


class Tour:
    """Where somebody stands in the tour.

    place : of the step, counted from 0; past the last one it is over
    done : what the step asks for was done
    changed() : something of this

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()

    def __init__(self, session: Session) -> None:
        self._session = session
        self.place, self.done = len(STEPS), False
        self._before: object = None
        for signal in (
            session.reel_changed, session.playhead.shot_changed, session.playhead.frame_changed, session.comparison.loop.changed,
        ):  # fmt: skip
            signal.connect(self.look)

    @property
    def over(self) -> bool:
        """Whether there is no step left."""
        return self.place >= len(STEPS)

    @property
    def step(self) -> Step:
        """The step one is in."""
        return STEPS[min(self.place, len(STEPS) - 1)]

    def begin(self) -> None:
        """Begin with the first step."""
        self._go(0)

    def go_on(self) -> None:
        """Go to the next step."""
        self._go(self.place + 1)

    def leave(self) -> None:
        """Be done with it."""
        self._go(len(STEPS))

    def _go(self, place: int) -> None:
        self.place, self.done = place, False
        self._before = self.step.state(self._session)
        self.changed.emit()

    def look(self) -> None:
        """Look whether what is asked for was done."""
        if not self.over and not self.done and self.step.state(self._session) != self._before:
            self.done = True
            self.changed.emit()
