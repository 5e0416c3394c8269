"""How unevenly noise lies over a picture, and what stopping at noise makes of it: planted, and on held-back seeds of bench scenes."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from planted import HELD_BACK, fog, room

from hasty_reel.bench.render import Settings, render
from hasty_reel.budget.stopping import Stopping
from hasty_reel.measure.bodysparks import body_and_sparks
from hasty_reel.measure.noise import noise_linear
from hasty_reel.measure.varianceshares import EDGES, WEIGHTS, variance_shares


def test_shares_are_those_of_planted_variances():
    """A picture with two levels of noise, 1 to 100, each in half of it; the variance of a window has chance that is taken out."""
    rng = np.random.default_rng(5)
    sigma = np.where(np.arange(320)[None, :] < 160, 1.0, 10.0) * np.ones((180, 1))
    pair = rng.standard_normal((2, 180, 320)) * sigma
    shares = variance_shares((pair[0] - pair[1]) ** 2 / 2.0)
    assert WEIGHTS @ shares == pytest.approx(1.0) and (np.diff(shares) >= -1e-9).all()
    top = EDGES[:-1] >= 0.6
    low, high = shares[EDGES[1:] <= 0.4].mean(), WEIGHTS[top] @ shares[top] / WEIGHTS[top].sum()
    assert low == pytest.approx(1 / 50.5, rel=0.2) and high == pytest.approx(100 / 50.5, rel=0.1)
    even = variance_shares(rng.standard_normal((180, 320)) ** 2)
    assert even.max() / even.min() < 1.6
    assert (variance_shares(np.zeros((20, 20))) == 1.0).all()


@pytest.mark.parametrize("make", [fog, room])
def test_mean_samples_and_noise_of_frames_that_stop_are_foretold(make):
    """From two pictures of 16 samples, on seeds that they did not see: samples within 8 %, noise within 4 %."""
    scene = make(HELD_BACK)
    settings = Settings(120, 68, 16, bounces=4, ceiling=5.0)
    one, two = (render(scene, 1010, replace(settings, seed=s)).rgb for s in (1, 2))
    found = body_and_sparks(one, two, 16)
    variance = np.array([found.variance.mean()])
    stop = float(np.sqrt(variance[0] / 64))
    stopping = Stopping(variance, found.shares[None], WEIGHTS, np.array([found.spark_share]), stop, 8, 0)
    most = np.array([256.0])
    made = [render(scene, 1010, replace(settings, samples=256, floor=8, stop_noise=stop, seed=s)) for s in (3, 4)]
    assert (stopping.taken(most) * most)[0] == pytest.approx(np.mean([m.counts.mean() for m in made]), rel=0.08)
    noise = noise_linear(made[0].rgb, made[1].rgb)
    assert np.sqrt(variance * stopping.left(most) / most)[0] == pytest.approx(noise, rel=0.04)
