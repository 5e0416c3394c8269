"""What a render size does to sharpness and shimmer: runs of the same frames rendered at the delivered size and at another.

Both are brought to the delivered size as finishing does it. Noise is told apart by two seeds: what both show alike is no noise, so
products of one seed with the other keep edges, shimmer and changes, and lose it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import groupby

import numpy as np

from hasty_reel.errors import PictureError
from hasty_reel.evidence.proof import Proof
from hasty_reel.evidence.rows import Evidence
from hasty_reel.evidence.settings import differing
from hasty_reel.image.resize import resize
from hasty_reel.image.tiles import tile_means
from hasty_reel.measure.flicker import unrest
from hasty_reel.measure.plane import seen_frame
from hasty_reel.pictures.frame import read_picture

VECTORS = ("motion.X", "motion.Y")
RUN = 3
"""Frames in a row that tell shimmer."""
MOST_FRAMES = 5
STILL = 1e-3
"""L* below which there is nothing to compare."""
SHARP_WITHIN, SHIMMER_WITHIN = 0.03, 0.15
"""Standard errors of sharpness and shimmer above which they are not told."""
TILE = 16


@dataclass(frozen=True)
class SizePair:
    """A render size against the delivered one, both as delivered.

    scale : percent of the delivered width; frames : by which it is told
    sharpness : contrast of edges / that of the delivered size
    shimmer : unrest besides noise / that of the delivered size
        Both are None where too little is told: chance makes more of it than 3 or 15 %, nothing is restless, no frames lie in a row.
    change : root mean square of what is other besides noise, in L*
    """

    scale: float
    frames: tuple[int, ...]
    sharpness: float | None
    shimmer: float | None
    change: float


def size_pairs_of(evidence: Evidence, size: tuple[int, int]) -> list[SizePair]:
    """Return what each proven render size does against the delivered one, smallest first; nothing where no proofs make a pair.

    Parameters
    ----------
    evidence : of the shot
    size : pixels of the delivered picture, across and down
    """
    usable = [p for p in evidence.proofs if not p.scan and p.small <= 1 and any(len(q) > 1 for q in p.by_frame().values())]
    whole = [p for p in usable if (p.width, p.height) == size]
    found: dict[float, SizePair] = {}
    for base in whole:
        for other in usable:
            if other.width == base.width or differing(base.recipe, other.recipe):
                continue
            pair = _pair(evidence, base, other)
            if pair is not None:  # of several the newest
                found[pair.scale] = pair
    return [found[scale] for scale in sorted(found)]


def _pair(evidence: Evidence, base: Proof, other: Proof) -> SizePair | None:
    of, to = base.by_frame(), other.by_frame()
    offset = other.offset - base.offset
    common = [f for f in of if isinstance(f, int) and len(of[f]) > 1 and len(to.get(f + offset, ())) > 1]
    runs = [[f for _, f in run] for _, run in groupby(enumerate(common), lambda e: e[1] - e[0])]
    frames = max(runs, key=len, default=[])[:MOST_FRAMES]
    if not frames:
        return None
    n = len(frames)
    try:
        planes = [_planes(evidence, base, frames, base), _planes(evidence, other, [f + offset for f in frames], base)]
        vectors = [_vectors(evidence, base, f) for f in frames]
    except PictureError:
        return None  # told where the evidence is read
    edges = [sum(np.gradient(one[k])[a] * np.gradient(two[k])[a] for a in (0, 1) for k in range(n)) for one, two in planes]
    change = float(np.mean([np.mean((planes[1][0][k] - planes[0][0][k]) * (planes[1][1][k] - planes[0][1][k])) for k in range(n)]))
    restless = n >= RUN and all(v is not None for v in vectors)
    return SizePair(
        round(100.0 * other.width / base.width, 1),
        tuple(int(f) for f in frames),
        _ratio(edges[0], edges[1], SHARP_WITHIN),
        _ratio(_restless(planes[0], vectors), _restless(planes[1], vectors), SHIMMER_WITHIN) if restless else None,
        float(np.sqrt(max(0.0, change))),
    )


def _ratio(base: np.ndarray, other: np.ndarray, within: float) -> float | None:
    """Root of the mean of one plane of squares over another's; None where chance makes more than `within` of it, or there is nothing.

    The standard error is that of a ratio estimate from tiles (Cochran 1977, Sampling Techniques, chapter 6, from memory).
    """
    a, b = tile_means(np.ascontiguousarray(base), TILE), tile_means(np.ascontiguousarray(other), TILE)
    if a.mean() <= STILL**2:
        return None
    ratio = max(0.0, float(b.mean() / a.mean()))
    error = float(np.std(b - ratio * a) / np.sqrt(a.size) / a.mean())
    return float(np.sqrt(ratio)) if error <= 2.0 * within * max(np.sqrt(ratio), 0.1) else None


def _planes(evidence: Evidence, proof: Proof, frames: Sequence[int], base: Proof) -> list[list[np.ndarray]]:
    """Lightness of the frames of both seeds, at the size of another proof."""
    out = []
    for seed in (0, 1):
        row = []
        for frame in frames:
            rgb = read_picture(evidence.folders[proof.id] / proof.by_frame()[frame][seed].file, ()).rgb
            row.append(seen_frame(rgb if rgb.shape[1] == base.width else resize(rgb, base.width, base.height)).lightness.astype(np.float64))
        out.append(row)
    return out


def _vectors(evidence: Evidence, proof: Proof, frame: int) -> np.ndarray | None:
    picture = read_picture(evidence.folders[proof.id] / proof.by_frame()[frame][0].file, VECTORS)
    told = picture.stack(*VECTORS)
    if told is None:
        return None
    return np.nan_to_num(told, nan=0.0, posinf=0.0, neginf=0.0).astype(np.float32)


def _restless(seeds: Sequence[Sequence[np.ndarray]], vectors: Sequence[np.ndarray | None]) -> np.ndarray:
    """Square of the unrest along the motion that both seeds show, (h, w) in L*; at its ends a run has one neighbour: they do not count."""
    total = np.zeros(seeds[0][0].shape)
    for at in range(1, len(vectors) - 1):
        one, two = (unrest(planes, vectors, at) for planes in seeds)
        total += np.where(one.measured & two.measured, one.d.astype(np.float64) * two.d, 0.0)
    return total / (len(vectors) - 2)
