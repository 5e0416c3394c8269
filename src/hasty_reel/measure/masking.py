"""How far what stands in a picture hides unrest: contrast masking in bands of spatial frequency.

Unrest on an even grey is seen from its threshold on; on texture the threshold is raised by the contrast that the picture itself
has there, band by band. Form and constants are those that ColorVideoVDP publishes for its achromatic channel (Mantiuk et al., ACM
Transactions on Graphics 43, 2024; from the prototype's notes, fitted by its authors to people's judgements): the elevation is
(1 + .877 (.160 m)^1.3026)^(1/2.2644), with m the picture's contrast in the band over its threshold.

The picture is told by the product of two seeds, in which noise has no part: noise does not mask itself.
"""

from __future__ import annotations

from functools import lru_cache

import cv2
import numpy as np

from hasty_reel.image.lightness import lightness
from hasty_reel.measure.seen import MID_GREY, sensitivity

CENTRES = (0.5, 1.0, 2.0, 4.0, 8.0, 16.0)
"""Cycles a degree at the middle of the bands; each reaches an octave to both sides."""
GAIN, SLOPE, MASK_POWER, ROOT = 0.877, 0.160, 1.3026, 2.2644
"""Constants of the elevation."""
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
    one, two : (h, w) L* of two seeds of it, or of the mean over frames of each; the same plane twice where there is one alone
    pixels_a_degree : of these pixels, as they are seen
    """
    from scipy import fft

    h, w = one.shape
    weights = band_weights(h, w, round(pixels_a_degree, 3))
    fy, fx = np.fft.fftfreq(h)[:, None], np.fft.rfftfreq(w)[None]
    standing = sensitivity(np.hypot(fy, fx) * pixels_a_degree, 0.0).astype(np.float32)
    spectra = []
    for plane in (one, two):
        contrast = integrated_contrast(np.asarray(plane, np.float64)).astype(np.float32)
        spectra.append(fft.rfft2(contrast - contrast.mean(), workers=2) * standing)
    out = np.empty((len(CENTRES), h, w), np.float32)
    for k, centre in enumerate(CENTRES):
        a, b = (fft.irfft2(spectrum * weights[k], s=(h, w), workers=2) for spectrum in spectra)
        # over how much of the picture around a wave of the band its contrast counts
        around = cv2.GaussianBlur(np.asarray(a * b, np.float32), (0, 0), max(0.3, pixels_a_degree / centre), borderType=cv2.BORDER_REFLECT)
        out[k] = np.sqrt(np.maximum(around, 0.0))
    return out


def elevation(mask: np.ndarray) -> np.ndarray:
    """Return how many times the threshold is raised by a mask.

    Parameters
    ----------
    mask : contrast over its own threshold
    """
    return (1.0 + GAIN * (SLOPE * np.asarray(mask)) ** MASK_POWER) ** (1.0 / ROOT)


def left_in_sight(noise: np.ndarray, mask: np.ndarray, pixels_a_degree: float) -> np.ndarray:
    """Return noise as it would have to be on an even grey to be seen as much, (count, h, w) float32.

    Each band is divided by the elevation that the picture's contrast causes there, and put together again by the same weights, whose
    squares sum to 1: where nothing masks, the noise comes back as it was.

    Parameters
    ----------
    noise : (count, h, w), contrast
    mask : (bands, h, w), as `mask_of` gives it
    pixels_a_degree : of these pixels, as they are seen
    """
    from scipy import fft

    h, w = noise.shape[1:]
    weights = band_weights(h, w, round(pixels_a_degree, 3))
    raised = [np.float32(1.0) / elevation(m).astype(np.float32) for m in mask]
    out = np.empty(noise.shape, np.float32)
    for k, plane in enumerate(noise):
        spectrum = fft.rfft2(np.asarray(plane, np.float32), workers=2)
        total = np.zeros_like(spectrum)
        for weight, share in zip(weights, raised):
            total += weight * fft.rfft2(share * fft.irfft2(spectrum * weight, s=(h, w), workers=2), workers=2)
        out[k] = fft.irfft2(total, s=(h, w), workers=2)
    return out
