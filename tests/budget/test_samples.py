"""Budgets: published allocations, the same optimum as SciPy's, promises that hold after rounding."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq, minimize

from hasty_reel.budget.samples import Problem, fewest, hold_cap, hold_clean, hold_flat, hold_noise, hold_total
from hasty_reel.budget.scaling import scale_to_total

V = np.array([0.04, 0.25, 1.0, 0.09, 2.25, 0.01, 0.64, 4.0])
C = np.array([1.0, 1.5, 2.0, 1.0, 3.0, 0.5, 1.2, 2.5])


def full(value: float) -> np.ndarray:
    return np.full(8, float(value))


def test_even_noise_within_bounds():
    """Min-max allocation, 8 <= n <= 150, budget 1000 (SciPy brentq on the optimality condition)."""
    x, n = scale_to_total(V, C, full(8), full(150), 1000.0)
    assert n == pytest.approx([8, 15.288588, 61.154352, 8, 137.597291, 8, 39.138785, 150], rel=1e-6)
    assert 1 / x == pytest.approx(0.0163520661157025, rel=1e-9)


def test_even_noise_with_only_the_floor_active():
    x, n = scale_to_total(V, C, full(8), full(400), 1000.0)
    assert n == pytest.approx([8, 12.31589, 49.26356, 8, 110.84301, 8, 31.528678, 197.05424], rel=1e-6)
    assert 1 / x == pytest.approx(0.0202989795918367, rel=1e-9)


@pytest.mark.parametrize(
    "budget, expected",
    [
        (1000.0, [32, 44.477177, 77.036731, 32.683917, 94.350341, 32, 79.563194, 128]),
        (1300.0, [34.08815, 69.582145, 120.51981, 51.132225, 128, 32, 124.472324, 128]),
    ],
)
def test_least_noise_in_total_within_bounds(budget, expected):
    """Bounded Neyman allocation over 8 strata (SciPy brentq on the optimality condition)."""
    _, n = scale_to_total(np.sqrt(V / C), C, full(32), full(128), budget)
    assert n == pytest.approx(expected, rel=1e-5)


def test_neyman_by_hand():
    """Cochran 1977, section 5.5 (formula, from memory): n = B sqrt(v/c)/sum sqrt(v c)."""
    v, c = np.array([1.0, 4, 9, 16]), np.array([1.0, 1, 4, 4])
    _, n = scale_to_total(np.sqrt(v / c), c, np.full(4, 1e-6), np.full(4, 1e6), 100.0)
    assert n == pytest.approx([5.88235294, 11.76470588, 8.82352941, 11.76470588], rel=1e-8)
    assert (v / n).sum() == pytest.approx(2.89)


@given(st.integers(0, 10_000))
@settings(max_examples=25)
def test_the_same_optimum_as_a_general_solver(seed):
    """scipy.optimize (SLSQP) on the same convex problem."""
    rs = np.random.RandomState(seed)
    v, c = rs.uniform(0.01, 4, 6), rs.uniform(0.5, 3, 6)
    low, high = np.full(6, 4.0), np.full(6, 200.0)
    budget = float((c * low).sum() + rs.uniform(0.1, 0.9) * (c * (high - low)).sum())
    _, n = scale_to_total(np.sqrt(v / c), c, low, high, budget)
    start = np.clip(np.full(6, budget / c.sum()), low, high)
    found = minimize(
        lambda x: (v / x).sum(),
        start,
        jac=lambda x: -v / x**2,
        bounds=list(zip(low, high)),
        constraints={"type": "ineq", "fun": lambda x: budget - (c * x).sum(), "jac": lambda x: -c},
        method="SLSQP",
        options={"maxiter": 500, "ftol": 1e-14},
    )
    assert (c * n).sum() <= budget * (1 + 1e-12)
    assert (v / n).sum() <= found.fun * (1 + 1e-6)


problems = st.builds(
    lambda seed, frames, floor, steps, pins: _problem(seed, frames, floor, steps, pins),
    st.integers(0, 10_000), st.integers(1, 40), st.integers(1, 24), st.sampled_from([0, 1, 4, 8]), st.booleans(),
)  # fmt: skip


def _problem(seed: int, frames: int, floor: int, steps: int, pins: bool) -> Problem:
    rs = np.random.RandomState(seed)
    pinned = np.where(rs.rand(frames) < 0.1, rs.randint(1, 200, frames), 0) if pins else None
    variance = np.where(rs.rand(frames) < 0.05, 0.0, rs.lognormal(-3, 1, frames))
    return Problem(variance, rs.lognormal(-2, 0.5, frames), rs.uniform(0, 2, frames), floor, 512, steps, pins=pinned)


@given(problems, st.floats(0.005, 0.5))
@settings(max_examples=120)
def test_a_noise_promise_holds_with_the_fewest_samples(problem, level):
    got = hold_noise(problem, level)
    low, high = problem.bounds
    k = max(1, problem.steps)
    assert (got.samples % k == 0).all() and (got.samples >= low).all() and (got.samples <= high).all()
    noise = problem.noise(got.samples)
    if got.solved:
        assert (noise <= level * (1 + 1e-8)).all()
    else:
        assert "ceiling" in got.why and (noise > level).any()
        assert (got.samples[noise > level * (1 + 1e-8)] == high[noise > level * (1 + 1e-8)]).all()
    fewer = got.samples - k
    could = fewer >= low
    assert (problem.noise(np.maximum(fewer, 1))[could] > level * (1 - 1e-8)).all()


@given(problems, st.floats(0.8, 8.0), st.sampled_from(["even", "total"]))
@settings(max_examples=120)
def test_a_time_promise_holds_exactly_and_leaves_no_step_that_fits(problem, share, goal):
    low, high = problem.bounds
    least = float(problem.seconds(low).sum())
    total = least * share
    got = hold_total(problem, total, goal)
    spent = float(problem.seconds(got.samples).sum())
    if least > total:
        assert not got.solved and "more than" in got.why
        assert np.array_equal(got.samples, low)
        return
    assert got.solved and spent <= total
    k = max(1, problem.steps)
    open_frames = (got.samples + k <= high) & (problem.variance > 0)
    if open_frames.any():
        assert (problem.cost[open_frames] * k).min() > total - spent - 1e-9 * total


def test_largest_count_that_meets_a_deadline():
    """(180 - 12)/0.35 = 480 on paper; floating point must not make it 479."""
    problem = Problem(np.ones(1), np.full(1, 0.35), np.full(1, 12.0))
    assert hold_cap(problem, 180.0).samples[0] == 480


def test_whole_samples_greedily():
    """Fox 1966 (from memory): v = 1, 4, 9, 1/4 and 20 samples of one cost; least sum of v/n is 2.125."""
    v = np.array([1.0, 4.0, 9.0, 0.25])
    got = hold_total(Problem(v, np.ones(4), np.zeros(4)), 20.0, "total")
    assert got.samples.sum() == 20
    assert (v / got.samples).sum() == pytest.approx(2.125, rel=0.02)


def test_the_floor_wins_over_the_cap():
    problem = Problem(np.ones(3), np.array([0.1, 1.0, 10.0]), np.full(3, 1.0), floor=8, ceiling=64)
    got = hold_cap(problem, 20.0)
    assert got.samples.tolist() == [64, 19, 8]
    assert not got.solved and "1 frame takes longer" in got.why


def test_a_cap_bounds_each_frame_inside_the_other_goals():
    """With the cap a noise promise is not solved where the cap breaks it; time it leaves over goes to frames that may use it."""
    problem = Problem(np.full(3, 4.0), np.array([0.1, 0.1, 1.0]), np.zeros(3), floor=2, cap=10.0)
    got = hold_noise(problem, 0.5)
    assert got.samples.tolist() == [16, 16, 10] and not got.solved
    assert "the cap of 10 s" in got.why and "the worst reaches 0.632" in got.why
    total = hold_total(problem, 25.0)
    assert (
        total.solved
        and problem.seconds(total.samples).max() <= 10.0
        and problem.seconds(total.samples).sum() == pytest.approx(25.0, abs=0.1)
    )
    assert total.samples[:2].tolist() == [75, 75]
    tight = hold_total(Problem(np.full(2, 4.0), np.array([0.1, 4.0]), np.zeros(2), floor=5, cap=10.0), 30.0)
    assert not tight.solved and "1 frame takes longer than 10 s at the floor" in tight.why


@given(st.integers(0, 500))
@settings(max_examples=40)
def test_time_that_smoothing_leaves_is_spent(seed):
    """97 % of a promised total or more is used, unless every frame is at its most."""
    rs = np.random.RandomState(seed)
    variance = np.exp(np.cumsum(rs.normal(0, 0.5, 48)))
    problem = Problem(variance, np.exp(rs.normal(0, 0.3, 48)) / 100.0, np.zeros(48), floor=16, ceiling=100_000, ratio=1.25)
    total = 3.0 * float(problem.seconds(problem.bounds[0]).sum()) + 20.0
    got = hold_total(problem, total)
    spent = float(problem.seconds(got.samples).sum())
    assert spent <= total and (spent >= 0.97 * total or (got.samples == problem.bounds[1]).all())


@given(st.integers(0, 2000), st.sampled_from([1, 4, 8]))
@settings(max_examples=60)
def test_the_ratio_keeps_noise_from_pumping(seed, steps):
    """A cap breaks even noise; cleaner neighbours are relaxed until no step exceeds the ratio.

    Samples are thousands here, so that whole samples and steps stand in nobody's way.
    """
    rs = np.random.RandomState(seed)
    walk = np.cumsum(rs.normal(0, 0.4, 60))
    cost = np.exp(walk - walk.max()) / 100.0
    problem = Problem(rs.lognormal(0, 0.3, 60), cost, np.zeros(60), steps=steps, ratio=1.25)
    plain = hold_cap(Problem(problem.variance, cost, problem.fixed, steps=steps), 200.0)
    got = hold_cap(problem, 200.0)
    assert (got.samples <= plain.samples).all()
    noise = problem.noise(got.samples)
    jump = np.maximum(noise[1:] / noise[:-1], noise[:-1] / noise[1:])
    assert jump.max() <= 1.25 * 1.001
    assert "changes by more than" not in got.why


def test_a_ratio_that_whole_samples_cannot_keep_is_told():
    """One sample a frame is the least: 1 and 2 differ in noise by the root of two."""
    problem = Problem(np.ones(2), np.array([0.5, 1.0]), np.zeros(2), ratio=1.25, floor=1, pins=np.array([2, 1]))
    got = hold_cap(problem, 1.0)
    assert got.samples.tolist() == [2, 1]
    assert got.why == "noise changes by more than 1.25 times before frame 2"
    assert hold_cap(replace(problem, frames=np.array([1001, 1002])), 1.0).why.endswith(" before frame 1002")


def test_pins_stay_and_the_rest_is_solved_around_them():
    problem = Problem(np.ones(4), np.ones(4), np.zeros(4), pins=np.array([0, 100, 0, 0]))
    got = hold_total(problem, 160.0)
    assert got.samples[1] == 100 and got.samples.sum() == 160
    assert got.samples[[0, 2, 3]].tolist() == [20, 20, 20]


@given(st.integers(0, 10_000))
@settings(max_examples=40)
def test_the_fewest_samples_that_play_clean_are_the_root(seed):
    """scipy.optimize.brentq on each frame's curve: grain, sparks that fall more slowly, and what no samples take away."""
    rs = np.random.RandomState(seed)
    body, sparks, rest = rs.uniform(0.5, 60, 12), rs.uniform(0, 5, 12), rs.uniform(0, 1.2, 12)

    def seen(n: np.ndarray) -> np.ndarray:
        return np.sqrt(body**2 / n + sparks**2 / np.sqrt(n) + rest**2)

    found = fewest(seen, 1.0, 12)
    for k in range(12):
        curve = lambda n, k=k: float(np.sqrt(body[k] ** 2 / n + sparks[k] ** 2 / np.sqrt(n) + rest[k] ** 2)) - 1.0  # noqa: E731
        if curve(2.0**24) > 0:
            assert np.isinf(found[k])
        else:
            assert found[k] == pytest.approx(1.0 if curve(1.0) <= 0 else brentq(curve, 1.0, 2.0**24), rel=1e-4)
            assert curve(found[k]) <= 1e-9


def test_a_promise_to_play_clean_is_kept_after_rounding_or_says_where_not():
    body = np.array([10.0, 40.0, 20.0, 5.0])
    problem = Problem(np.ones(4), np.full(4, 0.1), np.full(4, 1.0), floor=8, ceiling=4096, steps=8)
    found = hold_clean(problem, lambda n: body / np.sqrt(n), 1.0)
    assert found.solved and found.samples.tolist() == [104, 1600, 400, 32] and not found.why
    tight = hold_clean(Problem(np.ones(4), np.full(4, 0.1), np.full(4, 1.0), ceiling=500), lambda n: body / np.sqrt(n), 1.0)
    assert (
        not tight.solved and "1 frame stays less calm than 1 in 9: seen by up to 1 in 3" in tight.why and "up to 1600 samples" in tight.why
    )
    rest = np.array([0.0, 0.0, 1.5, 0.0])
    never = hold_clean(problem, lambda n: np.sqrt(body**2 / n + rest**2), 1.0)
    assert not never.solved and "1 frame stays with any samples" in never.why and never.samples[0] == 104
    even = hold_clean(Problem(np.ones(4), np.full(4, 0.1), np.full(4, 1.0), ratio=1.25), lambda n: body / np.sqrt(n), 1.0)
    assert even.solved and (body / np.sqrt(even.samples)).max() <= 1.0


def test_the_same_samples_in_every_frame_but_for_pins_and_bounds():
    pins = np.array([0, 0, 40, 0, 0, 0, 0, 0])
    problem = Problem(V, C, np.zeros(8), floor=8, ceiling=256, steps=4, pins=pins)
    flat = hold_flat(problem, 50)
    assert flat.solved and flat.samples.tolist() == [52, 52, 40, 52, 52, 52, 52, 52], "whole shutter steps, pins stay"
    for wanted, found in ((4, 8), (1000, 256)):
        short = hold_flat(problem, wanted)
        assert not short.solved and set(short.samples[pins == 0]) == {found} and f"7 frames from {wanted} samples" in short.why
    assert "longer than" in hold_flat(replace(problem, cap=20.0), 8).why


@pytest.mark.parametrize("level", [0.02, 0.1])
def test_even_noise_costs_no_more_than_the_same_samples_at_the_noise_of_the_worst(level):
    problem = Problem(V, C, np.zeros(8), floor=1, ceiling=65536)
    flat = hold_flat(problem, float(V.max() / level**2))
    even = hold_noise(problem, float(problem.noise(flat.samples).max()))
    assert problem.seconds(even.samples).sum() < 0.6 * problem.seconds(flat.samples).sum()
