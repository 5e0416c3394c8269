"""A comparison: the sides, how they are shown, the loop, and what was found out about them."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import cv2
import numpy as np
from psygnal import Signal

from hasty_reel.image.srgb import light_of_codes8
from hasty_reel.pictures.colour import PLAIN
from hasty_reel.studio.compare.causes import CausesModel
from hasty_reel.studio.compare.difference import DifferencePicture
from hasty_reel.studio.compare.eyetest import EyeTest
from hasty_reel.studio.compare.geometry import SliceLine
from hasty_reel.studio.compare.loop import Loop
from hasty_reel.studio.compare.maps import TileMap, tile_map
from hasty_reel.studio.compare.measures import MeasuresModel
from hasty_reel.studio.compare.presentation import MODE_WORDS, Presentation
from hasty_reel.studio.compare.sides import FINALS, ComparedSides
from hasty_reel.studio.compare.study import Study
from hasty_reel.studio.eventloop import Timer
from hasty_reel.studio.look import Shown
from hasty_reel.studio.pictures import Wanted

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session

REST = 0.4
"""Seconds of rest before the two pictures that are shown are held against each other."""


class Comparison:
    """All of Compare without its window.

    watched : somebody looks at it: nothing is listed, read or measured before
    shown_changed() : another frame, or another picture of it, is to be shown; sides_changed() : others are compared
    maps_changed() : more is known of what is drawn over the pictures; studied() : something more was found out

    Parameters
    ----------
    session : the open reel
    """

    shown_changed = Signal()
    sides_changed = Signal()
    maps_changed = Signal()
    studied = Signal()

    def __init__(self, session: Session) -> None:
        self._session = session
        self.watched = False
        self._waiting = True
        self.sides = ComparedSides(session)
        self.presentation = Presentation()
        self.study = Study(session)
        self.loop = Loop(session, self.sides, self.presentation)
        self.difference = DifferencePicture(session, self.sides, self.presentation, self.loop, self.study)
        self.measures = MeasuresModel(session, self.sides, self.study)
        self.causes = CausesModel(session, self.sides, self.study)
        self.eye_test = EyeTest(session, self._light_of_a)
        self._rest = Timer(session.loop, REST, self._tell_apart)
        for signal in (session.planner.evidence_changed, session.cards.changed):
            signal.connect(self.refresh)
        session.playhead.shot_changed.connect(self._other_shot)
        session.playhead.frame_changed.connect(self._frame)
        session.own.eyes_changed.connect(self._eyes)
        session.pictures.came.connect(self._came)
        session.pictures.failed.connect(self._failed)
        self.sides.changed.connect(self._sides)
        self.loop.due.connect(self.show_at)
        self.study.changed.connect(self._studied)
        self.study.failed.connect(session.said)
        self.presentation.mode_changed.connect(self._mode)
        self.presentation.look_changed.connect(self._look)
        self.presentation.overlay_changed.connect(self.maps_changed)

    def watch(self, watched: bool) -> None:
        """Say whether anybody looks at the comparison.

        Parameters
        ----------
        watched : whether it is in sight
        """
        self.watched = self.loop.watched = watched
        if not watched:
            self.loop.stop()
            return
        if self._waiting:
            self.refresh()
        else:
            self._frame(self._session.playhead.frame)
        self.loop.fill_soon()
        self.find_out()

    # -- which sides

    def _other_shot(self) -> None:
        self.loop.stop()
        self.sides.forget_shot()
        self.refresh()

    def refresh(self) -> None:
        """List the sides anew; what nobody looks at waits."""
        self._waiting = not self.watched
        if self.watched and (self.sides.list_sides() or self.picture_size is None):
            self.sides.settle()

    def show_finals(self, folder: Path) -> None:
        """Take the finished frames of a run as a side.

        Parameters
        ----------
        folder : of the run
        """
        self.sides.finals = folder
        self.study.forget(FINALS)
        self._session.pictures.forget(FINALS)
        self.refresh()

    def _sides(self) -> None:
        self.loop.stop()
        self.difference.clear()
        self.causes.other_sides()
        self.sides_changed.emit()
        self._frame(self._session.playhead.frame)
        self.loop.changed.emit()
        self.loop.fill_soon()
        self.find_out()

    @property
    def empty_words(self) -> str:
        """What stands where there is nothing to compare."""
        if not self._session.planner.evidence:
            return "Reading the proofs …"
        return "No proof of this shot yet. Render one in Proofs, or choose frames on disk for A."

    # -- the pictures

    def wanted(self) -> list[Wanted]:
        """Return the pictures that are to be shown.

        Returns
        -------
        list[Wanted]
            One for each side.
        """
        return [self.loop.wanted(s, f) for s, f in zip(self.sides.sides, self.sides.frames)]

    @property
    def picture_size(self) -> tuple[int, int] | None:
        """Width and height of the larger of both pictures, in pixels; None while none is there."""
        shown = [self._session.pictures.peek(w) for w in self.wanted()]
        return max(((s.codes.shape[1], s.codes.shape[0]) for s in shown if s is not None), default=None)

    @property
    def lacks(self) -> str:
        """What is wrong with the pictures that are shown, in words; '' for nothing."""
        out = []
        for letter, side, wanted in zip("AB", self.sides.sides, self.wanted()):
            shown = self._session.pictures.peek(wanted)
            if shown is not None and shown.bad:
                out.append(f"{letter}: {shown.bad} pixels are not finite numbers")
            if shown is not None and shown.words:
                out.append(f"{side.name} {shown.words}")
        return ", ".join(out)

    def image(self, which: int, width: int, height: int) -> Shown | None:
        """Return the picture of a side at a size on the screen.

        Parameters
        ----------
        which : 0 for A, 1 for B
        width, height : in pixels

        Returns
        -------
        Shown | None
            The picture; None while it is being read, or where there is no such side.
        """
        wanted = self.wanted()
        return self._session.pictures.fitted(wanted[which], width, height) if which < len(wanted) else None

    def _frame(self, frame: int) -> None:
        if self.loop.playing or not self.sides.sides or not self.watched:
            self.shown_changed.emit()
        else:
            self.show_at(self.sides.go_to(frame))

    def show_at(self, at: int) -> None:
        """Show a frame of the loop.

        Parameters
        ----------
        at : place in the run
        """
        self.sides.at = at
        if self.watched:
            for wanted in self.wanted():
                self._session.pictures.get(wanted, light=not self.loop.playing)
        self.difference.make()
        self.shown_changed.emit()

    def _came(self, wanted: Wanted) -> None:
        if wanted in self.wanted():
            self.difference.make()
            self._rest.start()
            self.shown_changed.emit()

    def _failed(self, wanted: Wanted, words: str) -> None:
        if wanted.source in {s.key for s in self.sides.sides}:
            self._session.said.emit(words)

    def _mode(self) -> None:
        self.difference.forget()
        self.difference.make()
        self.shown_changed.emit()

    def _look(self) -> None:
        self.difference.forget()
        self.show_at(self.sides.at)
        self.loop.fill_soon()

    # -- over time

    def time_slices(self, line: SliceLine, width: int) -> tuple[list[np.ndarray | None], str, str]:
        """Return one line of the pictures over the frames of the loop.

        Parameters
        ----------
        line : its ends as shares of the picture
        width : of the widget that shows it, in pixels: what is finer is averaged

        Returns
        -------
        slices : np.ndarray
            (frames, length, 3) uint8 of each side, None where frames are missing
        title
            What it is
        empty
            Why there is none
        """
        run = self.sides.run
        if len(run) < 2:
            return [], "", "A time slice takes a run of frames; render one in Proofs, or choose frames on disk."
        slices: list[np.ndarray | None] = []
        for side in self.sides.sides:
            there = [s.codes for f in run if (s := self._session.pictures.peek(self.loop.wanted(side, f))) is not None]
            slices.append(slice_along(there, line, width) if len(there) == len(run) else None)
        return slices, f"the marked line over frames {run[0]}–{run[-1]}", "Reading the frames of the loop …"

    def _light_of_a(self) -> list[np.ndarray]:
        if not self.sides.sides:
            return []
        found = [self._session.pictures.peek(self.loop.wanted(self.sides.sides[0], f)) for f in self.sides.run]
        return [light_of_codes8(s.codes) for s in found if s is not None]

    # -- what was found out

    def find_out(self) -> None:
        """Find out what is looked at and not known yet."""
        if self.watched:
            self.measures.look()
            self.causes.look()
            self._tell_apart()

    def _tell_apart(self) -> None:
        sides = self.sides.sides
        if len(sides) == 2 and self.watched and self.measures.watched and not self.loop.playing:
            lights = [self._session.pictures.light(w) for w in self.wanted()]
            self.study.tell_apart(sides, self.sides.frames, lights)

    def _studied(self) -> None:
        self.measures.changed.emit()
        self.causes.refresh()
        self.maps_changed.emit()
        self.studied.emit()

    def maps(self) -> list[TileMap | None]:
        """Return what is drawn over the pictures.

        Returns
        -------
        list[TileMap | None]
            One map for each side, None for none.
        """
        return [tile_map(self.presentation.overlay, m, self._session.eyes) for m in self.measures.found]

    def _eyes(self) -> None:
        self.difference.forget()
        self.find_out()
        self.maps_changed.emit()

    # -- in words

    def snapshot_lines(self, scale: float) -> list[str]:
        """Return what stands under a snapshot: the sides with their settings, where they are from, and how they are shown.

        Parameters
        ----------
        scale : screen pixels a pixel of the picture

        Returns
        -------
        list[str]
            Lines.
        """
        out = []
        sides, shown, look = self.sides.sides, self.sides.frames, self.presentation.look
        for letter, side, frame in zip("AB", sides, shown):
            seconds = f", {side.seconds[frame]:.2f} s" if frame in side.seconds else ""
            out.append(f"{letter}  {side.name}: {side.words}{seconds}")
        view = "plain view" if look.view == PLAIN else look.view
        how = f"{MODE_WORDS[self.presentation.mode]}, " if len(sides) == 2 else ""
        at = f"frame {shown[0]}" if shown else "no frame"
        where = f"{self._session.reel.name}, {self._session.shot.name}"
        out.append(f"{where}, {at}. {how}{look.channel.lower()}, exposure {look.exposure:+g} stops, {view}, shown {scale:.3g}:1")
        return out

    @property
    def snapshot_name(self) -> str:
        """A file name for a snapshot."""
        keys = "-".join(s.key for s in self.sides.sides if "/" not in s.key)
        return f"{self._session.playhead.shot_id}-{self.sides.frame_of(0)}-{keys}.png"


def slice_along(frames: list[np.ndarray], line: SliceLine, width: int) -> np.ndarray:
    """Return one line of the picture over time, as wide as it is shown.

    Parameters
    ----------
    frames : (h, w, 3) uint8 each
    line : its ends as shares of the picture
    width : in pixels, at most

    Returns
    -------
    np.ndarray
        (frames, length, 3) uint8, the first frame on top
    """
    from hasty_reel.measure.timeslice import time_slice

    h, w = frames[0].shape[:2]
    found = time_slice(frames, (line.x0 * (w - 1), line.y0 * (h - 1)), (line.x1 * (w - 1), line.y1 * (h - 1)))
    if found.shape[1] > width:  # finer than the screen: averaged, not dropped
        found = cv2.resize(found, (width, found.shape[0]), interpolation=cv2.INTER_AREA)
    return found
