"""Seen flicker: unrest weighted by the eye's contrast sensitivity, in just noticeable differences.

Kelly 1979 (J. Opt. Soc. Am. 69, 1340-1349), formula from memory: sensitivity for a
grating of fs cycles/degree that moves or flickers at ft Hz. Unrest from frame to frame
is judged at a third of the frame rate.

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
AT_RISK = 0.6
"""From this share of the limit on a keen eye may see it."""
PICTURE_HEIGHTS = 3.0
"""Viewing distance of the standard observer, in picture heights."""
BLOCK_DEGREES = 1.13
"""Side of the blocks whose spectrum is weighted: 64 pixels of 1080 rows at three picture heights."""
FINE = 40.0
"""Pixels a degree above which pairs of pixels are judged: what is finer than 10 cycles a degree is hardly seen in flicker."""
LOWEST = 0.5
"""What changes over a whole block alike is judged as half a wave of it, in cycles a block."""
MID_GREY = 0.18


@dataclass(frozen=True)
class Eyes:
    """Who looks, from how far, at which screen.

    heights : viewing distance in heights of the picture
    limit : seen flicker in JND from which on this person sees it; 1 for the standard observer
    """

    heights: float = PICTURE_HEIGHTS
    limit: float = VISIBLE

    @property
    def at_risk(self) -> float:
        """Seen flicker from which on it may be seen."""
        return AT_RISK * self.limit

    def pixels_per_degree(self, rows: int, scale: float = 100.0) -> float:
        """Return the pixels a degree of a picture of `rows` rows, as high as the screen.

        Parameters
        ----------
        rows : of the picture
        scale : render scale in percent; pixels rendered at a smaller one are enlarged, those of a larger one shrunk to the delivered ones
        """
        return rows * self.heights * math.tan(math.radians(1.0)) * min(1.0, scale / 100.0)


STANDARD = Eyes()


def heights_of(distance_cm: float, screen_cm: float) -> float:
    """Viewing distance in picture heights, of a picture as high as its screen.

    Parameters
    ----------
    distance_cm, screen_cm : distance of the eyes and height of the screen, in centimetres
    """
    return distance_cm / screen_cm


def sensitivity(fs: np.ndarray, ft: float) -> np.ndarray:
    """Contrast sensitivity (1/threshold contrast) at fs cycles/degree and ft Hz (Kelly 1979).

    Parameters
    ----------
    fs : cycles a degree
    ft : Hz
    """
    fs = np.maximum(np.asarray(fs, np.float64), 1e-3)
    v = ft / fs
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
    """JND per unit of contrast of white noise whose finest grain is one pixel.

    The spectrum is even up to half a cycle a pixel in both directions; it is weighted
    by the squared sensitivity at a third of the frame rate and averaged. For noise
    enlarged k times, divide `pixels_a_degree` by k: the sinc keeps the band it had.

    Parameters
    ----------
    pixels_a_degree : pixels a degree of these pixels, as they are seen
    fps : frames a second
    """
    f = (np.arange(256) + 0.5) / 256.0 - 0.5
    fx, fy = np.meshgrid(f, f)
    weight = sensitivity(np.hypot(fx, fy) * pixels_a_degree, fps / 3.0)
    return float(np.sqrt(np.mean(weight**2)))


@lru_cache(maxsize=8)
def _block_weights(rows: int, columns: int, pixels_a_degree: float, fps: float, halved: bool) -> np.ndarray:
    """Squared sensitivity of the cells of a real spectrum (rows, columns//2 + 1), its mirrored half counted.

    halved : the pixels are means of 2 x 2, whose loss is made up for
    """
    fy, fx = np.fft.fftfreq(rows)[:, None], np.fft.rfftfreq(columns)[None, :]
    f = np.hypot(fx, fy)
    f[0, 0] = LOWEST / max(rows, columns)
    weight = sensitivity(f * pixels_a_degree, fps / 3.0) ** 2
    if halved:
        weight = weight / (np.cos(np.pi * fx / 2) * np.cos(np.pi * fy / 2)) ** 2
    twice = np.full(columns // 2 + 1, 2.0)
    twice[0] = 1.0
    if columns % 2 == 0:
        twice[-1] = 1.0
    return (weight * twice / (rows * columns) ** 2).astype(np.float32)


def block_side(pixels_a_degree: float) -> int:
    """Side in pixels of the blocks, even.

    Parameters
    ----------
    pixels_a_degree : pixels a degree of these pixels, as they are seen
    """
    return int(np.clip(2 * round(BLOCK_DEGREES * pixels_a_degree / 2), 16, 256))


def seen_blocks(contrast: np.ndarray, pixels_a_degree: float, fps: float) -> np.ndarray:
    """Seen flicker in JND over blocks of about a degree (the whole side where it is shorter), (down, across).

    Parameters
    ----------
    contrast : (h, w) unrest as contrast (`contrast_of`), 0 where a pixel has no match
    pixels_a_degree : of these pixels, as they are seen
    fps : frames a second
    """
    block = block_side(pixels_a_degree)
    halved = pixels_a_degree > FINE
    if halved:
        contrast, pixels_a_degree = _halved(contrast), pixels_a_degree / 2.0
    h, w = contrast.shape
    block = block // 2 if halved else block
    rows, columns = min(block, h), min(block, w)
    ys, xs = _starts(h, rows), _starts(w, columns)
    blocks = np.empty((len(ys), len(xs), rows, columns), np.float32)
    for j, y in enumerate(ys):
        for i, x in enumerate(xs):
            blocks[j, i] = contrast[y : y + rows, x : x + columns]
    from scipy import fft  # slow to import, and not needed to open a window

    spectrum = fft.rfft2(blocks, workers=2)
    power = (spectrum.real**2 + spectrum.imag**2).reshape(len(ys) * len(xs), -1)
    weights = _block_weights(rows, columns, round(pixels_a_degree, 3), fps, halved)
    return np.sqrt(power @ weights.ravel()).reshape(len(ys), len(xs))


def _halved(plane: np.ndarray) -> np.ndarray:
    h, w = plane.shape[0] // 2 * 2, plane.shape[1] // 2 * 2
    return 0.25 * (plane[0:h:2, 0:w:2] + plane[1:h:2, 0:w:2] + plane[0:h:2, 1:w:2] + plane[1:h:2, 1:w:2])


def _starts(length: int, side: int) -> list[int]:
    """Where blocks begin; the last one ends at the border and may lap over its neighbour."""
    starts = list(range(0, length - side + 1, side))
    if starts[-1] + side < length:
        starts.append(length - side)
    return starts
