"""Frame sets: `1001-1240`, `1001-1240x5`, `1001,1010-1020`."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from typing import TypeVar

from hasty_reel.errors import WrongInput

Item = TypeVar("Item")

MOST_FRAMES = 1_000_000
_DECIMAL = re.compile(r"-?[0-9]{1,9}\.[0-9]{1,6}\Z")
_PART = re.compile(r"(-?[0-9]{1,10})(?:-(-?[0-9]{1,10})(?:x([0-9]{1,10}))?)?\Z")


def read_frames(text: str) -> tuple[int, ...]:
    """Return the frames of a set, in order, each once.

    Parameters
    ----------
    text : as written

    Raises
    ------
    WrongInput
        Names the part that is wrong: not a range, backwards, step 0, or more than a million frames.

    Examples
    --------
    >>> read_frames("1001-1005x2,1010")
    (1001, 1003, 1005, 1010)
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
        if total > MOST_FRAMES:
            raise WrongInput(f"Frames '{text[:60]}': more than {MOST_FRAMES:,} frames.")
    import fileseq  # here: a window opens without it

    return tuple(sorted({int(f) for f in fileseq.FrameSet(text.replace(" ", ""))}))


def read_proof_frames(text: str) -> tuple[int | float, ...]:
    """Return the frames of a set in which single ones may be decimal: '1001, 1010-1016, 1020.5'.

    Parameters
    ----------
    text : as written

    Raises
    ------
    WrongInput
        Names the part that is wrong.
    """
    parts = text.replace(" ", "").split(",")
    decimals = [p for p in parts if _DECIMAL.match(p)]
    rest = [p for p in parts if p not in decimals]
    whole: tuple[int | float, ...] = read_frames(",".join(rest)) if rest else ()
    return tuple(sorted({*whole, *(int(float(p)) if float(p) == int(float(p)) else round(float(p), 3) for p in decimals)}))


def proof_frames_text(frames: Iterable[int | float]) -> str:
    """Return the shortest text of a set of frames of which some may be decimal.

    Parameters
    ----------
    frames : numbers of the frames
    """
    found = list(frames)
    whole = [int(f) for f in found if f == int(f)]
    decimals = sorted(f for f in found if f != int(f))
    return ",".join([*([write_frames(whole)] if whole else []), *(f"{f:.10g}" for f in decimals)])


def write_frames(frames: Iterable[int]) -> str:
    """Return the shortest text of a set of frames.

    Parameters
    ----------
    frames : numbers of the frames
    """
    import fileseq

    return str(fileseq.framesToFrameRange(sorted(frames), sort=True, zfill=0))


def evenly(frames: Sequence[Item], most: int) -> list[Item]:
    """Return some frames evenly over all of them, the first and the last among them; all where there are no more.

    Parameters
    ----------
    frames : in their order
    most : how many are wanted at most
    """
    if len(frames) <= most:
        return list(frames)
    return [frames[round(k * (len(frames) - 1) / (most - 1))] for k in range(most)] if most > 1 else list(frames[:most])
