"""Seen flicker: the power of unrest over space and time, weighted by what the eye sees, in just noticeable differences.

J^2 = sum over fs, ft of P(fs, ft) S(fs, ft)^2, with P the power spectrum of contrast in blocks of
about a degree and S the sensitivity of `seen`. A single temporal frequency does not do:
what an average over frames leaves of grain crawls slowly, and the eye sees that.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from hasty_reel.image.sampling import CUBIC
from hasty_reel.measure.masking import Sight
from hasty_reel.measure.seen import sensitivity
from hasty_reel.measure.trend import COMPARED, LEAST_KEPT, expected_below, kept_power, slowest_kept

BLOCK_DEGREES = 1.13
"""Side of the blocks whose spectrum is weighted: 64 pixels of 1080 rows at three picture heights."""
FINE = 40.0
"""Pixels a degree above which pairs of pixels are judged: what is finer than 10 cycles a degree is hardly seen in flicker."""
LOWEST = 0.5
"""What changes over a whole block alike is judged as half a wave of it, in cycles a block."""
SCATTER = 0.2
"""Standard deviation of the logarithm of the power of one frequency in a block."""
FRACTIONS, LEAST_FETCHED = 16, 0.35
"""Steps in which places between pixels are told apart, and the least share of a wave that fetching is taken to leave."""
EVERY = 4
"""Pixels from one to the next whose places are counted."""
LEAST_MATCHED = 0.25
"""Share of a block that must be known for it to have a figure."""


@dataclass(frozen=True)
class SeenStack:
    """Seen flicker of a stack of frames in JND.

    blocks : (down, across), over all of its frames; nan where too little is known
    frames : (count, down, across), of each of them
    """

    blocks: np.ndarray
    frames: np.ndarray


@dataclass(frozen=True)
class Fetched:
    """How far behind a pixel the places lie that the frames of a stack were fetched from, counted over its frames.

    A cubic between pixels takes away from fine waves; on average over the fractions that is known, and made up for in each block:
    what moves is often what is noisy.

    across, down : (`FRACTIONS`, h, w) counts at every `EVERY`th pixel
    """

    across: np.ndarray
    down: np.ndarray

    def kept(self, y: int, xs: Sequence[int], rows: int, columns: int) -> np.ndarray:
        """Return the share of the power of waves that is left in the blocks of a row, at least `LEAST_FETCHED`.

        Parameters
        ----------
        y : where they begin, down
        xs : (blocks,) where each begins, across
        rows, columns : of a block

        Returns
        -------
        np.ndarray
            (blocks, rows, columns//2 + 1) float32, as the cells of a spectrum that is real along its columns.
        """
        shares = np.empty((2, len(xs), FRACTIONS))
        part = slice(y // EVERY, max(y // EVERY + 1, (y + rows) // EVERY))
        for c, counts in enumerate((self.down[:, part], self.across[:, part])):
            below = counts.sum(axis=1, dtype=np.float64)
            for k, x in enumerate(xs):
                shares[c, k] = below[:, x // EVERY : max(x // EVERY + 1, (x + columns) // EVERY)].sum(axis=1)
        shares /= np.maximum(shares.sum(axis=2, keepdims=True), 1e-12)
        left = (shares[0] @ _responses(rows, False))[:, :, None] * (shares[1] @ _responses(columns, True))[:, None, :]
        return np.maximum(left, LEAST_FETCHED).astype(np.float32)


@lru_cache(maxsize=16)
def _responses(length: int, real: bool) -> np.ndarray:
    """Squared response of the cubic (Keys 1981) to the waves of a block, by fraction, (`FRACTIONS`, waves)."""
    f = np.fft.rfftfreq(length) if real else np.fft.fftfreq(length)
    t = (np.arange(FRACTIONS) / FRACTIONS)[:, None]
    offsets = np.array([-1.0, 0.0, 1.0, 2.0])[None]
    x = np.abs(offsets - t)
    near = ((CUBIC + 2) * x - (CUBIC + 3)) * x * x + 1
    far = ((CUBIC * x - 5 * CUBIC) * x + 8 * CUBIC) * x - 4 * CUBIC
    weights = np.where(x <= 1, near, np.where(x < 2, far, 0.0))
    response = weights @ np.exp(-2j * np.pi * offsets[0][:, None] * f[None])
    return response.real**2 + response.imag**2


def coarsening(pixels_a_degree: float) -> int:
    """Return into how many pixels' mean a side is taken together before it is judged: a power of two.

    Parameters
    ----------
    pixels_a_degree : pixels a degree of the picture's own pixels
    """
    times = 1
    while pixels_a_degree / times > FINE:
        times *= 2
    return times


def block_side(pixels_a_degree: float) -> int:
    """Side in pixels of the blocks, even.

    Parameters
    ----------
    pixels_a_degree : pixels a degree of these pixels, as they are seen
    """
    return int(np.clip(2 * round(BLOCK_DEGREES * pixels_a_degree / 2), 8, 256))


def block_starts(length: int, side: int) -> list[int]:
    """Return where blocks begin; the last one ends at the border and may lap over its neighbour.

    Parameters
    ----------
    length : pixels of the picture's side
    side : of a block, at most `length`
    """
    starts = list(range(0, length - side + 1, side))
    if starts[-1] + side < length:
        starts.append(length - side)
    return starts


def wave_numbers(rows: int, columns: int) -> np.ndarray:
    """Return the spatial frequencies of the cells of a spectrum that is real along its columns, (rows, columns//2 + 1), cycles a pixel.

    Parameters
    ----------
    rows, columns : of the block
    """
    f = np.hypot(np.fft.rfftfreq(columns)[None, :], np.fft.fftfreq(rows)[:, None])
    f[0, 0] = LOWEST / max(rows, columns)
    return f


def folded(rows: int, columns: int, coarse: int) -> np.ndarray:
    """Return how much of the mean square each cell of such a spectrum stands for, where coarse pixels took from fine waves made up for.

    Parameters
    ----------
    rows, columns : of the block
    coarse : pixels of the picture a side that one of these is the mean of

    Returns
    -------
    np.ndarray
        (rows, columns//2 + 1).
    """
    fy, fx = np.fft.fftfreq(rows)[:, None], np.fft.rfftfreq(columns)[None, :]
    lost = np.ones((rows, columns // 2 + 1))
    while coarse > 1:  # means of two by two: half of what they take from a wave is made up for, since they fold as much of finer ones back
        lost = lost * (np.cos(np.pi * fx / 2) * np.cos(np.pi * fy / 2)) ** 2
        fx, fy, coarse = fx / 2, fy / 2, coarse // 2
    twice = np.full(columns // 2 + 1, 2.0)
    twice[0] = 1.0
    if columns % 2 == 0:
        twice[-1] = 1.0
    return twice / np.sqrt(np.maximum(lost, 0.25)) / (rows * columns) ** 2


@lru_cache(maxsize=8)
def _weights(count: int, rows: int, columns: int, pixels_a_degree: float, fps: float, coarse: int) -> np.ndarray:
    """Squared sensitivity of the cells of a spectrum that is real along its columns, (count, rows, columns//2 + 1)."""
    f = wave_numbers(rows, columns) * pixels_a_degree
    weight = np.stack([sensitivity(f, t) ** 2 for t in np.abs(np.fft.fftfreq(count)) * fps])
    return (weight * folded(rows, columns, coarse)).astype(np.float32)


@lru_cache(maxsize=8)
def _trendless_weights(count: int, *others) -> tuple[np.ndarray, np.ndarray]:
    """The same for stacks whose trend was taken out, and what the power of the slowest frequency left counts for those that went."""
    weight, kept = _weights(count, *others).astype(np.float64), kept_power(count)
    slowest = slowest_kept(count)
    if not slowest:
        return np.zeros_like(weight, np.float32), np.zeros_like(weight, np.float32)
    good = kept >= LEAST_KEPT
    good[0] = False
    own = np.where(good[:, None, None], weight / np.where(good, kept, 1.0)[:, None, None], 0.0)
    below = np.zeros_like(weight)
    both = sorted({slowest, count - slowest})
    below[both] = weight[~good].sum(axis=0) / len(both)
    return own.astype(np.float32), below.astype(np.float32)


def seen_stack(
    contrast: np.ndarray,
    pixels_a_degree: float,
    fps: float,
    known: np.ndarray | None = None,
    fetched: Fetched | None = None,
    coarse: int = 1,
    sight: Sight | None = None,
) -> SeenStack:
    """Seen flicker of frames that stand on each other and lost their trend (`trend.without_trend`), over blocks of about a degree.

    Parameters
    ----------
    contrast : (count, h, w) float32, unrest as contrast (`seen.contrast_of`), 0 where it is not known
    pixels_a_degree : of these pixels, as they are seen
    fps : frames a second
    known : (h, w) bool, where it is known; None: everywhere
    fetched : what fetching between pixels took from it; None: nothing
    coarse : pixels of the picture a side that one of these is the mean of
    sight : what the picture leaves in sight of it; None: all of it, as on an even grey

    Returns
    -------
    SeenStack
        In JND.
    """
    from scipy import fft  # slow to import, and not needed to open a window

    count, h, w = contrast.shape
    side = block_side(pixels_a_degree)
    rows, columns = min(side, h), min(side, w)
    key = (count, rows, columns, round(pixels_a_degree, 3), fps, coarse)
    ys, xs = block_starts(h, rows), block_starts(w, columns)
    power_at = None if sight is None else np.mean(contrast**2, axis=0)
    blocks, frames = np.empty((len(ys), len(xs))), np.empty((count, len(ys), len(xs)))
    for j, y in enumerate(ys):
        stacks = np.stack([contrast[:, y : y + rows, x : x + columns] for x in xs])
        spectrum = fft.rfftn(stacks, axes=(1, 2, 3), workers=2)
        if fetched is not None:
            spectrum /= np.sqrt(fetched.kept(y, xs, rows, columns))[:, None]
        # what the eye makes of each frequency, and what went with the trend in proportion to the slowest one left
        own, below = _trendless_weights(*key)
        spectrum *= np.sqrt(own + _missing(spectrum, below)[:, None, None, None] * below)
        if sight is not None and power_at is not None:
            spectrum *= np.sqrt(sight.of_waves(power_at, y, xs, rows, columns, pixels_a_degree))[:, None]
        # back to frames: the power of each of them in its block (Parseval over space alone)
        each = fft.ifft(spectrum, axis=1, workers=2)
        power = (each.real**2 + each.imag**2).sum(axis=(2, 3))
        if known is not None:
            share = np.array([known[y : y + rows, x : x + columns].mean() for x in xs])
            power = np.where(share >= LEAST_MATCHED, 1.0 / np.maximum(share, 1e-9), np.nan)[:, None] * power
        frames[:, j] = np.sqrt(power).T
        blocks[j] = np.sqrt(power.mean(axis=1))
    return SeenStack(blocks, frames)


def _missing(spectrum: np.ndarray, below: np.ndarray) -> np.ndarray:
    """Power that went with the trend, per frequency, over that of the slowest one left, of each block (blocks,)."""
    count, slowest = spectrum.shape[1], slowest_kept(spectrum.shape[1])
    kept = kept_power(count)
    # too few frequencies left to tell the shape: as white noise would have it
    if not slowest or slowest + COMPARED > count // 2:
        return np.full(len(spectrum), 1.0 / max(kept[slowest], LEAST_KEPT), np.float32)
    here = spectrum[:, slowest : slowest + COMPARED]
    # how the lowest frequencies left compare with each other tells which of the known shapes this is
    logs = np.log(((here.real**2 + here.imag**2) * below[slowest]).sum(axis=(2, 3)) + 1e-30)
    shapes, missing = expected_below(count)
    off = (((logs - logs.mean(axis=1, keepdims=True))[:, None] - shapes) ** 2).sum(axis=2) / (2.0 * SCATTER**2)
    # of those shapes the mean, each as likely as it fits
    likely = np.exp(off.min(axis=1, keepdims=True) - off)
    return (likely @ missing / likely.sum(axis=1)).astype(np.float32)


def seen_white(contrast: np.ndarray, pixels_a_degree: float, fps: float) -> float:
    """Seen flicker in JND of noise that is white in time, from one frame of it, root mean square over the frame.

    Parameters
    ----------
    contrast : (h, w) float32
    pixels_a_degree : of these pixels, as they are seen
    fps : frames a second
    """
    from scipy import fft

    h, w = contrast.shape
    fs = np.hypot(np.fft.fftfreq(h)[:, None], np.fft.rfftfreq(w)[None, :]) * pixels_a_degree
    fs[0, 0] = LOWEST / max(h, w) * pixels_a_degree
    ft = (np.arange(16) + 0.5) / 32.0 * fps
    weight = np.mean([sensitivity(fs, t) ** 2 for t in ft], axis=0)
    twice = np.full(fs.shape[1], 2.0)
    twice[0] = 1.0
    if w % 2 == 0:
        twice[-1] = 1.0
    spectrum = fft.rfft2(contrast, workers=2)
    return float(np.sqrt(np.sum((spectrum.real**2 + spectrum.imag**2) * weight * twice)) / (h * w))
