"""The measures of both sides beside each other, and the verdict as a sentence."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from psygnal import Signal

from hasty_reel.evidence.sides import Side, mean_seconds, verdict
from hasty_reel.measure.content import sharpness_kept
from hasty_reel.measure.seen import Eyes
from hasty_reel.measure.sequence import SequenceMeasures
from hasty_reel.studio.compare.sides import ComparedSides
from hasty_reel.studio.compare.study import Study
from hasty_reel.viewers import impairment, loss_of, seen_by

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session

PERCENT = "% of viewers"
TIPS = {
    "time": "Mean over the frames compared, at the size they were rendered.",
    "flicker": "What is left of a frame when its neighbours are taken away along the motion; 95th percentile over frames and tiles.",
    "seen": "How many would choose a still version of the same film beside it, less those who would by chance: by all of its unrest, less "
    "what the picture hides, as the delivered picture is seen; {:.2f} JND are the limit.{}",
    "noise": "The same of the noise alone, which two seeds tell apart and plans promise; the rest is shimmer, ghosts, changing light.",
    "sparks": "Fireflies: pixels that stand alone, far above their surroundings, in a single frame.",
    "sharpness": "Gradient energy without that of the noise, against A.",
    "ssim": "How alike the structure of both is in L* at this frame (Wang et al. 2004); 1 is the same.",
    "flip": "How much the eye sees change when it flips between both at this frame (Andersson et al. 2020).",
}


@dataclass(frozen=True)
class MeasureRow:
    """One measure: name, unit, values of A and B (nan where there is none), its limit, how it is written, what fills the bar."""

    name: str
    unit: str
    values: tuple[float, ...]
    limit: float | None = None
    form: str = "{:.2f}"
    tip: str = ""
    full: float | None = None


def rows_of(sides: Sequence[Side], found: Sequence[SequenceMeasures | None], frames: Sequence[int], eyes: Eyes) -> list[MeasureRow]:
    """Return the measures of one side or two over the frames they share.

    Parameters
    ----------
    sides : one or two
    found : measures _of each, None while they are not known
    frames : that both have
    eyes : who looks

    Returns
    -------
    list[MeasureRow]
        Rows in the order they are read.
    """

    def _of(name: str) -> tuple[float, ...]:
        return tuple(float("nan") if m is None else getattr(m, name) for m in found)

    energies = [float("nan") if m is None else m.sharpness**2 for m in found]
    kept = tuple(100.0 * sharpness_kept(e, energies[0]) for e in energies)
    noise_from = "two seeds" if all(m is not None and m.two_seeds for m in found) else "estimated from the picture where there is one seed"
    short = next((f" {m.short_words}" for m in found if m is not None and m.short_words), "")
    seen_tip = f"{TIPS['seen'].format(eyes.limit, short)} {_jnd(_of('seen_flicker'))}"
    rows = [
        MeasureRow("Time", "s a picture", tuple(mean_seconds(s, frames) for s in sides), tip=TIPS["time"]),
        MeasureRow("Noise", "L*", _of("noise_L"), tip=f"Spread of lightness, root mean square over the frames; {noise_from}."),
        MeasureRow("Flicker", "L*", _of("flicker_L"), tip=TIPS["flicker"]),
        MeasureRow("Seen by", PERCENT, _shares(_of("seen_flicker")), 100.0 * seen_by(eyes.limit), "{:.0f}", seen_tip, full=100.0),
        MeasureRow("Sparks", "a megapixel", _of("sparks_per_megapixel"), form="{:.0f}", tip=TIPS["sparks"]),
    ]
    noise = _of("seen_noise")
    if np.isfinite(noise).any():
        told = f"{TIPS['noise']} {_jnd(noise)}"
        rows.append(MeasureRow("Its noise", PERCENT, _shares(noise), 100.0 * seen_by(eyes.limit), "{:.0f}", told, full=100.0))
    if len(sides) == 2:
        rows.append(MeasureRow("Sharpness", "% of A", kept, form="{:.0f}", tip=TIPS["sharpness"]))
    return rows


def _shares(seen: Sequence[float]) -> tuple[float, ...]:
    """Percent of viewers who see unrest of so many JND."""
    return tuple(float("nan") if np.isnan(j) else 100.0 * seen_by(j) for j in seen)


def _jnd(seen: Sequence[float]) -> str:
    """What was measured, in JND and JOD, for those who want it."""
    return ", ".join(
        f"{side}: {j:.2f} JND, {loss_of(j):.2f} JOD, {impairment(loss_of(j))}" for side, j in zip("AB", seen) if not np.isnan(j)
    )


class MeasuresModel:
    """What is measured of the sides that are compared; watched : somebody looks at it. changed() : more is known.

    Parameters
    ----------
    session : the open reel
    sides : what is compared
    study : measures them
    """

    changed = Signal()

    def __init__(self, session: Session, sides: ComparedSides, study: Study) -> None:
        self._session, self._sides, self._study = session, sides, study
        self.watched = False

    @property
    def found(self) -> list[SequenceMeasures | None]:
        """Of each side what is measured; None while it is not."""
        return [self._study.of(s, self._sides.run).measures for s in self._sides.sides]

    @property
    def count_words(self) -> str:
        """Over how many frames is measured."""
        count = len(self._sides.run)
        return "No frame in common" if not count else "one frame" if count == 1 else f"{count} frames"

    @property
    def rows(self) -> list[MeasureRow]:
        """The measures as they stand."""
        sides, eyes = self._sides.sides, self._session.eyes
        rows = rows_of(sides, self.found, self._sides.run, eyes)
        flip, ssim = self._study.apart(sides, self._sides.frames) if len(sides) == 2 else (np.nan, np.nan)
        if np.isfinite(flip):
            rows.append(MeasureRow("FLIP", "A to B, 0–1", (flip,), form="{:.3f}", tip=TIPS["flip"], full=1.0))
            rows.append(MeasureRow("SSIM", "A to B, 0–1", (ssim,), form="{:.3f}", tip=TIPS["ssim"], full=1.0))
        return rows

    @property
    def verdict(self) -> tuple[str, str]:
        """Which side to keep, as a head and what speaks for it; '' for both while it is not known."""
        sides, found = self._sides.sides, self.found
        if len(sides) != 2 or found[0] is None or found[1] is None:
            return "", ""
        seen = (found[0].seen_flicker, found[1].seen_flicker)
        return verdict(sides[0], sides[1], seen, (found[0].noise_L, found[1].noise_L), self._session.eyes.limit)

    @property
    def busy(self) -> str:
        """That it is being measured, or ''."""
        return self._study.busy if self._study.busy.startswith("Measuring") else ""

    @property
    def notes(self) -> list[str]:
        """What was not measured as one would expect, in sentences."""
        return list(dict.fromkeys(w for m in self.found if m is not None for w in m.words()))

    def may_keep(self, which: int) -> bool:
        """Whether the settings of a side may become those of the recipe.

        Parameters
        ----------
        which : 0 for A, 1 for B

        Returns
        -------
        bool
            True where it is so.
        """
        proof = self._sides.sides[which].proof if which < len(self._sides.sides) else None
        return proof is not None and not proof.draft

    def keep(self, which: int) -> None:
        """Make the settings of a side those of the shot's recipe.

        Parameters
        ----------
        which : 0 for A, 1 for B
        """
        proof = self._sides.sides[which].proof if which < len(self._sides.sides) else None
        if proof is not None:
            self._session.use_settings(proof)

    def look(self) -> None:
        """Measure the sides, where somebody wants to see it and it is not known."""
        if self.watched:
            for side in self._sides.sides:
                self._study.measure(side, self._sides.run)
        self.changed.emit()
