"""How much the light of a picture changes from frame to frame, in coarse parts, from proof frames with two seeds."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

import numpy as np

from hasty_reel.errors import PictureError
from hasty_reel.evidence.pictureparts import lightness_parts
from hasty_reel.evidence.rows import Evidence
from hasty_reel.evidence.settings import differing
from hasty_reel.measure.twoseeds import common_change, common_square
from hasty_reel.reel.frames import evenly
from hasty_reel.settings.recipe import Recipe

MOST_FRAMES_READ = 24
"""Frames that are read: more tell hardly more, and each takes a moment."""


@dataclass(frozen=True)
class Relight:
    """From one proof frame to the next.

    first, last : the frames; change : root mean square over the parts of the picture, in L*, noise taken out
    """

    first: float
    last: float
    change: float


@dataclass(frozen=True)
class LightParts:
    """The light of a proof frame in coarse parts.

    frame : as the shot numbers it; parts : of both seeds, `PARTS` each, in L*; path : picture of the first seed
    """

    frame: float
    parts: tuple[np.ndarray, np.ndarray]
    path: Path


def relights_of(evidence: Evidence) -> list[Relight]:
    """Return the changes of light between proof frames of the same settings, by frame.

    Parameters
    ----------
    evidence : of the shot
    """
    out = []
    for first, last in pairwise(light_parts(evidence)):
        out.append(Relight(first.frame, last.frame, common_change([common_square(first.parts, last.parts)])))
    return out


def light_parts(evidence: Evidence) -> list[LightParts]:
    """Return the light of proof frames of the same settings with two seeds, by frame.

    Parameters
    ----------
    evidence : of the shot
    """
    kinds: list[tuple[Recipe, dict[float, tuple[int, str]]]] = []
    for k, proof in enumerate(evidence.proofs):
        if not proof.whole:
            continue
        frames = next((f for recipe, f in kinds if not differing(recipe, proof.recipe)), None)
        if frames is None:
            frames = {}
            kinds.append((proof.recipe, frames))
        for frame, pictures in proof.by_frame().items():
            if len(pictures) > 1:
                frames[float(frame)] = k, proof.id
    chosen = max((f for _, f in kinds), key=len, default={})
    known = []
    for frame in evenly(sorted(chosen), MOST_FRAMES_READ):
        proof = evidence.proofs[chosen[frame][0]]
        paths = [evidence.folders[proof.id] / p.file for p in next(q for f, q in proof.by_frame().items() if float(f) == frame)[:2]]
        try:
            one, two = (lightness_parts(path) for path in paths)
        except PictureError:
            continue  # told where the evidence is read
        known.append(LightParts(frame, (one, two), paths[0]))
    return known
