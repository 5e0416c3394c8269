"""The same samples in every frame: hours and unrest by the plan, and where the dial meets what is promised."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import msgspec
import numpy as np
import pytest

from hasty_reel.plan.compare.dial import SampleDialPlans
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.viewers import limit_of

NOW = datetime(2026, 12, 1, 20, tzinfo=UTC)


@pytest.fixture(scope="module")
def known(demo_reel, demo_evidence):
    """One shot of the demo as a reel of its own, due in four days, with its model and plan."""
    shot = demo_reel.shot("sh050")
    reel = msgspec.structs.replace(demo_reel, shots=(shot,), due=(NOW + timedelta(days=4)).isoformat())
    model = ShotModel(demo_evidence["sh050"], shot.frames)
    return reel, shot, model, {shot.id: plan_shot(reel, shot, model)}


def test_twice_the_samples_take_twice_the_sampling_and_leave_less_to_be_seen(known):
    dial = SampleDialPlans(*known, NOW, finished=False)
    few, many = dial.at(64), dial.at(128)
    assert (few.samples, many.samples) == (64.0, 128.0)
    assert 1.7 < many.seconds / few.seconds < 2.05
    # a body of noise by the root, sparks that clip less than that
    assert 0.55 < many.seen / few.seen < 0.85
    assert many.deadline.ready > few.deadline.ready


def test_finished_is_calmer_than_as_rendered_and_costs_more(known):
    raw, finished = (SampleDialPlans(*known, NOW, done).at(64) for done in (False, True))
    assert finished.seen < 0.8 * raw.seen and finished.seconds > raw.seconds


def test_marks_stand_where_the_levels_are_reached_and_the_plan_is(known):
    dial = SampleDialPlans(*known, NOW)
    marks = dial.marks()
    assert marks.planned == pytest.approx(known[3]["sh050"].samples.mean())
    for name, share in (("relaxed", 0.5), ("usual", 0.25)):
        fewer, more = (dial.at(marks.calm[name] * times).seen for times in (0.8, 1.25))
        assert more < limit_of(share) < fewer
    assert marks.calm["relaxed"] < marks.calm["usual"]
    assert marks.least == 4.0 and marks.most == 2048.0


def test_the_due_time_is_a_mark_too(known):
    reel, shot, model, plans = known
    generous = SampleDialPlans(*known, NOW).at(100).deadline.ready
    tight = msgspec.structs.replace(reel, due=generous.isoformat())
    found = SampleDialPlans(tight, shot, model, plans, NOW).marks().in_time
    assert found is not None and 60 < found < 140
    late = msgspec.structs.replace(reel, due=(NOW + timedelta(minutes=1)).isoformat())
    assert SampleDialPlans(late, shot, model, plans, NOW).marks().in_time is None
    assert np.isfinite(found)
