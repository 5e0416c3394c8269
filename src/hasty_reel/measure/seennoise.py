"""Seen flicker of noise alone: of the difference of two seeds, in which there is no scene, or of patterns made to be judged.

J^2 = sum over fs, ft of P(fs, ft) S(fs, ft)^2, as in `spectrum`, but by how alike frames are at each distance in time:
sum over fs, lag of r(fs, lag) K(fs, lag), with K the mean over ft of S^2 cos(2 pi ft lag). Noise has no mean and no trend, so the
products of its frames are no worse known for a run that is short; a periodogram of five frames takes what an average over five
frames leaves for something that stands still, and finds it half as visible as it is. What no frames of the run are far enough apart to
tell goes on as it fell towards the last ones, and what does not fall at all stands still and is not seen as flicker
(autocovariance estimate of a spectrum: R. B. Blackman and J. W. Tukey, The Measurement of Power Spectra, 1958, from memory).
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from hasty_reel.image.resize import square_means
from hasty_reel.measure.masking import Sight
from hasty_reel.measure.seen import sensitivity
from hasty_reel.measure.spectrum import LEAST_MATCHED, Fetched, block_side, block_starts, coarsening, folded, wave_numbers

FREQUENCIES = 64
"""Temporal frequencies over which the sensitivity is averaged."""
FALLING = 3
"""Distances in time, at most, by which it is told how fast frames grow unlike each other."""
FAR_APART = 12
"""Frames after which noise that still resembles itself stands still."""
NOTHING = 0.05
"""Likeness of frames, as a share of that of a frame with itself, that is none: as much comes by chance."""
FEW = 6
"""Frames up to which the first is held against the last; in longer runs frames that lie up to half a run apart, which are many."""


def seen_noise_blocks(
    contrast: np.ndarray,
    pixels_a_degree: float,
    fps: float,
    known: np.ndarray | None = None,
    fetched: Fetched | None = None,
    coarse: int = 1,
    sight: Sight | None = None,
) -> np.ndarray:
    """Return the seen flicker of a run of noise in blocks of about a degree, (down, across) in JND; nan where too little is known.

    Parameters
    ----------
    contrast : (count, h, w) float32, noise as contrast (`seen.contrast_of`), 0 where it is not known
    pixels_a_degree : of these pixels, as they are seen
    fps : frames a second
    known : (h, w) bool, where it is known; None: everywhere
    fetched : what fetching between pixels took from it; None: nothing
    coarse : pixels of the picture a side that one of these is the mean of
    sight : what the picture leaves in sight of it; None: all of it, as on an even grey
    """
    from scipy import fft  # slow to import, and not needed to open a window

    count, h, w = contrast.shape
    side = block_side(pixels_a_degree)
    rows, columns = min(side, h), min(side, w)
    # distances in time at which frames are held against each other
    far = count if count <= FEW else max(FEW, count // 2 + 1)
    weights = _weights(far, rows, columns, round(pixels_a_degree, 3), fps, coarse)
    pairs = np.arange(count, count - far, -1.0)
    ys, xs = block_starts(h, rows), block_starts(w, columns)
    # power that is told by frames that far apart; what goes on beyond the run; what would stand still
    told, beyond = np.empty((len(ys), len(xs), far)), np.empty((len(ys), len(xs), FAR_APART))
    still = np.empty((len(ys), len(xs)))
    alike = np.zeros(far)
    power_at = None if sight is None else np.mean(contrast**2, axis=0)
    for j, y in enumerate(ys):
        blocks = np.stack([contrast[:, y : y + rows, x : x + columns] for x in xs])
        spectrum = fft.rfftn(blocks, axes=(2, 3), workers=2)
        # fetching between pixels took from fine waves: made up for, block by block
        if fetched is not None:
            spectrum /= np.sqrt(fetched.kept(y, xs, rows, columns))[:, None]
        # mean product of frames each distance apart: noise has no mean, so it needs none taken out
        lags = _products(spectrum, far) / pairs[:, None, None]
        if sight is not None and power_at is not None:
            lags *= sight.of_waves(power_at, y, xs, rows, columns, pixels_a_degree)[:, None]
        told[j] = np.einsum("blyx,lyx->bl", lags, weights[:far])
        alike += np.einsum("blyx,yx->l", lags, weights[0])
        beyond[j] = np.einsum("byx,lyx->bl", lags[:, -1], weights[far:])
        still[j] = np.einsum("byx,yx->b", lags[:, -1], weights[:far].sum(axis=0))
    # one shape over time for all blocks: a single block tells it too badly
    stands, goes_on = _after(alike)
    power = told.sum(axis=2) - stands * still + beyond @ goes_on
    # a block of which a part is known stands for all of it
    if known is not None:
        share = np.array([[known[y : y + rows, x : x + columns].mean() for x in xs] for y in ys])
        power = np.where(share >= LEAST_MATCHED, power / np.maximum(share, 1e-9), np.nan)
    return np.sqrt(np.maximum(power, 0.0))


def seen_over_all(contrast: np.ndarray, pixels_a_degree: float, fps: float) -> float:
    """Return the seen flicker in JND of contrast without a scene in it, root mean square over its blocks.

    Parameters
    ----------
    contrast : (count, h, w), of each frame
    pixels_a_degree : of these pixels, as they are seen
    fps : frames a second
    """
    coarse = coarsening(pixels_a_degree)
    planes = np.stack([square_means(np.ascontiguousarray(p, np.float32), coarse) for p in contrast])
    return float(np.sqrt(np.mean(seen_noise_blocks(planes, pixels_a_degree / coarse, fps, coarse=coarse) ** 2)))


def _products(spectrum: np.ndarray, far: int) -> np.ndarray:
    """Sum of the products of frames that lie 0, 1, .. apart, (blocks, far, rows, columns), from their spectra in space."""
    from scipy import fft

    count = spectrum.shape[1]
    if count <= FEW:
        out = [(spectrum[:, lag:] * np.conj(spectrum[:, : count - lag])).real.sum(axis=1) for lag in range(far)]
        return np.stack(out, axis=1)
    padded = fft.fft(spectrum, n=2 * count, axis=1, workers=2)
    return fft.ifft(padded.real**2 + padded.imag**2, axis=1, workers=2).real[:, :far]


def _after(alike: np.ndarray) -> tuple[float, np.ndarray]:
    """What stands still, as a share of the likeness of frames farthest apart, and how that goes on, (`FAR_APART`,)."""
    none = 0.0, np.zeros(FAR_APART)
    if len(alike) < 2 or alike[-1] <= NOTHING * alike[0]:
        return none
    back = min(FALLING, len(alike)) - 1
    falls = max(0.0, float(alike[-1 - back] - alike[-1]) / back / float(alike[-1]))
    stands = max(0.0, 1.0 - falls * FAR_APART)
    return stands, np.maximum(0.0, 1.0 - stands - falls * np.arange(1, FAR_APART + 1))


@lru_cache(maxsize=8)
def _weights(far: int, rows: int, columns: int, pixels_a_degree: float, fps: float, coarse: int) -> np.ndarray:
    """What likeness at each distance in time adds to the square of seen flicker, (far + `FAR_APART`, rows, columns//2 + 1)."""
    f = wave_numbers(rows, columns) * pixels_a_degree
    lags = np.arange(far + FAR_APART)
    out = np.zeros((len(lags), *f.shape))
    for ft in (np.arange(FREQUENCIES) + 0.5) / (2.0 * FREQUENCIES) * fps:
        out += np.cos(2.0 * np.pi * ft / fps * lags)[:, None, None] * sensitivity(f, ft) ** 2 / FREQUENCIES
    out[1:] *= 2.0
    return (out * folded(rows, columns, coarse)).astype(np.float32)
