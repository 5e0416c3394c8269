"""Which sides are compared, over which frames, and where in them it stands."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QObject, Signal

from hasty_reel.desk.session import Session
from hasty_reel.desk.stages.compare.sides import SidesBar
from hasty_reel.errors import HastyReelError
from hasty_reel.evidence.sides import Side, loop_of, side_of_footage, sides_of, two_runs
from hasty_reel.farm.bringin import pattern_of
from hasty_reel.farm.folder import RunFolder
from hasty_reel.pictures.footage import Footage

FINALS = "finals"
"""Key of the side that holds the finished frames of a run."""


class Chosen(QObject):
    """The sides there are and the two that were picked; `changed` tells of others.

    run : the frames both have, or those of one alone; at : the place in them; finals : folder of a run with finished frames
    """

    changed = Signal()

    def __init__(self, session: Session, bar: SidesBar, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._session, self._bar = session, bar
        self._own: list[Side] = []
        self.run: list[int] = []
        self.at = 0
        self.finals: Path | None = None
        bar.sides_changed.connect(self.settle)

    @property
    def sides(self) -> list[Side]:
        """A, or A and B."""
        return [s for s in self._bar.chosen if s is not None]

    def forget_shot(self) -> None:
        """Another shot: what was picked belongs to the one before."""
        self._own = []
        self._bar.chosen, self._bar.by_hand = [None, None], False

    def list_sides(self) -> bool:
        """List the sides there are; keep those that were picked, else pick two runs of the same frames. True : others came."""
        session, bar = self._session, self._bar
        found = sides_of(session.shot_evidence, session.shot)
        if self.finals is not None:
            folder = RunFolder(self.finals, session.shot_id, True)
            if folder.final.frames():
                found.insert(0, Side(**{**vars(side_of_footage(Footage(folder.final), "Finished frames")), "key": FINALS}))
        bar.listed = [*found, *self._own]
        by_key = {s.key: s for s in bar.listed}
        kept = [None if s is None else by_key.get(s.key) for s in bar.chosen]
        if kept[0] is None or not bar.by_hand:
            kept = list(two_runs(bar.listed))
        same = [s.key for s in self.sides] == [s.key for s in kept if s is not None]
        bar.chosen = kept
        bar.refresh()
        return not same or loop_of(self.sides, session.frame) != self.run

    def compare(self, a: str, b: str | None) -> None:
        """Compare two sides by their keys."""
        by_key = {s.key: s for s in self._bar.listed}
        self._bar.chosen, self._bar.by_hand = [by_key.get(a), by_key.get(b) if b is not None else None], True
        self._bar.refresh()
        self.settle()

    def take_footage(self, which: int, path: Path) -> None:
        """Frames on disk as a side; a fault is said."""
        try:
            pattern = pattern_of(path)
            side = side_of_footage(Footage(pattern), pattern.before.rstrip("._-") or pattern.folder.name)
        except HastyReelError as error:
            self._session.said.emit(str(error))
            return
        self._own = [s for s in self._own if s.key != side.key] + [side]
        self._bar.listed.append(side)
        self._bar.choose(which, side)

    def settle(self) -> None:
        """Find the frames of the sides that are picked now, and tell of it."""
        sides = self.sides
        self.run = loop_of(sides, self._session.frame) if sides else []
        self.at = min(self.at, max(0, len(self.run) - 1))
        self.changed.emit()

    # -- where it stands

    def go_to(self, frame: int) -> int:
        """Stand at a frame, or at the nearest there is; its place in the run."""
        if self.run:
            self.at = min(range(len(self.run)), key=lambda k: abs(self.run[k] - frame))
        return self.at

    def frame_of(self, which: int) -> int:
        """The frame a side shows: that of the run, or its nearest where both have none in common."""
        if self.run:
            return self.run[min(self.at, len(self.run) - 1)]
        return self.sides[which].nearest(self._session.frame) or 0

    @property
    def frames(self) -> list[int]:
        """The frame each side shows."""
        return [self.frame_of(k) for k in range(len(self.sides))]

    @property
    def frame_words(self) -> str:
        """'frame 12', or 'frames 12 and 40' where the sides have none in common."""
        shown = self.frames
        return f"frame {shown[0]}" if len(set(shown)) == 1 else f"frames {' and '.join(map(str, shown))}"
