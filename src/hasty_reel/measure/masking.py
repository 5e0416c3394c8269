"""How far what stands in a picture hides unrest: contrast masking in bands of spatial frequency.

Unrest on an even grey is seen from its threshold on; on texture the threshold is raised by the contrast that the picture itself
has there, band by band. Form and constants are those that ColorVideoVDP publishes for its achromatic channel (Mantiuk et al., ACM
Transactions on Graphics 43, 2024; from the prototype's notes, fitted by its authors to people's judgements): the elevation is
(1 + .877 (.160 m)^1.3026)^(1/2.2644), with m the picture's contrast in the band over its threshold.

The picture is told by the product of two seeds, in which noise has no part: noise does not mask itself.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np

from hasty_reel.image.lightness import lightness
from hasty_reel.measure.seen import MID_GREY, sensitivity

CENTRES = (0.5, 1.0, 2.0, 4.0, 8.0, 16.0)
"""Cycles a degree at the middle of the bands; each reaches an octave to both sides."""
GAIN, SLOPE, MASK_POWER, ROOT = 0.877, 0.160, 1.3026, 2.2644
"""Constants of the elevation."""
LOWEST_MASKED = 1
"""The first band in which a picture hides anything: slow shading does not."""
_GREY = float(lightness(np.array(MID_GREY)))


def integrated_contrast(lightness_: np.ndarray) -> np.ndarray:
    """Return lightness on the scale on which equal steps are equal contrasts, in natural logarithms of luminance above mid grey.

    Below mid grey the eye asks for more contrast, and a step of L* counts as at mid grey.

    Parameters
    ----------
    lightness_ : L*
    """
    above = 3.0 * np.log(np.maximum(lightness_ + 16.0, 1e-6) / (_GREY + 16.0))
    return np.where(lightness_ > _GREY, above, 3.0 * (lightness_ - _GREY) / (_GREY + 16.0))


@lru_cache(maxsize=8)
def band_weights(rows: int, columns: int, pixels_a_degree: float) -> np.ndarray:
    """Return the share of each band in the waves of a picture, (bands, rows, columns//2 + 1); their squares sum to 1.

    Parameters
    ----------
    rows, columns : of the picture
    pixels_a_degree : of its pixels, as they are seen
    """
    fy, fx = np.fft.fftfreq(rows)[:, None], np.fft.rfftfreq(columns)[None]
    f = np.maximum(np.hypot(fy, fx) * pixels_a_degree, 1e-6)
    out = np.empty((len(CENTRES), *f.shape))
    for k, centre in enumerate(CENTRES):
        octaves = np.log2(f / centre)
        out[k] = np.where(np.abs(octaves) < 1.0, np.cos(np.pi / 2.0 * octaves), 0.0)
    out[0][f <= CENTRES[0]] = 1.0
    out[-1][f >= CENTRES[-1]] = 1.0
    return out.astype(np.float32)


def mask_of(one: np.ndarray, two: np.ndarray, pixels_a_degree: float) -> np.ndarray:
    """Return the standing contrast of a picture over its threshold, band by band and pixel by pixel, (bands, h, w) float32.

    Parameters
    ----------
    one, two : (h, w) L* of two seeds of it, or of the mean over frames of each; or of every second frame and of the others
    pixels_a_degree : of these pixels, as they are seen
    """
    from scipy import fft

    h, w = one.shape
    weights = band_weights(h, w, round(pixels_a_degree, 3))
    standing = _standing(h, w, round(pixels_a_degree, 3))
    spectra = []
    for plane in (one, two):
        contrast = integrated_contrast(np.asarray(plane, np.float32)).astype(np.float32)
        spectra.append(fft.rfft2(contrast - contrast.mean(), workers=2) * standing)
    out = np.zeros((len(CENTRES), h, w), np.float32)
    for k, centre in list(enumerate(CENTRES))[LOWEST_MASKED:]:
        a, b = (fft.irfft2(spectrum * weights[k], s=(h, w), workers=2) for spectrum in spectra)
        # over how much of the picture around a wave of the band its contrast counts
        out[k] = np.sqrt(np.maximum(_around(np.asarray(a * b, np.float32), max(0.3, pixels_a_degree / centre)), 0.0))
    return out


@lru_cache(maxsize=8)
def _standing(rows: int, columns: int, pixels_a_degree: float) -> np.ndarray:
    """Sensitivity to waves that stand still, as a drifting eye sees them, (rows, columns//2 + 1)."""
    fy, fx = np.fft.fftfreq(rows)[:, None], np.fft.rfftfreq(columns)[None]
    return sensitivity(np.hypot(fy, fx) * pixels_a_degree, 0.0).astype(np.float32)


def _around(plane: np.ndarray, sigma: float) -> np.ndarray:
    """Gaussian mean around each pixel; a wide one is taken on a smaller picture, which it does not tell from the whole one."""
    times = int(sigma / 4.0)
    h, w = plane.shape
    if times < 2 or min(h, w) < 4 * times:
        return cv2.GaussianBlur(plane, (0, 0), sigma, borderType=cv2.BORDER_REFLECT)
    small = cv2.resize(plane, (-(-w // times), -(-h // times)), interpolation=cv2.INTER_AREA)
    small = cv2.GaussianBlur(small, (0, 0), sigma / times, borderType=cv2.BORDER_REFLECT)
    return cv2.resize(small, (w, h), interpolation=cv2.INTER_LINEAR)


def elevation(mask: np.ndarray) -> np.ndarray:
    """Return how many times the threshold is raised by a mask.

    Parameters
    ----------
    mask : contrast over its own threshold
    """
    raised = np.float32(GAIN) * (np.float32(SLOPE) * np.asarray(mask)) ** np.float32(MASK_POWER)
    return (np.float32(1.0) + raised) ** np.float32(1.0 / ROOT)


@dataclass(frozen=True)
class Sight:
    """What a picture leaves in sight of noise.

    share : (bands, h, w), of its power in each band at each pixel
    """

    share: np.ndarray

    @classmethod
    def of(cls, one: np.ndarray, two: np.ndarray, pixels_a_degree: float) -> Sight:
        """Tell it from two seeds, as `mask_of` does.

        Parameters
        ----------
        one, two : (h, w) L*
        pixels_a_degree : of these pixels, as they are seen
        """
        return cls(elevation(mask_of(one, two, pixels_a_degree)) ** np.float32(-2.0))

    def of_waves(self, power: np.ndarray, y: int, xs: Sequence[int], rows: int, columns: int, pixels_a_degree: float) -> np.ndarray:
        """Return the share of the power of each wave that is in sight in the blocks of a row, (blocks, rows, columns//2 + 1) float32.

        Of a band that share is the mean over the block, and counts where the noise is.

        Parameters
        ----------
        power : (h, w) of the noise at each pixel
        y : where the blocks begin, down
        xs : (blocks,) where each begins, across
        rows, columns : of a block
        pixels_a_degree : of these pixels, as they are seen
        """
        squares = band_weights(rows, columns, round(pixels_a_degree, 3)) ** 2
        shares = np.empty((len(xs), len(CENTRES)), np.float32)
        for k, x in enumerate(xs):
            here = power[y : y + rows, x : x + columns]
            whole = float(here.sum())
            part = self.share[:, y : y + rows, x : x + columns]
            shares[k] = part.mean(axis=(1, 2)) if whole <= 0.0 else np.einsum("byx,yx->b", part, here) / whole
        return np.einsum("kb,byx->kyx", shares, squares)
