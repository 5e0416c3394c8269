"""The frames of a sequence of any length one after another, each with its neighbours: three are in memory at a time.

What cannot be read, or has another size than the first frame, is told and left out;
beside a hole a frame has one neighbour, as at the ends. The next frame is read while
the one before it is measured.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field
from functools import cached_property
from itertools import pairwise

import numpy as np

from hasty_reel.errors import PictureError
from hasty_reel.image.finiteplane import finite_plane
from hasty_reel.measure.flicker import Unrest, unrest_between
from hasty_reel.measure.flow import searched_flow
from hasty_reel.measure.framepair import FramePair, found_pair, frame_pair
from hasty_reel.measure.noise import noise_of_one
from hasty_reel.measure.plane import SeenFrame, seen_frame
from hasty_reel.measure.sparks import find_sparks
from hasty_reel.pictures.frame import Picture
from hasty_reel.reel.frames import write_frames
from hasty_reel.work import CancelToken, Progress, silent

MOST_PIXELS = 1 << 28
"""Larger pictures are refused in words: their planes would not fit into the memory of a desk machine."""
MOTION, DEPTH = ("motion.X", "motion.Y"), "Z"

Reader = Callable[[int, Collection[str]], Picture]
"""Reads a frame with the guides that are named, where it has them."""


@dataclass(frozen=True)
class FrameWithNeighbours:
    """One frame of a sequence and what stands beside it.

    frame : its number; picture : as read; seen : L* of it
    before, after : L* of the frames beside, as they are; None beside a hole and at the ends
    pair_before, pair : what it shares with the frame before and with the next; None beside a hole and at the ends
    """

    frame: int
    picture: Picture
    seen: SeenFrame
    before: np.ndarray | None
    after: np.ndarray | None
    pair_before: FramePair | None
    pair: FramePair | None

    @property
    def motion(self) -> np.ndarray | None:
        """To the next frame, or from the frame before where there is none, (h, w, 2) in pixels; None where nothing moves."""
        pair = self.pair if self.pair is not None and self.pair.motion is not None else self.pair_before
        return None if pair is None else pair.motion

    @cached_property
    def unrest(self) -> Unrest:
        """Its unrest along the motion."""
        return unrest_between(self.before, self.seen.lightness, self.after, self.pair_before, self.pair)

    @cached_property
    def noise_tiles(self) -> np.ndarray:
        """Noise estimated from it alone, in L* a tile."""
        return noise_of_one(self.seen.lightness)

    @cached_property
    def sparks(self) -> np.ndarray:
        """Where its sparks are, (h, w) bool."""
        sides = (self.before, self.unrest.before), (self.after, self.unrest.after)
        # a thin line's vectors may lead astray: what is bright there in either place is no spark
        both = [None if raw is None or carried is None else raw if raw is carried else np.maximum(raw, carried) for raw, carried in sides]
        return find_sparks(self.seen.lightness, self.noise_tiles, *both)


@dataclass
class SequenceReport:
    """What of a sequence was not taken as one would expect.

    unreadable : frame -> why; wrong_size : frame -> its size in words; not_finite : frame -> pixels that are no numbers
    shape : rows and columns of the frames that were taken; missing : numbers left out between the first and the last
    with_vectors : the frames carry their motion
    """

    unreadable: dict[int, str] = field(default_factory=dict)
    wrong_size: dict[int, str] = field(default_factory=dict)
    not_finite: dict[int, int] = field(default_factory=dict)
    shape: tuple[int, int] = (0, 0)
    with_vectors: bool = False
    missing: list[int] = field(default_factory=list)

    def words(self) -> list[str]:
        """Return what was not taken as one would expect, in sentences."""
        out = []
        if self.missing:
            out.append(f"{frames_in_words(self.missing)} missing: the frames beside have one neighbour to be compared with.")
        out += [f"{why} Left out." for _, why in sorted(self.unreadable.items())]
        if self.wrong_size:
            h, w = self.shape
            sizes = ", ".join(sorted(set(self.wrong_size.values())))
            out.append(f"{frames_in_words(self.wrong_size)} of {sizes} pixels left out; expected {w}x{h} like the first frame.")
        for frame, count in sorted(self.not_finite.items()):
            out.append(f"Frame {frame}: {count} pixels are not finite numbers; taken as black.")
        return out


@dataclass
class _Taken:
    frame: int
    picture: Picture
    seen: SeenFrame
    pair: FramePair | None = None


def frames_with_neighbours(
    frames: Sequence[int],
    read: Reader,
    report: SequenceReport,
    guides: Collection[str] = (),
    view: str | None = None,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> Iterator[FrameWithNeighbours]:
    """Go along the frames in order.

    Parameters
    ----------
    frames : numbers of the frames, in order; the step between them is the smallest there is, a larger one is a hole
    read : reads a frame with the guides that are named
    report : filled with what could not be taken
    guides : channels wanted besides the motion
    view : see `seen_frame`
    progress : called with the share that is done, 0 to 1, and words
    cancel : looked at meanwhile; None: it cannot be stopped

    Yields
    ------
    FrameWithNeighbours : one a frame that could be taken

    Raises
    ------
    Stopped
        When the work was stopped.
    """
    stride = min((b - a for a, b in pairwise(frames)), default=1)
    if frames:
        report.missing = sorted(set(range(frames[0], frames[-1], stride)) - set(frames))
    wanted = {*guides, *MOTION, DEPTH}
    pair: list[_Taken | None] = [None, None]  # the frame before, and the one that is looked at
    with ThreadPoolExecutor(1, "decode") as pool:
        coming: Future | None = pool.submit(_read_frame, frames[0], read, wanted, report, view) if frames else None
        for k, number in enumerate([*frames, None]):
            if cancel is not None:
                cancel.check()
            last = pair[1]
            taken = coming.result() if coming is not None else None
            if k + 1 < len(frames):
                coming = pool.submit(_read_frame, frames[k + 1], read, wanted, report, view)
            else:
                coming = None
            beside = taken if taken is not None and last is not None and taken.frame - last.frame == stride else None
            if last is not None:
                if beside is not None:
                    last.pair = _pair(last, beside, report)
                yield _with_neighbours(pair[0], last, beside, stride)
                progress(k / len(frames), f"frame {last.frame}")
            if number is not None and taken is not None:
                pair = [last, taken]
            elif number is not None:
                pair = [last, None]


def frames_in_words(frames: Iterable[int]) -> str:
    """'Frame 7' or 'Frames 1-4,8'.

    Parameters
    ----------
    frames : their numbers
    """
    numbers = sorted(frames)
    return f"Frame {numbers[0]}" if len(numbers) == 1 else f"Frames {write_frames(numbers)}"


def _with_neighbours(before: _Taken | None, here: _Taken, after: _Taken | None, stride: int) -> FrameWithNeighbours:
    if before is not None and here.frame - before.frame != stride:
        before = None
    return FrameWithNeighbours(
        here.frame,
        here.picture,
        here.seen,
        None if before is None else before.seen.lightness,
        None if after is None else after.seen.lightness,
        None if before is None else before.pair,
        None if after is None else here.pair,
    )


def _read_frame(frame: int, read: Reader, wanted: Collection[str], report: SequenceReport, view: str | None) -> _Taken | None:
    try:
        picture = read(frame, wanted)
        if picture.width * picture.height > MOST_PIXELS:
            raise PictureError(f"frame {frame}: {picture.width}x{picture.height} pixels; expected at most {MOST_PIXELS >> 20} million.")
    except PictureError as error:
        report.unreadable[frame] = str(error)
        return None
    shape = (picture.height, picture.width)
    if report.shape == (0, 0):
        report.shape = shape
    if shape != report.shape:
        report.wrong_size[frame] = f"{picture.width}x{picture.height}"
        return None
    seen = seen_frame(picture.rgb, view)
    if seen.bad:
        report.not_finite[frame] = seen.bad
    return _Taken(frame, picture, seen)


def _pair(here: _Taken, after: _Taken, report: SequenceReport) -> FramePair:
    """From the vectors of the frame, else from the pictures."""
    told = here.picture.stack(*MOTION)
    if told is None:
        return found_pair(searched_flow(here.seen.lightness, after.seen.lightness), *here.seen.lightness.shape)
    report.with_vectors = True
    told = finite_plane(told, 0.0)
    depths = here.picture.guides.get(DEPTH), after.picture.guides.get(DEPTH)
    return frame_pair(told if np.abs(told).max() > 1e-3 else None, *depths)
