"""What a sweep found: from which value on nothing changes that can be seen, and what the rest costs."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np

from hasty_reel.evidence.percent import change_percent
from hasty_reel.evidence.proof import Proof
from hasty_reel.evidence.rows import Evidence, ProofFrame
from hasty_reel.evidence.settings import coordinate
from hasty_reel.image.lightness import lightness
from hasty_reel.image.luminance import luminance
from hasty_reel.image.tiles import whole_tile_means
from hasty_reel.measure.worst import worst
from hasty_reel.pictures.frame import read_picture
from hasty_reel.settings.recipe import SETTING, Recipe
from hasty_reel.settings.setting import Value

OF_ORDER = ("samples", "scale")
"""What a sweep may vary besides lines of the recipe."""
TILE = 8
TIMING = 4.0
"""Seconds of one picture measured twice differ by about this much, in percent."""
SEEN = 1.0
"""About one just visible step between large areas, in L*."""


@dataclass(frozen=True)
class SweepPoint:
    """One value of a sweep.

    seconds : a picture, mean over the frames; noise_L : nan with one seed
    off_L : how far it looks from the fullest value, 95th percentile of the tiles in L*, noise taken out; nan where sizes differ
    """

    value: Value
    proof: str
    seconds: float
    noise_L: float
    off_L: float


@dataclass(frozen=True)
class Sweep:
    """A sweep and what it found, in words; recipe : of its fullest proof, None while there is none."""

    name: str
    label: str
    points: tuple[SweepPoint, ...]
    finding: str
    enough: Value
    recipe: Recipe | None = None


def order_of(name: str, value: Value) -> float:
    """Return where a value stands from the least to the fullest.

    Parameters
    ----------
    name : of what was swept
    value : of what is swept
    """
    if name in OF_ORDER:
        return float(value or 0)
    at = coordinate(name, value)
    return -at if name in SETTING and SETTING[name].coarser else at


def value_of(proof: Proof, name: str, full_width: int) -> Value:
    """Return the value a proof has of what was swept.

    Parameters
    ----------
    proof : the proof
    name : of what was swept
    full_width : delivered, in pixels
    """
    if name == "samples":
        return proof.samples
    if name == "scale":
        return round(100.0 * proof.width / max(1, full_width), 1)
    return proof.recipe.value(name)


def tile_difference(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """Difference of tile means in L* of two pictures (h, w, 3), (tiles,).

    Parameters
    ----------
    a, b : (h, w, 3) float32, scene-linear light
    """
    d = lightness(np.clip(luminance(a), 0, 1)) - lightness(np.clip(luminance(b), 0, 1))
    return whole_tile_means(d, TILE).ravel()


def seen_difference(ones: Sequence[np.ndarray], others: Sequence[np.ndarray]) -> float:
    """Return how far two versions of a frame look apart, 95th percentile of the tiles in L*.

    Each version is given in its seeds; what the seeds of one differ among themselves is noise, and taken out.

    Parameters
    ----------
    ones, others : each version in its seeds, (h, w, 3) scene-linear light
    """
    apart = tile_difference(np.mean(ones, axis=0), np.mean(others, axis=0)) ** 2
    noise = np.zeros_like(apart)
    for version in (ones, others):
        if len(version) >= 2:
            noise += tile_difference(version[0], version[1]) ** 2 / 4.0
    # the noise of single tiles is known badly: its mean over the picture is taken out
    return worst(np.sqrt(np.maximum(0.0, apart - 2.0 * noise.mean())))


def find_sweep(evidence: Evidence, label: str, name: str, full_width: int) -> Sweep:
    """Return what the proofs of a sweep say.

    Parameters
    ----------
    evidence : what the proofs say
    label : of the sweep
    name : what it varies
    full_width : delivered, in pixels
    """
    proofs = [p for p in evidence.proofs if p.sweep == label]
    rows: dict[str, list[ProofFrame]] = {p.id: [r for r in evidence.frames if r.proof == p.id] for p in proofs}
    proofs = [p for p in proofs if rows[p.id]]
    proofs.sort(key=lambda p: order_of(name, value_of(p, name, full_width)))
    if not proofs:
        return Sweep(name, label, (), "No proof of this sweep is there yet.", None)
    pictures = {p.id: _pictures(evidence, p, rows[p.id]) for p in proofs}
    fullest = pictures[proofs[-1].id]
    points = []
    for proof in proofs:
        own = pictures[proof.id]
        off = [seen_difference(own[f], fullest[f]) for f in own if f in fullest and own[f][0].shape == fullest[f][0].shape]
        seconds = float(np.mean([r.seconds for r in rows[proof.id]]))
        noise = float(np.mean([r.noise_L for r in rows[proof.id]]))
        points.append(SweepPoint(value_of(proof, name, full_width), proof.id, seconds, noise, float(np.mean(off)) if off else np.nan))
    finding, enough = _finding(name, points, proofs[-1].recipe)
    return Sweep(name, label, tuple(points), finding, enough, proofs[-1].recipe)


def _pictures(evidence: Evidence, proof: Proof, rows: Sequence[ProofFrame]) -> dict[int | float, list[np.ndarray]]:
    folder = evidence.folders[proof.id]
    frames = {r.frame for r in rows}
    off = {r.frame - f for r in rows for f in proof.by_frame() if r.picture == folder / proof.by_frame()[f][0].file}
    shift = next(iter(off), 0)
    return {f + shift: [read_picture(folder / p.file).rgb for p in found] for f, found in proof.by_frame().items() if f + shift in frames}


def swept_name(name: str, recipe: Recipe) -> str:
    """Return the name of what is swept over, in words.

    Parameters
    ----------
    name : field of a setting, 'samples' or 'scale'
    recipe : of the proofs or the shot, which declares own settings
    """
    if name in OF_ORDER:
        return {"samples": "samples", "scale": "size"}[name]
    known = [s.words for s in recipe.settings if s.field == name]
    return known[0] if known else name


def swept_text(name: str, value: Value, recipe: Recipe) -> str:
    """Return a value of what is swept over as it is written.

    Parameters
    ----------
    name : field of a setting, 'samples' or 'scale'
    value : of it
    recipe : of the proofs or the shot, which declares own settings
    """
    known = [s.text(value) for s in recipe.settings if s.field == name]
    return known[0] if known else f"{value:g}{' %' if name == 'scale' else ''}"


def _finding(name: str, points: Sequence[SweepPoint], recipe: Recipe) -> tuple[str, Value]:
    def _text(name: str, value: Value) -> str:
        return swept_text(name, value, recipe)

    what = swept_name(name, recipe).capitalize()
    if len(points) < 2:
        return f"{what}: one value so far; a second one shows what changes.", None
    last = points[-1]
    if name in ("samples", "scale"):
        return _finding_of_noise(what, points, partial(swept_text, name, recipe=recipe))
    enough = last
    for k in range(len(points) - 1, -1, -1):
        if np.isfinite(points[k].off_L) and points[k].off_L <= SEEN:
            enough = points[k]
        else:
            break
    if enough is last:
        before = points[-2]
        return (
            f"{what}: still changes from {_text(name, before.value)} to {_text(name, last.value)} ({before.off_L:.1f} L*); "
            "a fuller value may show more.",
            None,
        )
    more = change_percent(enough.seconds, last.seconds) or 0.0
    cost = f"costs {more:.0f} %" if more >= TIMING else f"saves {-more:.0f} %" if more <= -TIMING else "costs no time that can be told"
    return (
        f"{what} beyond {_text(name, enough.value)} change nothing you can see ({enough.off_L:.1f} L*), "
        f"and going to {_text(name, last.value)} {cost}.",
        enough.value,
    )


def _finding_of_noise(what: str, points: Sequence[SweepPoint], text: Callable[[Value], str]) -> tuple[str, Value]:
    first, last = points[0], points[-1]
    more = change_percent(first.seconds, last.seconds) or 0.0
    words = f"{what} from {text(first.value)} to {text(last.value)}: {more:+.0f} % time"
    if np.isfinite(first.noise_L) and np.isfinite(last.noise_L):
        words += f", noise {first.noise_L:.1f} → {last.noise_L:.1f} L*"
    return words + ".", None
