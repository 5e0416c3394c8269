"""The open reel without a window: edits, playhead, plan, what is kept for the person, work beside it."""

from __future__ import annotations

import threading

import msgspec
import numpy as np
import pytest

from hasty_reel.measure.eyesight import STANDARD, Watcher
from hasty_reel.plan.answer import sentence
from hasty_reel.reel.edits import with_shot_fields
from hasty_reel.reel.file import read_reel
from hasty_reel.settings.recipe import SETTING
from hasty_reel.studio.background import Background
from hasty_reel.studio.budget.hold import HoldModel
from hasty_reel.studio.ledger import LedgerModel
from hasty_reel.studio.planner import plan_reel


def heard(signal) -> list:
    """What a signal says from now on."""
    out: list = []
    signal.connect(lambda *things: out.append(things))
    return out


def test_an_edit_is_undone_by_its_name_and_saved_whole(session, demo_path):
    before = session.reel
    assert session.do("Rename shot", lambda r: with_shot_fields(r, "sh010", name="Wakes"))
    assert session.changed and session.history.undo_name == "Rename shot"
    session.undo()
    assert session.reel == before
    session.redo()
    assert session.save() and read_reel(demo_path).shot("sh010").name == "Wakes"
    assert not session.changed


def test_an_edit_that_makes_no_sense_is_said_and_changes_nothing(session):
    before = session.reel
    assert not session.do("Move frames", lambda r: with_shot_fields(r, "sh010", last=2))
    assert session.reel is before and len(session.heard) == 1 and "expected" in session.heard[0]


def test_the_playhead_stays_in_the_shot(session):
    playhead = session.playhead
    moved = heard(playhead.frame_changed)
    playhead.show_frame(10**9)
    assert playhead.frame == playhead.shot.past - 1 and moved == [(playhead.frame,)]
    playhead.show_frame(playhead.frame)
    assert len(moved) == 1, "what does not change is not told"
    playhead.select((playhead.frame, playhead.frame - 5))
    assert playhead.selection == (playhead.frame - 5, playhead.frame)
    playhead.show_shot("sh020")
    assert playhead.selection is None and playhead.shot.begin <= playhead.frame < playhead.shot.past


def test_a_shot_that_is_gone_gives_way(session):
    session.playhead.show_shot("sh020")
    session.do("Remove", lambda r: msgspec.structs.replace(r, shots=tuple(s for s in r.shots if s.id != "sh020")))
    assert session.playhead.shot_id == session.reel.shots[0].id


def test_window_and_command_line_plan_alike(session, demo_path):
    outlook, faults = plan_reel(read_reel(demo_path), demo_path.parent / "proofs", STANDARD)
    assert faults == []
    for shot in session.reel.shots:
        a, b = session.planner.outlook.plans[shot.id], outlook.plans[shot.id]
        assert np.array_equal(a.samples, b.samples) and sentence(a, 1.0) == sentence(b, 1.0)


def test_a_setting_reaches_the_plan(session, loop):
    before = session.plan.total_seconds
    told = heard(session.planner.plan_changed)
    session.set_line("bounces", 2)
    loop.until(lambda: told and not session.planner.stale)
    assert session.plan.total_seconds < before


@pytest.mark.parametrize(("text", "value"), [("4", 4), (" 4 ", 4), ("none", None)])
def test_values_are_read_as_they_are_typed(text, value):
    name = "bounces" if value is not None else "brightness_ceiling"
    assert SETTING[name].read(text) == value


@pytest.mark.parametrize("text", ["four", "-1", "1e9", "2.5"])
def test_a_value_that_is_none_is_said_in_a_sentence_and_changes_nothing(session, text):
    before = session.reel
    LedgerModel(session).type_value(SETTING["bounces"], text)
    assert session.reel is before
    assert len(session.heard) == 1 and "expected" in session.heard[0].lower()


def test_the_ledger_steps_and_restores(session):
    ledger = LedgerModel(session)
    was = session.recipe.bounces
    ledger.step(SETTING["bounces"], 1)
    assert session.recipe.bounces == was + 1
    session.undo()
    assert session.recipe.bounces == was


def test_another_promise_begins_where_the_plan_stands(session, loop):
    hold = HoldModel(session)
    seconds = session.plan.total_seconds
    hold.choose("total")
    assert session.shot.hold.kind == "total" and seconds <= session.shot.hold.value < seconds + 1.0
    loop.until(lambda: not session.planner.stale)
    assert session.plan.budget.solved
    hold.type_value("total", "soon")
    assert "'soon' is no number" in session.heard[-1]


def test_work_beside_tells_its_end_once_and_can_be_stopped(loop):
    background = Background(loop.events)
    ended: list[str] = []
    task = background.start(lambda task: 42)
    task.done.connect(lambda thing: ended.append(f"done {thing}"))
    task.ended.connect(lambda: ended.append("ended"))
    loop.until(lambda: "ended" in ended)
    assert ended == ["done 42", "ended"]
    held = threading.Event()

    def wait(task) -> None:
        held.set()
        while True:
            task.cancel.check()

    task = background.start(wait)
    task.stopped.connect(lambda: ended.append("stopped"))
    loop.until(held.is_set)
    assert background.running
    task.cancel.cancel()
    loop.until(lambda: "stopped" in ended)
    loop.until(lambda: not background.running)


def test_a_fault_of_ours_is_told_and_does_not_end_the_program(loop):
    background, words = Background(loop.events), []
    task = background.start(lambda task: 1 / 0)
    task.failed.connect(words.append)
    loop.until(lambda: words)
    assert words == ["This went wrong inside Hasty Reel: division by zero."]


def test_eyes_that_count_change_every_plan(session, loop):
    told = heard(session.planner.plan_changed)
    patient = Watcher(person="Patient", screen="desk", limit=100.0)
    assert session.own.set_watchers(session.own.watchers.added(patient).choosing(patient.name))
    loop.until(lambda: told and not session.planner.stale)
    assert session.own.eyes.limit == 100.0 and not session.plan.visible.any()


def test_a_closed_reel_keeps_no_threads_and_begins_nothing(open_session, loop, demo_path):
    session = open_session(demo_path)
    session.background.start(lambda task: None)
    loop.turn()
    threads = list(session.background._threads._threads)
    assert threads
    session.background.stop_all()
    session.close()
    loop.until(lambda: not any(t.is_alive() for t in threads))
    begun = []
    session.background.start(lambda task: begun.append(task))
    loop.turn()
    assert not begun and not session.background.running


def test_a_fault_in_planning_ends_the_waiting_and_is_said(session, loop, monkeypatch):
    """Whatever goes wrong in it: the plan before is not taken for the new one, and nothing waits for ever."""

    def broken(*given, **named):
        raise OverflowError("math range error")

    with monkeypatch.context() as patched:
        patched.setattr(session.planner._memory, "outlook", broken)
        session.do("Rename shot", lambda r: with_shot_fields(r, "sh010", name="Wakes"))
        loop.until(lambda: not session.planner.stale)
    assert session.plan is None and "It could not be planned" in session.lack and any("math range error" in w for w in session.heard)
    session.do("Rename shot", lambda r: with_shot_fields(r, "sh010", name="Wakes again"))
    loop.until(lambda: not session.planner.stale and session.plan is not None)
