"""The two goals of a total, before rounding, against a general convex solver (cvxpy with Clarabel) on random shots."""

from __future__ import annotations

import cvxpy as cp
import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from hasty_reel.budget.scaling import scale_to_total

COUNT = 12
LOW, HIGH, UNIT = 4.0, 400.0, 100.0
"""Least and most samples, and what the solver counts them in."""


@pytest.fixture(scope="module")
def convex():
    """Both problems, built once with parameters: variance, weight and cost of each frame, and seconds for all."""
    n, variance, cost = cp.Variable(COUNT), cp.Parameter(COUNT, nonneg=True), cp.Parameter(COUNT, nonneg=True)
    bounds = [cost @ n <= 1.0, n >= LOW / UNIT, n <= HIGH / UNIT]
    each = cp.multiply(variance, cp.inv_pos(n))
    x = cp.Variable()  # 1 / the largest v / n: n >= v x, which is linear
    problems = {"total": cp.Problem(cp.Minimize(cp.sum(each)), bounds), "even": cp.Problem(cp.Maximize(x), [*bounds, n >= variance * x])}

    def solve(goal: str, v: np.ndarray, c: np.ndarray, seconds: float) -> float:
        # in units in which all numbers are near one: only then does the solver keep its word to the last digits
        scale = float(v.mean())
        variance.value, cost.value = v / scale, c * UNIT / seconds
        problems[goal].solve(solver=cp.CLARABEL, tol_gap_abs=1e-9, tol_gap_rel=1e-9, tol_feas=1e-9)
        assume(problems[goal].status != cp.OPTIMAL_INACCURATE)  # the solver itself says that its answer is no yardstick
        assert problems[goal].status == cp.OPTIMAL
        found = float(problems[goal].value)
        return (1.0 / found if goal == "even" else found) * scale / UNIT

    return solve


logs = st.lists(st.floats(-1.5, 1.5), min_size=COUNT, max_size=COUNT)


@settings(max_examples=150, deadline=None)
@given(logs, logs, logs, st.floats(0.02, 0.98))
def test_the_least_noise_and_the_evenest_are_those_of_a_convex_solver(convex, variances, costs, weights, share):
    """Equal to a millionth; the goals as they are told: sum w v / n, and max v / n, under sum c n <= B and bounds."""
    v, c, w = np.exp(variances), np.exp(costs), np.exp(weights)
    seconds = float(c.sum() * (LOW + share * (HIGH - LOW)))
    low, high = np.full(COUNT, LOW), np.full(COUNT, HIGH)
    _, n = scale_to_total(np.sqrt(w * v / c), c, low, high, seconds)
    assert (c * n).sum() <= seconds * (1 + 1e-9)
    assert float(np.sum(w * v / n)) == pytest.approx(convex("total", w * v, c, seconds), rel=1e-6)
    _, n = scale_to_total(v, c, low, high, seconds)
    # where frames are held at the ceiling, others may stay below it: the noisiest counts
    assert float(np.max(v / n)) == pytest.approx(convex("even", v, c, seconds), rel=1e-6)
