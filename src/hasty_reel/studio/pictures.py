"""Pictures ready for the display, read beside the models' thread and kept within a bound: the one place where they are kept."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Collection, Iterable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path

import cv2
import numpy as np
from psygnal import Signal

from hasty_reel.errors import HastyReelError
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.studio.background import Background, BackgroundTask
from hasty_reel.studio.look import PLAIN_LOOK, Look, Shown, developed

BOUND_MB = 1024
KEPT_LIGHT = 4
"""Pictures whose scene-linear light is kept beside their codes."""
READERS = 2
"""Threads that read."""
THUMBNAIL = (192, 108)
"""Pixels that a small picture is fitted into."""


@dataclass(frozen=True)
class Wanted:
    """A picture that somebody wants to see.

    source : what tells it from others: the key of a side, or the path of a file; frame : of it, where it has many
    read : reads it with the guides that are asked for
    box : pixels it is fitted into by averaging; None for its own size
    """

    source: str
    frame: int = 0
    read: Callable[[Collection[str]], Picture] = field(compare=False, default=lambda guides: Picture(np.zeros((1, 1, 3), np.float32), {}))
    look: Look = PLAIN_LOOK
    box: tuple[int, int] | None = None


def of_file(path: Path, box: tuple[int, int] | None = None) -> Wanted:
    """Return a file as a picture to be seen; one that is written anew is another picture.

    Parameters
    ----------
    path : of the picture
    box : pixels it is fitted into; None for its own size

    Returns
    -------
    Wanted
        What the memory is asked for.
    """
    try:
        written = path.stat().st_mtime_ns
    except OSError:
        written = 0
    return Wanted(f"{path}@{written}", 0, lambda guides: read_picture(path, guides), box=box)


class PictureMemory:
    """Pictures by what is wanted of them.

    came(Wanted) : one is there; failed(Wanted, str) : one cannot be shown, and why
    filled(int, int) : how many of a loop are there, of how many

    Parameters
    ----------
    background : in which they are read
    """

    came = Signal(object)
    failed = Signal(object, str)
    filled = Signal(int, int)

    def __init__(self, background: Background) -> None:
        self._background = background
        self._kept: OrderedDict[Wanted, Shown] = OrderedDict()
        self._bytes = 0
        self._light: OrderedDict[tuple[str, int], np.ndarray] = OrderedDict()
        self._asked: dict[Wanted, bool] = {}
        self._broken: set[Wanted] = set()
        self._readers = 0
        self._filling: BackgroundTask | None = None
        self.bound_mb = BOUND_MB

    @property
    def megabytes(self) -> float:
        """What is kept, in MB."""
        return self._bytes / 1e6

    # -- asking

    def get(self, wanted: Wanted, light: bool = False) -> Shown | None:
        """Return a picture, and have it read where it is not there.

        Parameters
        ----------
        wanted : the picture
        light : its scene-linear light will be asked for too

        Returns
        -------
        Shown | None
            The picture; None while it is being read: `came` tells when it is there.
        """
        shown = self.peek(wanted)
        if shown is None and wanted not in self._broken and wanted not in self._asked:
            self._asked[wanted] = light
            self._read_on()
        return shown

    def peek(self, wanted: Wanted) -> Shown | None:
        """Return a picture if it is in memory; nothing is read.

        Parameters
        ----------
        wanted : the picture

        Returns
        -------
        Shown | None
            The picture, or None.
        """
        shown = self._kept.get(wanted)
        if shown is not None:
            self._kept.move_to_end(wanted)
        return shown

    def holds(self, wanted: Wanted) -> bool:
        """Whether a picture is in memory.

        Parameters
        ----------
        wanted : the picture

        Returns
        -------
        bool
            True where it is so.
        """
        return wanted in self._kept

    def fitted(self, wanted: Wanted, width: int, height: int) -> Shown | None:
        """Return a picture at a size on the screen: a smaller one is averaged, one that is enlarged is left as it is.

        Parameters
        ----------
        wanted : the picture at its own size
        width, height : on the screen, in pixels

        Returns
        -------
        Shown | None
            The picture; None while it is being read.
        """
        shown = self.get(wanted, light=True)
        if shown is None:
            return None
        h, w = shown.codes.shape[:2]
        if not (width < w and height < h):
            return shown
        small = Wanted(wanted.source, wanted.frame, wanted.read, wanted.look, (width, height))
        found = self.peek(small)
        if found is None:
            found = Shown(cv2.resize(shown.codes, (width, height), interpolation=cv2.INTER_AREA), shown.bad, shown.words)
            self._keep(small, found)
        return found

    def light(self, wanted: Wanted) -> np.ndarray | None:
        """Return the scene-linear light of a picture, and have it read where it is not there.

        Parameters
        ----------
        wanted : the picture

        Returns
        -------
        np.ndarray | None
            (h, w, 3) float32; None while it is being read: `came` tells when it is there.
        """
        found = self._light.get((wanted.source, wanted.frame))
        if found is None and wanted not in self._broken and not self._asked.get(wanted):
            self._asked[wanted] = True
            self._read_on()
        return found

    def forget(self, source: str) -> None:
        """Forget the pictures of a source: others may have taken their place on disk.

        Parameters
        ----------
        source : key of a side, or path of a file
        """
        for wanted in [w for w in self._kept if w.source == source]:
            self._bytes -= self._kept.pop(wanted).codes.nbytes
        for key in [k for k in self._light if k[0] == source]:
            del self._light[key]
        self._broken = {w for w in self._broken if w.source != source}

    # -- reading

    def _read_on(self) -> None:
        if self._readers < READERS:
            self._readers += 1
            task = self._background.start(self._read)
            task.came.connect(self._came)
            task.ended.connect(self._reader_ended)

    def _read(self, task: BackgroundTask) -> None:
        """Read what is asked for, the last first: that is on the screen now."""
        while self._asked:
            task.cancel.check()
            try:
                wanted, light = self._asked.popitem()
            except KeyError:  # another reader was quicker
                return
            try:
                picture = wanted.read(wanted.look.guides)
                shown = developed(picture, wanted.look)
            except HastyReelError as error:
                task.send((wanted, str(error), None))
                continue
            if wanted.box is not None:
                shown = Shown(_fitted_into(shown.codes, wanted.box), shown.bad, shown.words)
            task.send((wanted, shown, picture.rgb if light else None))

    def _came(self, thing: tuple[Wanted, Shown | str, np.ndarray | None]) -> None:
        wanted, shown, light = thing
        if isinstance(shown, str):
            self._broken.add(wanted)
            self.failed.emit(wanted, shown)
            return
        if light is not None:
            self._light[(wanted.source, wanted.frame)] = light
            while len(self._light) > KEPT_LIGHT:
                self._light.popitem(last=False)
        self._keep(wanted, shown)
        self.came.emit(wanted)

    def _reader_ended(self) -> None:
        self._readers -= 1
        if self._asked:
            self._read_on()

    def _keep(self, wanted: Wanted, shown: Shown) -> None:
        before = self._kept.pop(wanted, None)
        self._bytes += shown.codes.nbytes - (0 if before is None else before.codes.nbytes)
        self._kept[wanted] = shown
        while self.megabytes > self.bound_mb and len(self._kept) > 2:
            self._bytes -= self._kept.popitem(last=False)[1].codes.nbytes

    # -- whole loops

    def fill(self, loop: Iterable[Wanted]) -> None:
        """Read a whole loop into memory, as far as the bound lets; `filled` tells how far it is.

        Parameters
        ----------
        loop : pictures in the order they are shown
        """
        self.stop_filling()
        all_of_it = list(loop)
        missing = [w for w in all_of_it if w not in self._kept]
        there = len(all_of_it) - len(missing)
        if not missing:
            self.filled.emit(there, there)
            return
        bound = self.bound_mb * 1e6

        def _ready(wanted: Wanted) -> Shown:
            task.cancel.check()
            return developed(wanted.read(wanted.look.guides), wanted.look)

        def _work(task: BackgroundTask) -> None:
            used = 0.0
            with ThreadPoolExecutor(READERS, "loop") as pool:
                # a few at a time: what is stopped for is not read first
                for k in range(0, len(missing), 2 * READERS):
                    batch = missing[k : k + 2 * READERS]
                    for wanted, shown in zip(batch, pool.map(_ready, batch)):
                        used += shown.codes.nbytes
                        if used > bound:
                            return
                        task.send((wanted, shown, None))

        count = [there]

        def _came(thing: tuple[Wanted, Shown, None]) -> None:
            count[0] += 1
            self._came(thing)
            self.filled.emit(count[0], len(all_of_it))

        self._filling = task = self._background.start(_work)
        task.came.connect(_came)
        task.failed.connect(lambda words: self.failed.emit(missing[0], words))
        task.ended.connect(lambda: self._filled(task))

    def stop_filling(self) -> None:
        """Read no further."""
        if self._filling is not None:
            self._filling.cancel.cancel()
            self._filling = None

    def _filled(self, task: BackgroundTask) -> None:
        if self._filling is task:
            self._filling = None


def _fitted_into(codes: np.ndarray, box: tuple[int, int]) -> np.ndarray:
    """Codes averaged to fit into a box with their proportions kept; smaller ones stay as they are."""
    h, w = codes.shape[:2]
    scale = min(1.0, box[0] / w, box[1] / h)
    size = (max(1, round(w * scale)), max(1, round(h * scale)))
    return codes if size == (w, h) else cv2.resize(codes, size, interpolation=cv2.INTER_AREA)
