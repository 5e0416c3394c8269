"""A scan: tiny and cheap pictures of every frame or every second one, which tell how the cost changes from frame to frame.

Only a scan sees an object that crosses the picture between two proofs. What a sample costs in it is not what it
costs at full size, but the changes are alike.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hasty_reel.evidence.rows import ProofFrame

LEAST_GROWING = 0.2
"""Share of the seconds that must grow: a time strays by 3 %, which is 15 % of a fifth of it, as much as costs change over many shots."""
FEWEST = 8
"""Frames from which on it is one."""


@dataclass(frozen=True)
class Scan:
    """Logarithm of the cost over frames, around its mean.

    frames : (n,) rising; logs : (n,)
    """

    frames: np.ndarray
    logs: np.ndarray

    def at(self, frames: np.ndarray) -> np.ndarray:
        """Return the scan at some frames, held at its ends.

        Parameters
        ----------
        frames : (m,) their numbers
        """
        return np.interp(frames, self.frames, self.logs)


def scan_of(rows: Sequence[ProofFrame], fixed_seconds: float = 0.0) -> Scan | None:
    """Return the scan of a shot; None where too few frames were scanned, or nearly all seconds of them are fixed.

    Scans of other settings or sizes are put on one level, each by its own mean.

    Parameters
    ----------
    rows : frames of scans
    fixed_seconds : of each that do not grow with pixels and samples
    """
    by_proof: dict[str, list[ProofFrame]] = {}
    for row in rows:
        if row.cost > 0:
            by_proof.setdefault(row.proof, []).append(row)
    at: dict[float, list[float]] = {}
    for scan in by_proof.values():
        seconds = np.array([r.sample_seconds for r in scan])
        growing = seconds - fixed_seconds
        if len(scan) < FEWEST or np.median(growing / seconds) < LEAST_GROWING:
            continue
        logs = np.log(np.maximum(growing, LEAST_GROWING * seconds / 2.0) / [r.pixels * r.samples for r in scan])
        for row, log in zip(scan, logs - logs.mean()):
            at.setdefault(float(row.frame), []).append(float(log))
    if not at:
        return None
    frames = sorted(at)
    logs = np.array([np.mean(at[f]) for f in frames])
    return Scan(np.array(frames), logs - logs.mean())
