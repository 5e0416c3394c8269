"""The smallest steps: what they promise is what the plan then is, and there is one wherever a change leads there."""

from __future__ import annotations

from datetime import datetime, timedelta

import msgspec
import numpy as np
import pytest

from hasty_reel.evidence.rows import Evidence
from hasty_reel.plan.answer import sentence
from hasty_reel.plan.compare.steps import Step, calm_steps
from hasty_reel.plan.outlook import PlanMemory
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.edits import departed, with_calm, with_line
from hasty_reel.viewers import limit_of, seen_by

NOW = datetime(2026, 3, 2, 18, 0).astimezone()


@pytest.fixture(scope="module")
def memory() -> PlanMemory:
    return PlanMemory()


def steps_of(memory, reel, evidence, shot="sh030", hours=200.0):
    """The steps of a shot, and the outlook they start from; due after so many hours of machines free at all hours."""
    due = (NOW + timedelta(hours=hours)).isoformat(timespec="seconds")
    machines = tuple(msgspec.structs.replace(m, free=()) for m in reel.machines)
    reel = msgspec.structs.replace(reel, due=due, machines=machines)
    found = memory.outlook(reel, shot, evidence, NOW)
    return reel, found, calm_steps(reel, found.plans[shot], found.models[shot], found.plans, found.deadline)


def test_where_time_is_spare_the_next_level_is_offered_with_its_price(memory, demo_reel, demo_evidence):
    reel, found, steps = steps_of(memory, demo_reel, demo_evidence)
    (step,) = steps
    assert step.calm == 10.0 and step.reaches and step.words == "calm for all but 1 in 10"
    assert seen_by(step.seen) < 0.1
    then = memory.outlook(with_calm(reel, "sh030", 10.0), "sh030", demo_evidence, NOW)
    assert then.plans["sh030"].total_seconds - found.plans["sh030"].total_seconds == pytest.approx(step.seconds)
    assert then.deadline.spare_seconds == pytest.approx(step.spare_seconds, abs=60.0)
    words = step.sentence(reel.frame_speed)
    assert words.startswith("Calm for all but 1 in 10, +") and words.endswith(" to spare")


def test_no_calmer_level_is_offered_that_would_be_late_and_a_late_reel_is_offered_what_is_in_time(memory, demo_reel, demo_evidence):
    late = next(h for h in np.arange(9.0, 1.0, -0.25) if steps_of(memory, demo_reel, demo_evidence, hours=h)[1].deadline.spare_seconds < 0)
    _, found, steps = steps_of(memory, demo_reel, demo_evidence, hours=float(late) + 0.25)
    assert 0 <= found.deadline.spare_seconds < 900 and not steps, "just in time"
    _, _, (back,) = steps_of(memory, demo_reel, demo_evidence, "sh040", hours=float(late))
    assert back.calm == 50.0 and back.seconds < 0 <= back.spare_seconds
    assert "−" in back.sentence(1.0)


def test_where_the_ceiling_is_in_the_way_each_step_leads_to_a_calm_shot(memory, demo_reel, demo_evidence):
    reel, found, steps = steps_of(memory, with_line(demo_reel, "sh030", "samples_ceiling", 64), demo_evidence)
    plan = found.plans["sh030"]
    assert not plan.budget.solved and "samples would do, for" in sentence(plan, 1.0)
    assert len(steps) == 2 and {frozenset(s.changes) for s in steps} != {frozenset(steps[0].changes)}, "two ways"
    for step in steps:
        assert step.reaches and ": calm, " in step.sentence(1.0)
        made = reel
        for field, value in step.changes.items():
            made = departed(made, "sh030", field, value)
        then = memory.outlook(made, "sh030", demo_evidence, NOW).plans["sh030"]
        assert then.budget.solved and then.total_seconds - plan.total_seconds == pytest.approx(step.seconds, rel=1e-6)


def test_where_no_step_leads_there_the_nearest_is_told_with_who_sees_it(memory, demo_reel, demo_evidence):
    """A cap on the seconds of a frame is in the way of all."""
    reel = with_line(with_line(demo_reel, "sh030", "time_cap", 2.0), "sh030", "denoise_strength", 0.0)
    _, found, steps = steps_of(memory, reel, demo_evidence)
    (step,) = steps
    assert not step.reaches and limit_of(0.25) < step.seen < found.plans["sh030"].worst_flicker
    assert ": seen by " in step.sentence(1.0)


def test_nothing_is_offered_where_nothing_is_held_calm(memory, noise_reel, demo_evidence):
    assert steps_of(memory, noise_reel, demo_evidence)[2] == []


def test_a_step_is_told_with_the_hours_of_the_machines():
    step = Step("ceiling 64 → 128", {"samples_ceiling": 128}, None, True, 1.5, 7200.0, -600.0)
    assert step.sentence(2.0) == "Ceiling 64 → 128: calm, +1 h 00, 10 min late"


def test_denoising_that_no_run_tried_is_said_not_to_count(demo_reel, demo_evidence):
    shot = demo_reel.shot("sh030")
    bare = Evidence(demo_evidence["sh030"].frames)
    reel = with_line(demo_reel, "sh030", "samples_ceiling", 65536)
    untried = plan_shot(reel, shot, ShotModel(bare, shot.frames))
    tried = plan_shot(reel, shot, ShotModel(demo_evidence["sh030"], shot.frames))
    assert "denoising over 5 frames not counted on before a run tries it" in sentence(untried, 1.0)
    assert ", denoised over 5 frames, " in sentence(tried, 1.0)
    assert untried.total_seconds > 1.5 * tried.total_seconds
