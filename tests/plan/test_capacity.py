"""What the machines can do by when, in their free hours."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import msgspec
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hasty_reel.demo.make import demo_reel as made_reel
from hasty_reel.evidence.rows import Evidence
from hasty_reel.plan.outlook import PlanMemory
from hasty_reel.plan.time.capacity import Capacity, capacity
from hasty_reel.plan.time.deadline import allowed_seconds, deadline
from hasty_reel.plan.time.schedule import FAR
from hasty_reel.plan.time.units import played
from hasty_reel.reel import edits as ed
from hasty_reel.reel.hours import DAYS, Once, Weekly, read_hours
from hasty_reel.reel.machine import Machine

NOON = datetime(2026, 11, 24, 12, 0, tzinfo=UTC)
NIGHTS = (Weekly(days=DAYS, start="20:00", end="08:00"),)


def ready(room: Capacity, machine: Machine, seconds: float) -> float:
    """When a machine has done one piece of work."""
    return float(played(np.array([seconds]), [machine], room, np.ones(1)).ready[0])


def test_work_waits_for_the_night():
    machine = Machine(name="a", free=NIGHTS)
    room = capacity([machine], NOON)
    assert room.by(8 * 3600) == 0 and room.by(9 * 3600) == pytest.approx(3600)
    assert ready(room, machine, 3600.0) == pytest.approx(9 * 3600)
    assert ready(room, machine, 13 * 3600.0) == pytest.approx((24 + 8 + 1) * 3600), "what one night does not hold goes on in the next"


def test_overnight_is_eight_hours_for_1440_frames_of_20_seconds():
    """Common practice, no source: one minute of film overnight."""
    night = (Once(start="2026-11-24T23:00", end="2026-11-25T07:00"),)
    room = capacity([Machine(name="a", free=night)], NOON)
    assert room.by(86400) / 1440 == pytest.approx(20.0)


def test_workers_count_by_what_they_do_together():
    """Two workers that slow each other to 1.5; three whose gain nobody measured are promised to do no more than one."""
    assert Machine(name="a", workers=3).frame_speed == 1.0
    assert Machine(name="a", speed=2.0, workers=2, together=1.5).frame_speed == 3.0
    room = capacity([Machine(name="a", speed=2.0, workers=2, together=2.0), Machine(name="b", speed=0.5)], NOON)
    assert room.by(1000.0) == pytest.approx(4500.0)


def test_free_hours_that_end_are_never_enough():
    machine = Machine(name="a", free=(Once(start="2026-11-24T20:00", end="2026-11-24T21:00"),))
    room = capacity([machine], NOON, work=7200.0)
    assert ready(room, machine, 3600.0) == pytest.approx(9 * 3600) and ready(room, machine, 3601.0) >= FAR / 2


def test_the_long_night_holds_an_hour_more():
    """Directive 2000/84/EC: the clocks go back on 25 October 2026."""
    machine = Machine(name="a", zone="Europe/Oslo", free=(Weekly(days=("sat",), start="19:00", end="08:00"),))
    noon = datetime(2026, 10, 24, 12, tzinfo=ZoneInfo("Europe/Oslo"))
    assert capacity([machine], noon).by(86400.0) == pytest.approx(14 * 3600)


machines = st.lists(
    st.builds(
        Machine,
        name=st.just("m"),
        speed=st.floats(0.1, 4),
        workers=st.integers(1, 3),
        free=st.sampled_from([(), NIGHTS, read_hours("weeknights 19:00-08:00, weekends"), read_hours("mon+thu 09:00-17:30")]),
    ),
    min_size=1,
    max_size=3,
)


@given(machines, st.floats(0.01, 60))
@settings(max_examples=40)
def test_the_curve_is_what_counting_minutes_gives(lanes, hours):
    """Against a plain count of free minutes."""
    room = capacity(lanes, NOON, hours * 3600)
    begin = NOON.timestamp()
    done = 0.0
    span = min(room.at[-1], 4 * 86400)
    for m in lanes:
        free = m.windows(begin, begin + span)
        minutes = np.arange(begin, begin + span, 60) + 30
        inside = np.zeros(len(minutes), bool)
        for a, b in free:
            inside |= (minutes >= a) & (minutes < b)
        done += m.frame_speed * 60 * inside.sum()
    assert room.by(span) == pytest.approx(done, rel=1e-3, abs=240)
    pieces = np.full(400, hours * 9.0)  # so small that who takes which hardly counts
    done = float(played(pieces, lanes, room, np.ones(1)).ready[0])
    assert done >= FAR / 2 or hours * 3600 - 1e-3 <= room.by(done) <= hours * 3600 + hours * 9.0 * len(lanes) * 60


def test_the_deadline_waits_too_and_says_what_it_costs(noise_reel, demo_evidence):
    reel = ed.with_fields(
        noise_reel, machines=(Machine(name="a", free=NIGHTS, price_per_hour=2.0),), due=(NOON + timedelta(hours=44)).isoformat()
    )
    reel = msgspec.structs.replace(reel, shots=reel.shots[:2])
    keeper = PlanMemory()
    plans, lacks = keeper.plans(reel, reel.tasks, demo_evidence)
    assert lacks == {}
    when = deadline(reel, plans, NOON)
    assert when.seconds5 == pytest.approx(8 * 3600 + when.work)
    assert when.hours == pytest.approx((when.work / 3600,)) and when.cost == pytest.approx(2 * when.work / 3600)
    assert when.allowed == pytest.approx(24 * 3600) and when.spare_seconds > 0 and when.chance > 0.99
    assert allowed_seconds(reel, NOON) == pytest.approx(24 * 3600 / sum(len(t.frames) for t in reel.tasks))
    short = ed.with_machine(reel, 0, free=(Once(start="2026-11-24T20:00", end="2026-11-24T20:10"),))
    never = deadline(short, plans, NOON)
    assert never.never and never.chance < 0.01


def test_plans_are_kept_until_something_they_rest_on_changes(noise_reel, demo_evidence):
    keeper = PlanMemory()
    first = keeper.outlook(noise_reel, "sh010", demo_evidence, NOON)
    renamed = ed.with_fields(noise_reel, name="Other")
    again = keeper.outlook(renamed, "sh010", demo_evidence, NOON)
    assert all(again.plans[k] is first.plans[k] for k in first.plans)
    changed = keeper.outlook(ed.departed(noise_reel, "sh020", "bounces", 1), "sh010", demo_evidence, NOON)
    assert changed.plans["sh020"] is not first.plans["sh020"] and changed.plans["sh010"] is first.plans["sh010"]
    smaller = keeper.outlook(ed.with_size(noise_reel, 480, None), "sh010", demo_evidence, NOON)
    assert all(smaller.plans[k] is not first.plans[k] for k in first.plans)


def test_layers_are_planned_each_and_the_shot_says_so(noise_reel, demo_evidence):
    from hasty_reel.reel.shot import Layer

    reel = ed.with_layers(noise_reel, "sh040", (Layer(id="plate", scene="bay_fog", held=1005), Layer(id="fog", scene="bay_fog")))
    evidence = {**demo_evidence, "sh040.fog": demo_evidence["sh040"], "sh040.plate": demo_evidence["sh040"]}
    outlook = PlanMemory().outlook(reel, "sh040", evidence, NOON)
    assert "Rendered as its layers plate, fog" in outlook.lacks["sh040"] and "sh040" not in outlook.plans
    plate, fog = outlook.plans["sh040.plate"], outlook.plans["sh040.fog"]
    assert len(plate.frames) == 1 and len(fog.frames) == 84
    assert plate.denoise[0] == 0.0, "a plate has no neighbours to denoise over"
    assert outlook.seconds_of(reel.shot("sh040")) == pytest.approx(plate.total_seconds + fog.total_seconds)
    empty = PlanMemory().outlook(reel, "sh010", {**demo_evidence, "sh040.fog": Evidence()}, NOON)
    assert empty.seconds_of(reel.shot("sh040")) is None and "sh040.plate" in empty.deadline.missing


def test_a_step_renders_every_nth_frame_and_costs_accordingly(noise_reel, demo_evidence):
    keeper = PlanMemory()
    whole, _ = keeper.plans(noise_reel, [noise_reel.shot("sh010")], demo_evidence)
    reel = ed.with_line(ed.with_frames(noise_reel, "sh010", 1001, 1096, 4), "sh010", "denoise_window", 1)
    plans, _ = keeper.plans(reel, [reel.shot("sh010")], demo_evidence)
    assert list(plans["sh010"].frames[:3]) == [1001, 1005, 1009] and len(plans["sh010"].frames) == 24
    assert plans["sh010"].index(1007) == 1 and plans["sh010"].index(5000) == 23
    assert whole["sh010"].index(1007) == 6


def test_a_scene_kept_loaded_is_paid_once_a_machine_where_a_proof_shows_it(noise_reel, demo_evidence):
    """Common practice, no source: 10 s of load at each of 100 starts are 1000 s."""
    from dataclasses import replace

    shot = noise_reel.shot("sh010")
    evidence = demo_evidence["sh010"]
    reel = ed.with_line(noise_reel, "sh010", "keep_scene", 1)
    slow = replace(evidence, frames=tuple(replace(r, load_seconds=10.0) for r in evidence.frames))
    plans, _ = PlanMemory().plans(noise_reel, [shot], {"sh010": slow})
    assert plans["sh010"].load.sum() == pytest.approx(960.0)
    unproven, _ = PlanMemory().plans(reel, [reel.shot("sh010")], {"sh010": slow})
    assert "keep_scene" in unproven["sh010"].unproven and unproven["sh010"].load.sum() == pytest.approx(960.0)
    recipe = msgspec.structs.replace(evidence.frames[0].recipe, keep_scene=1)
    kept = [replace(r, recipe=recipe, proof="p099", load_seconds=10.0 if k == 0 else 0.5) for k, r in enumerate(slow.frames[:4])]
    proven, _ = PlanMemory().plans(reel, [reel.shot("sh010")], {"sh010": replace(slow, frames=(*slow.frames, *kept))})
    assert proven["sh010"].unproven == () and proven["sh010"].load.sum() == pytest.approx(2 * 10.0 + 94 * 0.5), "two machines"


def test_evidence_follows_the_numbers_of_the_frames(noise_reel):
    from hasty_reel.demo import SOURCE
    from hasty_reel.evidence.rows import EvidenceReader

    reel = ed.with_first(noise_reel, "sh030", 1)
    evidence = EvidenceReader().read(SOURCE / "proofs", reel.shot("sh030"))
    assert sorted({r.frame for r in evidence.frames})[0] == 1
    split, tail = ed.split(reel, "sh030", 40)
    found = EvidenceReader().read(SOURCE / "proofs", split.shot(tail))
    assert len(found.frames) == len(evidence.frames), "after a split the proofs hold for both parts"


def test_a_reel_without_evidence_has_reasons_instead_of_plans():
    reel = msgspec.structs.replace(made_reel(), due=(NOON + timedelta(days=1)).isoformat())
    outlook = PlanMemory().outlook(reel, "sh010", {}, NOON)
    assert outlook.plans == {} and len(outlook.lacks) == 5 and len(outlook.deadline.missing) == 5
