"""Curves over the frames against the textbook and simulated shots; scans; fixed seconds against growing ones."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from hasty_reel.evidence.rows import ProofFrame
from hasty_reel.evidence.seentable import SAMPLE_GRID
from hasty_reel.predict.growth import fixed_part
from hasty_reel.predict.observations import time_error
from hasty_reel.predict.paths import drawn_paths
from hasty_reel.predict.process import COST, MOST_CELLS, Carried, Cells, Observed, likely_cells
from hasty_reel.predict.scan import scan_of
from hasty_reel.settings.recipe import Recipe

FRAMES = np.arange(96.0)


def observed(at: np.ndarray, noise: float = 0.02) -> Observed:
    at = np.asarray(at, float)
    return Observed(at, np.full(len(at), noise), np.zeros(len(at)), np.zeros(len(at)), np.zeros(len(at)))


def one_cell(scale: float, length: float, own: float, smooth: bool) -> Cells:
    return Cells(np.array([scale]), np.array([length]), np.array([own]), np.array([smooth]), np.ones(1), COST)


@pytest.mark.parametrize("smooth", [False, True])
def test_mean_and_variance_are_those_of_the_textbook(smooth):
    """Rasmussen and Williams 2006, equations 2.23 to 2.24, with a level of known spread, by plain linear algebra."""
    at, logs = np.array([0.0, 20, 47, 70, 95]), np.array([0.1, 0.4, -0.2, 0.3, 0.0])
    scale, length, own, noise = 0.3, 15.0, 0.05, 0.02
    curve = Carried(observed(at, noise), one_cell(scale, length, own, smooth), FRAMES, None)

    def kernel(a: np.ndarray, b: np.ndarray) -> np.ndarray:
        r = np.abs(np.subtract.outer(a, b)) / length
        shape = (1 + np.sqrt(3) * r) * np.exp(-np.sqrt(3) * r) if smooth else np.exp(-r)
        return scale**2 * shape + 4.0 + own**2 * (np.subtract.outer(a, b) == 0)

    inverse = np.linalg.inv(kernel(at, at) + noise**2 * np.eye(5))
    across = kernel(FRAMES, at)
    middle = logs.mean()
    assert curve.mean(logs) == pytest.approx(middle + across @ inverse @ (logs - middle), abs=1e-6)
    expected = scale**2 + own**2 + 4.0 - np.einsum("ij,jk,ik->i", across, inverse, across)
    assert curve.variance(logs) == pytest.approx(expected, abs=1e-6)


@pytest.mark.parametrize("smooth", [False, True])
def test_draws_have_the_mean_and_the_spread_that_are_stated(smooth):
    at, logs = np.array([0.0, 20, 47, 70, 95]), np.array([0.1, 0.4, -0.2, 0.3, 0.0])
    curve = Carried(observed(at), one_cell(0.3, 15.0, 0.05, smooth), FRAMES, None)
    draws = curve.draws(logs)
    assert draws.shape == (1000, 96)
    assert draws.mean(axis=0) == pytest.approx(curve.mean(logs), abs=0.05)
    assert draws.std(axis=0) == pytest.approx(np.sqrt(curve.variance(logs)), rel=0.12)


@pytest.mark.parametrize("smooth", [False, True])
def test_paths_before_any_proof_have_the_covariance_of_their_kernel(smooth):
    """Matern covariances in closed form (Rasmussen and Williams 2006, equation 4.17)."""
    count = 20_000
    rng = np.random.default_rng(1)
    places = np.array([0.0, 3.0, 10.0, 40.0])
    made = drawn_paths(places, np.full(count, 0.5), np.full(count, 12.0), np.full(count, smooth), rng)
    r = np.abs(np.subtract.outer(places, places)) / 12.0
    shape = (1 + np.sqrt(3) * r) * np.exp(-np.sqrt(3) * r) if smooth else np.exp(-r)
    assert np.cov(made.T) == pytest.approx(0.25 * shape, abs=0.012)


@pytest.mark.parametrize("kind, scanned", [("medium", False), ("slow", False), ("hump", True)])
def test_nine_in_ten_means_nine_in_ten(kind, scanned):
    """40 simulated shots with five proofs: totals under the stated quantile, frames in their band; all of it: benchmarks/truth.py."""
    rng = np.random.default_rng(11)
    held, inside = 0, []
    for _ in range(40):
        real = drawn_paths(FRAMES, np.array([0.3]), np.array([15.0 if kind == "medium" else 45.0]), np.array([True]), rng)[0].astype(float)
        if kind == "hump":
            real += 0.9 * np.exp(-0.5 * ((FRAMES - rng.uniform(15, 80)) / 4.0) ** 2)
        real += 0.03 * rng.standard_normal(96)
        at = np.linspace(0, 95, 5).round()
        scan = real + 0.012 * rng.standard_normal(96) if scanned else None
        scan = None if scan is None else scan - scan.mean()
        there = np.zeros(5) if scan is None else scan[at.astype(int)]
        seen = Observed(at, np.full(5, 0.025), there, np.zeros(5), np.zeros(5))
        logs = real[at.astype(int)] + 0.02 * rng.standard_normal(5) - there
        draws = Carried(seen, likely_cells(seen, logs, COST), FRAMES, scan).draws(logs) + (0.0 if scan is None else scan)
        held += np.exp(real).sum() <= np.quantile(np.exp(draws).sum(axis=1), 0.9)
        low, high = np.percentile(draws, (5, 95), axis=0)
        inside.append(np.mean((real >= low) & (real <= high)))
    assert 31 <= held <= 40 and np.mean(inside) >= 0.8 and (scanned or np.mean(inside) <= 0.99)


def test_a_gap_that_nothing_looked_at_may_hide_something_dear():
    at, logs = np.array([0.0, 95.0]), np.zeros(2)
    cells = one_cell(0.05, 40.0, 0.02, True)
    plain, wary = (Carried(observed(at), cells, FRAMES, None, humps=h).draws(logs) for h in (False, True))
    totals = [np.exp(d).sum(axis=1) for d in (plain, wary)]
    assert np.quantile(totals[1], 0.95) > 1.1 * np.quantile(totals[0], 0.95) and totals[1].mean() < 1.05 * totals[0].mean()


def test_many_observations_are_taken_together_and_weights_sum_up_to_one():
    rng = np.random.default_rng(2)
    frames = np.arange(2000.0)
    logs = 0.3 * np.sin(frames / 200.0) + 0.05 * rng.standard_normal(2000)
    seen = observed(frames)
    cells = likely_cells(seen, logs, COST)
    assert len(cells.weight) <= MOST_CELLS and cells.weight.sum() == pytest.approx(1.0)
    assert Carried(seen, cells, frames, None).mean(logs) == pytest.approx(0.3 * np.sin(frames / 200.0), abs=0.08)


def row(seconds: float, pixels: int, samples: int, frame: int = 10, load: float = 0.0, proof: str = "p", scan: bool = False) -> ProofFrame:
    nothing = np.full(len(SAMPLE_GRID), np.nan)
    return ProofFrame(
        proof, frame, Recipe(name="a"), pixels, samples, load, 0.0, seconds, 0.0, 0.01, 0.01, nothing, nothing, nothing, 0.1, 1.0,
        Path("x"), scan=scan,
    )  # fmt: skip


def test_fixed_seconds_are_told_from_growing_ones_by_a_proof_at_another_size():
    """20 s at 100 % and 13.5 s at 75 % are 5.1 s + 14.9 s (by hand); one proof alone leaves it open, and says so."""
    both = [row(20.0, 10_000, 64), row(5.143 + 14.857 * 0.5625, 5625, 64)]
    found = fixed_part(both, np.zeros(2))
    assert found.mean == pytest.approx(5.1, abs=1.5)
    small_and_large = [row(10.0 + 0.05 * 16, 10_000, 16), row(10.0 + 0.05 * 256, 10_000, 256)]
    again = fixed_part(small_and_large, np.zeros(2))
    assert again.known and again.mean == pytest.approx(10.0, rel=0.1)
    alone = fixed_part(both[:1], np.zeros(1))
    assert not alone.known and alone.values == pytest.approx(20.0 * (np.arange(9) + 0.5) / 9, abs=0.7)


def test_a_renderer_that_tells_its_parts_is_believed():
    rows = [row(20.0, 10_000, 64, load=4.0), row(13.5, 5625, 64, load=4.0)]
    assert fixed_part(rows, np.zeros(2)).values.tolist() == [0.0]


def test_a_scan_is_the_cost_over_frames_around_its_mean():
    rows = [row(0.01 * (1 + k % 3), 1000, 1, frame=k, proof="s", scan=True) for k in range(0, 24, 2)]
    scan = scan_of(rows)
    assert scan is not None and scan.logs.mean() == pytest.approx(0.0, abs=1e-12)
    assert np.exp(scan.at(np.array([2.0])) - scan.at(np.array([0.0])))[0] == pytest.approx(3.0)
    assert scan_of(rows[:4]) is None


def test_the_error_of_a_time_is_pooled_from_repeated_pictures():
    """No pictures: 0.03 over the root of two; many that agree within 1 %: less; pairs that do not: more."""
    assert time_error(np.array([np.nan])) == pytest.approx(0.03 / np.sqrt(2))
    assert time_error(np.full(40, 0.01)) < 0.012 and time_error(np.full(40, 0.2)) > 0.08
