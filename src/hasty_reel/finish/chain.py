"""The finishing chain over a sequence: despike, denoise over time and space, resize, sharpen, in this order.

Denoising comes before resizing, where the renderer's guides still fit the pixels.
The chain streams: it holds one window of frames, however long the sequence is.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Container, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path

import cv2
import numpy as np

from hasty_reel.errors import PictureError, WrongInput
from hasty_reel.finish.denoise import Denoiser, Denoising
from hasty_reel.finish.despike import Despiked, despike
from hasty_reel.finish.surfaces import CHANNELS
from hasty_reel.image.resize import resize
from hasty_reel.image.sharpen import sharpen
from hasty_reel.measure.flow import optical_flow
from hasty_reel.measure.framepair import frame_pair
from hasty_reel.measure.plane import seen_frame
from hasty_reel.pictures.finite import mended
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.pictures.writing import write_picture
from hasty_reel.wholefile import clear_folder, flush_folder
from hasty_reel.work import CancelToken, Progress, silent

ALPHA = "A"
WORKING = frozenset((*CHANNELS, "motion.X", "motion.Y", "samples"))
"""Channels that denoising uses; they say nothing of the finished picture and are left behind."""


@dataclass(frozen=True)
class Chain:
    """What is done to each frame.

    window : frames denoised over, odd; 1 is off. size : delivered width and height; None keeps the size
    per_frame : denoise each frame by itself (for stills; in motion it boils)
    thorough : denoise with more care, in about thrice the seconds
    strength : share of the denoised picture in the result, 0 to 1; the rest is as rendered
    sharpen : share of the detail of a pixel's width that is added, 0 for none; 0.1 after enlarging (common practice, no source)
    """

    window: int = 1
    size: tuple[int, int] | None = None
    despike: bool = False
    per_frame: bool = False
    thorough: bool = True
    strength: float = 1.0
    sharpen: float = 0.0

    def checked(self) -> Chain:
        """This chain, if it makes sense.

        Raises
        ------
        WrongInput
            Names what is out of bounds.
        """
        if not 1 <= self.window <= 7 or self.window % 2 == 0:
            raise WrongInput(f"Denoise over time: window is {self.window}; expected 1, 3, 5 or 7 frames.")
        if not 0 <= self.strength <= 1:
            raise WrongInput(f"Denoise: strength {100 * self.strength:g} %; expected 0 to 100 %.")
        if not 0 <= self.sharpen <= 2:
            raise WrongInput(f"Sharpen: {self.sharpen:g}; expected 0 to 2.")
        if self.size is not None and not all(1 <= side <= 16384 for side in self.size):
            raise WrongInput(f"Size {self.size[0]}x{self.size[1]}; expected 1 to 16384 pixels a side.")
        return self

    @property
    def reach(self) -> int:
        """How many frames before and after a frame it looks at: despiking looks one further, to see what they contradict."""
        return self.denoising.needs + (1 if self.despike else 0)

    @property
    def denoising(self) -> Denoising:
        """How frames are denoised."""
        return Denoising(self.window // 2, self.thorough)

    @property
    def denoises(self) -> bool:
        """Whether frames are denoised at all."""
        return (self.window > 1 or self.per_frame) and self.strength > 0

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
        self.despiked: dict[int, Despiked] = {}
        """By frame: what despiking did to it."""
        self._pictures: OrderedDict[int, Picture] = OrderedDict()
        self._calmed: dict[int, Picture] = {}
        self._neighbours: Sequence[int] = ()
        self._denoiser = Denoiser(self.chain.denoising, lambda k: self._calm(k, self._neighbours))

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
        picture = self._held(frame)
        for f in neighbours:
            other = self._held(f)
            if other.rgb.shape != picture.rgb.shape:
                raise PictureError(f"Frame {f} is {other.width}x{other.height}; its neighbours are not.")
        self._neighbours = neighbours
        rgb = self._calm(frame, neighbours).rgb
        if chain.denoises:
            share = np.float32(chain.strength)
            rgb = share * self._denoiser.denoise(frame, neighbours) + (np.float32(1.0) - share) * rgb
        if chain.size is not None:
            rgb = resize(rgb, *chain.size)
        if chain.sharpen:
            rgb = sharpen(rgb, chain.sharpen)
        if not np.isfinite(rgb).all():
            raise PictureError(f"Frame {frame}: finishing it gave pixels that are not finite numbers.")
        return Picture(rgb, self._carried_along(picture), picture.attributes)

    def _carried_along(self, picture: Picture) -> dict[str, np.ndarray]:
        """Alpha and other channels that are no guides of denoising: as they were rendered, at the delivered size."""
        others = {name: plane for name, plane in picture.guides.items() if name not in WORKING}
        if self.chain.size is None:
            return others
        resized = {name: resize(plane[..., None], *self.chain.size)[..., 0] for name, plane in others.items()}
        return {name: np.clip(plane, 0.0, 1.0) if name == ALPHA else plane for name, plane in resized.items()}

    def _held(self, frame: int) -> Picture:
        if frame not in self._pictures:
            picture, count = mended(self._load(frame), f"Frame {frame}")
            if count:
                self.replaced[frame] = count
            self._pictures[frame] = picture
            while len(self._pictures) > 2 * self.chain.reach + 3:
                gone, _ = self._pictures.popitem(last=False)
                self._calmed.pop(gone, None)
        else:
            self._pictures.move_to_end(frame)
        return self._pictures[frame]

    def _calm(self, frame: int, neighbours: Sequence[int]) -> Picture:
        """A picture without sparks, where they are to go."""
        picture = self._held(frame)
        if not self.chain.despike:
            return picture
        if frame not in self._calmed:
            beside = [carried(self._held(f), picture, f > frame) for f in (frame - 1, frame + 1) if f in neighbours]
            found = despike(picture.rgb, beside)
            self.despiked[frame] = found
            self._calmed[frame] = Picture(found.rgb, picture.guides, picture.attributes)
        return self._calmed[frame]


def carried(other: Picture, here: Picture, after: bool) -> np.ndarray:
    """Return the light of a frame beside, carried to this one along the motion, (h, w, 3).

    Parameters
    ----------
    other : the frame beside
    here : this frame
    after : the other is the next one; else it is the one before
    """
    first, second = (here, other) if after else (other, here)
    vectors = first.stack("motion.X", "motion.Y")
    if vectors is None:
        seen = [seen_frame(p.rgb).lightness for p in (first, second)]
        vectors = optical_flow(*seen)
    if vectors is None:
        return other.rgb
    pair = frame_pair(vectors)
    place = pair.there if after else pair.back
    assert place is not None
    return cv2.remap(other.rgb, place, None, cv2.INTER_NEAREST, borderMode=cv2.BORDER_REPLICATE)  # type: ignore[call-overload]


@dataclass(frozen=True)
class Finished:
    """Frames that were finished, how many pixels of which frame were no finite numbers and were replaced, and what despiking did."""

    frames: list[int]
    replaced: dict[int, int]
    despiked: dict[int, Despiked] = field(default_factory=dict)

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
    source: Callable[[int], Path],
    target: Callable[[int], Path],
    progress: Progress = silent,
    cancel: CancelToken | None = None,
    workers: int = 1,
    wanted: Sequence[int] | None = None,
) -> Finished:
    """Finish frames from files to files.

    Parameters
    ----------
    chain : what is done to each frame
    frames : numbers of the frames of the shot
    source, target : give the path of a frame
    progress : called with the share that is done, 0 to 1, and words
    cancel : looked at meanwhile; None: it cannot be stopped
    workers : stretches of frames finished at once, 1 to 64
    wanted : those of the frames that are to be finished; None for all

    Returns
    -------
    Finished
        Frames that were finished, and what was done to them.

    Raises
    ------
    PictureError
        When a frame cannot be read or written; those before it are kept.
    WrongInput
        When there is no such number of workers.
    """
    if not 1 <= workers <= 64:
        raise WrongInput(f"Finish: {workers} workers; expected 1 to 64.")
    wanted = list(frames) if wanted is None else list(wanted)
    if not wanted:
        return Finished([], {})
    clear_folder(target(wanted[0]).parent)
    known = set(frames)
    done: list[int] = []
    lock = threading.Lock()

    def _stretch(part: Sequence[int]) -> Finisher:
        if workers > 1:
            import numba

            numba.set_num_threads(max(1, numba.get_num_threads() // workers))
        finisher = Finisher(chain, lambda f: read_picture(source(f)))
        for frame in part:
            if cancel is not None:
                cancel.check()
            write_picture(target(frame), finisher.finish(frame, chain.needed(frame, known)))
            with lock:
                done.append(frame)
                progress(len(done) / len(wanted), f"frame {frame} finished")
        return finisher

    parts = [p.tolist() for p in np.array_split(np.array(wanted), min(workers, len(wanted)))]
    try:
        if len(parts) == 1:
            finishers = [_stretch(parts[0])]
        else:
            with ThreadPoolExecutor(len(parts)) as pool:
                finishers = list(pool.map(_stretch, parts))
    finally:
        flush_folder(target(wanted[0]).parent)
    replaced: dict[int, int] = {}
    despiked: dict[int, Despiked] = {}
    for finisher in finishers:
        replaced |= finisher.replaced
        despiked |= finisher.despiked
    return Finished(sorted(done), replaced, despiked)
