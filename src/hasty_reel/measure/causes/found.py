"""The causes in order, the plainest first."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hasty_reel.errors import WrongInput
from hasty_reel.measure.causes.gathered import TILE, Gathered
from hasty_reel.measure.causes.scores import Trace, score, traces
from hasty_reel.measure.neighbours import Reader, SequenceReport, frames_with_neighbours
from hasty_reel.work import CancelToken, Progress, silent

CAUSES = ("grain", "blotches", "sparks", "pinned_pattern", "shimmer", "strobing", "pumping", "settling", "lens_noise")
WORDS = {name: name.replace("_", " ") for name in CAUSES}
PLAIN, HEARD = 0.5, 0.3
"""Scores from which on a cause is plain to see, and worth a word."""


@dataclass(frozen=True)
class Cause:
    """One cause of unrest.

    score : 0 to 1, one half where it begins to be seen; frames : where it is worst
    region : x, y, width, height in pixels; trace : what speaks for it
    """

    name: str
    score: float
    frames: tuple[int, ...]
    region: tuple[int, int, int, int]
    trace: Trace

    @property
    def words(self) -> str:
        """Its name as it is read."""
        return WORDS[self.name]


@dataclass(frozen=True)
class Causes:
    """All nine, the plainest first, and what of the sequence was not taken as one would expect."""

    causes: tuple[Cause, ...]
    report: SequenceReport
    measured: tuple[int, ...]

    def words(self) -> list[str]:
        """Return what was not taken as one would expect, in sentences."""
        return self.report.words()

    @property
    def heard(self) -> tuple[Cause, ...]:
        """Those worth a word."""
        return tuple(c for c in self.causes if c.score >= HEARD)


def find_causes(
    frames: Sequence[int], read: Reader, view: str | None = None, progress: Progress = silent, cancel: CancelToken | None = None
) -> Causes:
    """Return the causes of unrest in a sequence.

    Parameters
    ----------
    frames : numbers of the frames, in order
    read : reads a frame with the guides that are named
    view : display view; None for the plain one, which clips and has no tone curve
    progress : called with the share that is done, 0 to 1, and words
    cancel : looked at meanwhile; None: it cannot be stopped

    Raises
    ------
    WrongInput
        When there are not two frames in a row that can be compared.
    Stopped
        When the work was stopped.
    """
    gathered, report = Gathered(), SequenceReport()
    for here in frames_with_neighbours(frames, read, report, view=view, progress=progress, cancel=cancel):
        if here.before is not None or here.after is not None:
            gathered.take(here)
    if len(gathered.frames) < 2:
        why = next(iter(report.unreadable.values()), "")
        raise WrongInput(f"Causes show in motion: expected two frames in a row or more of the same size. {why}".rstrip())
    found = [_cause(name, trace, gathered) for name, trace in traces(gathered).items()]
    found.sort(key=lambda c: -c.score)
    return Causes(tuple(found), report, tuple(gathered.frames))


def _cause(name: str, trace: Trace, gathered: Gathered) -> Cause:
    value = round(score(name, trace.amplitude), 4)
    curve = np.nan_to_num(trace.curve)
    half = 0.5 * float(curve.max(initial=0.0))
    frames = tuple(f for f, c in zip(gathered.frames, curve) if c >= half and c > 0)
    return Cause(name, value, frames, _region(trace.tiles, gathered.shape), trace)


def _region(tiles: np.ndarray, shape: tuple[int, int]) -> tuple[int, int, int, int]:
    """The box around the tiles where most of it sits; all of the picture where it is everywhere or nowhere."""
    h, w = shape
    tiles = np.nan_to_num(tiles)
    top = float(tiles.max(initial=0.0))
    if top <= 0:
        return 0, 0, w, h
    rows, columns = np.nonzero(tiles >= 0.5 * top)
    x, y = int(columns.min()) * TILE, int(rows.min()) * TILE
    return x, y, min(w, (int(columns.max()) + 1) * TILE) - x, min(h, (int(rows.max()) + 1) * TILE) - y
