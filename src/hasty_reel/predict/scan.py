"""A scan: tiny and cheap pictures of every frame or every second one, which tell how the cost changes from frame to frame.

Only a scan sees an object that crosses the picture between two proofs. What a sample costs in it is not what it
costs at full size, but the changes are alike.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hasty_reel.evidence.rows import ProofFrame

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


def scan_of(rows: Sequence[ProofFrame]) -> Scan | None:
    """Return the scan of a shot; None where too few frames were scanned.

    Scans of other settings or sizes are put on one level, each by its own mean.

    Parameters
    ----------
    rows : frames of scans
    """
    by_proof: dict[str, list[ProofFrame]] = {}
    for row in rows:
        if row.cost > 0:
            by_proof.setdefault(row.proof, []).append(row)
    at: dict[float, list[float]] = {}
    for scan in by_proof.values():
        if len(scan) >= FEWEST:
            level = float(np.mean([np.log(r.cost) for r in scan]))
            for row in scan:
                at.setdefault(float(row.frame), []).append(float(np.log(row.cost)) - level)
    if not at:
        return None
    frames = sorted(at)
    logs = np.array([np.mean(at[f]) for f in frames])
    return Scan(np.array(frames), logs - logs.mean())
