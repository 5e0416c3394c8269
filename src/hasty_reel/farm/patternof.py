"""The sequence a picture belongs to, by its name, and the sequence that is its other seed."""

from __future__ import annotations

import re
from collections.abc import Sequence
from pathlib import Path

from hasty_reel.errors import WrongInput
from hasty_reel.pictures.foreign import ENDINGS
from hasty_reel.pictures.sequence import FramePattern

_SEED = re.compile(r"(?P<a>(?:^|[._-])(?:s|seed|take|pass)?)(?P<n>1|a)(?P<z>(?=[._-]|$))", re.IGNORECASE)


def pattern_of(path: Path) -> FramePattern:
    """Return the pattern of the sequence a picture belongs to: its last number is the frame.

    Parameters
    ----------
    path : of the picture

    Raises
    ------
    WrongInput
        When its name has no number, or it is no picture of a known kind.
    """
    if path.suffix.lower() not in ENDINGS:
        raise WrongInput(f"{path}: expected a picture ending in {', '.join(ENDINGS)}.")
    match = re.match(r"(?P<before>.*?)(?P<number>\d+)(?P<after>(?:[._-](?:s|seed)\d)?\.[A-Za-z]+)\Z", path.name)
    if match is None:
        raise WrongInput(f"{path}: no frame number in the name; expected one such as shot.1001.exr.")
    return FramePattern(path.parent, match["before"], len(match["number"]), match["after"])


def guess_pair(pattern: FramePattern) -> FramePattern | None:
    """Return the sequence beside it that differs in the number of its seed: 'a.s1.####.exr' has 'a.s2.####.exr'.

    Parameters
    ----------
    pattern : of the sequence
    """
    for match in reversed(list(_SEED.finditer(pattern.before))):
        other = {"1": "2", "a": "b", "A": "B"}[match["n"]]
        before = pattern.before[: match.start("n")] + other + pattern.before[match.end("n") :]
        found = FramePattern(pattern.folder, before, pattern.digits, pattern.after)
        if found.frames():
            return found
    behind = re.search(r"(?P<a>[._-](?:s|seed))(?P<n>1)(?P<z>(?=[._-]))", pattern.after, re.IGNORECASE)
    if behind:
        after = pattern.after[: behind.start("n")] + "2" + pattern.after[behind.end("n") :]
        found = FramePattern(pattern.folder, pattern.before, pattern.digits, after)
        return found if found.frames() else None
    return None


def sequences_in(paths: Sequence[Path]) -> list[FramePattern]:
    """Return the sequences that some pictures belong to, each once, without those that are another's pair.

    Parameters
    ----------
    paths : of the pictures
    """
    found = list(dict.fromkeys(pattern_of(p) for p in paths))
    pairs = {q for p in found if (q := guess_pair(p)) is not None}
    return [p for p in found if p not in pairs]
