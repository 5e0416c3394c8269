"""A run that slips: the chance of being late, the highest ceiling that is in time, no step beside rendered frames, no wavering."""

from __future__ import annotations

import math

import msgspec
import numpy as np
import pytest

from hasty_reel.plan.shot import RATIO, plan_shot
from hasty_reel.plan.time.slip import SlipWatch, chance_late, new_plan
from hasty_reel.plan.time.timeleft import TimeLeft
from hasty_reel.predict.model import ShotModel


@pytest.fixture(scope="module")
def plan(noise_reel, demo_evidence):
    shot = noise_reel.shot("sh010")
    return plan_shot(noise_reel, shot, ShotModel(demo_evidence["sh010"], shot.frames))


def left_after(done):
    """Time left of the frames that are not done, one worker, with a spread of 10 %."""

    def told(seconds: np.ndarray) -> TimeLeft:
        middle = float(seconds[done:].sum())
        return TimeLeft(middle, middle * 0.88, middle * math.exp(1.2816 * 0.1), 0.1)

    return told


def test_the_chance_of_being_late_is_that_of_a_log_normal_time():
    left = TimeLeft(100.0, 90.0, 110.0, 0.1)
    assert chance_late(left, 100.0) == pytest.approx(0.5) and chance_late(left, 100.0 * math.exp(0.12816)) == pytest.approx(0.1, rel=1e-3)
    assert chance_late(TimeLeft(0.0, 0.0, 0.0), 0.0) == 0.0 and chance_late(left, 0.0) == 1.0


def test_a_run_that_slips_is_not_taken_back_before_it_clearly_holds():
    watch = SlipWatch()
    assert [watch.look(c) for c in (0.15, 0.19, 0.21, 0.15, 0.19, 0.11, 0.09, 0.15, 0.19)] == [0, 0, 1, 1, 1, 1, 0, 0, 0]


@pytest.mark.parametrize("share", [0.95, 0.8, 0.6])
def test_the_highest_ceiling_that_is_in_time_is_taken_and_no_step_shows(plan, share):
    done, steps = 30, plan.recipe.shutter_steps
    told = left_after(done)
    room = share * told(plan.seconds - plan.denoise).high
    found = new_plan(plan, {int(f) for f in plan.frames[:done]}, room, told)
    assert found.missing == 0.0 and found.left.high <= room
    np.testing.assert_array_equal(found.samples[:done], plan.samples[:done])
    assert (found.samples <= plan.samples).all() and (found.samples % steps == 0).all()
    # joined to the rendered frames: the noise of neighbours differs by the ratio at most, but for whole steps of the shutter
    n = found.samples[done - 1 :].astype(float)
    assert (n[:-1] / (n[1:] + steps) <= RATIO**2 + 1e-9).all()
    more = np.where(found.samples < plan.samples, found.samples + steps, found.samples)
    each = plan.sample / plan.samples
    assert told(plan.seconds - plan.denoise + each * (more - plan.samples)).high > 0.97 * room, "nearly all of the room is used"
    assert "ready when due, nine times in ten" in found.words


def test_a_frame_in_halves_keeps_whole_shutter_steps_in_each_half(noise_reel, demo_evidence):
    shot = noise_reel.shot("sh010")
    recipe = msgspec.structs.replace(noise_reel.recipe_of(shot), halves=1)
    plan = plan_shot(noise_reel, shot, ShotModel(demo_evidence["sh010"], shot.frames), recipe)
    told = left_after(10)
    found = new_plan(plan, {int(f) for f in plan.frames[:10]}, 0.8 * told(plan.seconds - plan.denoise).high, told)
    assert found.frames > 0
    for samples in (plan.samples, found.samples):
        assert (samples // 2 % recipe.shutter_steps == 0).all() and (samples % 2 == 0).all()


def test_where_no_samples_are_enough_it_says_by_how_much(plan):
    told = left_after(0)
    found = new_plan(plan, set(), 60.0, told)
    assert found.missing > 0 and found.ceiling == max(plan.recipe.samples_floor, plan.recipe.shutter_steps)
    assert "even so" in found.words and "are missing nine times in ten" in found.words
    nothing = new_plan(plan, {int(f) for f in plan.frames}, 0.0, left_after(95))
    assert nothing.frames == 0 and nothing.words.startswith("Fewer samples make it no sooner")


def test_a_run_in_time_changes_nothing(plan):
    found = new_plan(plan, set(), 1e9, left_after(0))
    assert found.frames == 0 and found.noise == 1.0 and np.array_equal(found.samples, plan.samples)
