"""Frames of a run finished from their rendered pictures on disk, and written."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from hasty_reel.errors import PictureError
from hasty_reel.finish.chain import FINISH
from hasty_reel.finish.finisher import Finisher
from hasty_reel.finish.sequence import finish_sequence
from hasty_reel.own.finishmemory import finish_memory
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.pictures.writing import write_picture
from hasty_reel.run.folder import final_hash
from hasty_reel.work import CancelToken, silent

if TYPE_CHECKING:
    from hasty_reel.run.shotrun import Run


class DamagedFrame(PictureError):
    """A rendered picture on disk that cannot be read; `frame` says which.

    Parameters
    ----------
    frame : as the shot numbers it
    words : what is wrong
    """

    def __init__(self, frame: int, words: str) -> None:
        super().__init__(words)
        self.frame = frame


class Finishes:
    """Finishes frames of a run.

    replaced : pixels of a frame that were no numbers, by frame

    Parameters
    ----------
    run : its folder and its chain
    cancel : looked at meanwhile
    """

    def __init__(self, run: Run, cancel: CancelToken) -> None:
        self._run, self._cancel = run, cancel
        self._finisher = None if run.chain.on_folders else Finisher(run.chain, self._load, cancel, memory=finish_memory())
        self._replaced: dict[int, int] = {}

    @property
    def replaced(self) -> dict[int, int]:
        """Pixels of a frame that were no numbers, by frame."""
        return self._replaced if self._finisher is None else self._finisher.replaced

    def _load(self, frame: int) -> Picture:
        try:
            return read_picture(self._run.folder.rendered.path(frame))
        except PictureError as error:
            raise DamagedFrame(frame, str(error)) from error

    def finish(self, frame: int, window: Sequence[int]) -> np.ndarray:
        """Finish a frame and write it.

        Parameters
        ----------
        frame : as the shot numbers it
        window : frames whose rendered pictures it is finished from, itself among them

        Returns
        -------
        np.ndarray
            The finished picture, (h, w, 3) scene-linear light.

        Raises
        ------
        DamagedFrame
            When a rendered picture of the window cannot be read.
        HastyReelError
            When it cannot be finished, or not be written.
        """
        assert self._finisher is not None, "a chain on folders finishes all frames together"
        run = self._run
        made = self._finisher.finish(frame, list(window))
        attributes = {**made.attributes, FINISH: run.chain.words, "hr:final": final_hash(run.hash, run.chain)}
        write_picture(run.folder.final.path(frame), Picture(made.rgb, {}, attributes))
        return made.rgb

    def together(self, there: list[int], left: list[int], workers: int) -> list[tuple[int, np.ndarray]]:
        """Finish frames at once, where a step of the chain takes a folder.

        Parameters
        ----------
        there : frames whose rendered pictures are there
        left : those of them that are to be finished
        workers : frames finished at once

        Returns
        -------
        list[tuple[int, np.ndarray]]
            Frames and their finished pictures, (h, w, 3) scene-linear light.

        Raises
        ------
        HastyReelError
            When they cannot be finished.
        """
        run = self._run
        done = finish_sequence(
            run.chain, there, run.folder.rendered.path, run.folder.final.path, silent, self._cancel, workers, left,
            {"hr:final": final_hash(run.hash, run.chain)}, finish_memory(),
        )  # fmt: skip
        self._replaced |= done.replaced
        return [(frame, read_picture(run.folder.final.path(frame), ()).rgb) for frame in done.frames]
