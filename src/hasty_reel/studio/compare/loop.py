"""The loop of the sides: filled into memory, played at its true rate, stopped at a frame."""

from __future__ import annotations

from typing import TYPE_CHECKING

from psygnal import Signal

from hasty_reel.evidence.sides import Side
from hasty_reel.studio.compare.player import LoopPlayer
from hasty_reel.studio.compare.presentation import Presentation
from hasty_reel.studio.compare.sides import ComparedSides
from hasty_reel.studio.eventloop import Timer
from hasty_reel.studio.pictures import Wanted
from hasty_reel.typednumbers import read_number

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session

FILL_AFTER = 0.25
"""Seconds of rest before a loop is read."""
TOLD_EVERY = 8
"""Frames after which it is told that more of the loop is there."""
LEAST_MB, MOST_MB = 16, 65536
"""Megabytes that pictures may be let take."""
SLOW_BELOW = 0.97
"""Share of the true rate below which it is said that it is not reached."""


class Loop:
    """Plays what is compared.

    watched : somebody looks at the comparison, so that loops are read
    reached : frames a second that are shown; None while nothing plays
    due(int) : this place in the run is to be shown; filled() : more of the loop is in memory
    changed() : it plays or stands, or what is in memory changed

    Parameters
    ----------
    session : the open reel
    sides : what is compared
    presentation : how it is shown
    """

    due = Signal(int)
    filled = Signal()
    changed = Signal()

    def __init__(self, session: Session, sides: ComparedSides, presentation: Presentation) -> None:
        self._session, self._sides, self._presentation = session, sides, presentation
        self.watched = False
        self.reached: float | None = None
        self.player = LoopPlayer(session.loop)
        self._timer = Timer(session.loop, FILL_AFTER, self._fill)
        self.player.due.connect(self.due)
        self.player.rate.connect(self._rated)
        session.pictures.filled.connect(self._filled)
        session.pictures.came.connect(lambda wanted: self.changed.emit())

    @property
    def fps(self) -> float:
        """Its true rate, in frames a second."""
        return float(self._session.reel.fps)

    @property
    def playing(self) -> bool:
        """Whether it plays."""
        return self.player.playing

    def wanted(self, side: Side, frame: int) -> Wanted:
        """Return a picture of a side as it is shown now.

        Parameters
        ----------
        side : the side
        frame : of it

        Returns
        -------
        Wanted
            What the memory of pictures is asked for.
        """
        return Wanted(side.key, frame, lambda guides: side.read(frame, guides), self._presentation.look)

    def fill_soon(self) -> None:
        """Read what is missing after a rest."""
        self._timer.start()

    def toggle(self) -> None:
        """Play or stop."""
        count = len(self._sides.run)
        if self.playing:
            self.stop()
        elif count > 1:
            self.player.play(count, self.fps, self._sides.at)
            self.changed.emit()

    def stop(self) -> None:
        """Stop where it is; the playhead of the reel goes there."""
        if self.playing:
            self.player.stop()
            self.reached = None
            self.changed.emit()
            self.go_to(self._sides.at)

    def go_to(self, at: int) -> None:
        """Stop, and stand at a place of the run.

        Parameters
        ----------
        at : place in the run
        """
        self.stop()
        if self._sides.run:
            self._session.playhead.show_frame(self._sides.run[at])
        self.due.emit(at)

    @property
    def megabytes(self) -> float:
        """What pictures take in memory, in MB."""
        return self._session.pictures.megabytes

    @property
    def bound_mb(self) -> int:
        """The most that pictures may take, in MB."""
        return self._session.pictures.bound_mb

    def type_bound(self, text: str) -> None:
        """Let pictures take more or less memory, as it is typed; what makes no sense is said.

        Parameters
        ----------
        text : megabytes, with or without the unit
        """
        try:
            value = read_number(text.strip().removesuffix("MB"))
        except ValueError:
            value = None
        if value is None or not LEAST_MB <= value <= MOST_MB:
            self._session.said.emit(f"Memory for pictures '{text[:40]}'; expected {LEAST_MB} to {MOST_MB} MB.")
        else:
            self._session.pictures.bound_mb = round(value)
            self.fill_soon()
        self.changed.emit()

    @property
    def in_memory(self) -> list[bool]:
        """Of each frame of the run, whether all its pictures are in memory."""
        peek = self._session.pictures.holds
        return [all(peek(self.wanted(s, f)) for s in self._sides.sides) for f in self._sides.run]

    @property
    def length_words(self) -> str:
        """How long the loop is."""
        count = len(self._sides.run)
        return f"{count} frames, {count / self.fps:.2f} s" if count > 1 else "one frame: no loop"

    @property
    def rate_words(self) -> str:
        """The rate, and the one that is reached while it plays."""
        if self.reached is None:
            return f"{self.fps:.5g} fps"
        if self.reached < SLOW_BELOW * self.fps:
            return f"only {self.reached:.1f} of {self.fps:.5g} fps"
        return f"{min(self.reached, self.fps):.1f} of {self.fps:.5g} fps"

    def _rated(self, rate: float) -> None:
        self.reached = rate
        self.changed.emit()

    def _fill(self) -> None:
        run = self._sides.run
        if self.watched and len(run) > 1:
            self._session.pictures.fill([self.wanted(s, f) for f in run for s in self._sides.sides])
        self.changed.emit()

    def _filled(self, count: int, of: int) -> None:
        self.changed.emit()
        if count % TOLD_EVERY == 0 or count == of:
            self.filled.emit()
