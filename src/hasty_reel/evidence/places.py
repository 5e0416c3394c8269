"""The noise of each place of a picture, from two seeds of a proof frame, and the samples each place took where they were counted."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import cv2
import numpy as np

from hasty_reel.errors import PictureError
from hasty_reel.evidence.proof import Proof
from hasty_reel.evidence.rows import Evidence
from hasty_reel.image.lightness import lightness
from hasty_reel.image.luminance import luminance
from hasty_reel.measure.bodysparks import left_out
from hasty_reel.measure.varianceshares import place_variance
from hasty_reel.pictures.frame import Picture, read_picture

PARTS = 4
"""Parts of the picture across and down, one of which is the noisiest."""
COUNTS = "samples"
"""Channel in which a renderer tells how many samples a pixel got."""


@dataclass(frozen=True)
class Places:
    """A proof frame, place by place.

    frame : as the shot numbers it; proof : its id
    variance : (h, w) of linear luminance at one sample
    took : (h, w) samples a pixel got, mean of the seeds; None where all got the same
    stop : noise it stopped at; None for nowhere
    """

    frame: float
    proof: str
    variance: np.ndarray
    took: np.ndarray | None
    stop: float | None


def places_of(evidence: Evidence, frame: int) -> Places | None:
    """Return the places of the proof frame nearest to a frame; None where none has two seeds.

    Of proofs equally near one that stopped at noise goes before others, then the newest.

    Parameters
    ----------
    evidence : of the shot
    frame : as the shot numbers it
    """
    for proof, at, one, two in _pairs(evidence, frame):
        a, b = (luminance(p.rgb).astype(np.float64) for p in (one, two))
        counts = [p.guides[COUNTS].astype(np.float64) for p in (one, two) if COUNTS in p.guides]
        took = (counts[0] + counts[1]) / 2.0 if len(counts) == 2 and any(float(np.ptp(c)) > 0 for c in counts) else None
        times = float(proof.samples) if took is None else took
        square = np.where(left_out(a, b), 0.0, (a - b) ** 2 / 2.0) * times
        return Places(float(at), proof.id, place_variance(square), took, proof.recipe.stop_noise)
    return None


def noisiest_place(evidence: Evidence, frame: int) -> tuple[float, float]:
    """Return where the proof frame nearest to a frame is noisiest to the eye, as shares of the picture across and down; else its middle.

    Parameters
    ----------
    evidence : of the shot
    frame : as the shot numbers it
    """
    for _, _, one, two in _pairs(evidence, frame):
        a, b = (lightness(np.clip(luminance(p.rgb), 0.0, 1.0)).astype(np.float32) for p in (one, two))
        height, width = a.shape
        part = max(3, width // PARTS), max(3, height // PARTS)
        noise = cv2.blur((a - b) ** 2, part, borderType=cv2.BORDER_CONSTANT)
        y, x = np.unravel_index(int(np.argmax(noise)), noise.shape)
        return (float(x) + 0.5) / width, (float(y) + 0.5) / height
    return 0.5, 0.5


def _pairs(evidence: Evidence, frame: int) -> Iterator[tuple[Proof, float, Picture, Picture]]:
    """Proof frames with two seeds, the nearest to a frame first, then those that stopped at noise, then the newest."""
    found = [
        (abs(f - frame), proof.recipe.stop_noise is None, -k, f)
        for k, proof in enumerate(evidence.proofs)
        for f, pictures in proof.by_frame().items()
        if proof.whole and len(pictures) > 1
    ]
    for _, _, place, at in sorted(found):
        proof = evidence.proofs[-place]
        try:
            one, two = (read_picture(evidence.folders[proof.id] / p.file, (COUNTS,)) for p in proof.by_frame()[at][:2])
        except PictureError:
            continue  # told where the evidence is read
        if one.rgb.shape == two.rgb.shape:
            yield proof, at, one, two
