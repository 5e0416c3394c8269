"""What is found out about the sides beside the window's thread, each thing once: measures, causes, how far two pictures are apart."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from psygnal import Signal

from hasty_reel.evidence.sides import Side
from hasty_reel.measure.causes import Causes, find_causes
from hasty_reel.measure.difference import similarity
from hasty_reel.measure.flipprocess import flip_in_process
from hasty_reel.measure.plane import seen_frame
from hasty_reel.measure.sequence import SequenceMeasures, measure_sequence
from hasty_reel.studio.background import BackgroundTask

if TYPE_CHECKING:
    from hasty_reel.studio.context import ShotContext

UNKNOWN = (float("nan"), float("nan"))


@dataclass
class Known:
    """What was found out about a side over some frames; fault : why there are no causes."""

    measures: SequenceMeasures | None = None
    causes: Causes | None = None
    fault: str = ""


class Study:
    """Keeps what was found out; `changed` tells when there is more, failed(str) what went wrong.

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()
    failed = Signal(str)

    def __init__(self, session: ShotContext) -> None:
        self._session = session
        self._known: dict[tuple, Known] = {}
        self._tasks: dict[tuple, BackgroundTask] = {}
        self._apart: dict[tuple, tuple[float, float]] = {}

    def density(self, side: Side) -> float | None:
        """Return how large the pixels of a side are seen.

        Parameters
        ----------
        side : the side

        Returns
        -------
        float | None
            Pixels a degree of a proof's pixels as they will stand in the delivered picture; None for pictures seen as high as they are.
        """
        if side.proof is None:
            return None
        return self._session.eyes.pixels_per_degree(self._session.reel.height, side.proof.recipe.render_scale)

    def _key(self, side: Side, run: Sequence[int]) -> tuple:
        return (side.key, tuple(run), self._session.eyes, float(self._session.reel.fps), self.density(side))

    def of(self, side: Side, run: Sequence[int]) -> Known:
        """Return what is known of a side.

        Parameters
        ----------
        side : the side
        run : frames it was studied over

        Returns
        -------
        Known
            What is known so far; parts not measured yet are None.
        """
        return self._known.get(self._key(side, run), Known())

    def seen_through(self, side: Side) -> bool:
        """Whether a side was looked through for causes over any frames.

        Parameters
        ----------
        side : the side

        Returns
        -------
        bool
            True where it is so.
        """
        return any(key[0] == side.key and known.causes is not None for key, known in self._known.items())

    @property
    def busy(self) -> str:
        """What is going on, in words; '' when nothing is."""
        if any(key[0] == "measures" for key in self._tasks):
            return "Measuring …"
        return "Looking for causes …" if self._tasks else ""

    def forget(self, key: str) -> None:
        """Forget a side: other frames took its place.

        Parameters
        ----------
        key : of the side
        """
        self._known = {k: v for k, v in self._known.items() if k[0] != key}

    def measure(self, side: Side, run: Sequence[int]) -> None:
        """Measure a side, unless it is known or under way.

        Parameters
        ----------
        side : the side
        run : its frames
        """
        if run and self.of(side, run).measures is None:
            eyes, fps, density = self._session.eyes, float(self._session.reel.fps), self.density(side)
            pair = side.read_pair if side.two_seeds else None

            def work(task: BackgroundTask) -> SequenceMeasures:
                return measure_sequence(run, side.read, pair, None, eyes, fps, density, progress=task.tell, cancel=task.cancel)

            self._start("measures", side, run, work)

    def look_through(self, side: Side, run: Sequence[int]) -> None:
        """Find the causes of a side, unless they are known or under way.

        Parameters
        ----------
        side : the side
        run : its frames
        """
        known = self.of(side, run)
        if len(run) > 1 and known.causes is None and not known.fault:
            self._start("causes", side, run, lambda task: find_causes(run, side.read, progress=task.tell, cancel=task.cancel))

    def _start(self, what: str, side: Side, run: Sequence[int], work) -> None:
        key = self._key(side, run)
        if (what, key) in self._tasks:
            return
        self._tasks[(what, key)] = task = self._session.background.start(work)

        def done(thing: object) -> None:
            setattr(self._known.setdefault(key, Known()), what, thing)

        def failed(words: str) -> None:
            if what == "causes":
                self._known.setdefault(key, Known()).fault = words
            else:
                self.failed.emit(words)

        def ended() -> None:
            self._tasks.pop((what, key), None)
            self.changed.emit()

        task.done.connect(done)
        task.failed.connect(failed)
        task.ended.connect(ended)

    # -- two pictures

    def apart(self, sides: Sequence[Side], frames: Sequence[int]) -> tuple[float, float]:
        """Return how far two frames are apart.

        Parameters
        ----------
        sides : both sides
        frames : of each

        Returns
        -------
        flip, ssim
            Means over the picture; nan while they are not known
        """
        return self._apart.get(self._pair(sides, frames), UNKNOWN)

    def _pair(self, sides: Sequence[Side], frames: Sequence[int]) -> tuple:
        return (*(s.key for s in sides), *frames, self._session.eyes)

    def tell_apart(self, sides: Sequence[Side], frames: Sequence[int], lights: Sequence[np.ndarray | None]) -> None:
        """Find out how far two frames are apart, once.

        Parameters
        ----------
        sides : both sides
        frames : of each
        lights : (h, w, 3) scene-linear each, None where it was not read yet
        """
        one, two = lights
        key = self._pair(sides, frames)
        if key in self._apart or one is None or two is None or one.shape != two.shape:
            return
        self._apart[key] = UNKNOWN
        density = self.density(sides[0]) or self._session.eyes.pixels_per_degree(one.shape[0])

        def _work(task: BackgroundTask) -> tuple[float, float]:
            structure = similarity(seen_frame(one).lightness, seen_frame(two).lightness)
            return float(flip_in_process(one, two, density).mean()), structure

        def _done(thing: object) -> None:
            self._apart[key] = thing  # type: ignore[assignment]
            self.changed.emit()

        task = self._session.background.start(_work)
        task.done.connect(_done)
        task.failed.connect(self.failed)
