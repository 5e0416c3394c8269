"""What a setting changes in the picture besides noise, by proofs that vary it and nothing else, with two seeds."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from itertools import combinations

import numpy as np

from hasty_reel.errors import PictureError
from hasty_reel.evidence.proof import Proof
from hasty_reel.evidence.rows import Evidence
from hasty_reel.evidence.settings import differing
from hasty_reel.image.resize import resize
from hasty_reel.measure.plane import seen_frame
from hasty_reel.measure.twoseeds import common_change, common_square
from hasty_reel.pictures.frame import read_picture
from hasty_reel.scaledsize import scaled_size
from hasty_reel.settings.recipe import Recipe, Value

Pair = frozenset[Value]
SCALES, FRAMES = (50.0, 75.0), 3
"""Render scales of which it is told what enlarging loses, and frames by which."""


@dataclass(frozen=True)
class Looks:
    """Root mean square of what settings change besides noise, in L*, by field and pair of values."""

    changes: dict[tuple[str, Pair], float] = field(default_factory=dict)

    def between(self, setting: str, a: Value, b: Value) -> float | None:
        """Return how much the picture changes from one value of a setting to another; None where no proofs tell.

        Parameters
        ----------
        setting : field of the line
        a, b : its values
        """
        return 0.0 if a == b else self.changes.get((setting, frozenset((a, b))))


def looks_of(evidence: Evidence) -> Looks:
    """Return what settings change, from every two proofs that show the same frame at the same size and differ in one setting alone.

    Parameters
    ----------
    evidence : of the shot
    """
    seen: dict[tuple, list[tuple[Recipe, Proof]]] = {}
    for proof in evidence.proofs:
        if not proof.whole:
            continue
        for frame, pictures in proof.by_frame().items():
            if len(pictures) > 1:
                seen.setdefault((frame - proof.offset, proof.width, proof.height), []).append((proof.recipe, proof))
    found: dict[tuple[str, Pair], list[float]] = {}
    planes: dict[tuple[str, float], list[np.ndarray]] = {}
    for (frame, *_), proofs in seen.items():
        for (a, one), (b, two) in combinations(proofs, 2):
            changed = differing(a, b)
            if len(changed) != 1 or not _alike(a, b, changed[0]):
                continue
            try:
                first, second = (_lightness(evidence, p, frame + p.offset, planes) for p in (one, two))
            except PictureError:
                continue  # told where the evidence is read
            pair = frozenset((a.value(changed[0]), b.value(changed[0])))
            found.setdefault((changed[0], pair), []).append(common_square(first, second))
    found |= _of_sizes(evidence, planes)
    return Looks({key: common_change(squares) for key, squares in found.items()})


def _of_sizes(evidence: Evidence, planes: dict[tuple[str, float], list[np.ndarray]]) -> dict[tuple[str, Pair], list[float]]:
    """What is lost where a frame is rendered smaller and enlarged, by the largest proofs: shrunk and enlarged again.

    Of a proof smaller than the delivered picture that is more than it will be: it holds more detail a pixel.
    """
    whole = [p for p in evidence.proofs if p.whole and any(len(q) > 1 for q in p.by_frame().values())]
    widest = max((p.width for p in whole), default=0)
    found: dict[tuple[str, Pair], list[float]] = {}
    for proof in [p for p in whole if p.width == widest][-1:]:
        frames = [f for f, pictures in proof.by_frame().items() if len(pictures) > 1]
        for frame in frames[:: max(1, len(frames) // FRAMES)][:FRAMES]:
            try:
                both = _lightness(evidence, proof, frame, planes)
            except PictureError:
                continue  # told where the evidence is read
            for scale in SCALES:
                small = scaled_size((proof.width, proof.height), scale)
                softened = [_there_and_back(plane, small) for plane in both]
                key = ("render_scale", frozenset((100.0, scale)))
                found.setdefault(key, []).append(common_square(both, softened))
    return found


def _there_and_back(plane: np.ndarray, small: tuple[int, int]) -> np.ndarray:
    shrunk = resize(plane[..., None], *small)
    return resize(shrunk, plane.shape[1], plane.shape[0])[..., 0]


def _alike(a: Recipe, b: Recipe, setting: str) -> bool:
    """Whether nothing besides a setting changes what is seen: samples may differ, noise is told apart."""
    return all(getattr(a, f) == getattr(b, f) for f in ("render_scale", "preroll") if f != setting)


def _lightness(evidence: Evidence, proof: Proof, frame: float, planes: dict[tuple[str, float], list[np.ndarray]]) -> list[np.ndarray]:
    key = (proof.id, frame)
    if key not in planes:
        pictures: Iterable = proof.by_frame()[frame][:2]
        folder = evidence.folders[proof.id]
        planes[key] = [seen_frame(read_picture(folder / p.file, ()).rgb).lightness for p in pictures]
    return planes[key]
