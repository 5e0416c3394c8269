"""Finishing beside rendering: each rendered frame as soon as its neighbours are there, or will never be."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import TYPE_CHECKING

from hasty_reel.errors import HastyReelError, PictureError, Stopped
from hasty_reel.farm.finals.folder import FAILED, FINISHED, OTHER, RENDERED, RENDERING, WAITING, final_hash
from hasty_reel.farm.finals.journal import WITHOUT
from hasty_reel.finish.chain import FINISH
from hasty_reel.finish.finisher import Finisher
from hasty_reel.finish.sequence import finish_sequence
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.pictures.writing import write_picture
from hasty_reel.reel.frames import write_frames
from hasty_reel.work import CancelToken, silent

if TYPE_CHECKING:
    from hasty_reel.farm.finals.run import Run


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
    """What is finished of a run, and which frames that needs.

    for_neighbours : finished frames that are rendered once more only because a neighbour needs them
    replaced : pixels of a frame that were no numbers

    Parameters
    ----------
    run : its frames and how they stand
    tell : called with frame, state, seconds, words and picture
    fail : called with a frame that failed, and why
    cancel : looked at between frames
    """

    def __init__(self, run: Run, tell: Callable[..., None], fail: Callable[[int, str], None], cancel: CancelToken) -> None:
        self._run, self._tell, self._fail, self._cancel = run, tell, fail, cancel
        self._finisher = None if run.chain.on_folders else Finisher(run.chain, self._load, cancel)
        self.for_neighbours: set[int] = set()
        self._wanted: set[int] = set()
        self._damaged: set[int] = set()
        self._lost: set[int] = set()

    @property
    def replaced(self) -> dict[int, int]:
        """Pixels of a frame that were no numbers, by frame."""
        return {} if self._finisher is None else self._finisher.replaced

    def gone(self) -> set[int]:
        """Return finished frames whose rendered picture is gone and is needed to finish a neighbour: they are wanted again."""
        run = self._run
        if not run.folder.finishes:
            return set()
        there, known = set(run.folder.rendered.frames()), set(run.frames)
        needed = {g for f in run.frames if run.states[f] != FINISHED for g in run.chain.needed(f, known)}
        found = {f for f in needed if run.states[f] == FINISHED and f not in there}
        self.for_neighbours |= found
        self._wanted |= found
        return found

    def again(self) -> list[int]:
        """Return the frames that are wanted again."""
        return sorted(self._wanted)

    def rendered(self, frame: int) -> None:
        """Take in that a frame is rendered.

        Parameters
        ----------
        frame : as the shot numbers it
        """
        self._wanted.discard(frame)
        self._lost.discard(frame)

    def lost(self, frame: int) -> None:
        """Take in that the rendered picture of a frame will never be had: its neighbours are finished without it.

        Parameters
        ----------
        frame : as the shot numbers it
        """
        self._wanted.discard(frame)
        self._lost.add(frame)

    def _load(self, frame: int) -> Picture:
        """A rendered picture; one that is damaged is marked to be rendered again, once."""
        try:
            return read_picture(self._run.folder.rendered.path(frame))
        except PictureError as error:
            raise DamagedFrame(frame, str(error)) from error

    def ready(self) -> None:
        """Finish every rendered frame whose neighbours are all there or will never be."""
        run = self._run
        if not run.folder.finishes or self._finisher is None:
            return
        every = set(run.frames)
        for frame in run.frames:
            if run.states[frame] != RENDERED:
                continue
            lost = self._lost | {f for f in every if run.states[f] == FAILED}
            window = run.chain.needed(frame, every - lost)
            if any(run.states[f] in (WAITING, RENDERING, OTHER) or f in self._wanted for f in window):
                continue
            began = time.perf_counter()
            try:
                made = self._finisher.finish(frame, window)
                attributes = {**made.attributes, FINISH: run.chain.words, "hr:final": final_hash(run.hash, run.chain)}
                write_picture(run.folder.final.path(frame), Picture(made.rgb, {}, attributes))
            except DamagedFrame as damaged:
                self._take_back(damaged)
                continue
            except Stopped:
                raise
            except (HastyReelError, MemoryError) as error:
                self._fail(frame, str(error) or "out of memory")
                continue
            missing = sorted(lost & set(run.chain.needed(frame, every)))
            words = f"{WITHOUT} frame{'s' if len(missing) > 1 else ''} {write_frames(missing)}, which failed." if missing else ""
            self._tell(frame, FINISHED, time.perf_counter() - began, words, made.rgb)

    def _take_back(self, damaged: DamagedFrame) -> None:
        """Have a frame rendered again whose picture on disk is damaged; the second time it has failed."""
        if damaged.frame in self._damaged or self._run.states[damaged.frame] == FAILED:
            self._fail(damaged.frame, str(damaged))
            return
        self._damaged.add(damaged.frame)
        self._wanted.add(damaged.frame)
        finished = self._run.states[damaged.frame] == FINISHED
        if finished:
            self.for_neighbours.add(damaged.frame)
        self._tell(damaged.frame, FINISHED if finished else WAITING, words=f"{damaged} It is rendered again.")

    def together(self, workers: int) -> None:
        """Finish all frames at once, where a step takes a folder; frames that failed are left out.

        Parameters
        ----------
        workers : frames finished at once
        """
        run = self._run
        if self._finisher is not None:
            return
        there = [f for f in run.frames if run.states[f] in (RENDERED, FINISHED)]
        left = [f for f in there if run.states[f] == RENDERED]
        began = time.perf_counter()
        try:
            done = finish_sequence(
                run.chain, there, run.folder.rendered.path, run.folder.final.path, silent, self._cancel, workers, left,
                {"hr:final": final_hash(run.hash, run.chain)},
            )  # fmt: skip
        except Stopped:
            raise
        except (HastyReelError, MemoryError) as error:
            for frame in left:
                self._fail(frame, str(error) or "out of memory")
            return
        run.replaced |= done.replaced
        for frame in done.frames:
            picture = read_picture(run.folder.final.path(frame), ()).rgb
            self._tell(frame, FINISHED, (time.perf_counter() - began) / len(left), picture=picture)
