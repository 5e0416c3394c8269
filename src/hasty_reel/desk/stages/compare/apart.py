"""The picture of a difference: from light where it is at hand, from display codes while the loop plays."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from hasty_reel.desk.jobs import Job
from hasty_reel.desk.picture import as_image
from hasty_reel.desk.session import Session
from hasty_reel.desk.stages.compare.frames import Frames
from hasty_reel.evidence.sides import Side
from hasty_reel.measure.aside import flip_aside
from hasty_reel.measure.difference import absolute, in_lightness
from hasty_reel.pictures.colour import PLAIN

Kind = str
"""'Light', 'L*' or 'FLIP'."""


class Apart(QObject):
    """Makes the picture of a difference; came(QImage, str): it, and what it is in words."""

    came = Signal(QImage, str)

    def __init__(self, session: Session, frames: Frames, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._session, self._frames = session, frames
        self._wanted: tuple | None = None

    def forget(self) -> None:
        """Make it anew when it is asked for next."""
        self._wanted = None

    def show(self, sides: Sequence[Side], at: Sequence[int], kind: Kind, gain: int, density: float | None, moving: bool) -> None:
        """Make the picture of two sides at two frames.

        Parameters
        ----------
        density : pixels a degree, None: as high as the picture is; moving : a loop plays, so it must be quick
        """
        one, two = (None if moving else self._frames.light(s, f) for s, f in zip(sides, at))
        if one is None or two is None or one.shape != two.shape:
            self._quickly(sides, at, gain)
            return
        view = self._frames.look.view
        wanted = (*(s.key for s in sides), *at, kind, gain, self._frames.look)
        if wanted == self._wanted:
            return
        self._wanted = wanted
        seen_as = None if view == PLAIN else view
        shown_at = density or self._session.eyes.pixels_per_degree(one.shape[0])

        def work(job: Job) -> np.ndarray:
            if kind == "Light":
                return absolute(one, two)
            if kind == "L*":
                return np.abs(in_lightness(one, two, seen_as)) / 100.0
            return flip_aside(one, two, shown_at, seen_as)

        def done(plane: object) -> None:
            if wanted == self._wanted:
                assert isinstance(plane, np.ndarray)
                mean = {"Light": f"{plane.mean():.3g}", "L*": f"{100 * plane.mean():.2f} L*", "FLIP": f"{plane.mean():.3f}"}[kind]
                self._show(plane, gain, f"difference in {kind} ×{gain}, mean {mean}")

        job = self._session.jobs.start(work)
        job.done.connect(done)
        job.failed.connect(self._session.said)

    def _quickly(self, sides: Sequence[Side], at: Sequence[int], gain: int) -> None:
        one, two = (self._frames.get(s, f) for s, f in zip(sides, at))
        if one is None or two is None:
            return
        if one.codes.shape != two.codes.shape:
            self.came.emit(QImage(), "no difference: the sides have other sizes")
            return
        apart = np.abs(one.codes.astype(np.int16) - two.codes).max(axis=-1)
        self._show(apart / 255.0, gain, f"difference of display codes ×{gain}")

    def _show(self, plane: np.ndarray, gain: int, words: str) -> None:
        codes = np.clip(np.nan_to_num(plane, nan=1.0) * gain * 255.0 + 0.5, 0, 255).astype(np.uint8)
        self.came.emit(as_image(np.repeat(codes[..., None], 3, axis=-1)), words)
