"""Light that lags: given up where it is off to one side, kept where it is calm; how many frames the rest is worth."""

from __future__ import annotations

import numpy as np
import pytest

from hasty_reel.finish.denoise import Denoiser, Denoising
from hasty_reel.finish.gather import Mean
from hasty_reel.finish.lag import AROUND, share_of_lag, without_lag
from hasty_reel.pictures.frame import Picture

SIZE, FRAMES, SIGMA = (72, 96), 9, 0.06


def noisy(light: np.ndarray | float, seed: int) -> np.ndarray:
    """Grey light with white noise of the same variance everywhere, (h, w, 3)."""
    plane = light + SIGMA * np.random.default_rng(seed).standard_normal(SIZE)
    return np.repeat(plane[..., None], 3, axis=2).astype(np.float32)


def mean_of(frames: list[np.ndarray]) -> Mean:
    count = np.full(SIZE, len(frames), np.float32)
    return Mean(np.mean(frames, axis=0, dtype=np.float32), count, count.copy())


VARIANCE = np.full(SIZE, SIGMA**2, np.float32)


def test_noise_alone_is_no_lag():
    """Three standard deviations of a mean: 3 in 1,000 places pass it by chance (normal distribution, two-sided)."""
    frames = [noisy(0.4, seed) for seed in range(FRAMES)]
    share = share_of_lag(mean_of(frames).light, frames[0], VARIANCE)
    assert float((share > 0).mean()) < 0.02 and float(share.mean()) < 0.003


@pytest.mark.parametrize("by", [1.0, -1.0])
def test_a_deviation_to_one_side_is_given_up(by):
    """As much as the noise of a pixel, which hides it in one and not in all around it."""
    here = noisy(0.4, 50)
    others = [noisy(0.4 + by * SIGMA * FRAMES / (FRAMES - 1), seed) for seed in range(FRAMES - 1)]
    mean = without_lag(mean_of([here, *others]), here, VARIANCE)
    left = float(mean.light.mean()) - float(here.mean())
    assert abs(left) < 0.35 * abs(by) * SIGMA
    assert np.all(mean.worth >= 1.0) and mean.worth.mean() < 0.5 * FRAMES


def test_what_is_kept_is_worth_as_many_frames_as_it_says():
    """Monte Carlo: variance of the mix, over many draws, against one over the frames that it is said to be worth."""
    rng = np.random.default_rng(3)
    off = np.zeros(SIZE, np.float32)
    off[20:50, 30:70] = 0.45 * SIGMA
    here = noisy(0.4, 7)
    first = without_lag(mean_of([here, *(noisy(0.4, s) + off[..., None] * 9 / 8 for s in range(8))]), here, VARIANCE)
    share = share_of_lag(mean_of([here, *(noisy(0.4, s) + off[..., None] * 9 / 8 for s in range(8))]).light, here, VARIANCE)
    draws = SIGMA * rng.standard_normal((400, FRAMES, *SIZE)).astype(np.float32)
    mixed = (1.0 - share) * draws.mean(axis=1) + share * draws[:, 0]
    for part in (share > 0.3, share == 0.0):
        assert part.sum() > 200
        told = float((SIGMA**2 / first.worth[part]).mean())
        assert float(mixed.var(axis=0)[part].mean()) == pytest.approx(told, rel=0.03)
        assert float((1.0 / first.weights[part]).mean()) == pytest.approx(float(((1.0 - share) / FRAMES + share)[part].mean()), rel=1e-4)


def test_light_that_falls_where_no_guide_says_so_is_followed():
    """A lamp that goes dark by less than the noise of a pixel, on a wall that stands still: frames beside would hold it back."""
    guides = {n: np.full(SIZE, 0.5, np.float32) for n in ("albedo.R", "albedo.G", "albedo.B", "normal.X", "normal.Y", "normal.Z", "Z")}
    guides |= {n: np.zeros(SIZE, np.float32) for n in ("motion.X", "motion.Y")}
    fading = [0.4 - 0.025 * k for k in range(13)]
    run = [Picture(noisy(light, 100 + k), guides) for k, light in enumerate(fading)]
    out = Denoiser(Denoising(2, True), run.__getitem__).denoise(6, range(13))
    inner = tuple(slice(a, -a) for a in AROUND)
    assert float(out[inner].mean()) == pytest.approx(fading[6], abs=0.1 * SIGMA)
    assert float(out[..., 0][inner].std()) < 0.25 * SIGMA, "it is calm all the same"
