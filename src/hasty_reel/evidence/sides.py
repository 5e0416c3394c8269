"""The sides of a comparison: a proof, or frames of a sequence, by frame number and seed."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from hasty_reel.errors import PictureError
from hasty_reel.evidence.percent import change_percent
from hasty_reel.evidence.proof import Proof
from hasty_reel.evidence.rows import Evidence
from hasty_reel.evidence.sheet import changes_of
from hasty_reel.pictures.footage import Footage
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.pictures.guidesbeside import with_guides_beside
from hasty_reel.reel.shot import Shot
from hasty_reel.viewers import who_sees

LOOKED_THROUGH = 24
MOST_LOOP_FRAMES = 480
"""Frames of a loop that are measured and played; of longer runs those around the playhead."""


@dataclass(frozen=True)
class Side:
    """Frames that are compared.

    key : told apart by it; name, words : as it is listed
    paths : frame -> pictures, one a seed; seconds : of a picture, where it is known
    footage : where frames of other programs come from; None: they are ours
    """

    key: str
    name: str
    words: str
    paths: Mapping[int, tuple[Path, ...]]
    seconds: Mapping[int, float] = field(default_factory=dict)
    proof: Proof | None = None
    footage: Footage | None = None

    @property
    def frames(self) -> list[int]:
        """The frames it has, in order."""
        return sorted(self.paths)

    def nearest(self, frame: int) -> int | None:
        """Return the frame it has at or nearest to one.

        Parameters
        ----------
        frame : as the shot numbers it
        """
        return min(self.paths, key=lambda f: (abs(f - frame), f), default=None)

    def run_at(self, frame: int) -> list[int]:
        """Return the frames without a gap around the one nearest to `frame`: what can be played.

        Parameters
        ----------
        frame : as the shot numbers it
        """
        start = self.nearest(frame)
        if start is None:
            return []
        first = last = start
        while first - 1 in self.paths:
            first -= 1
        while last + 1 in self.paths:
            last += 1
        return list(range(first, last + 1))

    def longest_run(self) -> list[int]:
        """Return the longest stretch without a gap."""
        best: list[int] = []
        left = set(self.paths)
        while left:
            run = self.run_at(min(left))
            left -= set(run)
            best = max(best, run, key=len)
        return best

    @property
    def two_seeds(self) -> bool:
        """Whether every frame was rendered with two seeds."""
        return bool(self.paths) and all(len(p) > 1 for p in self.paths.values())

    def read(self, frame: int, wanted: Collection[str] | None = None, seed: int = 0) -> Picture:
        """Return a frame with the guides that are wanted.

        Parameters
        ----------
        frame : as the shot numbers it
        wanted : guides that are wanted; None for all
        seed : 0 for the first, 1 for the second

        Raises
        ------
        PictureError
            When it is not there or broken.
        """
        if frame not in self.paths:
            raise PictureError(f"{self.name} has no frame {frame}.")
        if self.footage is not None:
            return self.footage.read(frame, wanted)
        path = self.paths[frame][min(seed, len(self.paths[frame]) - 1)]
        return with_guides_beside(read_picture(path, wanted), path, wanted)

    def read_pair(self, frame: int, wanted: Collection[str] | None = None) -> Picture:
        """Return the same with the second seed.

        Parameters
        ----------
        frame : as the shot numbers it
        wanted : guides that are wanted; None for all
        """
        return self.read(frame, wanted, 1)


def sides_of(evidence: Evidence, shot: Shot) -> list[Side]:
    """Return the proofs of a shot that are at hand and to be looked at, the newest first: no scans, no noise kept small.

    Parameters
    ----------
    evidence : what the proofs say
    shot : the shot or layer
    """
    out = []
    known = {(r.proof, r.frame): r.seconds for r in (*evidence.frames, *evidence.cropped)}
    by_id = {p.id: p for p in evidence.proofs}
    for number, proof in enumerate(evidence.proofs):
        if proof.id in shot.put_away or not proof.as_rendered:
            continue
        folder, off = evidence.folders[proof.id], shot.offset - proof.offset
        paths = {int(f) + off: tuple(folder / p.file for p in found) for f, found in proof.by_frame().items() if f == int(f)}
        paths = {f: p for f, p in paths.items() if (proof.id, f) in known}
        if paths:
            seconds = {f: known[proof.id, f] for f in paths}
            parent = by_id.get(proof.parent) or (evidence.proofs[0] if number else None)
            out.append(Side(proof.id, f"Proof {proof.id}", _words(proof, paths, parent), paths, seconds, proof))
    return out[::-1]


def _words(proof: Proof, paths: Mapping[int, object], parent: Proof | None) -> str:
    frames = sorted(paths)
    count = f"frame {frames[0]}" if len(frames) == 1 else f"{len(frames)} frames"
    changes = changes_of(proof, parent) if parent is not None else []
    return f"{proof.samples} samples, {count}" + (f", {changes[0]}" if changes else "")


def side_of_footage(footage: Footage, name: str) -> Side:
    """Return the frames of a pattern as a side.

    Parameters
    ----------
    footage : frames on disk
    name : of the side

    Raises
    ------
    WrongInput
        When there are none.
    """
    paths = {f: (footage.pattern.path(f),) for f in footage.frames}
    return Side(str(footage.pattern), name, f"{len(paths)} frames", paths, footage=footage)


def common_frames(a: Side, b: Side | None) -> list[int]:
    """Return the frames that both sides have; those of the first alone where there is no second.

    Parameters
    ----------
    a : one side
    b : the other; None for none
    """
    return a.frames if b is None else sorted(set(a.paths) & set(b.paths))


def loop_of(sides: Sequence[Side], frame: int) -> list[int]:
    """Return the frames that are played and measured: without a gap around `frame`, in all sides; else the longest such run there is.

    Parameters
    ----------
    sides : one or two
    frame : as the shot numbers it
    """
    if not sides:
        return []
    frames = common_frames(sides[0], sides[1] if len(sides) == 2 else None)
    both = _of(frames)
    run = both.run_at(frame)
    if len(run) < 2:
        longest = both.longest_run()
        run = longest if len(longest) > 1 else run
    if len(run) > MOST_LOOP_FRAMES:
        middle = min(max(run.index(both.nearest(frame) or run[0]), MOST_LOOP_FRAMES // 2), len(run) - MOST_LOOP_FRAMES // 2)
        run = run[middle - MOST_LOOP_FRAMES // 2 : middle + MOST_LOOP_FRAMES // 2]
    return run


def two_runs(sides: Sequence[Side]) -> tuple[Side | None, Side | None]:
    """Return the two with the longest run of the same frames, the later in the list as A; else the best one alone.

    Parameters
    ----------
    sides : one or two

    Returns
    -------
    a, b : Side or None
        The sides to compare at first.
    """
    best: tuple[int, Side | None, Side | None] = (1, None, None)
    near = [s for s in sides if len(s.paths) > 1][:LOOKED_THROUGH]  # of thousands the newest runs
    for k, newer in enumerate(near):
        for older in near[k + 1 :]:
            length = len(_of(common_frames(older, newer)).longest_run())
            if length > best[0]:
                best = (length, older, newer)
    if best[1] is not None:
        return best[1], best[2]
    runs = [s for s in sides if len(s.longest_run()) > 1]
    return (runs[0] if runs else sides[0] if sides else None), None


def _of(frames: Sequence[int]) -> Side:
    return Side("", "", "", {f: () for f in frames})


def verdict(a: Side, b: Side, seen: tuple[float, float], noise: tuple[float, float], limit: float) -> tuple[str, str]:
    """Return the comparison as a sentence and what stands behind it.

    Parameters
    ----------
    a : one side
    b : the other; None for none
    seen : seen flicker of both in JND, nan where it is not a run
    noise : in L*
    limit : seen flicker from which on it is seen, in JND

    Returns
    -------
    head : str
        The verdict in a sentence.
    body : str
        What speaks for it.
    """
    frames = common_frames(a, b)
    times = [mean_seconds(s, frames) for s in (a, b)]
    judged = seen if np.isfinite(seen).all() else noise
    what = "seen flicker" if judged is seen else "noise"
    if not np.isfinite(judged).all() or min(judged) <= 0:
        return "Not to be told apart yet.", "There is nothing that was measured on both."
    share = judged[1] / judged[0]
    if abs(share - 1) < 0.05:
        head = f"Both have the same {what}."
    else:
        calmer = "B" if share < 1 else "A"
        low, high = min(judged), max(judged)
        head = f"{calmer} is calmer."
        if judged is seen and low < limit <= high:
            head = f"{calmer} hides the flicker."
    if judged is seen:
        body = f"Its unrest is seen by {who_sees(seen[0])} in A and by {who_sees(seen[1])} in B"
    else:
        body = f"Noise {judged[0]:.2g} in A and {judged[1]:.2g} L* in B"
    if np.isfinite(times).all() and times[0] > 0:
        more = times[1] - times[0]
        body += f"; B takes {abs(more):.2g} s {'more' if more > 0 else 'less'} a frame ({change_percent(*times):+.0f} %)"
    return head, body + "."


def mean_seconds(side: Side, frames: Sequence[int]) -> float:
    """Return the seconds of a picture, mean over frames; nan where none is known.

    Parameters
    ----------
    side : the side
    frames : numbers of the frames
    """
    known = [side.seconds[f] for f in frames if f in side.seconds]
    return float(np.mean(known)) if known else float("nan")
