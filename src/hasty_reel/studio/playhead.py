"""Which shot is looked at, at which frame, and which frames are selected: looking around is no edit."""

from __future__ import annotations

from collections.abc import Callable

from psygnal import Signal

from hasty_reel.reel.document import Reel
from hasty_reel.reel.shot import Shot


class Playhead:
    """A place in the reel.

    shot_id : of the shot or layer; frame : in it; selection : first and last frame, None for none

    Parameters
    ----------
    reel : gives the reel as it stands
    """

    shot_changed = Signal()
    frame_changed = Signal(int)
    selection_changed = Signal()

    def __init__(self, reel: Callable[[], Reel]) -> None:
        self._reel = reel
        first = reel().shots[0]
        self.shot_id = first.id
        self.frame = first.first
        self.selection: tuple[int, int] | None = None

    @property
    def shot(self) -> Shot:
        """The shot or layer that is looked at."""
        return self._reel().shot(self.shot_id)

    @property
    def whole_id(self) -> str:
        """The shot that is looked at, or the one the layer belongs to."""
        return self.shot_id.partition(".")[0]

    def show_shot(self, shot_id: str) -> None:
        """Look at another shot, or at a layer.

        Parameters
        ----------
        shot_id : of the shot or layer
        """
        self.shot_id = shot_id
        self.selection = None
        self.frame = self._within(self.frame)
        self.shot_changed.emit()
        self.selection_changed.emit()
        self.frame_changed.emit(self.frame)

    def show_frame(self, frame: int) -> None:
        """Move to a frame, or to the nearest in the shot.

        Parameters
        ----------
        frame : as the shot numbers it
        """
        frame = self._within(int(frame))
        if frame != self.frame:
            self.frame = frame
            self.frame_changed.emit(frame)

    def select(self, frames: tuple[int, int] | None) -> None:
        """Select a stretch of frames, or none.

        Parameters
        ----------
        frames : its two ends, in any order
        """
        if frames is not None:
            low, high = sorted(frames)
            frames = (self._within(low), self._within(high))
        if frames != self.selection:
            self.selection = frames
            self.selection_changed.emit()

    def settle(self) -> None:
        """Stay within the reel after an edit: a shot that is gone gives way to the one it belonged to, or to the first."""
        reel = self._reel()
        if not reel.has_shot(self.shot_id):
            self.show_shot(self.whole_id if reel.has_shot(self.whole_id) else reel.shots[0].id)
        self.show_frame(self.frame)
        self.select(self.selection)

    def _within(self, frame: int) -> int:
        shot = self.shot
        return min(max(frame, shot.begin), shot.past - 1)
