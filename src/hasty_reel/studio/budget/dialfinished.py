"""Finished frames of the run that the dial shows, made at a few sample counts beside everything else."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from psygnal import Signal

from hasty_reel.errors import HastyReelError
from hasty_reel.farm.atsamples import RunAtSamples
from hasty_reel.farm.keptlooks import KeptLooks
from hasty_reel.farm.proofrun import chain_on
from hasty_reel.finish.chain import Chain
from hasty_reel.image.plaincodes import plain_codes
from hasty_reel.pictures.colour import dither_of
from hasty_reel.programs.ownsteps import own_step
from hasty_reel.settings.finishorder import own_names
from hasty_reel.studio.background import BackgroundTask

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session

LEVELS = 6
"""Sample counts at which finished frames are made, evenly over the dial; between them the nearest is shown."""
Key = tuple[Chain, float, int]
"""A chain, samples, and a frame."""


def level_of(samples: float, least: float, most: float) -> float:
    """Return the sample count at which finished frames are made that is nearest to another, on a logarithmic scale.

    Parameters
    ----------
    samples : per pixel
    least, most : ends of the dial
    """
    levels = np.geomspace(least, most, LEVELS)
    return float(round(levels[int(np.argmin(np.abs(np.log(levels / max(samples, 1.0)))))]))


class FinishedAtLevels:
    """Finished frames of one run. changed() : another is there.

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()

    def __init__(self, session: Session) -> None:
        self._session = session
        self._run: RunAtSamples | None = None
        self._made: dict[Key, np.ndarray] = {}
        self._wanted: float | None = None
        self._task: BackgroundTask | None = None
        self.progress = ""
        """What is made now, in words; '' for nothing."""

    def look_at(self, run: RunAtSamples | None) -> None:
        """Make frames of another run from now on.

        Parameters
        ----------
        run : all of whose frames were read; None for none
        """
        if run is not self._run:
            self.stop()
            self._run = run
            self._made.clear()

    def stop(self) -> None:
        """Make nothing for now."""
        self._wanted, self.progress = None, ""
        if self._task is not None:
            self._task.cancel.cancel()

    def picture(self, level: float, frame: int) -> np.ndarray | None:
        """Return a finished frame, (h, w, 3) uint8 display codes; None while it is not there.

        Parameters
        ----------
        level : samples per pixel
        frame : as the proof numbers it
        """
        chain = self.chain
        return None if chain is None else self._made.get((chain, level, frame))

    def make(self, level: float) -> None:
        """Make the frames of a level, and of no other that was asked for before.

        Parameters
        ----------
        level : samples per pixel
        """
        if self._wanted != level and self._task is not None:
            self._task.cancel.cancel()
        self._wanted = level
        if self._task is None:
            self._next()

    @property
    def chain(self) -> Chain | None:
        """The chain of the shot's recipe; None where there is no run, or a step of the artist's own is not known here."""
        if self._run is None:
            return None
        resolved = self._session.reel.resolved(self._session.shot)
        try:
            own = [own_step(name, self._session.own.steps) for name in own_names(resolved.recipe.finish_order)]
        except HastyReelError as error:
            self.progress = str(error)
            return None
        return chain_on(self._run.run.proof, resolved, own)

    def _next(self) -> None:
        run, level, chain = self._run, self._wanted, self.chain
        if run is None or level is None or chain is None:
            return
        frames = run.run.frames
        wanted = [f for f in frames if (chain, level, f) not in self._made]
        if not wanted:
            self.progress = ""
            return

        def _work(task: BackgroundTask) -> None:
            kept = KeptLooks.of(run.run, chain, level)
            found = {frame: kept.get(frame) for frame in wanted}
            for frame, codes in found.items():
                if codes is not None:
                    task.send((frame, codes))
            missing = [frame for frame, codes in found.items() if codes is None]
            if not missing:
                return
            self._session.preparing.wait(lambda words: task.cancel.check())
            finish = run.finisher(chain, level)
            for frame in missing:
                task.cancel.check()
                rgb = finish(frame).rgb
                codes = plain_codes(rgb, dither_of(*rgb.shape[:2]))
                task.send((frame, codes))
                kept.keep(frame, codes)

        def _came(made: tuple[int, np.ndarray]) -> None:
            if run is self._run:
                self._made[chain, level, made[0]] = made[1]
                there = sum((chain, level, f) in self._made for f in frames)
                if level == self._wanted:
                    self.progress = "" if there == len(frames) else f"finishing at {level:.0f} samples, {there} of {len(frames)}"
                self.changed.emit()

        def _failed(words: str) -> None:
            self._wanted, self.progress = None, words  # not tried again until something else is asked for
            self._session.said.emit(words)

        def _ended() -> None:
            self._task = None
            self._next()
            self.changed.emit()

        self.progress = f"finishing at {level:.0f} samples"
        self._task = task = self._session.background.start(_work)
        task.came.connect(_came)
        task.failed.connect(_failed)
        task.ended.connect(_ended)
