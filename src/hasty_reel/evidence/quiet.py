"""Times of proofs as on a quiet machine: those made while it was busy are divided by how much slower it was then.

Each proof keeps the seconds of a yardstick, rendered just before it. Small differences are chance and are left alone.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from hasty_reel.evidence.proof import Proof
from hasty_reel.evidence.rows import Evidence

QUIET_PERCENTILE = 20.0
"""Of the yardsticks of a reel, the one that stands for a quiet machine."""
CHANCE = 0.06
"""Logarithm of what two yardsticks on a quiet machine differ by, and do not count."""


def quiet_yardstick(proofs: Iterable[Proof]) -> float:
    """Return the seconds of the yardstick when the machine of some proofs was quiet; 0 where none was taken.

    Parameters
    ----------
    proofs : of a reel
    """
    taken = [p.yardstick for p in proofs if p.yardstick > 0]
    return float(np.percentile(taken, QUIET_PERCENTILE)) if taken else 0.0


def slowness(yardstick: float, quiet: float) -> float:
    """Return how many times slower a machine was than when it was quiet; 1 where it is not known, or chance.

    Parameters
    ----------
    yardstick : its seconds then, 0 where it was not taken
    quiet : its seconds on the quiet machine, 0 where that is not known
    """
    if yardstick <= 0 or quiet <= 0:
        return 1.0
    off = float(np.log(yardstick / quiet))
    return float(np.exp(np.sign(off) * max(0.0, abs(off) - CHANCE)))


def as_quiet(evidence: Evidence, quiet: float) -> Evidence:
    """Return evidence with the seconds it would have on the quiet machine.

    Parameters
    ----------
    evidence : of a shot
    quiet : seconds of the yardstick on the quiet machine, 0 where that is not known
    """
    slow = {p.id: slowness(p.yardstick, quiet) for p in evidence.proofs}
    if all(s == 1.0 for s in slow.values()):
        return evidence
    rows = []
    for row in evidence.frames:
        s = slow.get(row.proof, 1.0)
        parts = {name: getattr(row, name) / s for name in ("load_seconds", "cache_seconds", "sample_seconds", "write_seconds")}
        rows.append(row if s == 1.0 else replace(row, **parts))
    return replace(evidence, frames=tuple(rows))


def speed_words(now: float, quiet: float) -> str:
    """Return how fast this machine is now against when the proofs were made, in words; '' where it is not known.

    Parameters
    ----------
    now : seconds of the yardstick now
    quiet : seconds of it when the proofs were made on a quiet machine
    """
    if now <= 0 or quiet <= 0:
        return ""
    slow = slowness(now, quiet)
    if slow == 1.0:
        return "this machine is as fast as when the proofs were made"
    return f"this machine is {max(slow, 1 / slow):.1f} times {'slower' if slow > 1 else 'faster'} than when the proofs were made"
