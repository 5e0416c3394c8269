"""How calm a film is to be, chosen in words of viewers, for the reel or for one shot."""

from __future__ import annotations

import pytest

from hasty_reel.measure.viewing import SEATS, calm_entries, calm_words, eyes_for
from hasty_reel.reel.calm import read_calm
from hasty_reel.reel.shot import CLEAN
from hasty_reel.studio.budget.hold import HoldModel
from hasty_reel.viewers import limit_of, seen_by


def settled(loop, session) -> None:
    loop.until(lambda: not session.planner.stale and session.plan is not None)


def test_a_level_is_for_all_shots_until_one_has_its_own(session, loop):
    hold = HoldModel(session)
    assert hold.calm_text == "usual, laptop" and hold.text("clean") == "1 in 4"
    before = session.plan.samples.sum()
    hold.set_calm(10.0)
    settled(loop, session)
    assert session.reel.calm == 10.0 and session.shot.calm is None and session.shot.hold == CLEAN
    assert session.plan.eyes.limit == pytest.approx(limit_of(0.10)) and session.plan.samples.sum() > before
    assert seen_by(float(session.plan.seen_band[1].max())) <= 0.1001 or not session.plan.budget.solved
    hold.keep_own(True)
    hold.type_value("clean", "1 in 2")
    settled(loop, session)
    assert (session.reel.calm, session.shot.calm) == (10.0, 50.0) and hold.calm_text == "relaxed, this shot, laptop"
    assert session.plan.samples.sum() < before
    hold.keep_own(False)
    assert session.shot.calm is None
    hold.type_value("clean", "quite")
    assert "expected strict, usual, relaxed, eyes, or viewers such as 1 in 4" in session.heard[-1]
    for _ in range(4):
        session.undo()
    assert session.reel.calm == 25.0 and session.shot.calm is None


def test_from_nearer_more_is_seen(session, loop):
    """A phone is held so that its pixels are small; in a cinema they are large."""
    hold, worst = HoldModel(session), {}
    for viewing in ("phone", "laptop", "cinema"):
        hold.set_viewing(viewing)
        settled(loop, session)
        assert session.plan.eyes.heights == SEATS[viewing].heights and session.eyes == eyes_for(session.reel, session.shot)
        worst[viewing] = session.plan.samples.mean()
    assert worst["phone"] < worst["cinema"] and worst["laptop"] < worst["cinema"]


def test_levels_in_words_and_as_typed():
    assert [calm_words(c) for c in (10.0, 25.0, 50.0, 16.7, "eyes")] == [
        "strict: 1 in 10",
        "usual: 1 in 4",
        "relaxed: 1 in 2",
        "1 in 6",
        "own eyes",
    ]
    assert [read_calm(t) for t in ("strict", "1 in 4", "20 %", "33", "eyes")] == [10.0, 25.0, 20.0, 33.0, "eyes"]
    assert [value for value, _ in calm_entries()] == [10.0, 25.0, 50.0, "eyes"]
