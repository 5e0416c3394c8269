"""Frame sets: `1001-1240`, `1001-1240x5`, `1001,1010-1020`."""

from __future__ import annotations

import re
from collections.abc import Iterable

import fileseq

from hasty_reel.errors import WrongInput

MOST = 1_000_000
_PART = re.compile(r"(-?\d+)(?:-(-?\d+)(?:x(\d+))?)?\Z")


def read_frames(text: str) -> tuple[int, ...]:
    """The frames of a set, in order, each once.

    Raises
    ------
    WrongInput
        Names the part that is wrong: not a range, backwards, step 0, or more than a million frames.
    """
    total = 0
    for part in text.replace(" ", "").split(","):
        match = _PART.match(part)
        if not match or len(part) > 40:
            raise WrongInput(f"Frames '{text[:60]}': '{part[:40]}' is not a frame or a range; expected 1001-1240x5.")
        first, last, step = int(match[1]), int(match[2] or match[1]), int(match[3] or 1)
        if last < first:
            raise WrongInput(f"Frames '{text[:60]}': {part} runs backwards; expected the first frame before the last.")
        if step < 1:
            raise WrongInput(f"Frames '{text[:60]}': the step in {part} is 0; expected 1 or more.")
        total += (last - first) // step + 1
        if total > MOST:
            raise WrongInput(f"Frames '{text[:60]}': more than {MOST:,} frames.")
    return tuple(sorted({int(f) for f in fileseq.FrameSet(text.replace(" ", ""))}))


def write_frames(frames: Iterable[int]) -> str:
    """The shortest text of a set of frames."""
    return str(fileseq.framesToFrameRange(sorted(frames), sort=True, zfill=0))
