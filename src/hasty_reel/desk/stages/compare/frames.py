"""Pictures of both sides, read and made ready for the display beside the window's thread, kept within a bound."""

from __future__ import annotations

from collections import OrderedDict
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import cv2
import numpy as np
from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from hasty_reel.desk.jobs import Job
from hasty_reel.desk.picture import as_image
from hasty_reel.desk.session import Session
from hasty_reel.evidence.sides import Side
from hasty_reel.image.luminance import luminance
from hasty_reel.pictures.colour import PLAIN, dithered8
from hasty_reel.pictures.frame import Picture
from hasty_reel.pictures.quickview import quick_view

BOUND_MB = 1024
KEPT_LIGHT = 4
CHANNELS = ("Colour", "Red", "Green", "Blue", "Luminance", "Alpha", "Albedo", "Normal", "Depth", "Motion", "Samples")
_GUIDES = {
    "Alpha": ("A",),
    "Albedo": ("albedo.R", "albedo.G", "albedo.B"),
    "Normal": ("normal.X", "normal.Y", "normal.Z"),
    "Depth": ("Z",),
    "Motion": ("motion.X", "motion.Y"),
    "Samples": ("samples",),
}


@dataclass(frozen=True)
class Look:
    """How a picture is shown: exposure in stops, display view, channel."""

    exposure: float = 0.0
    view: str = PLAIN
    channel: str = "Colour"

    @property
    def guides(self) -> tuple[str, ...]:
        """Channels needed besides colour."""
        return _GUIDES.get(self.channel, ())


@dataclass(frozen=True)
class Shown:
    """A picture ready for the display: 8-bit codes (h, w, 3), and how many of its pixels are not finite."""

    codes: np.ndarray
    bad: int = 0
    words: str = ""


def developed(picture: Picture, look: Look) -> Shown:
    """A picture through exposure, channel and view; pixels that are no numbers are marked by a checker of black and white."""
    rgb, words, data = picture.rgb, "", False
    if look.channel in ("Red", "Green", "Blue"):
        k = ("Red", "Green", "Blue").index(look.channel)
        rgb = np.repeat(rgb[..., k : k + 1], 3, axis=-1)
    elif look.channel == "Luminance":
        rgb = np.repeat(luminance(rgb)[..., None], 3, axis=-1)
    elif look.channel != "Colour":
        found = picture.stack(*look.guides)
        if found is None:
            words = f"has no {look.channel.lower()}"
            rgb = np.zeros_like(rgb)
        else:
            rgb, data = _as_colour(look.channel, found), look.channel != "Albedo"
    count = 0
    if not np.isfinite(rgb.sum(dtype=np.float64)):  # one pixel that is no number makes the sum none
        bad = ~np.isfinite(rgb).all(axis=-1)
        count = int(bad.sum())
        rgb = np.where(bad[..., None], 0.0, rgb).astype(np.float32)
    if data:
        codes = np.clip(rgb * 255.0 + 0.5, 0, 255).astype(np.uint8)
    else:
        codes = dithered8(quick_view(rgb * np.float32(2.0**look.exposure) if look.exposure else rgb, look.view))
    if count:
        rows, columns = np.nonzero(bad)
        codes[rows, columns] = np.where((rows + columns) % 2 == 0, 0, 255).astype(np.uint8)[:, None]
    return Shown(codes, count, words)


def _as_colour(channel: str, found: np.ndarray) -> np.ndarray:
    """A guide as something to look at: numbers between 0 and 1, grey where it is one number."""
    if channel == "Albedo":
        return found
    if channel == "Normal":
        return 0.5 + 0.5 * found
    plane = np.hypot(found[..., 0], found[..., 1]) if channel == "Motion" else found[..., 0]
    if channel == "Depth":
        plane = np.where(plane > 0, 1.0 / np.maximum(plane, 1e-6), 0.0)
    top = float(np.nanpercentile(np.where(np.isfinite(plane), plane, np.nan), 99.5)) if np.isfinite(plane).any() else 1.0
    scaled = plane if channel == "Alpha" else plane / (top if top > 0 else 1.0)
    return np.repeat(scaled[..., None], 3, axis=-1).astype(np.float32)


Key = tuple[str, int, Look]


class Frames(QObject):
    """Asked for by side and frame; `came` tells when one is there, `filled` how much of a loop is."""

    came = Signal(str, int)
    filled = Signal(int, int)
    failed = Signal(str)

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._kept: OrderedDict[Key, Shown] = OrderedDict()
        self._scaled: OrderedDict[tuple[Key, int, int], QImage] = OrderedDict()
        self._asked: set[Key] = set()
        self._asked_light: set[tuple[str, int]] = set()
        self._light: OrderedDict[tuple[str, int], np.ndarray] = OrderedDict()
        self._filling: Job | None = None
        self.bound_mb = BOUND_MB
        self.look = Look()

    @property
    def megabytes(self) -> float:
        """What is kept, in MB."""
        return (sum(s.codes.nbytes for s in self._kept.values()) + sum(i.sizeInBytes() for i in self._scaled.values())) / 1e6

    def set_look(self, look: Look) -> None:
        """Show everything otherwise."""
        if look != self.look:
            self.look = look
            self._scaled.clear()

    def get(self, side: Side, frame: int) -> Shown | None:
        """A picture ready for the display; None while it is being read."""
        key = (side.key, frame, self.look)
        shown = self._kept.get(key)
        if shown is not None:
            self._kept.move_to_end(key)
            return shown
        if key not in self._asked and frame in side.paths:
            self._asked.add(key)
            look = self.look

            def work(job: Job) -> tuple[Shown, np.ndarray]:
                picture = side.read(frame, look.guides)
                return developed(picture, look), picture.rgb

            job = self._session.jobs.start(work)
            job.done.connect(lambda thing, key=key: self._looked_at(key, *thing))
            job.failed.connect(lambda words, key=key: self._broken(key, words))
        return None

    def forget(self, key: str) -> None:
        """Forget the pictures of a side: others may have taken their place on disk."""
        for kept in (self._kept, self._light):
            for known in [k for k in kept if k[0] == key]:
                del kept[known]  # type: ignore[arg-type]
        for scaled in [k for k in self._scaled if k[0][0] == key]:
            del self._scaled[scaled]

    def has(self, side: Side, frame: int) -> bool:
        """Whether a picture is in memory."""
        return (side.key, frame, self.look) in self._kept

    def peek(self, side: Side, frame: int) -> Shown | None:
        """A picture if it is in memory; nothing is read."""
        return self._kept.get((side.key, frame, self.look))

    def image(self, side: Side, frame: int, width: int, height: int) -> QImage | None:
        """A picture at a size on the screen: its own pixels enlarged are left to the painter, a smaller one is averaged."""
        shown = self.get(side, frame)
        if shown is None:
            return None
        h, w = shown.codes.shape[:2]
        small = width < w and height < h
        size = (width, height) if small else (w, h)
        key = ((side.key, frame, self.look), *size)
        image = self._scaled.get(key)
        if image is None:
            codes = cv2.resize(shown.codes, size, interpolation=cv2.INTER_AREA) if small else shown.codes
            image = as_image(codes)
            self._scaled[key] = image
            while len(self._scaled) > 256 or (len(self._scaled) > 4 and self.megabytes > 1.5 * self.bound_mb):
                self._scaled.popitem(last=False)
        else:
            self._scaled.move_to_end(key)
        return image

    def fill(self, wanted: list[tuple[Side, int]]) -> None:
        """Read a whole loop into memory, as far as the bound lets; `filled` tells how far it is."""
        self.stop_filling()
        look, bound = self.look, self.bound_mb * 1e6
        missing = [(s, f) for s, f in wanted if (s.key, f, look) not in self._kept]
        if not missing:
            self.filled.emit(len(wanted), len(wanted))
            return
        there = len(wanted) - len(missing)

        def work(job: Job) -> None:
            used = 0.0

            def ready(wanted: tuple[Side, int]) -> tuple[Key, Shown]:
                job.cancel.check()
                side, frame = wanted
                return (side.key, frame, look), developed(side.read(frame, look.guides), look)

            with ThreadPoolExecutor(2, "loop") as pool:
                # a few at a time: what is stopped for is not read first
                for k in range(0, len(missing), 4):
                    for key, shown in pool.map(ready, missing[k : k + 4]):
                        used += shown.codes.nbytes
                        if used > bound:
                            return
                        job.send((key, shown))

        self._filling = job = self._session.jobs.start(work)
        count = [there]

        def came(thing: tuple[Key, Shown]) -> None:
            count[0] += 1
            self._have(*thing)
            self.filled.emit(count[0], len(wanted))

        job.came.connect(came)
        job.failed.connect(self.failed)
        job.ended.connect(lambda job=job: self._ended(job))

    def stop_filling(self) -> None:
        """Read no further."""
        if self._filling is not None:
            self._filling.cancel.cancel()
            self._filling = None

    def _ended(self, job: Job) -> None:
        if self._filling is job:
            self._filling = None

    def _looked_at(self, key: Key, shown: Shown, light: np.ndarray) -> None:
        self._have(key, shown)
        self._have_light(key[:2], light)

    def light(self, side: Side, frame: int) -> np.ndarray | None:
        """Scene-linear light (h, w, 3) of a frame; None while it is being read: `came` tells when it is there."""
        key = (side.key, frame)
        found = self._light.get(key)
        if found is None and key not in self._asked_light and frame in side.paths:
            self._asked_light.add(key)
            job = self._session.jobs.start(lambda job: side.read(frame, ()).rgb)
            job.done.connect(lambda light, key=key: self._have_light(key, light))
            job.failed.connect(self.failed)
        return found

    def _have_light(self, key: tuple[str, int], light: np.ndarray) -> None:
        self._asked_light.discard(key)
        self._light[key] = light
        self._light.move_to_end(key)
        while len(self._light) > KEPT_LIGHT:
            self._light.popitem(last=False)
        self.came.emit(*key)

    def _have(self, key: Key, shown: Shown) -> None:
        self._asked.discard(key)
        self._kept[key] = shown
        self._kept.move_to_end(key)
        while self.megabytes > self.bound_mb and len(self._kept) > 2:
            self._kept.popitem(last=False)
        self.came.emit(key[0], key[1])

    def _broken(self, key: Key, words: str) -> None:
        self.failed.emit(words)
