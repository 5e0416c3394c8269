"""A frame as it would look with other samples, from two renders of it.

The mean of both has twice their samples, and half their difference is as much noise again, independent of it, of the same variance. So the
mean plus k times half the difference has the noise of any count up to twice theirs, exactly in variance: k = sqrt(2 n0 / n - 1). Sparks
do not scale: with n samples there are n p of them a pixel, each of height E / n. They are taken apart, thinned as events of a Poisson
process (a thinned one is one again), and put back with the height that they would have; more of them than were seen are
strewn around the places of those that were (Campbell's theorem: mean and variance are those of the process).
Beyond twice their samples noise must be taken out, which denoising does (`bandsleft`).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np

from hasty_reel.compiled import FAST, njit, prange
from hasty_reel.image.luminance import luminance
from hasty_reel.measure.bandsleft import BandsLeft
from hasty_reel.measure.bodysparks import spark_places
from hasty_reel.measure.noise import left_out

FAINT, AROUND = 1e-5, (7, 7)
"""Light below which none is told apart; pixels by which the deviation of one is told."""
STREWN = 6
"""Pixels up to which a spark that was not seen is put beside one that was."""


@dataclass(frozen=True)
class TwoRenders:
    """A frame rendered twice, its sparks apart.

    mean : (h, w, 3) float32, light of both without their sparks; half : (h, w, 3) float32, half their difference
    rows, columns : (sparks,) where they stand; energy : (sparks, 3) height times samples
    samples : of each render
    """

    mean: np.ndarray
    half: np.ndarray
    rows: np.ndarray
    columns: np.ndarray
    energy: np.ndarray
    samples: float

    @property
    def sides(self) -> tuple[np.ndarray, np.ndarray]:
        """Both renders without their sparks, (h, w, 3) float32 each."""
        return self.mean + self.half, self.mean - self.half

    @property
    def most_exact(self) -> float:
        """Samples up to which the noise of what is shown is exact in variance."""
        return 2.0 * self.samples

    def at(self, samples: float, seed: int, calm: BandsLeft | None = None) -> np.ndarray:
        """Return the frame as it would look with so many samples, (h, w, 3) float32 scene-linear light.

        Parameters
        ----------
        samples : per pixel
        seed : by which sparks are chosen: the same frame shows the same ones, and more of them the more samples it has
        calm : what denoising leaves of both renders, for more samples than `most_exact`; None: their mean is shown
        """
        if samples > self.most_exact:
            out = self.mean.copy() if calm is None else calm.with_share(self.most_exact / samples)
        elif samples >= self.samples:
            out = self.mean + np.float32(np.sqrt(self.most_exact / samples - 1.0)) * self.half
        else:
            out = self._fewer(samples)
        np.maximum(out, np.float32(0.0), out=out)
        self._add_sparks(out, samples, seed)
        return out

    def _fewer(self, samples: float) -> np.ndarray:
        """With fewer samples than either has: the noise of few samples is skewed, as that of sums of positive light is.

        A log-normal of the same mean and variance stands for it, by the deviation of the pixels around.
        """
        out = np.empty_like(self.mean)
        _log_normal(self.mean, *self._spread, np.float32(np.sqrt(self.most_exact / samples - 1.0)), out)
        return out

    @cached_property
    def _spread(self) -> tuple[np.ndarray, np.ndarray]:
        """Deviation of the pixels around / their light, and by how many deviations a pixel is off, (h, w, 3) float32 both."""
        deviation = np.sqrt(cv2.blur(self.half**2, AROUND, borderType=cv2.BORDER_REFLECT)) + np.float32(FAINT * FAINT)
        return deviation / np.maximum(self.mean, np.float32(FAINT)), self.half / deviation

    def _add_sparks(self, out: np.ndarray, samples: float, seed: int) -> None:
        """Put sparks into a picture: as many as there would be, as bright as they would be."""
        order, expected = np.random.default_rng(seed).random(len(self.rows)), samples / self.most_exact
        times = np.floor(expected + order).astype(int)
        height, width = out.shape[:2]
        for copy in range(int(times.max(initial=0))):
            chosen = times > copy
            # at its place first, the rest around it: each copy of a spark has its own place, whatever the samples
            off = np.random.default_rng((seed, copy)).integers(-STREWN, STREWN + 1, (2, len(self.rows))) * min(copy, 1)
            rows, columns = np.clip(self.rows + off[0], 0, height - 1), np.clip(self.columns + off[1], 0, width - 1)
            np.add.at(out, (rows[chosen], columns[chosen]), (self.energy[chosen] / samples).astype(np.float32))


@njit(parallel=True, fastmath=FAST)
def _log_normal(mean, relative, deviations, times, out):
    """Light of this mean, off by a log-normal of `times` this relative spread, by so many deviations, into (h, w, 3)."""
    h, w, channels = mean.shape
    for y in prange(h):
        for x in range(w):
            for c in range(channels):
                spread = times * relative[y, x, c]
                square = np.log(np.float32(1.0) + spread * spread)
                out[y, x, c] = max(mean[y, x, c], np.float32(FAINT)) * np.exp(
                    np.sqrt(square) * deviations[y, x, c] - square / np.float32(2.0)
                )


def two_renders(a: np.ndarray, b: np.ndarray, samples: float) -> TwoRenders:
    """Return what two renders of a frame tell of it, its sparks apart.

    Parameters
    ----------
    a : (h, w, 3) float32, scene-linear light of one picture
    b : (h, w, 3) float32, of the other
    samples : of each
    """
    ya, yb = luminance(a).astype(np.float64), luminance(b).astype(np.float64)
    spark = spark_places(ya, yb, ~left_out(ya, yb))
    brighter = (ya > yb)[..., None]
    dark = np.where(brighter, b, a)
    energy = np.maximum(np.where(brighter, a, b) - dark, 0.0)[spark] * samples
    rows, columns = np.nonzero(spark)
    apart = spark[..., None]
    mean = np.where(apart, dark, (a + b) / 2.0).astype(np.float32)
    half = np.where(apart, 0.0, (a - b) / 2.0).astype(np.float32)
    return TwoRenders(mean, half, rows, columns, energy, float(samples))
