"""The picture of a difference: from light where it is at hand, from display codes while the loop plays."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from psygnal import Signal

from hasty_reel.pictures.colour import PLAIN
from hasty_reel.studio.background import BackgroundTask
from hasty_reel.studio.compare.loop import Loop
from hasty_reel.studio.compare.presentation import Difference, Presentation
from hasty_reel.studio.compare.sides import ComparedSides
from hasty_reel.studio.compare.study import Study
from hasty_reel.studio.look import Shown

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session


class DifferencePicture:
    """The difference of the frames that are shown; shown : its picture, None for none; words : what it is. changed() : another one.

    Parameters
    ----------
    session : the open reel
    sides : what is compared
    presentation : which difference is shown, and how plainly
    loop : plays, so that it must be quick, or stands
    study : knows how large the pixels are seen
    """

    changed = Signal()

    def __init__(self, session: Session, sides: ComparedSides, presentation: Presentation, loop: Loop, study: Study) -> None:
        self._session, self._sides, self._presentation, self._loop, self._study = session, sides, presentation, loop, study
        self._wanted: tuple | None = None
        self.shown: Shown | None = None
        self.words = ""

    def forget(self) -> None:
        """Make it anew when it is asked for next."""
        self._wanted = None

    def clear(self) -> None:
        """Show none."""
        self.shown = None
        self.forget()

    def make(self) -> None:
        """Make the picture of the frames that are shown, where a difference is asked for."""
        sides, how = self._sides.sides, self._presentation
        if how.mode != "difference" or len(sides) != 2:
            return
        at = self._sides.frames
        pictures = self._session.pictures
        asked = [self._loop.wanted(s, f) for s, f in zip(sides, at)]
        one, two = (None if self._loop.playing else pictures.light(w) for w in asked)
        if one is None or two is None or one.shape != two.shape:
            self._of_codes(*(pictures.get(w) for w in asked))
            return
        wanted = (*(s.key for s in sides), *at, how.difference, how.gain, how.look)
        if wanted == self._wanted:
            return
        self._wanted = wanted
        kind, gain, view = how.difference, how.gain, None if how.look.view == PLAIN else how.look.view
        density = self._study.density(sides[0]) or self._session.eyes.pixels_per_degree(one.shape[0])

        def _done(plane: np.ndarray) -> None:
            if wanted == self._wanted:
                mean = {"Light": f"{plane.mean():.3g}", "L*": f"{100 * plane.mean():.2f} L*", "FLIP": f"{plane.mean():.3f}"}[kind]
                self._show(plane, gain, f"difference in {kind} ×{gain}, mean {mean}")

        task = self._session.background.start(lambda task: difference_plane(task, one, two, kind, density, view))
        task.done.connect(_done)
        task.failed.connect(self._session.said)

    def _of_codes(self, one: Shown | None, two: Shown | None) -> None:
        if one is None or two is None:
            return
        if one.codes.shape != two.codes.shape:
            self.shown, self.words = None, "no difference: the sides have other sizes"
            self.changed.emit()
            return
        apart = np.abs(one.codes.astype(np.int16) - two.codes).max(axis=-1)
        gain = self._presentation.gain
        self._show(apart / 255.0, gain, f"difference of display codes ×{gain}")

    def _show(self, plane: np.ndarray, gain: int, words: str) -> None:
        codes = np.clip(np.nan_to_num(plane, nan=1.0) * gain * 255.0 + 0.5, 0, 255).astype(np.uint8)
        self.shown, self.words = Shown(np.repeat(codes[..., None], 3, axis=-1)), words
        self.changed.emit()


def difference_plane(
    task: BackgroundTask, one: np.ndarray, two: np.ndarray, kind: Difference, density: float, view: str | None
) -> np.ndarray:  # fmt: skip
    """Compute the difference of two pictures.

    Parameters
    ----------
    task : in which it is computed
    one, two : (h, w, 3) scene-linear light
    kind : which difference
    density : pixels a degree, as they are seen
    view : display view; None for the plain one

    Returns
    -------
    np.ndarray
        (h, w), 1 for a difference of white and black.
    """
    from hasty_reel.measure.difference import absolute, in_lightness
    from hasty_reel.measure.flipprocess import flip_in_process

    task.cancel.check()
    if kind == "Light":
        return absolute(one, two)
    if kind == "L*":
        return np.abs(in_lightness(one, two, view)) / 100.0
    return flip_in_process(one, two, density, view)
