"""Noise of a frame from two renders of it, as a body and sparks, and what both become with other samples.

Variance falls as 1/n in linear light alone. What is seen does not, as soon as rare bright light paths clip on the
display: with n samples there are n p of them a pixel, each of height E/n. So pixels in which the two renders
differ far more than around them are kept apart, one by one, with their energy; the rest is a body with a
variance. Both are carried through the display curve for each sample count: the body by quadrature over a normal
spread, sparks as rare events, which is exact where they are rare and where they are small (Campbell's theorem for
a compound Poisson process: variance = rate times mean squared height).
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from hasty_reel.image.lightness import lightness
from hasty_reel.image.luminance import luminance
from hasty_reel.image.tiles import tile_means, tile_sizes
from hasty_reel.measure.fields import FIELD_DEGREES, told_by_halves
from hasty_reel.measure.grainsight import DEGREES, TILE, sight_of_tiles
from hasty_reel.measure.noise import left_out
from hasty_reel.measure.seen import contrast_per_lightness, grain_weight
from hasty_reel.measure.spectrum import seen_white
from hasty_reel.measure.varianceshares import variance_shares
from hasty_reel.measure.worst import WORST_PERCENTILE

OUTLYING = 5.0
"""Robust deviations of its surroundings from which on the difference of two renders is a spark."""
BLOCK_ROWS = 64.0 / 1080.0
"""Side of a block of about a degree as a share of the rows, for the standard observer (see `spectrum`)."""
DENSITY, FPS = 28.28, 24.0
"""Pixels a degree and frames a second at which the colour of the noise is judged."""
TOGETHER = 2
"""Pixels a side whose light the eye takes together where they are seen as small as usual (57 a degree; see `stacks`)."""
_NODES, _WEIGHTS = np.polynomial.hermite_e.hermegauss(9)
_WEIGHTS = _WEIGHTS / _WEIGHTS.sum()


@dataclass(frozen=True)
class BodyAndSparks:
    """Noise of a frame in linear luminance, by tiles of 8 x 8 pixels.

    mean : (down, across) luminance; body : (down, across) variance at one sample
    tile, energy, ground : (sparks,) the tile a spark stands in, its height times the samples, and the luminance it stands on
    rate : sparks a sample and pixel of its tile that each of them stands for
    block : tiles a side of a block of about a degree
    halves : (2, down, across) variance at one sample from each half of the pixels, by which chance is told
    body_halves : (2, down, across) of that the body; spark_half : (sparks,) in which half of the pixels a spark stands, 0 or 1
    colour : seen flicker / that of grain of one pixel and the same contrast
    sight : (`DEGREES`, down, across) share of the power of grain that the picture leaves in sight, seen so many degrees high
    shares : (bins,) variance of shares of the pixels, the noisiest last, as a multiple of the mean (see `variance_shares`)
    """

    mean: np.ndarray
    body: np.ndarray
    tile: np.ndarray
    energy: np.ndarray
    ground: np.ndarray
    rate: np.ndarray
    block: int
    halves: np.ndarray
    body_halves: np.ndarray
    spark_half: np.ndarray
    shares: np.ndarray
    sight: np.ndarray
    colour: float = 1.0

    @property
    def variance(self) -> np.ndarray:
        """Of linear luminance at one sample, all of it, (down, across)."""
        return self.body + self._by_tile(self.rate * self.energy**2)

    @property
    def spark_share(self) -> float:
        """Share of the variance that is sparks, 0 to 1."""
        whole = float(self.variance.mean())
        return float(np.clip(1.0 - self.body.mean() / whole, 0.0, 1.0)) if whole > 0 else 0.0

    def _by_tile(self, values: np.ndarray) -> np.ndarray:
        return np.bincount(self.tile, values, self.mean.size).reshape(self.mean.shape)

    def on_display(self, samples: float, by_half: bool = False, taken_together: int = 1) -> tuple[np.ndarray, np.ndarray]:
        """Variance in L* of the plain view at a sample count.

        Parameters
        ----------
        samples : per pixel
        by_half : as each half of the pixels tells it alone
        taken_together : pixels a side whose light the eye takes together; the variance is that of single pixels that are seen as much

        Returns
        -------
        body, sparks : np.ndarray
            (down, across) each; (2, down, across) by half.
        """
        cells = float(taken_together**2)
        sigma = np.sqrt(self.body / (samples * cells))
        spread = lightness(np.clip(self.mean[..., None] + sigma[..., None] * _NODES, 0.0, 1.0))
        middle = spread @ _WEIGHTS
        body = cells * np.maximum(0.0, (spread - middle[..., None]) ** 2 @ _WEIGHTS)
        if by_half:
            body = body * self.body_halves / np.maximum(self.body, 1e-30)
        if not len(self.tile):
            return body, np.zeros_like(body)
        ground = np.clip(self.ground, 0.0, 1.0)
        here = lightness(ground)
        # a spark clips on the display; the light of its pixel is spread over those that are taken together with it
        rise = lightness(ground + (np.clip(self.ground + self.energy / samples, 0.0, 1.0) - ground) / cells) - here
        power = self.rate * samples * (rise * cells) ** 2
        if by_half:
            return body, np.stack([2.0 * self._by_tile(np.where(self.spark_half == k, power, 0.0)) for k in (0, 1)])
        return body, self._by_tile(power)

    def seen(self, samples: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Predict noise on the display for each sample count, (n,) -> three (n,).

        Parameters
        ----------
        samples : (n,) per pixel

        Returns
        -------
        in_L : np.ndarray
            (n,) root mean square over the frame, in L*.
        contrast : np.ndarray
            (n,) root mean square over the frame, as contrast of grain of one pixel on an even grey that is seen as much.
        sparks : np.ndarray
            (n,) the part of that which is sparks.
        """
        in_l, contrast, sparks = (np.empty(len(samples)) for _ in range(3))
        to_contrast = contrast_per_lightness(self.mean) ** 2
        for k, n in enumerate(samples):
            body, rare = self.on_display(float(n))
            in_l[k] = np.sqrt(np.mean(body + rare))
            body, rare = self.on_display(float(n), taken_together=TOGETHER)
            contrast[k] = self.colour * np.sqrt(np.mean((body + rare) * to_contrast))
            share = float(np.sum(rare * to_contrast) / max(float(np.sum((body + rare) * to_contrast)), 1e-30))
            sparks[k] = contrast[k] * np.sqrt(share)
        return in_l, contrast, sparks

    def in_sight(self, samples: np.ndarray) -> np.ndarray:
        """Return seen flicker as a ratio to that of as much noise spread evenly over an even grey, (`DEGREES`, n).

        Two things go into it: how much the picture hides, and how far the noise is gathered in one field of view.

        Parameters
        ----------
        samples : (n,) per pixel
        """
        out = np.ones((len(DEGREES), len(samples)))
        to_contrast = contrast_per_lightness(self.mean) ** 2
        for k, n in enumerate(samples):
            even = float(np.mean(np.sum(self.on_display(float(n), taken_together=TOGETHER), axis=0) * to_contrast))
            halves = np.sum(self.on_display(float(n), True, TOGETHER), axis=0) * to_contrast
            if even > 0:
                told = [told_by_halves(halves * share, *self._field(d)) for share, d in zip(self.sight, DEGREES)]
                out[:, k] = np.sqrt(np.maximum(told, 0.0) / even)
        return out

    def _field(self, degrees: float) -> tuple[int, int]:
        """Tiles of a field of view, down and across, where the picture is seen so many degrees high."""
        side = max(1, round(self.mean.shape[0] * FIELD_DEGREES / degrees))
        return side, side

    def worst(self, tiles: np.ndarray, halves: np.ndarray | None = None) -> float:
        """Return the 95th percentile over blocks of a variance, of which as much as is chance was taken out.

        A block of few pixels is estimated badly, and the 95th percentile of such estimates lies above that of what they
        estimate: their logarithms are drawn together by the share that two halves of the pixels do not agree on.

        Parameters
        ----------
        tiles : (down, across)
        halves : (2, down, across) of the same kind, from each half of the pixels; None: of linear light
        """
        blocks = np.log(tile_means(tiles, self.block).ravel() + 1e-20)
        a, b = (np.log(tile_means(h, self.block).ravel() + 1e-20) for h in (self.halves if halves is None else halves))
        known = np.isfinite(a) & np.isfinite(b) & (tile_means(tiles, self.block).ravel() > 1e-12)
        if known.sum() < 4:
            return float(np.percentile(np.exp(blocks), WORST_PERCENTILE))
        whole = float(np.mean(np.exp(blocks)))
        blocks = blocks[known]
        chance, all_of_it = float(np.var(a[known] - b[known])) / 4.0, float(np.var(blocks))
        drawn = blocks.mean() + np.sqrt(max(0.0, 1.0 - chance / max(all_of_it, 1e-12))) * (blocks - blocks.mean())
        drawn += np.log(max(whole * len(known) / known.sum(), 1e-30) / np.mean(np.exp(drawn)))
        drawn = np.concatenate([np.exp(drawn), np.zeros(len(known) - int(known.sum()))])
        return float(np.percentile(drawn, WORST_PERCENTILE))


def body_and_sparks(a: np.ndarray, b: np.ndarray, samples: int, counts: np.ndarray | None = None) -> BodyAndSparks:
    """Noise of a frame from two renders of `samples` each.

    Parameters
    ----------
    a : (h, w, 3) float32, scene-linear light of one picture
    b : (h, w, 3) float32, of the other
    samples : of each render
    counts : (h, w) samples each pixel got, where they differ; `samples` is their mean then
    """
    ya, yb = luminance(a).astype(np.float64), luminance(b).astype(np.float64)
    shows = ~left_out(ya, yb)
    times = np.full(ya.shape, float(samples)) if counts is None else counts.astype(np.float64)
    # half the squared difference of two renders is the variance of one
    d2 = np.where(shows, (ya - yb) ** 2 / 2.0, 0.0)
    spark = spark_places(ya, yb, shows)
    rows, columns = np.nonzero(spark)
    down, across = -(-ya.shape[0] // TILE), -(-ya.shape[1] // TILE)
    sizes = tile_sizes(ya.shape[0], ya.shape[1], TILE)
    tile = rows // TILE * across + columns // TILE
    # what it adds to one render is what the other lacks; times the samples, the energy of its path
    height = np.abs(ya - yb)[spark]
    n = times[spark]
    # the rest is the body, its variance brought to one sample; its light is that of the render without the spark
    calm = np.where(spark, 0.0, d2) * times
    low = np.minimum(ya, yb)
    calm_light = np.where(spark, low, (ya + yb) / 2.0)
    ground = tile_means(calm_light, TILE)
    # what sparks add to the mean is spread around: a rare one is not the business of its tile alone
    lifted = np.bincount(tile, height / 2.0, down * across).reshape(down, across) / sizes
    mean = ground + cv2.blur(lifted, (5, 5), borderType=cv2.BORDER_REFLECT)
    # two halves like the fields of a chessboard: one chooses the noisiest blocks, the other tells of them
    half = (np.indices(ya.shape).sum(axis=0) & 1).astype(bool)
    # the colour of the noise: how much of it lies where the eye is sensitive, against white noise of as much contrast
    in_l = lightness(np.clip(ya, 0, 1)) - lightness(np.clip(yb, 0, 1))
    contrast = np.where(shows, in_l, 0.0) / np.sqrt(2.0) * contrast_per_lightness(np.clip((ya + yb) / 2.0, 0.0, 1.0))
    halves, calm_halves = (
        np.stack([2.0 * tile_means(np.where(half == k, squares, 0.0), TILE) for k in (False, True)]) for squares in (d2 * times, calm)
    )
    found = BodyAndSparks(
        mean=mean,
        body=tile_means(calm, TILE),
        tile=tile,
        energy=height * n,
        ground=cv2.blur(calm_light, (5, 5), borderType=cv2.BORDER_REFLECT)[spark] + (mean - ground).ravel()[tile],
        rate=1.0 / (2.0 * n * sizes.ravel()[tile]),
        block=max(1, round(ya.shape[0] * BLOCK_ROWS / TILE)),
        halves=halves,
        body_halves=calm_halves,
        spark_half=half[rows, columns].astype(np.int64),
        shares=variance_shares(d2 * times),
        sight=sight_of_tiles(ya, yb),
    )
    spread = float(np.sqrt(np.mean(contrast**2)))
    if spread <= 0:
        return found
    colour = seen_white(contrast.astype(np.float32), DENSITY, FPS) / (spread * grain_weight(DENSITY, FPS))
    return BodyAndSparks(**{**found.__dict__, "colour": colour})


def spark_places(ya: np.ndarray, yb: np.ndarray, shows: np.ndarray) -> np.ndarray:
    """Return where one of two renders has a spark, (h, w) bool: it stands far out of what differs around it.

    Parameters
    ----------
    ya : (h, w) luminance of one picture
    yb : (h, w) of the other
    shows : (h, w) bool, where both tell something
    """
    off = np.abs(ya - yb) / np.sqrt(2.0)
    return shows & (off > OUTLYING * _robust_deviation(off) + 1e-6)


def _robust_deviation(off: np.ndarray) -> np.ndarray:
    """Standard deviation around each pixel, (h, w), from a mean over 25 x 25 of what is clipped at thrice that of all of it."""
    size = (25, 25)
    mean = cv2.blur(off, size, borderType=cv2.BORDER_REFLECT)
    for _ in range(3):
        mean = cv2.blur(np.minimum(off, 3.0 * mean), size, borderType=cv2.BORDER_REFLECT)
    return 1.2533 * mean
