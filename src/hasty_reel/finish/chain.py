"""The finishing chain over a sequence: despike, denoise over time, resize, in this order.

Denoising comes before resizing, where the renderer's guides still fit the pixels.
The chain streams: it holds one window of frames, however long the sequence is.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Container, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from hasty_reel.errors import PictureError, WrongInput
from hasty_reel.finish.despike import despike
from hasty_reel.finish.overtime import Frame, denoise, denoise_still, prepare
from hasty_reel.image.resize import resize
from hasty_reel.pictures.finite import mended
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.pictures.writing import write_picture
from hasty_reel.wholefile import clear_folder, flush_folder
from hasty_reel.work import CancelToken, Progress, silent


@dataclass(frozen=True)
class Chain:
    """What is done to each frame.

    window : frames denoised over, odd; 1 is off. size : delivered width and height; None keeps the size
    per_frame : denoise each frame by itself (for stills; in motion it boils)
    """

    window: int = 1
    size: tuple[int, int] | None = None
    despike: bool = False
    per_frame: bool = False

    def checked(self) -> Chain:
        """This chain, if it makes sense.

        Raises
        ------
        WrongInput
            Names what is out of bounds.
        """
        if not 1 <= self.window <= 7 or self.window % 2 == 0:
            raise WrongInput(f"Denoise over time: window is {self.window}; expected 1, 3, 5 or 7 frames.")
        if self.size is not None and not all(1 <= side <= 16384 for side in self.size):
            raise WrongInput(f"Size {self.size[0]}x{self.size[1]}; expected 1 to 16384 pixels a side.")
        return self

    @property
    def reach(self) -> int:
        """How many frames before and after a frame it looks at."""
        return self.window // 2

    def needed(self, frame: int, frames: Container[int]) -> list[int]:
        """Return the frames of a shot that must be there before this one can be finished.

        Parameters
        ----------
        frame : that is to be finished
        frames : of the shot
        """
        return [f for f in range(frame - self.reach, frame + self.reach + 1) if f in frames]


class Finisher:
    """Finishes frames one after another; keeps the frames of one window in memory.

    Parameters
    ----------
    chain : what is done to each frame
    load : gives the rendered picture of a frame
    """

    def __init__(self, chain: Chain, load: Callable[[int], Picture]) -> None:
        self.chain = chain.checked()
        self._load = load
        self.replaced: dict[int, int] = {}
        """By frame: pixels that were not finite and were replaced."""
        self._pictures: OrderedDict[int, tuple[Picture, Frame | None]] = OrderedDict()

    def finish(self, frame: int, neighbours: Sequence[int]) -> Picture:
        """One finished frame.

        Parameters
        ----------
        frame : that is to be finished
        neighbours : the frames to look at, in order and with this one among them

        Raises
        ------
        PictureError
            When one of them cannot be read or has another size.
        """
        chain = self.chain
        picture = self._held(frame)[0]
        rgb = picture.rgb
        if chain.window > 1:
            window = [self._prepared(f) for f in neighbours]
            for f, other in zip(neighbours, window):
                if other.mean.shape != window[0].mean.shape:
                    raise PictureError(f"Frame {f} is {other.mean.shape[1]}x{other.mean.shape[0]}; its neighbours are not.")
            rgb = denoise(window, list(neighbours).index(frame))
        elif chain.per_frame:
            rgb = denoise_still(self._prepared(frame))
        elif chain.despike:
            rgb = despike(rgb)
        if chain.size is not None:
            rgb = resize(rgb, *chain.size)
        if not np.isfinite(rgb).all():
            raise PictureError(f"Frame {frame}: finishing it gave pixels that are not finite numbers.")
        return Picture(rgb, {}, picture.attributes)

    def _held(self, frame: int) -> tuple[Picture, Frame | None]:
        if frame not in self._pictures:
            picture, count = mended(self._load(frame), f"Frame {frame}")
            if count:
                self.replaced[frame] = count
            self._pictures[frame] = (picture, None)
            while len(self._pictures) > self.chain.window + 2:
                self._pictures.popitem(last=False)
        else:
            self._pictures.move_to_end(frame)
        return self._pictures[frame]

    def _prepared(self, frame: int) -> Frame:
        picture, ready = self._held(frame)
        if ready is None:
            ready = prepare_picture(picture)
            self._pictures[frame] = (picture, ready)
        return ready


def prepare_picture(picture: Picture) -> Frame:
    """Return a picture with its guides made ready for denoising.

    Parameters
    ----------
    picture : as rendered, with its guides
    """
    depth = picture.guides.get("Z")
    return prepare(
        picture.rgb,
        picture.stack("albedo.R", "albedo.G", "albedo.B"),
        picture.stack("normal.X", "normal.Y", "normal.Z"),
        depth,
        picture.stack("motion.X", "motion.Y"),
    )


@dataclass(frozen=True)
class Finished:
    """Frames that were finished, and how many pixels of which frame were no finite numbers and were replaced."""

    frames: list[int]
    replaced: dict[int, int]


def finish_sequence(
    chain: Chain,
    frames: Sequence[int],
    source: Callable[[int], Path],
    target: Callable[[int], Path],
    progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> Finished:
    """Finish frames from files to files.

    Parameters
    ----------
    chain : what is done to each frame
    frames : numbers of the frames of the shot
    source, target : give the path of a frame
    progress : called with the share that is done, 0 to 1, and words
    cancel : looked at meanwhile; None: it cannot be stopped

    Raises
    ------
    PictureError
        When a frame cannot be read or written; those before it are kept.
    """
    clear_folder(target(frames[0]).parent)
    finisher = Finisher(chain, lambda f: read_picture(source(f)))
    known = set(frames)
    done = []
    for k, frame in enumerate(frames):
        if cancel is not None:
            cancel.check()
        write_picture(target(frame), finisher.finish(frame, chain.needed(frame, known)))
        done.append(frame)
        progress((k + 1) / len(frames), f"frame {frame} finished")
    flush_folder(target(frames[0]).parent)
    return Finished(done, finisher.replaced)
