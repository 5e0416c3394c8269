"""Finishing a sequence from files to files: streamed, on several workers, never half written."""

from __future__ import annotations

import shutil
import threading
from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path

import numpy as np

from hasty_reel.errors import PictureError, WrongInput, reason
from hasty_reel.finish.chain import FINISH, Chain
from hasty_reel.finish.despike import Despiked
from hasty_reel.finish.finisher import MEMORY, Finisher
from hasty_reel.finish.ownstep import own_folder
from hasty_reel.finish.sources import SOURCE, SourceDigests
from hasty_reel.pictures.frame import Picture, read_header, read_picture
from hasty_reel.pictures.writing import write_picture
from hasty_reel.programs.ownsteps import FRAME_FILE, OwnStep
from hasty_reel.wholefile import clear_folder, flush_folder, part_folder
from hasty_reel.work import CancelToken, Progress, part_of, silent

Place = Callable[[int], Path]
"""Gives the path of a frame."""


@dataclass(frozen=True)
class Finished:
    """Frames that were finished, how many pixels of which frame were no finite numbers and were replaced, and what despiking did."""

    frames: list[int]
    replaced: dict[int, int]
    despiked: dict[int, Despiked] = field(default_factory=dict)

    def with_others(self, other: Finished) -> Finished:
        """Return these frames and others of the same sequence.

        Parameters
        ----------
        other : finished by another worker, or by a later part of the chain

        Returns
        -------
        Finished
            Both.
        """
        frames = sorted({*self.frames, *other.frames})
        return Finished(frames, self.replaced | other.replaced, self.despiked | other.despiked)

    @property
    def despike_words(self) -> str:
        """What despiking did in a sentence, '' where it was off."""
        if not self.despiked:
            return ""
        sparks = sum(d.sparks for d in self.despiked.values())
        moved, worst = (100 * max(getattr(d, n) for d in self.despiked.values()) for n in ("moved", "worst"))
        return (
            f"{sparks} sparks taken out; their light stays in its tile: up to {moved:.2f} % of a frame was moved, {worst:.0f} % of a tile."
        )


def finish_sequence(
    chain: Chain,
    frames: Sequence[int],
    source: Place,
    target: Place,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
    workers: int = 1,
    wanted: Sequence[int] | None = None,
    attributes: Mapping[str, object] | None = None,
    memory: int | None = MEMORY,
) -> Finished:
    """Finish frames from files to files; steps on folders get all frames at once, from pictures written beside those wanted.

    Parameters
    ----------
    chain : what is done to each frame
    frames : numbers of the frames of the shot
    source, target : give the path of a frame
    progress : called with the share that is done, 0 to 1, and words
    cancel : looked at meanwhile; None: it cannot be stopped
    workers : stretches of frames finished at once, 1 to 64
    wanted : those of the frames that are to be finished; None for all
    attributes : that each finished picture gets besides its own
    memory : bytes that all workers together may take, see `Finisher`; None for any number

    Returns
    -------
    Finished
        Frames that were finished, and what was done to them.

    Raises
    ------
    PictureError
        When a frame cannot be read or written; those before it are kept.
    RendererFault
        When a step of the artist's own fails.
    WrongInput
        When there is no such number of workers.
    """
    if not 1 <= workers <= 64:
        raise WrongInput(f"Finish: {workers} workers; expected 1 to 64.")
    wanted = list(frames) if wanted is None else list(wanted)
    if not wanted:
        return Finished([], {})
    parts = chain.checked().parts()
    folder = target(wanted[0]).parent
    clear_folder(folder)
    told = {FINISH: chain.words, **(attributes or {})}
    digests, known = SourceDigests(source), sorted(frames)
    made_of = partial(digest_of, chain, digests, known)
    made = Finished([], {})
    try:
        with _between(folder, len(parts)) as between:
            for k, part in enumerate(parts):
                last, within = k + 1 == len(parts), part_of(progress, k, len(parts))
                then = target if last else partial(_in_step, between / str(k))
                if isinstance(part, OwnStep):
                    own_folder(part, frames, source, then, within, cancel)
                else:
                    stretch = _Stretch(part, set(frames), source, then, cancel, workers, told if last else None, made_of, memory)
                    made = made.with_others(_on_workers(stretch, wanted if last else frames, within))
                source = then
    finally:
        flush_folder(folder)
    return Finished(sorted(wanted), made.replaced, made.despiked)


def digest_of(chain: Chain, digests: SourceDigests, known: Sequence[int], frame: int) -> str:
    """Return the digest of the pictures that a frame is made of: those of its window, or all where a step takes a folder.

    Parameters
    ----------
    chain : what is done to each frame
    digests : of the pictures as rendered
    known : numbers of the frames that there are
    frame : that is finished
    """
    return digests.of(list(known) if chain.on_folders else chain.needed(frame, set(known)))


def as_finished(chain: Chain, digests: SourceDigests, known: Sequence[int], path: Path, frame: int) -> bool:
    """Whether a file holds a frame whole, finished by this chain from these pictures.

    Parameters
    ----------
    chain : what is done to each frame
    digests : of the pictures as rendered
    known : numbers of the frames that there are
    path : of the finished frame
    frame : its number
    """
    try:
        told = read_header(path, whole=True).attributes
    except PictureError:
        return False
    return told.get(FINISH) == chain.words and told.get(SOURCE) == digest_of(chain, digests, known, frame)


@contextmanager
def _between(folder: Path, parts: int) -> Iterator[Path]:
    """A folder for the pictures between parts of a chain, gone afterwards; where there is one part, none is needed."""
    if parts == 1:
        yield folder
        return
    try:
        folder.mkdir(parents=True, exist_ok=True)
        made = part_folder(folder, "finish")
        for k in range(parts - 1):
            (made / str(k)).mkdir()
    except OSError as error:
        raise PictureError(f"{folder}: frames cannot be written there ({reason(error)}).") from error
    try:
        yield made
    finally:
        shutil.rmtree(made, ignore_errors=True)


def _in_step(step: Path, frame: int) -> Path:
    return step / FRAME_FILE.format(frame)


@dataclass(frozen=True)
class _Stretch:
    """How a chain that streams takes some frames in a row.

    told : attributes of the finished pictures, None where steps follow; made_of : gives the digest of what a frame is made of
    memory : bytes that all workers together may take; None for any number
    """

    chain: Chain
    known: set[int]
    source: Place
    target: Place
    cancel: CancelToken | None
    workers: int
    told: Mapping[str, object] | None
    made_of: Callable[[int], str]
    memory: int | None

    def finish(self, part: Sequence[int], done: Callable[[int], None]) -> Finished:
        if self.workers > 1:
            import numba

            numba.set_num_threads(max(1, numba.get_num_threads() // self.workers))
        memory = None if self.memory is None else self.memory // self.workers
        finisher = Finisher(self.chain, lambda f: read_picture(self.source(f)), self.cancel, self.told is None, memory)
        for frame in part:
            if self.cancel is not None:
                self.cancel.check()
            picture = finisher.finish(frame, self.chain.needed(frame, self.known))
            attributes = {**picture.attributes, **(self.told or {})}
            if self.told is not None:
                attributes[SOURCE] = self.made_of(frame)
            write_picture(self.target(frame), Picture(picture.rgb, picture.guides, attributes))
            done(frame)
        return Finished(list(part), finisher.replaced, finisher.despiked)


def _on_workers(stretch: _Stretch, wanted: Sequence[int], progress: Progress) -> Finished:
    count, lock = 0, threading.Lock()

    def _done(frame: int) -> None:
        nonlocal count
        with lock:
            count += 1
            progress(count / len(wanted), f"frame {frame} finished")

    parts = [p.tolist() for p in np.array_split(np.array(wanted), min(stretch.workers, len(wanted)))]
    if len(parts) == 1:
        return stretch.finish(parts[0], _done)
    with ThreadPoolExecutor(len(parts)) as pool:
        made = list(pool.map(lambda part: stretch.finish(part, _done), parts))
    out = made[0]
    for other in made[1:]:
        out = out.with_others(other)
    return out
