"""Frames on disk as light, whatever program wrote them: which channel is what is found out once."""

from __future__ import annotations

from collections.abc import Collection
from functools import cached_property

from hasty_reel.errors import PictureError, WrongInput
from hasty_reel.pictures.foreign import Channels, guess_channels, is_coded, read_foreign
from hasty_reel.pictures.frame import Picture, read_header
from hasty_reel.pictures.guidesbeside import with_guides_beside
from hasty_reel.pictures.sequence import FramePattern


class Footage:
    """The frames of a pattern.

    Parameters
    ----------
    pattern : of the files
    coded : the colour holds display codes; None: as the files let expect
    guides : the frames they were made of, which hold guides where these have none; None: as they lie beside
    """

    def __init__(self, pattern: FramePattern, coded: bool | None = None, guides: FramePattern | None = None) -> None:
        self.pattern = pattern
        self._coded, self._guides = coded, guides

    @cached_property
    def frames(self) -> list[int]:
        """The frames that are there.

        Raises
        ------
        WrongInput
            When there are none.
        """
        found = self.pattern.frames()
        if not found:
            raise WrongInput(f"{self.pattern}: no frames there; expected files such as {self.pattern.path(1).name}.")
        return found

    @cached_property
    def _layout(self) -> tuple[Channels, bool]:
        """Channels and coding, as the first frame that can be read says."""
        fault: PictureError | None = None
        for frame in self.frames:
            path = self.pattern.path(frame)
            try:
                head = read_header(path)
            except PictureError as error:
                fault = fault or error
                continue
            coded = is_coded(path, head.attributes) if self._coded is None else self._coded
            return guess_channels(head.channels), coded
        raise fault or WrongInput(f"{self.pattern}: no frame can be read.")

    def read(self, frame: int, wanted: Collection[str] | None = None) -> Picture:
        """One frame, with the guides that are wanted where it, or the frame it was made of, has them; None: all.

        Parameters
        ----------
        frame : its number
        wanted : guides that are wanted; None for all

        Raises
        ------
        PictureError
            When it is missing, broken or without colour.
        """
        channels, coded = self._layout
        path = self.pattern.path(frame)
        picture = read_foreign(path, channels, coded, wanted)
        return with_guides_beside(picture, path, wanted, None if self._guides is None else self._guides.path(frame))
