"""The noise of each place of a picture, from two seeds of a proof frame, and the samples each place took where they were counted."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hasty_reel.errors import PictureError
from hasty_reel.evidence.rows import Evidence
from hasty_reel.image.luminance import luminance
from hasty_reel.measure.bodysparks import left_out
from hasty_reel.measure.varianceshares import place_variance
from hasty_reel.pictures.frame import read_picture

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
    found = [
        (abs(f - frame), proof.recipe.stop_noise is None, -k, f)
        for k, proof in enumerate(evidence.proofs)
        for f, pictures in proof.by_frame().items()
        if not proof.scan and proof.small <= 1 and len(pictures) > 1
    ]
    for _, _, place, at in sorted(found):
        proof = evidence.proofs[-place]
        try:
            one, two = (read_picture(evidence.folders[proof.id] / p.file, (COUNTS,)) for p in proof.by_frame()[at][:2])
        except PictureError:
            continue  # told where the evidence is read
        if one.rgb.shape != two.rgb.shape:
            continue
        a, b = (luminance(p.rgb).astype(np.float64) for p in (one, two))
        counts = [p.guides[COUNTS].astype(np.float64) for p in (one, two) if COUNTS in p.guides]
        took = (counts[0] + counts[1]) / 2.0 if len(counts) == 2 and any(float(np.ptp(c)) > 0 for c in counts) else None
        times = float(proof.samples) if took is None else took
        square = np.where(left_out(a, b), 0.0, (a - b) ** 2 / 2.0) * times
        return Places(float(at), proof.id, place_variance(square), took, proof.recipe.stop_noise)
    return None
