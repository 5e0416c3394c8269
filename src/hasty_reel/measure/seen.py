"""What the eye sees of unrest: contrast, its sensitivity to it, and who looks from where.

Kelly 1979 (J. Opt. Soc. Am. 69, 1340-1349), formula from memory: sensitivity for a
grating of fs cycles/degree that moves or flickers at ft Hz. An eye at rest drifts by
0.15 degrees a second (Daly 1998, from memory), so that nothing is seen slower than that.

Contrast is that of luminance against its surroundings (Weber). Below mid grey the eye
asks for more of it, by the cube root of luminance, as L* has it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from hasty_reel.image.lightness import lightness, lightness_slope, lightness_slope_at

VISIBLE = 1.0
"""Seen flicker from here on is visible to the standard observer."""
PICTURE_HEIGHTS = 3.0
"""Viewing distance of the standard observer, in picture heights."""
FULL_ROWS = 1080
"""Rows of a picture that fills its screen; one of fewer rows is watched in a window beside it, its pixels no larger."""
MID_GREY = 0.18
DRIFT = 0.15
"""Degrees a second by which an eye at rest drifts."""


@dataclass(frozen=True)
class Eyes:
    """Who looks, from how far, at which screen.

    heights : viewing distance in heights of a picture that fills the screen
    fills : whether pictures of fewer than `FULL_ROWS` rows are enlarged to the screen, as on a television; else their pixels stay as small
    limit : seen flicker in JND from which on this person sees it; 1 for the standard observer
    """

    heights: float = PICTURE_HEIGHTS
    limit: float = VISIBLE
    fills: bool = False

    def pixels_per_degree(self, rows: int, scale: float = 100.0) -> float:
        """Return the pixels a degree of a picture of `rows` rows.

        Parameters
        ----------
        rows : of the picture
        scale : render scale in percent; pixels rendered at a smaller one are enlarged, those of a larger one shrunk to the delivered ones
        """
        screen = rows if self.fills else max(rows, FULL_ROWS)
        return screen * self.heights * math.tan(math.radians(1.0)) * min(1.0, scale / 100.0)

    def degrees(self, rows: int) -> float:
        """Return how many degrees high a picture is seen.

        Parameters
        ----------
        rows : of the picture as it is delivered
        """
        return rows / self.pixels_per_degree(rows)


STANDARD = Eyes()


def heights_of(distance_cm: float, screen_cm: float) -> float:
    """Viewing distance in picture heights, of a picture as high as its screen.

    Parameters
    ----------
    distance_cm, screen_cm : distance of the eyes and height of the screen, in centimetres
    """
    return distance_cm / screen_cm


def sensitivity(fs: np.ndarray, ft: np.ndarray | float) -> np.ndarray:
    """Contrast sensitivity (1/threshold contrast) at fs cycles/degree and ft Hz (Kelly 1979), of an eye that drifts.

    Parameters
    ----------
    fs : cycles a degree
    ft : Hz; what is slower than the drift of the eye is seen as fast as that
    """
    fs = np.maximum(np.asarray(fs, np.float64), 1e-3)
    v = np.maximum(np.abs(ft) / fs, DRIFT)
    a = 2.0 * np.pi * fs
    return (6.1 + 7.3 * np.abs(np.log10(v / 3.0)) ** 3) * v * a * a * np.exp(-2.0 * a * (v + 2.0) / 45.9)


def contrast_per_lightness(y: np.ndarray) -> np.ndarray:
    """Contrast to the eye of a difference of one L* at luminance `y` (0..1): Weber's from mid grey up, asking for more below.

    Parameters
    ----------
    y : relative luminance, 0 to 1
    """
    return 1.0 / lightness_slope(np.maximum(y, MID_GREY))


_LIGHTNESS_GREY = float(lightness(np.array(MID_GREY)))


def contrast_of(unrest: np.ndarray, lightness_: np.ndarray) -> np.ndarray:
    """Return the same for unrest in L* at pixels of lightness L*, (h, w) both.

    Parameters
    ----------
    unrest : (h, w) L*
    lightness_ : (h, w) L*
    """
    return unrest / lightness_slope_at(np.maximum(lightness_, _LIGHTNESS_GREY))


def pixels_per_degree(rows: int, heights: float = PICTURE_HEIGHTS) -> float:
    """Return the pixels a degree of a picture of `rows` rows, seen from `heights` picture heights away.

    Parameters
    ----------
    rows : of the picture
    heights : viewing distance in picture heights
    """
    return Eyes(heights).pixels_per_degree(rows)


@lru_cache(maxsize=256)
def grain_weight(pixels_a_degree: float, fps: float) -> float:
    """JND per unit of contrast of noise that is white in time and has grains of one pixel.

    The spectrum is even up to half a cycle a pixel in both directions and up to half the
    frame rate; the squared sensitivity is averaged over it. For noise enlarged k times,
    divide `pixels_a_degree` by k: the sinc keeps the band it had.

    Parameters
    ----------
    pixels_a_degree : pixels a degree of these pixels, as they are seen
    fps : frames a second
    """
    f = (np.arange(128) + 0.5) / 256.0
    fs = np.hypot(*np.meshgrid(f, f)).ravel() * pixels_a_degree
    ft = (np.arange(64) + 0.5) / 128.0 * fps
    return float(np.sqrt(np.mean([np.mean(sensitivity(fs, t) ** 2) for t in ft])))
