"""A folder of frames checked before it is handed over: what is missing, broken, doubled, stale, or does not fit its neighbours."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from hasty_reel.errors import PictureError, reason
from hasty_reel.handover.content import FrameContent, content_of, head_alone
from hasty_reel.pictures.footage import Footage
from hasty_reel.pictures.frame import read_header
from hasty_reel.reel.frames import write_frames
from hasty_reel.work import CancelToken, Progress, silent

BLACK, DARK = 1e-4, 2.0
"""Light below which a frame is black, and L* of a neighbour above which that is no fade (our own choice)."""
FLASH, FLASH_PART, IN_DEVIATIONS = 1.0, 4.0, 8.0
"""L* by which the whole, or a part, of a flashing frame leaves what its neighbours have in common; and in deviations of the sequence.

One L* is about what is just seen between still pictures (common practice, no source); the others are our own choice, with which planted
faults are found and none is invented in 2,000 frames that move."""
SPARKS, TIMES = 12, 6.0
"""Pixels that stand alone in a sparkling frame beyond the usual, and how many times the usual (our own choice, as above)."""
READERS = 2
KINDS = (
    "missing", "unreadable", "wrong_size", "wrong_channels", "not_finite", "black", "stale", "doubled", "flashing", "sparkling",
)  # fmt: skip
"""Faults in the order in which they are told; the first one counts as the mark of a frame."""
WORDS = {
    "missing": "is missing", "unreadable": "cannot be read", "wrong_size": "is of another size", "wrong_channels": "has other channels",
    "not_finite": "has pixels that are no numbers", "black": "is black", "stale": "is stale", "doubled": "is doubled",
    "flashing": "is flashing", "sparkling": "is sparkling",
}  # fmt: skip


@dataclass(frozen=True)
class FolderCheck:
    """What is wrong with frames, by kind of fault.

    frames : that were looked for; faults : frames by kind; doubled : groups of frames with equal pixels
    content : figures of the frames that could be read; why : what is wrong with those that could not, by frame
    """

    frames: tuple[int, ...]
    faults: dict[str, tuple[int, ...]] = field(default_factory=dict)
    doubled: tuple[tuple[int, ...], ...] = ()
    content: dict[int, FrameContent] = field(default_factory=dict)
    why: dict[int, str] = field(default_factory=dict)

    @property
    def again(self) -> tuple[int, ...]:
        """Frames to be rendered again. Of doubled ones all but the first: which is right cannot be told."""
        out = {f for kind, frames in self.faults.items() if kind != "doubled" for f in frames}
        return tuple(sorted(out | {f for group in self.doubled for f in group[1:]}))

    @property
    def marks(self) -> dict[int, str]:
        """The first fault of each frame that has one."""
        return {f: kind for kind in reversed(KINDS) for f in self.faults.get(kind, ())}

    @property
    def words(self) -> list[str]:
        """What is wrong, a sentence for each kind."""
        told = []
        for kind, frames in self.faults.items():
            words = WORDS[kind] if len(frames) == 1 else WORDS[kind].replace("is ", "are ", 1).replace("has ", "have ", 1)
            told.append(f"{len(frames)} {'frame' if len(frames) == 1 else 'frames'} {words}: {write_frames(frames)}")
        return told or [f"All {len(self.frames)} frames are there and whole."]


def check_frames(
    footage: Footage,
    frames: Sequence[int],
    size: tuple[int, int] | None = None,
    since: float | None = None,
    fits: Callable[[Path, int], bool] | None = None,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
    known: dict[int, tuple[int, FrameContent]] | None = None,
    quick: bool = False,
) -> FolderCheck:
    """Check frames on disk.

    Parameters
    ----------
    footage : where they are
    frames : that are to be there
    size : width and height they are to have; None: as most have
    since : time in seconds since 1970 before which a file is stale; None: none is
    fits : whether a file is the frame that is wanted, by its path and number; None: all are
    progress : called with the share that is done, and words
    cancel : looked at between frames; None: it cannot be stopped
    known : time of the file and figures of frames that were looked at before, which are read again only where the file is another;
        kept up to date. None: nothing is known
    quick : look at heads and last rows alone: what is missing, cut short, of another size or with other channels, stale

    Returns
    -------
    FolderCheck
        What is wrong.

    Raises
    ------
    Stopped
        When `cancel` asked for it.
    """
    wanted = sorted(set(frames))
    there = set(footage.pattern.frames())
    found: dict[int, FrameContent] = {}
    why: dict[int, str] = {}

    def _look(frame: int) -> tuple[int, FrameContent | str]:
        if cancel is not None:
            cancel.check()
        path = footage.pattern.path(frame)
        try:
            at = path.stat().st_mtime_ns
            if known is not None and known.get(frame, (0, None))[0] == at:
                return frame, known[frame][1]
            head = read_header(path, whole=True)
            if quick:
                return frame, head_alone(head.width, head.height, tuple(head.channels))
            content = content_of(footage.read(frame, ()).rgb, tuple(head.channels))
        except OSError as error:
            return frame, f"{path}: {reason(error)}."
        except PictureError as error:
            return frame, str(error)
        if known is not None:
            known[frame] = at, content
        return frame, content

    present = [f for f in wanted if f in there]
    with ThreadPoolExecutor(1 if quick else READERS, "check") as readers:  # heads take the interpreter, pixels do not
        for k, (frame, what) in enumerate(readers.map(_look, present)):
            if isinstance(what, str):
                why[frame] = what
            else:
                found[frame] = what
            progress((k + 1) / len(present), f"frame {frame}")
    seen = {} if quick else found
    groups = _doubled(seen)
    faults = {
        "missing": [f for f in wanted if f not in there],
        "unreadable": sorted(why),
        "wrong_size": _wrong_size(found, size),
        "wrong_channels": _unlike_most(found, lambda c: c.channels),
        "not_finite": [f for f, c in seen.items() if c.bad],
        "black": _black(seen),
        "stale": [f for f in present if f not in why and _stale(footage.pattern.path(f), f, since, fits)],
        "doubled": sorted(f for g in groups for f in g),
        "sparkling": _sparkling(seen),
    }
    other = {*faults["wrong_size"], *faults["sparkling"]}  # their light is off because of that
    faults["flashing"] = _flashing({f: c for f, c in seen.items() if f not in other})
    told = {kind: tuple(faults[kind]) for kind in KINDS if faults[kind]}
    return FolderCheck(tuple(wanted), told, tuple(groups), seen, why)


def _unlike_most(found: dict[int, FrameContent], what: Callable[[FrameContent], object]) -> list[int]:
    if not found:
        return []
    usual = Counter(what(c) for c in found.values()).most_common(1)[0][0]
    return [f for f, c in found.items() if what(c) != usual]


def _wrong_size(found: dict[int, FrameContent], size: tuple[int, int] | None) -> list[int]:
    if size is None:
        return _unlike_most(found, lambda c: (c.width, c.height))
    return [f for f, c in found.items() if (c.width, c.height) != size]


def _black(found: dict[int, FrameContent]) -> list[int]:
    """Black frames beside one that is not: a fade is dark before it is black."""
    order = sorted(found)
    out = []
    for k, frame in enumerate(order):
        beside = [found[order[j]].mean for j in (k - 1, k + 1) if 0 <= j < len(order)]
        if found[frame].brightest < BLACK and any(m > DARK for m in beside):
            out.append(frame)
    return out


def _stale(path: Path, frame: int, since: float | None, fits: Callable[[Path, int], bool] | None) -> bool:
    try:
        old = since is not None and path.stat().st_mtime < since
    except OSError:
        return False
    return old or (fits is not None and not fits(path, frame))


def _doubled(found: dict[int, FrameContent]) -> list[tuple[int, ...]]:
    """Frames with equal pixels where the picture should move: not where all of it stands still, and not black ones."""
    by_print: dict[str, list[int]] = defaultdict(list)
    for frame, content in sorted(found.items()):
        if content.brightest >= BLACK:
            by_print[content.print].append(frame)
    return [tuple(g) for g in by_print.values() if 1 < len(g) <= len(found) / 2]


def _flashing(found: dict[int, FrameContent]) -> list[int]:
    """Frames whose light, or that of a part, leaves what the frames before and after have in common, and comes back."""
    order = [f for f in sorted(found) if found[f].brightest >= BLACK and not found[f].bad]
    if len(order) < 3:
        return []
    parts = np.array([[found[f].mean, *found[f].parts] for f in order])
    jump = parts[1:-1] - (parts[:-2] + parts[2:]) / 2.0
    alone = (parts[1:-1] - parts[:-2]) * (parts[1:-1] - parts[2:]) > 0  # up and down again, or down and up
    usual = 1.4826 * np.median(np.abs(jump), axis=0)
    limit = np.maximum(np.array([FLASH, *[FLASH_PART] * (parts.shape[1] - 1)]), IN_DEVIATIONS * usual)
    consecutive = np.array([c - a == 2 for a, c in zip(order, order[2:])])
    size = np.where(alone & consecutive[:, None], np.abs(jump) / limit, 0.0).max(axis=1)
    # beside a flash its neighbours seem to jump too, by half of it: the largest of three counts
    largest = size >= np.maximum(np.append(size[1:], 0.0), np.append(0.0, size[:-1]))
    return [order[k + 1] for k in np.flatnonzero((size > 1.0) & largest)]


def _sparkling(found: dict[int, FrameContent]) -> list[int]:
    order = [f for f in sorted(found) if not found[f].bad]
    if len(order) < 3:
        return []
    counts = np.array([found[f].sparks for f in order], np.float64)
    usual = float(np.median(counts))
    return [f for f, n in zip(order, counts) if n > SPARKS + TIMES * usual]
