"""The sequence a picture belongs to, by its name, and the sequence that is its other seed."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Sequence
from pathlib import Path

from hasty_reel.errors import PictureError, WrongInput
from hasty_reel.pictures.foreign import ENDINGS
from hasty_reel.pictures.frame import read_header
from hasty_reel.pictures.sequence import FramePattern

MOST_BESIDE, MOST_FILES = 40, 20_000
"""Folders beside that of a sequence that are looked into, and files of each."""

_SEED = re.compile(r"(?:^|[._-])(?:(?:s|seed|take|pass)(?P<told>[0-9]{1,6}|a)|(?P<bare>1|a))(?=[._-]|$)", re.IGNORECASE)
"""A seed in a name: any number behind such a word, or 1 by itself; or a letter."""
_BEHIND = re.compile(r"[._-](?:s|seed)(?P<told>[0-9]{1,6})(?=[._-])", re.IGNORECASE)


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
    match = re.match(r"(?P<before>.*?)(?P<number>\d+)(?P<after>(?:[._-](?:s|seed)\d{1,6})?\.[A-Za-z]+)\Z", path.name)
    if match is None:
        raise WrongInput(f"{path}: no frame number in the name; expected one such as shot.1001.exr.")
    return FramePattern(path.parent, match["before"], len(match["number"]), match["after"])


def guess_pair(pattern: FramePattern) -> FramePattern | None:
    """Return the sequence beside it that has the next seed: 'a.s1.####.exr' has 'a.s2.####.exr', 'a.s101.####.exr' has s102.

    Parameters
    ----------
    pattern : of the sequence
    """
    for match in reversed(list(_SEED.finditer(pattern.before))):
        start, end = match.span("told" if match["told"] else "bare")
        before = pattern.before[:start] + _next_seed(pattern.before[start:end]) + pattern.before[end:]
        found = FramePattern(pattern.folder, before, pattern.digits, pattern.after)
        if found.frames():
            return found
    behind = _BEHIND.search(pattern.after)
    if behind:
        start, end = behind.span("told")
        found = FramePattern(
            pattern.folder, pattern.before, pattern.digits, pattern.after[:start] + _next_seed(behind["told"]) + pattern.after[end:]
        )
        return found if found.frames() else None
    return None


def other_sizes(pattern: FramePattern) -> list[tuple[FramePattern, tuple[int, int]]]:
    """Return the sequences beside one, in its folder and the folders beside that, which have some of its frames in another size.

    Parameters
    ----------
    pattern : of the sequence

    Returns
    -------
    list of tuple
        Of each its pattern, and width and height in pixels; in the order of their names. Nothing where it cannot be read.
    """
    frames = set(pattern.frames())
    if not frames:
        return []
    try:
        size = read_header(pattern.path(min(frames)))
        beside = [d for d in sorted(pattern.folder.parent.iterdir()) if d.is_dir()][:MOST_BESIDE]
        folders = dict.fromkeys([pattern.folder, *beside])
        files = [f for d in folders for f in sorted(d.iterdir())[:MOST_FILES] if f.suffix.lower() in ENDINGS]
    except (OSError, PictureError):
        return []
    found = []
    for file in files:
        with contextlib.suppress(WrongInput):
            if (other := pattern_of(file)) != pattern and other not in found:
                found.append(other)
    pairs = {q for p in found if (q := guess_pair(p)) is not None}
    out = []
    for other in found:
        there = frames & set(other.frames())
        if not there or other in pairs:
            continue
        with contextlib.suppress(PictureError):
            head = read_header(other.path(min(there)))
            if (head.width, head.height) != (size.width, size.height):
                out.append((other, (head.width, head.height)))
    return out


def _next_seed(seed: str) -> str:
    """The seed after one, as wide: '1' has '2', '007' has '008', 'a' has 'b'."""
    return f"{int(seed) + 1:0{len(seed)}d}" if seed.isdigit() else {"a": "b", "A": "B"}[seed]


def sequences_in(paths: Sequence[Path]) -> list[FramePattern]:
    """Return the sequences that some pictures belong to, each once, without those that are another's pair.

    Parameters
    ----------
    paths : of the pictures
    """
    found = list(dict.fromkeys(pattern_of(p) for p in paths))
    pairs = {q for p in found if (q := guess_pair(p)) is not None}
    return [p for p in found if p not in pairs]
