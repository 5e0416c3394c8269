"""What stands around a crop: one frame is rendered whole, and of all others only what moves is put into it."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from hasty_reel.errors import PictureError
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.run.crew import Outcome

MOST_WAITING = 1 << 30
"""Bytes of crops that may wait in memory for the frame that is to stand around them, before others are begun."""


class Around:
    """The frame around the crop of a shot.

    frame : its number, as the shot numbers it; box : left, top, width and height of the crop, in pixels

    Parameters
    ----------
    frame : its number, as the shot numbers it
    box : left, top, width and height of the crop, in pixels
    path : where it lies when it is rendered
    """

    def __init__(self, frame: int, box: tuple[int, int, int, int], path: Path) -> None:
        self.frame, self.box, self._path = frame, box, path
        self._picture: Picture | None = None
        self._awaited = False
        self._waiting: list[Outcome] = []

    def await_it(self) -> None:
        """It is to be rendered: what lies on disk is another one."""
        self._awaited = True

    def there(self) -> bool:
        """Return whether it can be read; what cannot is to be rendered again."""
        if self._picture is None and not self._awaited:
            try:
                self._picture = read_picture(self._path)
            except PictureError:
                return False
        return self._picture is not None

    @property
    def full(self) -> bool:
        """Whether the crops that wait for it fill the memory that is theirs."""
        return sum(o.made.picture.nbytes for o in self._waiting if o.made is not None) >= MOST_WAITING

    def keep(self, crop: Outcome) -> None:
        """Keep a crop until the frame is there.

        Parameters
        ----------
        crop : as it was rendered
        """
        self._waiting.append(crop)

    def let_go(self) -> list[Outcome]:
        """Return the crops that were kept, and keep them no more."""
        kept, self._waiting = self._waiting, []
        return kept

    def take(self, picture: Picture) -> None:
        """Take the frame as it was just rendered.

        Parameters
        ----------
        picture : all of it
        """
        self._picture = picture

    def with_crop(self, picture: Picture) -> Picture:
        """Return a whole frame: a crop put into what stands around it, with its guides and what the file says of it.

        Parameters
        ----------
        picture : the crop

        Raises
        ------
        PictureError
            When it is of another size than the crop.
        """
        x, y, w, h = self.box
        if picture.rgb.shape[:2] != (h, w):
            raise PictureError(f"the crop is {picture.width}x{picture.height}; expected {w}x{h}.")
        assert self._picture is not None, "it is there before anything is put into it"

        def _put(whole: np.ndarray, part: np.ndarray) -> np.ndarray:
            out = whole.copy()
            out[y : y + h, x : x + w] = part
            return out

        around = self._picture
        guides = {name: _put(around.guides[name], plane) for name, plane in picture.guides.items() if name in around.guides}
        return Picture(_put(around.rgb, picture.rgb), guides, picture.attributes)
