"""What the shot weighs in each format, measured by writing its proof frames as noisy as they are planned; and the room there is."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np

from hasty_reel.errors import HastyReelError
from hasty_reel.evidence.rows import Evidence
from hasty_reel.handover.deliver import Delivery, usual_colour
from hasty_reel.handover.films import FILMS, FilmFormat
from hasty_reel.handover.weigh import Weight, as_noisy, weigh
from hasty_reel.pictures.colourspaces import output_named
from hasty_reel.pictures.frame import read_picture
from hasty_reel.pictures.outputs import FORMATS, PictureFormat
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.studio.lookedfor import LookedFor

PICTURES, FRAMES = 3, 9
"""Frames that are written as pictures, and as a film."""


def usual_delivery(form: PictureFormat | FilmFormat) -> Delivery:
    """Return a format with the colour and the options that are usual for it.

    Parameters
    ----------
    form : of pictures or of a film
    """
    return Delivery(form, output_named(usual_colour(form)))


@lru_cache(maxsize=1)
def shown_forms() -> list[PictureFormat | FilmFormat]:
    """Return the formats there are here, pictures first."""
    return [*FORMATS, *(f for f in FILMS if f.there)]


@dataclass(frozen=True)
class Weighed:
    """weights : by the key of the format; frames : of the proof that was written; width : of it in pixels"""

    weights: dict[str, Weight]
    frames: int = 0
    width: int = 0


class Weighing(LookedFor[Weighed]):
    """What the shot that is looked at weighs in each format, with its usual options."""

    def _work(self) -> Callable[[], Weighed] | None:
        session = self._session
        plan, evidence, reel = session.plan, session.evidence, session.reel
        if plan is None:
            return None

        def _find() -> Weighed:
            frames = planned_frames(plan, evidence)
            if not frames:
                return Weighed({})
            pixels, found = reel.picture_size[0] * reel.picture_size[1], {}
            for form in shown_forms():
                written = frames if isinstance(form, FilmFormat) else frames[:PICTURES]
                found[form.key] = weigh(written, usual_delivery(form), reel.fps, pixels)
            return Weighed(found, len(frames), frames[0].shape[1])

        return _find


def planned_frames(plan: ShotPlan, evidence: Evidence) -> list[np.ndarray]:
    """Return consecutive proof frames with the noise that finished frames are planned to have; of the widest proof with two seeds.

    Parameters
    ----------
    plan : of the shot
    evidence : of the shot
    """
    proofs = [p for p in evidence.proofs if p.whole and any(len(q) > 1 for q in p.by_frame().values())]
    if not proofs:
        return []
    proof = max(proofs, key=lambda p: (p.width, len(p.by_frame())))
    out = []
    for frame, pictures in list(proof.by_frame().items())[:FRAMES]:
        if len(pictures) < 2:
            continue
        try:
            one, two = (read_picture(evidence.folders[proof.id] / p.file, ()).rgb for p in pictures[:2])
        except HastyReelError:
            continue  # told where the evidence is read
        out.append(as_noisy(one, two, float(plan.noise[plan.index(round(frame))])))
    return out


def free_bytes(folder: Path) -> int:
    """Return the bytes that are free where a folder is, or will be.

    Parameters
    ----------
    folder : it may not be there yet
    """
    while not folder.exists() and folder.parent != folder:
        folder = folder.parent
    return shutil.disk_usage(folder).free
