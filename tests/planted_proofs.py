"""Proofs with planted pictures: two seeds of white noise over planes that stand still."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from hasty_reel.evidence.proof import Proof, ProofPicture
from hasty_reel.evidence.rows import Evidence
from hasty_reel.pictures.frame import Picture
from hasty_reel.pictures.writing import write_picture
from hasty_reel.settings.recipe import Recipe

RECIPE = Recipe(name="Final")


def planted_proof(
    root: Path,
    name: str,
    pictures: dict[int, np.ndarray],
    noise: float,
    rng: np.random.Generator,
    across: float = 0.0,
    moving: tuple[int, int, int, int] | None = None,
) -> Proof:
    """Two seeds of some frames, white noise on each; across : pixels that all of it moves a frame, or rows and columns alone."""
    folder = root / name
    folder.mkdir()
    told = []
    for frame, plane in pictures.items():
        h, w = plane.shape
        top, bottom, left, right = moving or (0, h, 0, w)
        vectors = np.zeros((h, w), np.float32)
        vectors[top:bottom, left:right] = across
        still = {"motion.X": vectors, "motion.Y": np.zeros((h, w), np.float32)}
        for seed in (1, 2):
            light = np.clip(plane + noise * rng.standard_normal(plane.shape), 0, None).astype(np.float32)
            file = f"sh010.{frame}.s{seed}.exr"
            write_picture(folder / file, Picture(np.repeat(light[..., None], 3, axis=2), dict(still), {}))
            told.append(ProofPicture(frame=frame, seed=seed, file=file, load_seconds=0.0, sample_seconds=1.0, write_seconds=0.0))
    h, w = next(iter(pictures.values())).shape
    return Proof(id=name, shot="sh010", made="", recipe=RECIPE, width=w, height=h, samples=16, pictures=tuple(told))


def planted_evidence(root: Path, *proofs: Proof) -> Evidence:
    return Evidence(proofs=proofs, folders={p.id: root / p.id for p in proofs})
