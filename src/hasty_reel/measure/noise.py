"""Noise from two renders a, b of the same frame with different seeds; from one picture an estimate.

Var(a - b) = 2 Var(a). Variance falls as 1/n in linear light alone, so it is kept
there, tile by tile, and carried through the display curve for each sample count.
A pixel at or above display white shows no noise (the slope of the plain view is zero
there) and is not counted: else the rim of one lamp outweighs the whole picture.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from hasty_reel.image.laplacian import tile_residual_spread
from hasty_reel.image.lightness import lightness
from hasty_reel.image.luminance import luminance
from hasty_reel.image.tiles import tile_means
from hasty_reel.measure.seen import contrast_per_lightness
from hasty_reel.measure.worst import worst

TILE = 8
ESTIMATE_TILE = 32
"""Side of the tiles of an estimate from one picture, in pixels."""
SPARK_DECAY = 0.2
"""Measured on the bench renderer's scenes from 8 to 256 samples: how fast sparks lose their hold on the spread."""
_NODES, _WEIGHTS = np.polynomial.hermite_e.hermegauss(9)
_WEIGHTS = _WEIGHTS / _WEIGHTS.sum()


def noise_linear(a: np.ndarray, b: np.ndarray) -> float:
    """Return the standard deviation of linear luminance of one render below display white, over the frame; a, b (h, w, 3).

    Parameters
    ----------
    a : (h, w, 3) float32, scene-linear light of one picture
    b : (h, w, 3) float32, of the other
    """
    return float(np.sqrt(np.mean(pixel_variance(a, b))))


def pixel_variance(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """Return the variance of linear luminance of one render per pixel, (h, w); 0 where the mean is at display white or above.

    Parameters
    ----------
    a : (h, w, 3) float32, scene-linear light of one picture
    b : (h, w, 3) float32, of the other
    """
    ya, yb = luminance(a).astype(np.float64), luminance(b).astype(np.float64)
    return np.where(ya + yb < 2.0, (ya - yb) ** 2 / 2.0, 0.0)


def noise_lightness(a: np.ndarray, b: np.ndarray) -> float:
    """Return the standard deviation of L* in the plain view of one render, over the frame; a, b (h, w, 3).

    Parameters
    ----------
    a : (h, w, 3) float32, scene-linear light of one picture
    b : (h, w, 3) float32, of the other
    """
    return noise_between(lightness(np.clip(luminance(a), 0, 1)), lightness(np.clip(luminance(b), 0, 1)))


def noise_between(a: np.ndarray, b: np.ndarray) -> float:
    """Return the standard deviation of one of two planes (h, w) that differ in their seed alone, in their unit.

    Parameters
    ----------
    a, b : (h, w), in any unit
    """
    d = a - b
    return float(np.sqrt(np.mean(d * d) / 2.0))


@dataclass(frozen=True)
class TileNoise:
    """Mean and variance at one sample per pixel of linear luminance, per tile.

    mean, variance : (tiles,)
    samples : of the two renders it was measured on
    lightness_share, contrast_share : measured at `samples` / expected of a normal spread; below 1
        where a few sparks carry much of the variance, since they clip on the display
    """

    mean: np.ndarray
    variance: np.ndarray
    samples: int = 1
    lightness_share: float = 1.0
    contrast_share: float = 1.0

    @property
    def frame_variance(self) -> float:
        """Variance at one sample per pixel, mean over the frame."""
        return float(self.variance.mean())

    def display_noise(self, samples: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Predicted noise on the display for each sample count, (n,) -> two (n,).

        First in L*, over the frame; then as contrast to the eye (see `seen.contrast_per_lightness`),
        95th percentile of the tiles. By quadrature over a normal spread around each tile's mean, clipped as the plain
        view clips, corrected by what was measured (see `_share`).

        Parameters
        ----------
        samples : (n,) per pixel

        Returns
        -------
        in_L : (n,) float
            Root mean square over the frame, in L*.
        contrast : (n,) float
            95th percentile of the tiles, as contrast on the display.
        """
        in_l, contrast = np.empty(len(samples)), np.empty(len(samples))
        to_contrast = contrast_per_lightness(self.mean)
        for k, n in enumerate(samples):
            spread = self._spread(n)
            in_l[k] = np.sqrt(np.mean(spread**2)) * self._share(self.lightness_share, n)
            contrast[k] = worst(spread * to_contrast) * self._share(self.contrast_share, n)
        return in_l, contrast

    def _share(self, measured: float, samples: float) -> float:
        """Sparks lose their hold on the spread as samples grow; it nears the normal one slowly, and never turns negative."""
        return float(measured ** ((samples / self.samples) ** -SPARK_DECAY))

    def _spread(self, samples: float) -> np.ndarray:
        sigma = np.sqrt(self.variance / samples)
        values = lightness(np.clip(self.mean[:, None] + sigma[:, None] * _NODES, 0.0, 1.0))
        middle = values @ _WEIGHTS
        return np.sqrt(np.maximum(0.0, (values - middle[:, None]) ** 2 @ _WEIGHTS))


def tile_noise(a: np.ndarray, b: np.ndarray, samples: int, counts: np.ndarray | None = None) -> TileNoise:
    """Noise of a frame per tile of 8 x 8 pixels from two renders (h, w, 3) of `samples` each.

    Parameters
    ----------
    a : (h, w, 3) float32, scene-linear light of one picture
    b : (h, w, 3) float32, of the other
    samples : of each render
    counts : (h, w) samples each pixel got, where they differ; `samples` is their mean then
    """
    ya, yb = luminance(a).astype(np.float64), luminance(b).astype(np.float64)
    plain = TileNoise(_by_tile((ya + yb) / 2.0), _by_tile(pixel_variance(a, b) * (samples if counts is None else counts)), samples)
    at = np.array([samples], np.float64)
    d = lightness(np.clip(ya, 0, 1)) - lightness(np.clip(yb, 0, 1))
    contrast = worst(np.sqrt(_by_tile(d * d / 2.0)) * contrast_per_lightness(plain.mean))
    expected, expected_contrast = (float(v[0]) for v in plain.display_noise(at))
    return replace(
        plain,
        lightness_share=noise_lightness(a, b) / expected if expected > 0 else 1.0,
        contrast_share=contrast / expected_contrast if expected_contrast > 0 else 1.0,
    )


def _by_tile(plane: np.ndarray) -> np.ndarray:
    return tile_means(plane, TILE).ravel()


def noise_of_one(plane: np.ndarray) -> np.ndarray:
    """Noise estimated from one picture (h, w), per tile of 32 x 32 pixels, (down, across), in its unit.

    The Laplacian residual of Immerkaer (1996, CVIU 64, 300-302; from memory), which
    vanishes on planes; its spread by the median, so that edges do not count as noise.
    Fine texture reads as noise: an estimate, not a measurement.

    Parameters
    ----------
    plane : (h, w), in any unit
    """
    h, w = plane.shape
    out = np.zeros((-(-h // ESTIMATE_TILE), -(-w // ESTIMATE_TILE)))
    if h >= 3 and w >= 3:
        tile_residual_spread(np.ascontiguousarray(plane, np.float32), ESTIMATE_TILE, out)
    return out
