"""What a shot weighs in a format: measured by writing frames as noisy as they are planned, and not guessed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np

from hasty_reel.handover.deliver import Delivery
from hasty_reel.handover.films import FilmFormat, film_codes
from hasty_reel.handover.video import video_file
from hasty_reel.image.luminance import luminance
from hasty_reel.pictures.colourspaces import in_colour
from hasty_reel.pictures.frame import Picture
from hasty_reel.pictures.outputs import write_format
from hasty_reel.temporary import temporary_folder

MARGIN = 1.3
"""Frames that were not written may weigh more than those that were, by this factor nine times in ten (bench scenes: 0.8 to 1.25)."""


@dataclass(frozen=True)
class Weight:
    """Bytes of a frame, and between which they fall; measured : on how many frames of how many pixels a side"""

    bytes: float
    low: float
    high: float
    frames: int
    width: int

    def of(self, frames: int) -> tuple[float, float]:
        """Return the bytes of a shot, likely and at most nine times in ten.

        Parameters
        ----------
        frames : of the shot
        """
        return self.bytes * frames, self.high * frames


def as_noisy(one: np.ndarray, two: np.ndarray, noise: float) -> np.ndarray:
    """Return a picture with a chosen noise from two renders of a frame: their mean, with as much of their difference as it takes.

    Parameters
    ----------
    one, two : (h, w, 3) float32, scene-linear light, that differ in their seed
    noise : standard deviation of linear luminance; below that of the mean the mean is given
    """
    mean, half = (one + two) / 2.0, (one - two) / 2.0
    least = float(np.std(luminance(half)))
    more = np.sqrt(max(0.0, (noise / least) ** 2 - 1.0)) if least > 0 else 0.0
    return mean + half * min(more, 3.0)


def weigh(frames: Sequence[np.ndarray], how: Delivery, fps: Fraction, pixels: int) -> Weight:
    """Return what a frame weighs in a format, measured by writing some.

    Parameters
    ----------
    frames : (h, w, 3) float32, scene-linear light; consecutive ones for a film
    how : format, colour and options
    fps : frames per second
    pixels : of a delivered frame; those that are written may be smaller
    """
    with temporary_folder("weigh") as folder:
        coded = [in_colour(f, how.colour, how.config) for f in frames]
        if isinstance(how.form, FilmFormat):
            film = folder / f"film{how.form.ending}"
            with video_file(film, fps, how.form, replace(how.film, sound=None)) as video:
                for codes in coded:
                    video.add(film_codes(codes, how.form))
            sizes = [film.stat().st_size / len(coded)]
        else:
            sizes = []
            for k, rgb in enumerate(coded):
                path = folder / f"{k}{how.form.ending}"
                write_format(path, Picture(rgb), how.form, how.picture)
                sizes.append(path.stat().st_size)
    height, width = frames[0].shape[:2]
    scale = pixels / (width * height)
    mean = float(np.mean(sizes)) * scale
    return Weight(mean, float(np.min(sizes)) * scale / MARGIN, float(np.max(sizes)) * scale * MARGIN, len(frames), width)
