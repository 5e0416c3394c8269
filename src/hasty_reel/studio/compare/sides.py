"""Which sides are compared, over which frames, and where in them one stands."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from psygnal import Signal

from hasty_reel.errors import HastyReelError
from hasty_reel.evidence.sides import Side, loop_of, side_of_footage, sides_of, two_runs
from hasty_reel.farm.patternof import pattern_of
from hasty_reel.pictures.footage import Footage
from hasty_reel.run.folder import RunFolder

if TYPE_CHECKING:
    from hasty_reel.studio.context import ShotContext

FINALS = "finals"
"""Key of the side that holds the finished frames of a run."""


class ComparedSides:
    """The sides there are and the two that are compared.

    listed : all there are; chosen : A and B, None for none; by_hand : they were chosen by the person, and are not chosen
        anew when there are others
    run : the frames both have, or those of one alone; at : the place in them; finals : folder of a run with finished frames
    changed() : others are compared; listed_changed() : there are others to choose from

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()
    listed_changed = Signal()

    def __init__(self, session: ShotContext) -> None:
        self._session = session
        self._on_disk: list[Side] = []
        self.listed: list[Side] = []
        self.chosen: list[Side | None] = [None, None]
        self.by_hand = False
        self.run: list[int] = []
        self.at = 0
        self.finals: Path | None = None

    @property
    def sides(self) -> list[Side]:
        """A, or A and B."""
        return [s for s in self.chosen if s is not None]

    def forget_shot(self) -> None:
        """Forget what was chosen: it belongs to the shot before."""
        self._on_disk = []
        self.chosen, self.by_hand = [None, None], False

    def list_sides(self) -> bool:
        """List the sides there are; those that were chosen stay, else two runs of the same frames are chosen.

        Returns
        -------
        bool
            Whether others are compared now, or over other frames.
        """
        session = self._session
        found = sides_of(session.evidence, session.shot)
        if self.finals is not None:
            folder = RunFolder(self.finals, session.playhead.shot_id, True)
            if folder.final.frames():
                found.insert(0, Side(**{**vars(side_of_footage(Footage(folder.final), "Finished frames")), "key": FINALS}))
        before = {s.key for s in self.listed}
        self.listed = [*found, *self._on_disk]
        by_key = {s.key: s for s in self.listed}
        chosen = [None if s is None else by_key.get(s.key) for s in self.chosen]
        if chosen[0] is None or not self.by_hand:
            chosen = list(two_runs(self.listed))
        elif before and (newer := self._newer_pass(chosen, before)) is not None:
            chosen = newer
        same = [s.key for s in self.sides] == [s.key for s in chosen if s is not None]
        self.chosen = chosen
        self.listed_changed.emit()
        return not same or loop_of(self.sides, session.playhead.frame) != self.run

    def _newer_pass(self, chosen: list[Side | None], before: set[str]) -> list[Side | None] | None:
        """The newest pass of the frames that are compared against the one before it, where one has just come; None where none has."""
        last = chosen[1] or chosen[0]
        if last is None:
            return None
        fresh = [s for s in self.listed if s.key not in before and set(s.paths) == set(last.paths)]
        return [last, fresh[0]] if fresh else None

    def step_pass(self, way: int) -> None:
        """Compare the next older or newer pass of the same frames as B, A staying; around the ends.

        Parameters
        ----------
        way : 1 for the older, -1 for the newer
        """
        shown = self.chosen[1] or self.chosen[0]
        if shown is None:
            return
        beside = self.chosen[0] if self.chosen[1] is not None else None
        passes = [s for s in self.listed if set(s.paths) == set(shown.paths) and (beside is None or s.key != beside.key)]
        keys = [s.key for s in passes]
        if len(passes) > 1 and shown.key in keys:
            self.choose(1 if self.chosen[1] is not None else 0, passes[(keys.index(shown.key) + way) % len(passes)])

    def compare(self, a: str, b: str | None) -> None:
        """Compare two sides.

        Parameters
        ----------
        a, b : their keys; None for A alone
        """
        by_key = {s.key: s for s in self.listed}
        self._choose([by_key.get(a), by_key.get(b) if b is not None else None])

    def choose(self, which: int, side: Side | None) -> None:
        """Compare another side.

        Parameters
        ----------
        which : 0 for A, 1 for B
        side : the side; None for none
        """
        self._choose([side, self.chosen[1]] if which == 0 else [self.chosen[0], side])

    def swap(self) -> None:
        """Make A of B and B of A."""
        if self.chosen[1] is not None:
            self._choose(self.chosen[::-1])

    def _choose(self, chosen: list[Side | None]) -> None:
        self.chosen, self.by_hand = chosen, True
        self.listed_changed.emit()
        self.settle()

    def take_footage(self, which: int, path: Path) -> None:
        """Take frames on disk as a side; a fault is said.

        Parameters
        ----------
        which : 0 for A, 1 for B
        path : one picture of the sequence
        """
        try:
            pattern = pattern_of(path)
            side = side_of_footage(Footage(pattern), pattern.before.rstrip("._-") or pattern.folder.name)
        except HastyReelError as error:
            self._session.said.emit(str(error))
            return
        self._on_disk = [s for s in self._on_disk if s.key != side.key] + [side]
        self.listed.append(side)
        self.choose(which, side)

    def settle(self) -> None:
        """Find the frames of the sides that are compared now, and tell of it."""
        sides = self.sides
        self.run = loop_of(sides, self._session.playhead.frame) if sides else []
        self.at = min(self.at, max(0, len(self.run) - 1))
        self.changed.emit()

    # -- where one stands

    def go_to(self, frame: int) -> int:
        """Stand at a frame, or at the nearest there is.

        Parameters
        ----------
        frame : as the shot numbers it

        Returns
        -------
        int
            Its place in the run.
        """
        if self.run:
            self.at = min(range(len(self.run)), key=lambda k: abs(self.run[k] - frame))
        return self.at

    def frame_of(self, which: int) -> int:
        """Return the frame a side shows: that of the run, or its nearest where both have none in common.

        Parameters
        ----------
        which : 0 for A, 1 for B

        Returns
        -------
        int
            The number.
        """
        if self.run:
            return self.run[min(self.at, len(self.run) - 1)]
        return self.sides[which].nearest(self._session.playhead.frame) or 0

    @property
    def frames(self) -> list[int]:
        """The frame each side shows."""
        return [self.frame_of(k) for k in range(len(self.sides))]

    @property
    def frame_words(self) -> str:
        """'frame 12', or 'frames 12 and 40' where the sides have none in common."""
        shown = self.frames
        return f"frame {shown[0]}" if len(set(shown)) == 1 else f"frames {' and '.join(map(str, shown))}"
