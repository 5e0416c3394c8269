"""Time left: closed forms of what is learnt, numeric integrals of what is censored, list scheduling against a plain simulation."""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np
import pytest
import simpy
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad
from scipy.stats import norm

from hasty_reel.plan.time.timeleft import MACHINE, SHARED, Pace, UnderWay, time_left


def test_the_level_is_learnt_as_the_conjugate_normal_says():
    """Mean and variance of a normal mean with known noise (Gelman et al., Bayesian Data Analysis, section 2.5, from memory)."""
    pace = Pace(shared=0.2, own=0.1, drift=0.0)
    prior = 0.2**2 + MACHINE**2  # one machine: what all share and what it adds are told together
    told = np.log([1.3, 1.25])
    pace.ended(1.3, 1.0, "a")
    first = pace.own
    pace.ended(2.5, 2.0, "a")
    weights = 1 / prior, 1 / 0.1**2, 1 / first**2
    assert np.log(pace.factor("a")) == pytest.approx(np.dot(weights[1:], told) / sum(weights), rel=1e-6)
    assert pace.spread_of({"a": 1.0}) == pytest.approx(sum(weights) ** -0.5, rel=1e-6)


def test_a_frame_under_way_moves_the_level_as_its_truncated_distribution_does():
    """Mean and variance of the level, given that its frame takes longer than it has: by numeric integration (SciPy)."""
    pace = Pace(shared=0.15, own=0.1, drift=0.0)
    prior = np.hypot(0.15, MACHINE)
    elapsed = 1.35
    weight = lambda x: norm.pdf(x, 0, prior) * norm.sf(np.log(elapsed), x, 0.1)  # noqa: E731
    mass, first, second = (quad(lambda x, k=k: x**k * weight(x), -1.5, 1.5)[0] for k in range(3))
    mean, variance = first / mass, second / mass - (first / mass) ** 2
    found = pace.with_under_way([UnderWay("a", 2.0, elapsed, 2.0)])
    assert np.log(found.factor("a")) == pytest.approx(mean, rel=1e-4)
    assert found.spread_of({"a": 1.0}) ** 2 == pytest.approx(variance, rel=1e-3)
    early = pace.with_under_way([UnderWay("a", 2.0, 0.1, 2.0)])
    assert early.factor("a") == pytest.approx(1.0, abs=1e-3), "a frame that has just begun tells nothing"
    assert pace.factor("a") == 1.0, "what is asked changes nothing"


def test_progress_within_a_frame_tells_more_the_more_of_it_is_done():
    pace = Pace(drift=0.0)
    told = [pace.with_under_way([UnderWay("a", 1.0, 1.6 * share, 1.0, share)]).factor("a") for share in (0.2, 0.5, 0.9)]
    assert 1.0 < told[0] < told[1] < told[2] < 1.6


def test_one_slow_machine_is_told_from_a_slow_night():
    pace = Pace()
    for _ in range(12):
        pace.ended(1.0, 1.0, "quick")
        pace.ended(1.4, 1.0, "slow")
    assert pace.factor("slow") > 1.25 and pace.factor("quick") < 1.1
    night = Pace()
    for _ in range(12):
        night.ended(1.4, 1.0, "quick")
        night.ended(1.4, 1.0, "slow")
    assert night.factor("third") > 1.25, "what all share holds for a machine that has not rendered yet"


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.floats(1.0, 60.0), min_size=1, max_size=40),
    st.lists(st.sampled_from([0.5, 1.0, 1.5, 2.0]), min_size=1, max_size=5),
)
def test_each_free_worker_takes_the_next_frame_as_a_general_simulation_has_it(frames, speeds):
    """Against simpy: workers that take frames from one queue; no two are free at the same moment, where either may go first."""
    frames = [f + 1.2345e-4 * np.sqrt(k + 2.0) for k, f in enumerate(frames)]
    env = simpy.Environment()
    queue = simpy.Store(env)
    queue.items.extend(frames)

    def worker(speed):
        while queue.items:
            seconds = yield queue.get()
            yield env.timeout(seconds / speed)

    for speed in speeds:
        env.process(worker(speed))
    env.run()
    found = time_left(Pace(), frames, [(f"m{k}", s) for k, s in enumerate(speeds)])
    assert found.middle == pytest.approx(env.now) and found.low < found.middle < found.high


def test_nothing_left_takes_no_time_and_nobody_to_do_it_takes_for_ever():
    assert time_left(Pace(), [], [("a", 1.0)]).middle == 0.0
    assert time_left(Pace(), [1.0], []).middle == np.inf
    only = time_left(Pace(), [], [("a", 1.0)], [UnderWay("a", 1.0, 3.0, 10.0)])
    assert only.middle == pytest.approx(7.0, rel=0.02)
    assert time_left(Pace(), [], [("a", 1.0)], (), after=5.0).middle == pytest.approx(5.0)
    assert time_left(Pace(), [10.0], [("a", 1.0)]).spread == pytest.approx(np.sqrt(SHARED**2 + MACHINE**2 + 0.1**2), rel=0.02)


def test_nine_in_ten_holds_on_simulated_nights_and_the_end_does_not_jump():
    """Sixty nights with levels, machines and stretches of their own; the whole table is printed by benchmarks/timeleft.py."""
    sys.path.insert(0, str(Path(__file__).parents[2] / "benchmarks"))
    from timeleft import night

    found = [night(seed, alike=0.3) for seed in range(60)]
    real, high, middle = (np.array([getattr(n, f) for n in found]) for f in ("real", "high", "middle"))
    held = np.mean(real <= high, axis=0)
    assert (held >= 0.8).all() and (held <= 1.0).all(), held
    assert np.mean(np.abs(middle[:, 2] / real[:, 2] - 1) < 0.1) > 0.8, "within 10 % at half-time"
    assert np.median([n.jump for n in found]) < 1.28, "the end moves by less than the spread that was shown"
