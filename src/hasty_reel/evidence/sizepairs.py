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
from hasty_reel.measure.twoseeds import common_change, common_square
from hasty_reel.pictures.frame import MOTION, read_picture

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
    proofs : of the delivered size, and of this one
    """

    scale: float
    frames: tuple[int, ...]
    sharpness: float | None
    shimmer: float | None
    change: float
    proofs: tuple[str, str]


def size_pairs_of(evidence: Evidence, size: tuple[int, int]) -> list[SizePair]:
    """Return what each proven render size does against the delivered one, smallest first; nothing where no proofs make a pair.

    Parameters
    ----------
    evidence : of the shot
    size : pixels of the delivered picture, across and down
    """
    usable = [p for p in evidence.proofs if p.whole and any(len(q) > 1 for q in p.by_frame().values())]
    whole = [p for p in usable if (p.width, p.height) == size]
    found: dict[float, SizePair] = {}
    for base in whole:
        delivered: dict[int, Shown] = {}
        for other in usable:
            if other.width == base.width or differing(base.recipe, other.recipe):
                continue
            pair = _pair(evidence, base, other, delivered)
            if pair is not None:  # of several the newest
                found[pair.scale] = pair
    return [found[scale] for scale in sorted(found)]


Shown = tuple[list[np.ndarray], np.ndarray | None]
"""Lightness of a frame in both seeds, and its motion vectors."""


def _pair(evidence: Evidence, base: Proof, other: Proof, delivered: dict[int, Shown]) -> SizePair | None:
    """Compare two proofs; `delivered` keeps the frames of the first, which the next pair may take again."""
    of, to = base.by_frame(), other.by_frame()
    offset = other.offset - base.offset
    common = [f for f in of if isinstance(f, int) and len(of[f]) > 1 and len(to.get(f + offset, ())) > 1]
    runs = [[f for _, f in run] for _, run in groupby(enumerate(common), lambda e: e[1] - e[0])]
    frames = max(runs, key=len, default=[])[:MOST_FRAMES]
    if not frames:
        return None
    try:
        for f in frames:
            if f not in delivered:
                delivered[f] = _planes(evidence, base, f, base), _vectors(evidence, base, f)
        whole, vectors = [delivered[f][0] for f in frames], [delivered[f][1] for f in frames]
        scaled = [_planes(evidence, other, f + offset, base) for f in frames]
    except PictureError:
        return None  # told where the evidence is read
    restless = len(frames) >= RUN and all(v is not None for v in vectors)
    return SizePair(
        round(100.0 * other.width / base.width, 1),
        tuple(int(f) for f in frames),
        _ratio(_edges(whole), _edges(scaled), SHARP_WITHIN),
        _ratio(_restless(whole, vectors), _restless(scaled, vectors), SHIMMER_WITHIN) if restless else None,
        common_change([common_square(a, b) for a, b in zip(whole, scaled)]),
        (base.id, other.id),
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


def _planes(evidence: Evidence, proof: Proof, frame: int, base: Proof) -> list[np.ndarray]:
    """Lightness of a frame in both seeds, at the size of another proof."""
    out = []
    for picture in proof.by_frame()[frame][:2]:
        rgb = read_picture(evidence.folders[proof.id] / picture.file, ()).rgb
        out.append(seen_frame(rgb if rgb.shape[1] == base.width else resize(rgb, base.width, base.height)).lightness)
    return out


def _vectors(evidence: Evidence, proof: Proof, frame: int) -> np.ndarray | None:
    picture = read_picture(evidence.folders[proof.id] / proof.by_frame()[frame][0].file, MOTION)
    told = picture.vectors
    return None if told is None else np.nan_to_num(told, nan=0.0, posinf=0.0, neginf=0.0)


def _edges(frames: Sequence[Sequence[np.ndarray]]) -> np.ndarray:
    """Square of the gradient that both seeds show, summed over frames, (h, w)."""
    gradients = [[np.gradient(plane.astype(np.float64)) for plane in both] for both in frames]
    return sum(one[axis] * two[axis] for one, two in gradients for axis in (0, 1))


def _restless(frames: Sequence[Sequence[np.ndarray]], vectors: Sequence[np.ndarray | None]) -> np.ndarray:
    """Square of the unrest along the motion that both seeds show, (h, w) in L*; at its ends a run has one neighbour: they do not count."""
    total = np.zeros(frames[0][0].shape)
    for at in range(1, len(vectors) - 1):
        one, two = (unrest([both[seed] for both in frames], vectors, at) for seed in (0, 1))
        total += np.where(one.measured & two.measured, one.d.astype(np.float64) * two.d, 0.0)
    return total / (len(vectors) - 2)
