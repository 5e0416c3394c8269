"""Noise from two renders a, b of the same frame with different seeds.

Var(a - b) = 2 Var(a). Variance falls as 1/n in linear light alone, so it is kept
there, tile by tile, and carried through the display curve for each sample count.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hasty_reel.pictures.colour import lightness, luminance

TILE = 8
LIGHTNESS_PER_CONTRAST = 116.0 / 3.0
"""dL*/d(ln Y) at display white: a difference in L*, divided by this, as relative luminance contrast.

In the dark L* asks for more contrast than at white, as the eye does."""
_NODES, _WEIGHTS = np.polynomial.hermite_e.hermegauss(9)
_WEIGHTS = _WEIGHTS / _WEIGHTS.sum()


def noise_linear(a: np.ndarray, b: np.ndarray) -> float:
    """Standard deviation of linear luminance of one render, over the frame; a, b (h, w, 3)."""
    d = luminance(a).astype(np.float64) - luminance(b)
    return float(np.sqrt(np.mean(d * d) / 2.0))


def noise_lightness(a: np.ndarray, b: np.ndarray) -> float:
    """Standard deviation of L* in the plain view of one render, over the frame; a, b (h, w, 3)."""
    d = lightness(np.clip(luminance(a), 0, 1)) - lightness(np.clip(luminance(b), 0, 1))
    return float(np.sqrt(np.mean(d * d) / 2.0))


@dataclass(frozen=True)
class TileNoise:
    """Mean and variance at one sample per pixel of linear luminance, per tile.

    mean, variance : (tiles,)
    """

    mean: np.ndarray
    variance: np.ndarray

    @property
    def frame_variance(self) -> float:
        """Variance at one sample per pixel, mean over the frame."""
        return float(self.variance.mean())

    def lightness_noise(self, samples: np.ndarray) -> np.ndarray:
        """Predicted noise in L* for each sample count, (n,) -> (n,).

        By quadrature over a normal spread around each tile's mean, clipped as the
        plain view clips.
        """
        out = np.empty(len(samples))
        for k, n in enumerate(samples):
            out[k] = np.sqrt(np.mean(self._spread(n, lightness) ** 2))
        return out

    def contrast_noise(self, samples: np.ndarray) -> np.ndarray:
        """Predicted contrast of the noise on the display (95th percentile of the tiles), (n,) -> (n,)."""
        spreads = (np.percentile(self._spread(n, lightness), 95) for n in samples)
        return np.array([s / LIGHTNESS_PER_CONTRAST for s in spreads])

    def _spread(self, samples: float, curve) -> np.ndarray:
        sigma = np.sqrt(self.variance / samples)
        values = curve(np.clip(self.mean[:, None] + sigma[:, None] * _NODES, 0.0, 1.0))
        middle = values @ _WEIGHTS
        return np.sqrt(np.maximum(0.0, (values - middle[:, None]) ** 2 @ _WEIGHTS))


def tile_noise(a: np.ndarray, b: np.ndarray, samples: int) -> TileNoise:
    """Noise of a frame per tile of 8 x 8 pixels from two renders (h, w, 3) of `samples` each."""
    ya, yb = luminance(a).astype(np.float64), luminance(b).astype(np.float64)
    variance = (ya - yb) ** 2 / 2.0 * samples
    return TileNoise(_tiles((ya + yb) / 2.0), _tiles(variance))


def _tiles(plane: np.ndarray) -> np.ndarray:
    h, w = plane.shape
    rows, columns = np.arange(0, h, TILE), np.arange(0, w, TILE)
    sums = np.add.reduceat(np.add.reduceat(plane, rows, axis=0), columns, axis=1)
    counts = np.outer(np.diff([*rows, h]), np.diff([*columns, w]))
    return (sums / counts).ravel()
