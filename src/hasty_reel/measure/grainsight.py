"""What a picture leaves in sight of the grain of a renderer, from two seeds of one frame of it, for pictures seen in several sizes.

Grain has all bands alike, and what is seen of each is known; how far the picture hides a band follows from its own contrast there.
Both come to the share of the power of grain that is left in sight at each place, whatever its strength: so one proof frame tells it
for all sample counts.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from hasty_reel.image.lightness import lightness
from hasty_reel.image.resize import square_means
from hasty_reel.image.tiles import tile_means
from hasty_reel.measure.masking import CENTRES, Sight, band_weights
from hasty_reel.measure.seen import sensitivity
from hasty_reel.measure.spectrum import coarsening

TILE = 8
"""Pixels a side of the tiles by which noise is told."""
DEGREES = (2.4, 4.8, 9.55, 19.1, 38.2)
"""Heights of the picture, as it is seen, for which it is told; between them it is read on logarithmic axes."""
GRAIN, FPS = 56.55, 24.0
"""Pixels a degree and frames a second of the grain whose bands are weighed; what is finer is hardly seen."""
_SIDE = 256


@lru_cache(maxsize=1)
def grain_bands() -> np.ndarray:
    """Return the share of each band in what is seen of grain, (bands,); they come to 1."""
    fy, fx = np.fft.fftfreq(_SIDE)[:, None], np.fft.rfftfreq(_SIDE)[None]
    f = np.hypot(fy, fx) * GRAIN
    power = np.mean([sensitivity(f, (k + 0.5) / 32.0 * FPS) ** 2 for k in range(16)], axis=0)
    power[:, 1:-1] *= 2.0
    power[0, 0] = 0.0
    seen = np.einsum("byx,yx->b", band_weights(_SIDE, _SIDE, GRAIN).astype(np.float64) ** 2, power)
    return seen / seen.sum()


def sight_of_tiles(one: np.ndarray, two: np.ndarray) -> np.ndarray:
    """Return the share of the power of grain that is left in sight in each tile, (`DEGREES`, down, across).

    A picture of few rows does not show its fine contrast: bands beyond its pixels are taken to be hidden as the finest that it shows.

    Parameters
    ----------
    one, two : (h, w) linear luminance of two seeds
    """
    h, w = one.shape
    down, across = -(-h // TILE), -(-w // TILE)
    out = np.empty((len(DEGREES), down, across))
    bands = grain_bands()
    planes = [np.ascontiguousarray(lightness(np.clip(p, 0.0, 1.0)), np.float32) for p in (one, two)]
    for k, degrees in enumerate(DEGREES):
        density = h / degrees
        times = coarsening(density)
        small = [square_means(p, times) for p in planes]
        density /= times
        share = Sight.of(small[0], small[1], density).share
        # a band of which less than its middle is below half a cycle a pixel is not told
        told = max(1, int(np.sum(np.array(CENTRES) <= density / 2.0)))
        weights = np.concatenate([bands[: told - 1], [bands[told - 1 :].sum()]]).astype(np.float32)
        left = np.einsum("b,byx->yx", weights, share[:told])
        whole = np.repeat(np.repeat(left, times, axis=0), times, axis=1)[:h, :w]
        whole = np.pad(whole, ((0, h - whole.shape[0]), (0, w - whole.shape[1])), mode="edge")
        out[k] = tile_means(whole, TILE)
    return out


def at_height(table: np.ndarray, degrees: float) -> np.ndarray:
    """Return what is told for pictures of several heights for one of another, (...) of table (`DEGREES`, ...).

    Parameters
    ----------
    table : (`DEGREES`, ...) above 0
    degrees : height of the picture as it is seen
    """
    marks = np.log(DEGREES)
    at = float(np.clip(np.log(degrees), marks[0], marks[-1]))
    k = min(int(np.searchsorted(marks, at, side="right")) - 1, len(marks) - 2)
    share = (at - marks[k]) / (marks[k + 1] - marks[k])
    return np.exp(np.log(table[k]) * (1.0 - share) + np.log(table[k + 1]) * share)
