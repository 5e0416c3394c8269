"""A reel from a folder of frames: a shot for each sequence, rate and size as the files say."""

from __future__ import annotations

import os
import re
from collections import Counter
from dataclasses import dataclass
from datetime import datetime
from fractions import Fraction
from pathlib import Path

import msgspec

from hasty_reel.errors import PictureError, WrongInput, reason
from hasty_reel.farm.patternof import guess_pair, pattern_of
from hasty_reel.pictures.foreign import ENDINGS
from hasty_reel.pictures.frame import PictureHeader, read_header
from hasty_reel.pictures.sequence import FramePattern
from hasty_reel.reel.checked import checked_reel
from hasty_reel.reel.document import Reel
from hasty_reel.reel.frames import write_frames
from hasty_reel.reel.fresh import fresh_reel
from hasty_reel.reel.shot import CLEAN, Shot

MOST_FILES = 200_000
DEEPEST = 3
"""Folders below the one chosen that are looked into."""
RATE_NAMES = ("framespersecond", "fps", "framerate", "frame_rate", "dpx:framerate", "smpte:framerate")


@dataclass(frozen=True)
class Found:
    """A sequence in a folder: where, which frames, and what the head of its first readable one says."""

    pattern: FramePattern
    frames: tuple[int, ...]
    head: PictureHeader

    @property
    def rate(self) -> Fraction | None:
        """Frames a second as its head tells; None where it does not."""
        return rate_in({k.lower(): v for k, v in self.head.attributes.items()})


@dataclass(frozen=True)
class FromFrames:
    """A reel made of what a folder holds, its sequences by shot, and what it does not tell, in words."""

    reel: Reel
    patterns: dict[str, FramePattern]
    words: tuple[str, ...]


def reel_from_frames(folder: Path, now: datetime) -> FromFrames:
    """Make a reel of the sequences in a folder.

    Parameters
    ----------
    folder : looked through, three folders deep
    now : the new reel is due on the morning after it

    Returns
    -------
    FromFrames
        The reel, not kept anywhere yet.

    Raises
    ------
    WrongInput
        When there are no frames in it that can be read.
    """
    found = sequences_below(folder)
    if not found:
        raise WrongInput(f"{folder}: no numbered pictures that can be read; expected such as shot.1001.exr.")
    words = []
    rates = Counter(s.rate for s in found if s.rate is not None)
    sizes = Counter((s.head.width, s.head.height) for s in found)
    (width, height), _ = sizes.most_common(1)[0]
    reel = fresh_reel(folder.resolve().name[:60] or "Frames", "frames", now)
    rate = rates.most_common(1)[0][0] if rates else reel.fps
    if not rates:
        words.append(f"The frames tell no rate: {float(rate):g} a second is taken.")
    elif len(rates) > 1:
        words.append(f"Some sequences tell another rate than {float(rate):g} a second.")
    if len(sizes) > 1:
        words.append(f"Some sequences have another size than {width}×{height}.")
    shots: list[Shot] = []
    patterns = {}
    for one in found:
        name = _name_of(one.pattern)
        shot = Shot(
            id=_id_of(name, {s.id for s in shots}),
            name=name[:200],
            scene=name[:60],
            recipe=reel.recipes[0].name,
            first=one.frames[0],
            last=one.frames[-1],
            hold=CLEAN,
        )
        holes = sorted(set(range(one.frames[0], one.frames[-1] + 1)) - set(one.frames))
        if holes:
            words.append(f"{shot.id}: frames {write_frames(holes)[:80]} are missing.")
        shots.append(shot)
        patterns[shot.id] = one.pattern
    made = msgspec.structs.replace(reel, width=width, height=height, rate=(rate.numerator, rate.denominator), shots=tuple(shots))
    return FromFrames(checked_reel(made), patterns, tuple(words))


def sequences_below(folder: Path) -> list[Found]:
    """Find the sequences in a folder and those in it, without the second seed of another.

    Parameters
    ----------
    folder : looked through, three folders deep

    Returns
    -------
    list[Found]
        Sequences of which at least one frame can be read, by the names of their folders and files.

    Raises
    ------
    WrongInput
        When the folder cannot be read.
    """
    frames: dict[FramePattern, set[int]] = {}
    for path in _pictures(folder):
        try:
            pattern = pattern_of(path)
        except WrongInput:
            continue
        number = path.name[len(pattern.before) : len(path.name) - len(pattern.after)]
        if len(number) <= 9:
            frames.setdefault(pattern, set()).add(int(number))
    merged = _same_digits(frames)
    pairs = {guess_pair(p) for p in merged}
    out = []
    for pattern in sorted(merged, key=str):
        if pattern in pairs:
            continue
        numbers = tuple(sorted(merged[pattern]))
        head = next((h for f in numbers[:20] if (h := _head(pattern.path(f))) is not None), None)
        if head is not None:
            out.append(Found(pattern, numbers, head))
    return out


def rate_in(attributes: dict[str, object]) -> Fraction | None:
    """Return the frames a second that the head of a picture tells.

    Parameters
    ----------
    attributes : by name in small letters

    Returns
    -------
    Fraction | None
        The rate, exactly where it is told as a ratio; None without one.
    """
    for name in RATE_NAMES:
        value = attributes.get(name)
        try:
            if isinstance(value, tuple | list) and len(value) == 2:
                rate = Fraction(int(value[0]), int(value[1]))
            elif isinstance(value, int | float):
                # 23.976 is told for 24000/1001
                rate = min((Fraction(round(value)), Fraction(round(value) * 1000, 1001)), key=lambda r: abs(float(r) - value))
                rate = rate if abs(float(rate) - value) < 5e-3 else Fraction(value).limit_denominator(1001)
            else:
                continue
        except (ValueError, ZeroDivisionError, OverflowError):
            continue
        if 1 <= rate <= 1000:
            return rate
    return None


def _pictures(folder: Path) -> list[Path]:
    """Pictures in a folder and below it."""
    out: list[Path] = []

    def told(error: OSError) -> None:
        if error.filename == str(folder):
            raise WrongInput(f"{folder}: cannot be read ({reason(error)}).") from error

    base = len(folder.parts)
    for place, folders, names in os.walk(folder, onerror=told):
        folders[:] = sorted(f for f in folders if not f.startswith(".")) if len(Path(place).parts) - base < DEEPEST else []
        out += [Path(place) / n for n in names if n.lower().endswith(ENDINGS) and not n.startswith(".")]
        if len(out) > MOST_FILES:
            raise WrongInput(f"{folder}: more than {MOST_FILES:,} pictures; expected the folder of one reel.")
    return out


def _same_digits(frames: dict[FramePattern, set[int]]) -> dict[FramePattern, set[int]]:
    """Sequences whose numbers are not filled up with zeros, as 9, 10 and 100, count as one."""
    out: dict[FramePattern, set[int]] = {}
    for pattern in sorted(frames, key=lambda p: p.digits):
        short = next((p for p in out if (p.folder, p.before, p.after) == (pattern.folder, pattern.before, pattern.after)), None)
        out.setdefault(short or pattern, set()).update(frames[pattern])
    return out


def _head(path: Path) -> PictureHeader | None:
    try:
        return read_header(path)
    except PictureError:
        return None


def _name_of(pattern: FramePattern) -> str:
    """The name of a sequence: that of its files, else that of its folder."""
    plain = re.sub(r"(?:[._-](?:s|seed)?1?)?[._-]*\Z", "", pattern.before)
    name = "".join(c for c in plain if c.isprintable()).strip()
    return name or pattern.folder.resolve().name or "frames"


def _id_of(name: str, taken: set[str]) -> str:
    plain = re.sub(r"[^A-Za-z0-9_-]+", "_", name).strip("_-")[:40]
    base = plain if plain and plain[0].isalnum() else "shot"
    return next(n for k in range(1, len(taken) + 2) if (n := base if k == 1 else f"{base}-{k}") not in taken)
