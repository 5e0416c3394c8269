"""The proofs of a shot as cards: what changed against which parent, filtered and sorted, and the best trade-offs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path
from typing import Literal

import numpy as np

from hasty_reel.errors import PictureError
from hasty_reel.evidence.proof import Proof
from hasty_reel.evidence.rows import Evidence, ProofFrame
from hasty_reel.evidence.seentable import SAMPLE_GRID
from hasty_reel.measure.noise import noise_guess
from hasty_reel.measure.seen import STANDARD, Eyes, grain_weight
from hasty_reel.pictures.frame import read_picture
from hasty_reel.reel.document import Reel
from hasty_reel.reel.frames import proof_frames_text
from hasty_reel.reel.shot import ProofMark, Shot
from hasty_reel.settings.recipe import Recipe, differences

SortBy = Literal["newest", "seconds", "noise", "seen flicker", "frame"]
NO_MARK = ProofMark()
LOOKED_THROUGH = 40
SORTS: tuple[SortBy, ...] = ("newest", "seconds", "noise", "seen flicker", "frame")


@dataclass(frozen=True)
class Card:
    """A proof and what the sheet says of it.

    number : its place among the proofs, the oldest 0; seconds : a picture; noise_L : nan with one seed
    seen : seen flicker of its noise for the standard observer in JND, nan with one seed
    guess : with one seed its noise judged from its middle picture, linear; nan with two, and for a scan
    flicker_L : measured along the motion where it is a run, else nan
    parent : the proof it is compared with, '' for none; changes : what differs, in words
    """

    proof: Proof
    rows: tuple[ProofFrame, ...]
    number: int
    seconds: float
    noise: float
    guess: float
    noise_L: float
    seen: float
    flicker_L: float
    parent: str
    changes: tuple[str, ...]
    mark: ProofMark

    @property
    def frames_text(self) -> str:
        """Its frames as a set."""
        return proof_frames_text(r.frame for r in self.rows) if self.rows else "no readable frame"

    @property
    def is_looked_at(self) -> bool:
        """Whether it is there to be looked at: no scan, and no noise whose pictures are kept small."""
        return self.proof.as_rendered

    @property
    def words(self) -> str:
        """Everything about it that can be searched for."""
        parts = (self.proof.id, self.frames_text, *self.changes, self.mark.note, self.proof.draft, self.proof.sweep, self.proof.recipe.name)
        return " ".join(parts).lower()


def parents(proofs: Sequence[Proof]) -> list[Proof | None]:
    """Return for each proof the one it varies.

    That is the proof it names, else the earlier one that differs in the fewest settings, the latest of
    these; of thousands only the last few before it are looked through.

    Parameters
    ----------
    proofs : of one shot, the oldest first
    """
    by_id = {p.id: p for p in proofs}
    settings = [_values(p) for p in proofs]
    # each setting as whole numbers, one for each value it has: rows are then compared all at once
    codes = np.empty((len(proofs), len(settings[0]) if settings else 0), np.int32)
    for column in range(codes.shape[1]):
        known: dict[object, int] = {}
        codes[:, column] = [known.setdefault(row[column], len(known)) for row in settings]
    place = {p.id: k for k, p in enumerate(proofs)}
    out: list[Proof | None] = []
    for k, proof in enumerate(proofs):
        if proof.parent and place.get(proof.parent, k) < k:
            out.append(by_id[proof.parent])
        elif k == 0:
            out.append(None)
        else:
            first = max(0, k - LOOKED_THROUGH)
            off = (codes[first:k] != codes[k]).sum(axis=1)
            out.append(proofs[k - 1 - int(np.argmin(off[::-1]))])
    return out


@lru_cache(maxsize=8192)
def _values_of(recipe: Recipe) -> tuple:
    return tuple(recipe.value(s.field) for s in recipe.settings)


def _values(proof: Proof) -> tuple:
    return (*_values_of(proof.recipe), proof.samples, proof.size_words, proof.draft)


def changes_of(proof: Proof, parent: Proof) -> list[str]:
    """Return what differs from a parent, in words: 'samples 16 → 32', 'bounces 6 → 2'.

    Parameters
    ----------
    proof : the proof
    parent : the proof it is compared with
    """
    out = differences(proof.recipe, parent.recipe)
    if proof.samples != parent.samples:
        out.append(f"samples {parent.samples} → {proof.samples}")
    if proof.size_words != parent.size_words:
        out.append(f"size {parent.size_words} → {proof.size_words}")
    if proof.draft != parent.draft:
        out.append(f"draft cut {parent.draft or 'none'} → {proof.draft or 'none'}")
    return out


def cards(evidence: Evidence, shot: Shot, reel: Reel) -> list[Card]:
    """Return the cards of a shot's proofs, the oldest first.

    Parameters
    ----------
    evidence : what the proofs say
    shot : the shot or layer
    reel : the reel
    """
    return marked(unmarked(evidence, reel), shot)


def marked(found: Sequence[Card], shot: Shot) -> list[Card]:
    """Cards with what the shot says of their proofs.

    Parameters
    ----------
    found : cards of proofs
    shot : the shot or layer
    """
    return [c if (mark := shot.marks.get(c.proof.id, NO_MARK)) == c.mark else replace(c, mark=mark) for c in found]


def unmarked(evidence: Evidence, reel: Reel, eyes: Eyes = STANDARD) -> list[Card]:
    """Return the cards of some evidence, the oldest first, without what was decided about them.

    Parameters
    ----------
    evidence : what the proofs say
    reel : the reel
    eyes : who looks, and from where
    """
    by_proof: dict[str, list[ProofFrame]] = {}
    for row in (*evidence.frames, *evidence.cropped):
        by_proof.setdefault(row.proof, []).append(row)
    out = []
    for number, (proof, parent) in enumerate(zip(evidence.proofs, parents(evidence.proofs))):
        rows = tuple(by_proof.get(proof.id, ()))
        effects = evidence.effects_of.get(proof.id, ())
        flicker = max((e.flicker_L for e in effects), default=0.0)
        # a proof may be smaller than what is delivered: its pixels stand for those of the delivered picture
        weight = grain_weight(eyes.pixels_per_degree(reel.height, proof.recipe.render_scale), float(reel.fps))
        out.append(
            Card(
                proof,
                rows,
                number,
                _mean([r.seconds for r in rows]),
                _mean([r.noise_linear for r in rows]),
                _guess(proof, rows),
                _mean([r.noise_L for r in rows]),
                _mean([_contrast(r, eyes.degrees(reel.height)) for r in rows]) * weight,
                flicker or float("nan"),
                "" if parent is None else parent.id,
                () if parent is None else tuple(changes_of(proof, parent)),
                NO_MARK,
            )
        )
    return out


def _guess(proof: Proof, rows: Sequence[ProofFrame]) -> float:
    """The noise of a proof of one seed, judged from its middle picture."""
    if not rows or proof.scan or any(np.isfinite(r.noise_linear) for r in rows):
        return float("nan")
    path = rows[len(rows) // 2].picture
    try:
        return _guessed(path, path.stat().st_mtime_ns)
    except (OSError, PictureError):
        return float("nan")


@lru_cache(maxsize=512)
def _guessed(path: Path, changed: int) -> float:
    return noise_guess(read_picture(path, ()).rgb)


def _mean(values: Sequence[float]) -> float:
    good = [v for v in values if np.isfinite(v)]
    return float(np.mean(good)) if good else float("nan")


def _contrast(row: ProofFrame, degrees: float) -> float:
    return float(np.interp(np.log(row.samples), np.log(SAMPLE_GRID), row.seen_noise(degrees)))


def chosen(found: Sequence[Card], text: str = "", starred: bool = False, away: bool = False, by: SortBy = "newest") -> list[Card]:
    """Cards that hold all words of a text, sorted; put-away ones only where asked for.

    Parameters
    ----------
    found : cards of proofs
    text : words that a card must hold
    starred : only those with a star
    away : those put away instead of those at hand
    by : the order
    """
    words = text.lower().split()
    out = [c for c in found if c.mark.away == away and (c.mark.star or not starred) and all(w in c.words for w in words)]

    def _last(value: float) -> float:
        return value if np.isfinite(value) else np.inf

    keys = {
        "newest": lambda c: -c.number,
        "seconds": lambda c: _last(c.seconds),
        "noise": lambda c: _last(c.noise_L),
        "seen flicker": lambda c: _last(c.seen),
        "frame": lambda c: (c.rows[0].frame if c.rows else 1 << 30, -c.number),
    }
    return sorted(out, key=keys[by])


def best(found: Sequence[Card], unrest: Literal["noise", "seen flicker"] = "noise") -> list[Card]:
    """Return the best trade-offs: no other card takes less time and shows less unrest; the quickest first.

    Parameters
    ----------
    found : cards of proofs
    unrest : 'noise' or 'seen flicker'
    """
    measured = [c for c in found if c.is_looked_at and np.isfinite(c.seconds) and np.isfinite(unrest_of(c, unrest))]
    front: list[Card] = []
    for card in sorted(measured, key=lambda c: (c.seconds, unrest_of(c, unrest))):
        if not front or unrest_of(card, unrest) < unrest_of(front[-1], unrest):
            front.append(card)
    return front


def unrest_of(card: Card, unrest: str) -> float:
    """Noise in L*, or seen flicker in JND.

    Parameters
    ----------
    card : of a proof
    unrest : 'noise' or 'seen flicker'
    """
    return card.noise_L if unrest == "noise" else card.seen


def lineage(found: Sequence[Card], proof_id: str) -> list[str]:
    """Return a proof, its parent, the parent's parent, and so on.

    Parameters
    ----------
    found : cards of proofs
    proof_id : of the proof
    """
    parents = {c.proof.id: c.parent for c in found}
    out: list[str] = []
    while proof_id in parents and proof_id not in out:
        out.append(proof_id)
        proof_id = parents[proof_id]
    return out
