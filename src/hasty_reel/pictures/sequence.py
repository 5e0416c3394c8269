"""Numbered files: a pattern such as `sh010.####.exr`, and which frames are there."""

from __future__ import annotations

import os
import re
from dataclasses import dataclass
from pathlib import Path

from hasty_reel.errors import WrongInput
from hasty_reel.reel.frames import read_frames

MOST_DIGITS = 12
_PLACE = re.compile(r"(?P<hashes>#+)|%0?(?P<digits>[0-9]{0,20})d")
_RANGE = re.compile(r"(?:^|(?<=[._ ]))[0-9]{1,9}-[0-9]{1,9}(?:x[0-9]{1,9})?(?:,[0-9]{1,9}(?:-[0-9]{1,9}(?:x[0-9]{1,9})?)?)*\Z")


@dataclass(frozen=True)
class FramePattern:
    """A path with a place for the frame number, padded with zeros to `digits`."""

    folder: Path
    before: str
    digits: int
    after: str
    only: frozenset[int] | None = None
    """The frames that were picked in the pattern itself; None for all."""

    def path(self, frame: int) -> Path:
        """Return the file of one frame.

        Parameters
        ----------
        frame : its number
        """
        return self.folder / f"{self.before}{frame:0{self.digits}d}{self.after}"

    def frames(self) -> list[int]:
        """Return the frames that are on disk, in order; those padded otherwise are other files (`padded_otherwise`)."""
        return sorted(int(number) for number in self._numbers() if number == self._number(int(number)))

    def padded_otherwise(self) -> list[str]:
        """Return the names of files that differ from this pattern in how the frame number is padded alone, in order."""
        return sorted(f"{self.before}{n}{self.after}" for n in self._numbers(1) if n != self._number(int(n)))

    def padding_words(self) -> str:
        """Return that there are files whose numbers are padded otherwise, and are not read; '' where there are none."""
        others = self.padded_otherwise()
        if not others:
            return ""
        more = f" and {len(others) - 1} more" if len(others) > 1 else ""
        return f"{self}: {others[0]}{more} {'are' if more else 'is'} padded otherwise and not read; expected {self.digits} digits."

    def _number(self, frame: int) -> str:
        return f"{frame:0{self.digits}d}"

    def _numbers(self, least: int | None = None) -> list[str]:
        """Numbers in the names of files on disk that have at least so many digits; None for those of the pattern."""
        form = re.compile(rf"{re.escape(self.before)}(-?[0-9]{{{least or self.digits},18}}){re.escape(self.after)}\Z")
        try:
            with os.scandir(self.folder) as entries:
                found = [match[1] for entry in entries if (match := form.match(entry.name))]
        except OSError:
            return []
        return [n for n in found if self.only is None or int(n) in self.only]

    def __str__(self) -> str:
        return str(self.folder / f"{self.before}{'#' * self.digits}{self.after}")


def read_pattern(text: str) -> FramePattern:
    """Read `name.####.exr` (one digit for each #) or `name.%04d.exr`.

    The place of the frame number is the last one in the file's name; folders may hold any signs.
    A range before it, as in `name.1001-1048####.exr`, picks these frames alone.

    Parameters
    ----------
    text : the pattern

    Returns
    -------
    FramePattern
        The pattern read.

    Raises
    ------
    WrongInput
        When there is no place for the frame number, or it asks for more digits than a number has.
    """
    folder, slash, name = text.rpartition("/")
    places = list(_PLACE.finditer(name))
    if not places or "\0" in text:
        raise WrongInput(f"'{text[:120]}': no place for the frame number; expected #### or %04d in the name.")
    place = places[-1]
    digits = len(place["hashes"]) if place["hashes"] else int(place["digits"] or 1)
    if not 1 <= digits <= MOST_DIGITS:
        raise WrongInput(f"'{text[:120]}': a frame number of {digits:.6g} digits; expected 1 to {MOST_DIGITS}.")
    before = name[: place.start()]
    picked = _RANGE.search(before)
    only = None if picked is None else frozenset(read_frames(picked[0]))
    before = before if picked is None else before[: picked.start()]
    return FramePattern(Path(folder or slash or "."), before, max(1, digits), name[place.end() :], only)
