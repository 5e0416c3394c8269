"""Finishing frame by frame: each step takes pictures from the one before it and keeps those that the next ones need."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import cv2
import numpy as np

from hasty_reel.errors import PictureError
from hasty_reel.finish.chain import Chain
from hasty_reel.finish.denoise import Denoiser
from hasty_reel.finish.despike import Despiked, despike
from hasty_reel.finish.guides import guides_resized, others
from hasty_reel.finish.ownstep import own_frame
from hasty_reel.finish.shelf import Shelf
from hasty_reel.image.resize import resize
from hasty_reel.image.sharpen import sharpen
from hasty_reel.measure.flow import optical_flow
from hasty_reel.measure.framepair import frame_pair
from hasty_reel.measure.plane import seen_frame
from hasty_reel.own.finishmemory import GIGABYTE, USUAL
from hasty_reel.pictures.finite import mended
from hasty_reel.pictures.frame import Picture
from hasty_reel.settings.finishorder import DENOISE, DESPIKE, RESIZE, SHARPEN
from hasty_reel.work import CancelToken

Source = Callable[[int], Picture]
AT_ONCE = 600
"""Bytes a pixel that one frame needs while it is denoised, whatever is kept (measured; without its own pictures)."""
MEMORY = int(USUAL * GIGABYTE)
"""Bytes that finishing may take where nobody says otherwise."""


class Finisher:
    """Finishes frames one after another; keeps the frames of one window in memory.

    Parameters
    ----------
    chain : what is done to each frame; without steps on folders
    load : gives the rendered picture of a frame
    cancel : looked at while a step of the artist's own is under way; None: it cannot be stopped
    keep : keep the channels that denoising uses, for steps that follow
    memory : bytes that it may take while a frame is finished, but for what one frame needs at once; None for any number
    """

    def __init__(
        self, chain: Chain, load: Source, cancel: CancelToken | None = None, keep: bool = False, memory: int | None = None
    ) -> None:  # fmt: skip
        self.chain = chain.checked()
        self._memory, self._shelf = memory, Shelf()
        self._sizes: dict[int, tuple[int, int]] = {}
        self._load, self._cancel, self._keep = load, cancel, keep
        self.replaced: dict[int, int] = {}
        """By frame: pixels that were not finite and were replaced."""
        self.despiked: dict[int, Despiked] = {}
        """By frame: what despiking did to it."""
        self._neighbours: Sequence[int] = ()
        self._held: Source = self._keeping(self._rendered)
        self._last = self._held
        for name in self.chain.steps:
            self._last = self._step(name, self._last)

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
        places = self.chain.places(frame, neighbours)
        for f in (frame, *places):
            if self._size(f) != self._size(frame):
                raise PictureError(f"Frame {self.chain.actual(f)} is {self._size(f)[0]}x{self._size(f)[1]}; its neighbours are not.")
        self._neighbours = places
        made = self._last(frame)
        if not np.isfinite(made.rgb).all():
            raise PictureError(f"Frame {frame}: finishing it gave pixels that are not finite numbers.")
        size = self.chain.size
        if size is not None and (made.width, made.height) != size:
            found = f"own steps made it {made.width}x{made.height}"
            raise PictureError(f"Frame {frame}: {found}; expected {size[0]}x{size[1]}, or resize after them.")
        return Picture(made.rgb, made.guides if self._keep else others(made.guides), made.attributes)

    def _rendered(self, frame: int) -> Picture:
        place, frame = frame, self.chain.actual(frame)
        picture, count = mended(self._load(frame), f"Frame {frame}")
        self._sizes[place] = picture.width, picture.height
        if self._memory is not None:
            self._shelf.limit = max(0, self._memory - AT_ONCE * picture.width * picture.height)
        if count:
            self.replaced[frame] = count
        return picture

    def _size(self, frame: int) -> tuple[int, int]:
        if frame not in self._sizes:
            self._held(frame)
        return self._sizes[frame]

    def _keeping(self, act: Source) -> Source:
        """The same, with the pictures kept that frames within reach ask for again."""
        order: list[int] = []
        name = object()

        def _kept(frame: int) -> Picture:
            order[:] = [f for f in order if f != frame] + [frame]
            picture = self._shelf.get((name, frame), lambda: act(frame))
            while len(order) > 2 * self.chain.reach + 3:
                self._shelf.drop((name, order.pop(0)))
            return picture

        return _kept

    def _step(self, name: str, before: Source) -> Source:
        """The pictures after a step, given those before it."""
        chain = self.chain
        if name == DENOISE:
            return self._denoised(before)
        if name == DESPIKE:
            return self._keeping(lambda frame: self._despiked(frame, before))
        act = self._act(name)
        later = chain.steps[chain.steps.index(name) + 1 :]

        def _made(frame: int) -> Picture:
            return act(frame, before(frame))

        return self._keeping(_made) if {DENOISE, DESPIKE} & set(later) else _made

    def _act(self, name: str) -> Callable[[int, Picture], Picture]:
        """What a step does to a frame that needs no others."""
        chain = self.chain
        if name == RESIZE:
            assert chain.size is not None
            size = chain.size
            return lambda frame, picture: resized(picture, size)
        if name == SHARPEN:
            return lambda frame, picture: Picture(sharpen(picture.rgb, chain.sharpen), picture.guides, picture.attributes)
        own = next(step for step in chain.own if step.name == name)
        return lambda frame, picture: own_frame(own, chain.actual(frame), picture, self._cancel)

    def _denoised(self, before: Source) -> Source:
        denoiser = Denoiser(self.chain.denoising, before, self._shelf)
        share = np.float32(self.chain.strength)

        def _made(frame: int) -> Picture:
            picture = before(frame)
            rgb = share * denoiser.denoise(frame, self._neighbours) + (np.float32(1.0) - share) * picture.rgb
            return Picture(rgb, picture.guides, picture.attributes)

        return _made

    def _despiked(self, frame: int, before: Source) -> Picture:
        picture = before(frame)
        beside = [carried(before(f), picture, f > frame) for f in (frame - 1, frame + 1) if f in self._neighbours]
        found = despike(picture.rgb, beside)
        self.despiked[self.chain.actual(frame)] = found
        return Picture(found.rgb, picture.guides, picture.attributes)


def resized(picture: Picture, size: tuple[int, int]) -> Picture:
    """Return a picture at another size, its channels with it.

    Parameters
    ----------
    picture : the picture
    size : width and height in pixels
    """
    guides = guides_resized(picture.guides, (picture.width, picture.height), size)
    return Picture(resize(picture.rgb, *size), guides, picture.attributes)


def carried(other: Picture, here: Picture, after: bool) -> np.ndarray:
    """Return the light of a frame beside, carried to this one along the motion, (h, w, 3).

    Parameters
    ----------
    other : the frame beside
    here : this frame
    after : the other is the next one; else it is the one before
    """
    first, second = (here, other) if after else (other, here)
    vectors = first.vectors
    if vectors is None:
        seen = [seen_frame(p.rgb).lightness for p in (first, second)]
        vectors = optical_flow(*seen)
    if vectors is None:
        return other.rgb
    pair = frame_pair(vectors)
    place = pair.there if after else pair.back
    assert place is not None
    return cv2.remap(other.rgb, place, None, cv2.INTER_NEAREST, borderMode=cv2.BORDER_REPLICATE)  # type: ignore[call-overload]
