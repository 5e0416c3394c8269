"""Memory that a frame takes: what does not grow with the picture and what does, by proofs of two sizes or more.

With one size it is not known which is which: a larger picture takes between as much and as many times more.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import nnls

from hasty_reel.evidence.proof import Proof

SPREAD = 0.10
"""Share by which the largest memory of a frame strays about its line, at least (common practice, no source)."""
GB = 2.0**30


@dataclass(frozen=True)
class MemoryAhead:
    """Bytes that a frame takes: expected, and between which it is nine times in ten; sizes : of proofs that tell."""

    bytes: float
    low: float
    high: float
    sizes: int

    @property
    def words(self) -> str:
        """The same in words."""
        if self.sizes < 2:
            return f"{_gb(self.low)} to {_gb(self.high)}: one size of proof does not tell what grows with the picture"
        return f"about {_gb(self.bytes)} ({_gb(self.low)} to {_gb(self.high)})"


def memory_ahead(proofs: Sequence[Proof], pixels: float) -> MemoryAhead | None:
    """Return the memory of a frame of some size; None where no proof tells any.

    Parameters
    ----------
    proofs : of the shot
    pixels : of a frame as rendered
    """
    told: dict[float, float] = {}
    for proof in proofs:
        most = max((p.memory_bytes for p in proof.pictures), default=0)
        if most > 0 and not proof.scan and proof.crop is None:
            size = float(proof.width * proof.height) / proof.tiles**2
            told[size] = max(told.get(size, 0.0), float(most))
    if not told:
        return None
    sizes, taken = np.array(sorted(told)), np.array([told[s] for s in sorted(told)])
    if len(sizes) < 2:
        times = max(1.0, pixels / sizes[0])
        low, high = taken[0] * min(1.0, pixels / sizes[0]), taken[0] * times
        return MemoryAhead(high, low * (1 - SPREAD), high * (1 + SPREAD), 1)
    scale = sizes.max()
    parts, _ = nnls(np.stack([np.ones(len(sizes)), sizes / scale], axis=1) / taken[:, None], np.ones(len(sizes)))
    line = parts[0] + parts[1] * sizes / scale
    spread = max(SPREAD, float(np.sqrt(np.mean((taken / line - 1.0) ** 2)) * 2.0))
    found = float(parts[0] + parts[1] * pixels / scale)
    return MemoryAhead(found, found * (1.0 - spread), found * (1.0 + spread), len(sizes))


def _gb(amount: float) -> str:
    return f"{amount / GB:.1f} GB" if amount < 10 * GB else f"{amount / GB:.0f} GB"
