"""Numbered files: a pattern such as `sh010.####.exr`, and which frames are there."""

from __future__ import annotations

import os
import re
from dataclasses import dataclass
from pathlib import Path

import fileseq

from hasty_reel.errors import WrongInput


@dataclass(frozen=True)
class FramePattern:
    """A path with a place for the frame number, padded with zeros to `digits`."""

    folder: Path
    before: str
    digits: int
    after: str

    def path(self, frame: int) -> Path:
        """The file of one frame."""
        return self.folder / f"{self.before}{frame:0{self.digits}d}{self.after}"

    def frames(self) -> list[int]:
        """The frames that are on disk, in order."""
        form = re.compile(rf"{re.escape(self.before)}(-?\d{{{self.digits},}}){re.escape(self.after)}\Z")
        found = []
        try:
            with os.scandir(self.folder) as entries:
                for entry in entries:
                    match = form.match(entry.name)
                    if match:
                        found.append(int(match[1]))
        except OSError:
            return []
        return sorted(found)

    def __str__(self) -> str:
        return str(self.folder / f"{self.before}{'#' * self.digits}{self.after}")


def read_pattern(text: str) -> FramePattern:
    """Read `name.####.exr` (one digit for each #) or `name.%04d.exr`.

    Raises
    ------
    WrongInput
        When there is no place for the frame number.
    """
    if not re.search(r"#|%0?\d*d", text):
        raise WrongInput(f"'{text}': no place for the frame number; expected #### or %04d in the name.")
    try:
        sequence = fileseq.FileSequence(text, pad_style=fileseq.PAD_STYLE_HASH1, allow_subframes=False)
    except (fileseq.FileSeqException, ValueError) as error:
        raise WrongInput(f"'{text}': not a frame pattern; expected a name such as shot.####.exr.") from error
    return FramePattern(Path(sequence.dirname() or "."), sequence.basename(), max(1, sequence.zfill()), sequence.extension())
