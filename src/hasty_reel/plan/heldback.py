"""Held-back check: each proof frame and each run left out in turn, and predicted from the rest.

It tells the artist how far the plan can be trusted, by the same model that plans.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from hasty_reel.errors import CannotSolve
from hasty_reel.evidence.rows import Evidence, ProofFrame
from hasty_reel.measure.seen import FULL_ROWS, STANDARD
from hasty_reel.predict.model import ShotModel
from hasty_reel.predict.tables import table_at
from hasty_reel.reel.frames import evenly

MOST_ONE_BY_ONE = 24
"""Frames that are held back one by one, at most; of more some are chosen evenly."""
FEWEST_LEFT = 2
"""Other frames that must be left to predict from."""
RUN = 5
"""Frames in a row from which on they are a run, which is left out as a whole."""
POOR, LEAST_INSIDE = 0.15, 0.7
"""Root mean square error from which on, and share of frames in their band below which, it is said what would mend it."""
SHARED = 0.5
"""Share of the squared errors that frames of one size, or of one proof, must have in common to be the reason."""


@dataclass(frozen=True)
class HeldFrame:
    """One frame that was held back.

    seconds, noise, seen : predicted / measured; nan where it was not measured
    inside : whether the measured seconds lie in the 90 % band
    run : it was left out with the run it belongs to
    proof, pixels : that it is of, and those of its picture
    """

    frame: float
    seconds: float
    noise: float
    seen: float
    inside: bool
    run: bool
    proof: str = ""
    pixels: int = 0


@dataclass(frozen=True)
class HeldBack:
    """What came of it, frame by frame.

    scanned : the shot has a scan; blind : that tells nothing, since nearly all of its seconds are fixed
    untold : seconds that grow are not told from those that do not
    """

    frames: tuple[HeldFrame, ...] = ()
    scanned: bool = False
    blind: bool = False
    untold: bool = False

    def error(self, name: str) -> float:
        """Return the root mean square error as a share, nan where nothing was measured.

        Parameters
        ----------
        name : 'seconds', 'noise' or 'seen'
        """
        logs = np.log([getattr(f, name) for f in self.frames if getattr(f, name) > 0])
        logs = logs[np.isfinite(logs)]
        return float(np.expm1(np.sqrt(np.mean(logs**2)))) if len(logs) else float("nan")

    @property
    def words(self) -> str:
        """The check in one sentence; '' where there was nothing to hold back."""
        if not self.frames:
            return ""
        parts = [(self.error(name), words) for name, words in (("seconds", "seconds"), ("noise", "noise"), ("seen", "seen flicker"))]
        told = ", ".join(f"{words} within {100 * e:.0f} %" for e, words in parts if np.isfinite(e))
        count = len(self.frames)
        return f"{told} on {count} held-back frame{'s' if count != 1 else ''}" if told else ""

    @property
    def coverage(self) -> float:
        """Share of frames whose seconds lie in the 90 % band; nan without any."""
        return float(np.mean([f.inside for f in self.frames])) if self.frames else float("nan")

    @property
    def mend(self) -> str:
        """What would mend it where it is poor, by what the errors go with; else ''."""
        if self.error("seconds") > POOR or self.coverage < LEAST_INSIDE:
            return self._mend_seconds()
        if max(np.nan_to_num(self.error("noise")), np.nan_to_num(self.error("seen"))) > POOR:
            return "Noise changes between proofs: more proof frames for noise, unevenly spaced, tell how."
        return ""

    def _mend_seconds(self) -> str:
        """What would mend seconds: told parts first, then what all frames of a size or of a proof share, then what lies between."""
        if self.untold:
            return "Seconds that grow with pixels and samples are not told from those that do not: the next best proof tells them apart."
        size, proof = (self._shared(lambda f: f.pixels), self._shared(lambda f: f.proof))
        if size is not None and size[1] >= SHARED:
            return "Seconds a pixel differ between the sizes of the proofs: one more at the size that is planned tells by how much."
        if proof is not None and proof[1] >= SHARED:
            return f"The machine was not equally fast for all of them: repeat proof {proof[0]}, which is far off, while it is quiet."
        if self.blind:
            return "The scan tells nothing of the frames, since nearly all of its seconds are the renderer's start: more proof frames do."
        return "Seconds change between proofs: " + ("more proof frames tell how." if self.scanned else "a scan tells how.")

    def _shared(self, key: Callable[[HeldFrame], Any]) -> tuple[Any, float] | None:
        """Of groups of frames the one that is off most, and the share of all errors that groups have in common; None with one group."""
        logs = [(key(f), math.log(f.seconds)) for f in self.frames if f.seconds > 0]
        groups = {g: np.array([x for h, x in logs if h == g]) for g, _ in logs}
        if len(groups) < 2 or len(groups) == len(logs):
            return None
        common = sum(len(x) * float(x.mean()) ** 2 - float(x.var()) for x in groups.values())  # less what chance leaves of a mean
        return max(groups, key=lambda g: abs(float(groups[g].mean()))), common / max(
            1e-12, sum(float(np.sum(x**2)) for x in groups.values())
        )


def held_back(evidence: Evidence, frames: Sequence[int], degrees: float = STANDARD.degrees(FULL_ROWS)) -> HeldBack:
    """Predict each proof frame of a shot from the others, and each run from what is outside of it.

    Parameters
    ----------
    evidence : of the shot, without what was put away
    frames : numbers of the frames of the shot
    degrees : height of the picture as it is seen
    """
    rows = [r for r in evidence.frames if not r.scan and r.cost > 0 and frames[0] <= r.frame <= frames[-1]]
    if not rows:
        return HeldBack()
    recipes = [r.recipe for r in rows]
    common = max(recipes, key=recipes.count)
    best: dict[float, ProofFrame] = {}
    for row in rows:
        if row.recipe == common and (row.frame not in best or row.samples * row.pixels > best[row.frame].samples * best[row.frame].pixels):
            best[row.frame] = row
    # between proofs nothing is asked for, and a long shot takes no longer
    wanted = np.array(sorted({int(frames[0]), int(frames[-1]), *(int(g(r.frame)) for r in rows for g in (math.floor, math.ceil))}))
    out = []
    for group in _groups(sorted(best)):
        run = len(group) >= RUN
        left = [r for r in evidence.frames if r.scan or r.frame not in group]
        if len({r.frame for r in left if not r.scan}) < FEWEST_LEFT:
            continue
        try:
            model = ShotModel(replace(evidence, frames=tuple(left)), wanted.tolist())
        except CannotSolve:
            continue
        out += [_held(best[f], model, wanted, run, degrees) for f in group]
    try:
        whole = ShotModel(evidence, wanted.tolist())
        untold, blind = not whole.at(common, float(max(r.pixels for r in rows))).fixed.known, whole.blind_scan
    except CannotSolve:
        untold = blind = False
    return HeldBack(tuple(out), any(r.scan for r in evidence.frames), blind, untold)


def _groups(frames: Sequence[float]) -> list[list[float]]:
    """Runs as a whole, and all other frames one by one."""
    runs: list[list[float]] = []
    for frame in frames:
        if runs and frame - runs[-1][-1] == 1:
            runs[-1].append(frame)
        else:
            runs.append([frame])
    alone = evenly([[f] for r in runs if len(r) < RUN for f in r], MOST_ONE_BY_ONE)
    return [*alone, *(r for r in runs if len(r) >= RUN)]


def _held(row: ProofFrame, model: ShotModel, frames: np.ndarray, run: bool, degrees: float) -> HeldFrame:
    at = model.at(row.recipe, row.pixels)
    k = int(np.clip(np.searchsorted(frames, row.frame), 0, len(frames) - 1))
    work = float(row.pixels) * row.samples
    rest = row.load_seconds + row.cache_seconds + row.write_seconds
    seconds = rest + at.fixed.mean + float(at.cost[k]) * work
    low, high = np.percentile(rest + at.fixed_draws + at.cost_draws[:, k] * work, (5, 95))
    noise = seen = float("nan")
    if np.isfinite(row.variance):
        noise = float(np.sqrt(at.variance[k] / row.variance))
        at_own = np.array([float(row.samples)])
        real = float(table_at(row.seen_noise(degrees)[None], at_own)[0])
        seen = float(table_at(at.seen_table(degrees)[k : k + 1], at_own)[0]) / max(real, 1e-12)
    return HeldFrame(float(row.frame), seconds / row.seconds, noise, seen, bool(low <= row.seconds <= high), run, row.proof, row.pixels)
