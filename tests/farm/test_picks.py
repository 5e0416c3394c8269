"""Frames for a proof as one picks them, and what an order will take."""

from __future__ import annotations

from dataclasses import replace

import msgspec
import numpy as np
import pytest

from hasty_reel.farm.forecast import order_seconds
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.picks import EVERY, RUN_LENGTH, SPREAD, ends, every, run_around, spread
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel


@pytest.fixture(scope="module")
def shot(demo_reel):
    return demo_reel.shot("sh010")


def test_a_run_stays_in_the_shot(shot):
    for frame in (shot.begin, shot.begin + 40, shot.past - 1):
        run = run_around(shot, frame)
        assert len(run) == RUN_LENGTH and frame in run and run[0] >= shot.begin and run[-1] < shot.past
        assert np.diff(run).tolist() == [1] * (RUN_LENGTH - 1)
    assert run_around(shot, shot.begin + 40)[RUN_LENGTH // 2] == shot.begin + 40


def test_a_short_shot_gives_what_it_has(shot):
    short = msgspec.structs.replace(shot, last=shot.first + 1)
    assert run_around(short, short.begin) == ends(short) == spread(short) == (1001, 1002)
    assert every(short) == (1001,)


def test_frames_over_the_shot(shot):
    assert ends(shot) == (1001, 1048, 1096)
    assert every(shot) == tuple(range(1001, 1097, EVERY))
    over = spread(shot)
    assert len(over) == SPREAD and (over[0], over[-1]) == (1001, 1096) and max(np.diff(over)) - min(np.diff(over)) <= 1


def test_what_an_order_takes_grows_with_samples_seeds_and_pixels_but_not_beyond_a_cap(demo_reel, demo_evidence, shot):
    """Load is paid by each picture; the rest is cost x pixels x samples (calculated here by hand from the plan)."""
    plan = plan_shot(demo_reel, shot, ShotModel(demo_evidence["sh010"], shot.frames))
    size = demo_reel.picture_size
    one = ProofOrder(shot, demo_reel.recipe_of(shot), (1048,), samples=16, scale=100.0, seeds=1)
    k = plan.index(1048)
    expected = plan.load[k] + plan.sample[k] / plan.samples[k] * 16 * (size[0] * size[1]) / (plan.width * plan.height)
    assert order_seconds([one], plan, size) == pytest.approx(expected)
    assert order_seconds([replace(one, seeds=2)], plan, size) == pytest.approx(2 * expected)
    assert order_seconds([one, replace(one, frames=(1048, 1048))], plan, size) == pytest.approx(3 * expected)
    sampled = expected - plan.load[k]
    assert order_seconds([replace(one, samples=64)], plan, size) == pytest.approx(plan.load[k] + 4 * sampled)
    assert order_seconds([replace(one, scale=50.0)], plan, size) == pytest.approx(plan.load[k] + sampled / 4)
    assert order_seconds([replace(one, samples=4096, cap=0.5)], plan, size) == pytest.approx(0.5)
