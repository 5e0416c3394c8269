"""The cost model of a table: facts of the trade, statsmodels and NIST's reference data, coverage of its bands."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import scipy.stats
from scipy.optimize import lsq_linear, nnls

from hasty_reel.predict.timefit import fit_times, predict_times


def table(**columns) -> dict[str, np.ndarray]:
    count = max(np.size(v) for v in columns.values())
    return {name: np.broadcast_to(np.asarray(value, float), count).copy() for name, value in columns.items()}


def test_two_sizes_of_a_frame_tell_fixed_from_growing_seconds():
    """75 % of the size, 20 s to 13.5 s: 5.1 + 14.9 s (common practice, no source)."""
    times = table(frame=1, width=[1920, 1440], height=[1080, 810], samples=64, seconds=[20.0, 13.5])
    fit = fit_times(times)
    found = dict(zip(fit.parts, fit.seconds))
    assert found["fixed"] == pytest.approx(5.143, abs=0.001)
    assert found["samples"] * 1920 * 1080e-6 * 64 == pytest.approx(14.857, abs=0.001)
    half = predict_times(fit, table(frame=1, width=960, height=540, samples=64))
    assert half.seconds[0] == pytest.approx(5.143 + 14.857 / 4, rel=1e-3)


def test_a_straight_line_through_nist_reference_data():
    """NIST StRD Norris (Statistical Reference Datasets), as SciPy ships it: the certified slope and intercept, 100,000 s later."""
    path = Path(scipy.stats.__file__).parent / "tests" / "data" / "nist_linregress" / "Norris.dat"
    rows = np.array([line.split() for line in path.read_text().splitlines()[60:] if line.strip()], float)
    y, x = rows[:, 0] + 1e5, rows[:, 1]  # so that relative errors weigh alike, and the intercept is no negative time
    fit = fit_times(table(frame=1, width=1000, height=1000, samples=np.maximum(x, 1e-3), seconds=y))
    found = dict(zip(fit.parts, fit.seconds))
    assert found["samples"] == pytest.approx(1.0021168, rel=2e-4)
    assert found["fixed"] - 1e5 == pytest.approx(-0.26232307, abs=0.05)


def test_the_fit_is_that_of_weighted_least_squares():
    """scipy.optimize.lsq_linear with the weights that it settled on, and its covariance by the normal equations."""
    rng = np.random.default_rng(4)
    samples, width = np.tile([8.0, 32, 128, 512], 6), np.repeat([480.0, 960, 1920], 8)
    times = table(frame=np.arange(24), width=width, height=width / 2, samples=samples, seconds=1.0)
    mega = width * width / 2 * 1e-6
    times["seconds"] = (4.0 + 3.0 * mega + 0.05 * mega * samples) * np.exp(rng.normal(0, 0.03, 24))
    fit = fit_times(times)
    design = np.stack([np.ones(24), mega, mega * samples], axis=1)
    fitted = design @ fit.seconds
    scaled = design / fitted[:, None]
    theirs = lsq_linear(scaled, times["seconds"] / fitted, (0, np.inf))
    assert fit.parts == ("fixed", "pixels", "samples") and fit.seconds == pytest.approx(theirs.x, rel=1e-3)
    assert fit.covariance == pytest.approx(np.linalg.inv(scaled.T @ scaled) * fit.spread**2, rel=1e-3)


def test_no_part_is_below_nothing():
    """A free fit would give the first one a negative load (Lawson and Hanson 1974, by SciPy)."""
    times = table(
        frame=[1, 2, 3, 4, 5], width=1000, height=1000, samples=[1, 2, 4, 8, 16], first=[1, 0, 0, 0, 0], seconds=[2.0, 3.1, 5.2, 9.4, 16.5]
    )
    fit = fit_times(times)
    assert (fit.seconds >= 0).all() and nnls(np.eye(2), np.array([1.0, -1.0]))[0][1] == 0.0


@pytest.mark.parametrize("rows", [5, 20])
def test_bands_hold_on_times_they_did_not_see(rows):
    """Planted times with 8 % of their own spread: nine in ten frames in the band, nine in ten totals below the 9 in 10 one."""
    inside, below = [], []
    for seed in range(120):
        rng = np.random.default_rng(seed)
        samples = rng.choice([16.0, 64, 256], rows)
        width = rng.choice([480.0, 960, 1920], rows)

        def seconds(w: np.ndarray, n: np.ndarray, rng=rng) -> np.ndarray:
            mega = w * w * 9 / 16 * 1e-6
            return (3.0 + 0.03 * mega * n) * np.exp(rng.normal(0, 0.08, len(n)))

        known = table(frame=np.arange(rows), width=width, height=width * 9 / 16, samples=samples, seconds=seconds(width, samples))
        plan = table(frame=np.arange(100, 140), width=1920.0, height=1080.0, samples=128.0)
        real = seconds(plan["width"], plan["samples"])
        ahead = predict_times(fit_times(known), plan)
        inside.append(np.mean((real >= ahead.low) & (real <= ahead.high)))
        below.append(real.sum() <= np.quantile(ahead.totals, 0.9))
    assert 0.85 < np.mean(inside) < 0.98
    assert 0.8 < np.mean(below) < 0.99
