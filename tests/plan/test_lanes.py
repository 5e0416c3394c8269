"""Which machine has which shot when: in free hours, by priority, and what list scheduling of the same pieces gives."""

from __future__ import annotations

import math
from datetime import datetime, timedelta
from types import SimpleNamespace

import msgspec
import numpy as np
import pytest

from hasty_reel.plan.shot import plan_shot
from hasty_reel.plan.time.capacity import capacity
from hasty_reel.plan.time.deadline import deadline
from hasty_reel.plan.time.lanes import MOST_PIECES, laid_out
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.edits import with_shot_fields
from hasty_reel.reel.hours import Weekly
from hasty_reel.reel.machine import Machine

START = datetime(2026, 11, 2, 20, 0).astimezone()


def shot(name: str, seconds) -> SimpleNamespace:
    return SimpleNamespace(seconds=np.asarray(seconds, float), shot=SimpleNamespace(id=name))


def test_forty_frames_of_twenty_minutes_on_twelve_machines_take_eighty_minutes():
    """Frames cannot be divided: four rounds of twelve (facts of the trade, no source)."""
    machines = [Machine(name=f"m{k}") for k in range(12)]
    found = laid_out([shot("a", [1200.0] * 40)], machines, capacity(machines, START))
    assert found.ready_of("a") == 80 * 60 and found.ready_of("b") == math.inf
    assert {s.machine for s in found.spans} == set(range(12)) and max(s.end for s in found.spans) == 80 * 60


def test_work_waits_for_free_hours_and_a_second_shot_for_the_first():
    days = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
    machines = [Machine(name="a", free=(Weekly(days=days, start="22:00", end="23:00"),))]
    room = capacity(machines, START)
    found = laid_out([shot("one", [1800.0]), shot("two", [3600.0])], machines, room)
    worked = [np.interp(s.end, room.at, room.free[0]) - np.interp(s.begin, room.at, room.free[0]) for s in found.spans]
    assert worked == pytest.approx([1800.0, 3600.0])
    assert found.spans[1].begin >= found.spans[0].end


def test_shots_of_a_higher_priority_are_ready_first(noise_reel, demo_evidence):
    reel = msgspec.structs.replace(noise_reel, due=(START + timedelta(days=9)).isoformat())
    plans = {s.id: plan_shot(reel, s, ShotModel(demo_evidence[s.id], s.frames)) for s in reel.shots}
    usual = deadline(reel, plans, START)
    ready = [usual.layout.ready_of(s.id) for s in reel.shots]
    assert ready == sorted(ready) and all(usual.late.ready_of(s.id) > usual.layout.ready_of(s.id) for s in reel.shots)
    assert usual.layout.ready_of("sh050") == pytest.approx(usual.seconds5, rel=0.05), "as the deadline has it"
    last_first = with_shot_fields(reel, "sh050", priority=1)
    assert last_first.queue[0].id == "sh050" and last_first.shots[0].id == "sh010"
    other = deadline(last_first, plans, START)
    assert other.layout.ready_of("sh050") < usual.layout.ready_of("sh010") + plans["sh050"].total_seconds
    assert other.layout.ready_of("sh050") < other.layout.ready_of("sh010")
    assert len(usual.layout.spans) <= MOST_PIECES * len(reel.shots)
