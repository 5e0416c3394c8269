"""Places that stop at noise: counted as n = clip(v / stop^2, floor, most), promises kept on what comes of it."""

from __future__ import annotations

import numpy as np
import pytest

from hasty_reel.budget.samples import Problem, hold_cap, hold_noise, hold_total
from hasty_reel.budget.stopping import Stopping, solve_stopping
from hasty_reel.measure.varianceshares import WEIGHTS

SHARES = np.array([0.02, 0.05, 0.1, 0.15, 0.2, 0.3, 0.4, 0.6, 1.2, 2.5, 5.0, 9.0, 15.0, 40.0])
SHARES = SHARES / (WEIGHTS @ SHARES)


def problem_and_stopping(stop, frames=24, steps=8, sparks=0.0):
    variance = 0.4 * np.exp(0.8 * np.sin(np.arange(frames) / 4.0))
    shares = np.tile(SHARES, (frames, 1))
    stopping = Stopping(variance, shares, WEIGHTS, np.full(frames, sparks), stop, 16, steps)
    return Problem(variance, np.full(frames, 0.01), np.full(frames, 0.5), 16, 4096, steps, ratio=1.25), stopping


def by_hand(stopping, samples, frame):
    """The mean samples and the variance left, pixel by pixel, of a picture with these shares."""
    places = np.repeat(SHARES, np.rint(WEIGHTS * 1000).astype(int)) * stopping.variance[frame]
    n = np.clip(np.ceil(places / stopping.stop**2 / stopping.steps) * stopping.steps, stopping.floor, samples[frame])
    return n.mean(), np.mean(places / n)


def test_counts_are_those_of_the_formula_pixel_by_pixel():
    problem, stopping = problem_and_stopping(0.05)
    samples = np.full(24, 256.0)
    mean, left = by_hand(stopping, samples, 7)
    assert (stopping.taken(samples) * samples)[7] == pytest.approx(mean)
    assert (stopping.left(samples) / samples * problem.variance)[7] == pytest.approx(left)


@pytest.mark.parametrize("stop", [0.03, 0.045, 0.2])
def test_noise_that_is_held_holds_after_places_have_stopped(stop):
    problem, stopping = problem_and_stopping(stop)
    found = solve_stopping(problem, stopping, stopping.left, lambda p: hold_noise(p, 0.05), level=0.05)
    noise = np.sqrt(problem.variance * stopping.left(found.samples) / found.samples)
    if stop > 0.1:  # every place stops above what is held
        assert not found.solved and noise.max() > 0.05
    else:
        assert found.solved and noise.max() <= 0.05 * (1 + 1e-9) and noise.max() > 0.05 * 0.97


@pytest.mark.parametrize("goal", ["even", "total"])
def test_a_total_is_kept_and_spent_on_what_places_really_take(goal):
    problem, stopping = problem_and_stopping(0.02)
    found = solve_stopping(problem, stopping, stopping.left, lambda p: hold_total(p, 60.0, goal), total=60.0)
    took = float(np.sum(problem.fixed + problem.cost * stopping.taken(found.samples) * found.samples))
    assert found.solved and 0.95 * 60.0 <= took <= 60.0 * (1 + 1e-9)


def test_a_cap_counts_the_samples_that_places_take():
    problem, stopping = problem_and_stopping(0.05)
    whole = hold_cap(problem, 2.0)
    found = solve_stopping(problem, stopping, stopping.left, lambda p: hold_cap(p, 2.0))
    took = problem.fixed + problem.cost * stopping.taken(found.samples) * found.samples
    assert took.max() <= 2.0 * 1.001 and found.samples.max() > whole.samples.max()


def test_unseen_sparks_leave_more_noise():
    _, calm = problem_and_stopping(0.05)
    _, sparkling = problem_and_stopping(0.05, sparks=0.8)
    samples = np.full(24, 512.0)
    assert (sparkling.left(samples) > 1.2 * calm.left(samples)).all()
