"""The Run stage through a night: rehearsed, held, gone on with, ended; lanes, fan, messages and the account, in the real window."""

from __future__ import annotations

import contextlib

import msgspec
import psutil
import pytest
from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QApplication

from faulty_renderer import CHILD
from hasty_reel.desk.stagesof import RUN
from hasty_reel.farm.renderers.links import LINKS
from hasty_reel.plan.time.slip import NewPlan
from hasty_reel.plan.time.timeleft import TimeLeft
from hasty_reel.reel.file import read_reel, save_reel
from hasty_reel.run.framestate import FINISHED, WAITING
from hasty_reel.run.loop import RunLoop
from hasty_reel.studio.run import rehearsal
from hasty_reel.studio.run.record import scheduled_spans
from second_link import faulty_second

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def window(qtbot, open_reel, small_path):
    window = open_reel(small_path)
    window.show_stage(RUN)
    final = window.session.final
    qtbot.waitUntil(lambda: final.run is not None and final._looking is None, timeout=30_000)
    return window


def ready(qtbot, final, count):
    qtbot.waitUntil(lambda: final.run is not None and len(final.run.frames) == count and final._looking is None, timeout=20_000)


def test_a_night_is_rehearsed_in_a_moment_and_nothing_of_it_is_kept(qtbot, window, monkeypatch):
    monkeypatch.setattr(rehearsal, "LASTS", 1.5)
    monkeypatch.setattr(rehearsal, "FAILS", 0.15)
    stage, final = window.run, window.session.final
    qtbot.mouseClick(stage.controls.rehearse, LEFT)
    qtbot.mouseClick(stage.pages.choices[1], LEFT)
    assert final.busy and final.work.rehearsal
    qtbot.waitUntil(lambda: stage.note.text().startswith("Rehearsal: ") and final.finished > 5, timeout=30_000)
    assert "left (" in stage.note.text() and stage.wall._states[1001] in (FINISHED, WAITING, "rendering")
    qtbot.waitUntil(lambda: not final.busy and final._looking is None, timeout=60_000)
    record = final.work.record
    assert {s.lane for s in record.spans} == set(range(len(record.hands))) and len(record.told) >= 96
    assert final.finished == 0 and not final.folder.exists(), "nothing of it is kept"
    assert any("is tried again" in words for words in stage.messages.texts)
    last = max((s for s in record.spans if s.state == FINISHED), key=lambda s: s.end - s.begin)
    box = stage.lanes._box(last, False).center()
    none = Qt.MouseButton.NoButton
    moved = QMouseEvent(QEvent.Type.MouseMove, box, stage.lanes.mapToGlobal(box), none, none, Qt.KeyboardModifier.NoModifier)
    QApplication.sendEvent(stage.lanes, moved)
    assert stage.lanes.toolTip().startswith(f"Frame {last.frame}: finished, ")
    assert stage.fan._items, "the fan is drawn"


def test_a_run_is_held_and_ended_and_its_account_is_told(qtbot, window):
    stage, final = window.run, window.session.final
    stage.frames.committed.emit("1001-1012")
    ready(qtbot, final, 12)
    stage.controls.workers.committed.emit("0")
    assert final.work.workers == 1 and not stage.controls.pause.isVisible()
    qtbot.mouseClick(stage.go_button, LEFT)
    qtbot.waitUntil(lambda: final.busy and final.finished >= 1, timeout=60_000)
    qtbot.mouseClick(stage.controls.pause, LEFT)
    assert final.work.paused and stage.controls.pause.text() == "Go on" and "paused: no new frame begins" in stage.note.text()
    qtbot.mouseClick(stage.controls.pause, LEFT)
    assert not final.work.paused
    qtbot.mouseClick(stage.controls.end, LEFT)
    assert not stage.controls.end.isVisible()
    qtbot.waitUntil(lambda: not final.busy and final._looking is None, timeout=60_000)
    assert 1 <= final.finished < 12 and FINISHED in final.run.states.values()
    qtbot.mouseClick(stage.pages.choices[2], LEFT)
    assert f"{final.finished} finished" in stage.account.words.text() and "To render again: " in stage.account.words.text()
    stage.account.measure.click()
    qtbot.waitUntil(lambda: not stage.account.model.busy, timeout=60_000)
    if final.finished >= 3:
        assert stage.account.found.text().startswith(f"Seen flicker measured on {final.finished} finished frames: ")
    else:
        assert stage.account.found.text() == "Flicker is measured on 3 frames in a row or more."
    proofs = len(window.session.evidence.proofs)
    qtbot.mouseClick(stage.account.keep, LEFT)
    qtbot.waitUntil(lambda: len(window.session.evidence.proofs) == proofs + 1, timeout=30_000)
    kept = [r for r in window.session.evidence.frames if r.proof == window.session.evidence.proofs[-1].id]
    assert {r.frame for r in kept} == set(final.account.rendered) and all(r.seconds > 0 for r in kept)
    qtbot.mouseClick(stage.account.again, LEFT)
    ready(qtbot, final, len(final.account.again))
    before = window.session.reel.machines[0].speed
    qtbot.mouseClick(stage.account.pace, LEFT)
    assert window.session.reel.machines[0].speed == pytest.approx(before / final.account.pace, rel=0.01)
    assert window.undo_action.text().startswith("Undo: take the pace of the run for ")


def test_a_new_plan_is_offered_and_taken_with_a_click(qtbot, window, monkeypatch):
    stage, final = window.run, window.session.final
    monkeypatch.setattr(RunLoop, "_look_at_the_clock", lambda self: None)  # the offer is made here
    stage.frames.committed.emit("1001-1030")
    ready(qtbot, final, 30)
    qtbot.mouseClick(stage.go_button, LEFT)
    qtbot.waitUntil(lambda: final.busy and final.finished >= 1 and final.work._due is not None, timeout=60_000)
    final.work.pause()
    run, plan = final.work.run, final.work.run.plan
    samples = plan.samples.copy()
    samples[-10:] = plan.recipe.shutter_steps
    qtbot.waitUntil(lambda: not run.crew.under_way(), timeout=30_000)
    run.offer = NewPlan(samples, int(samples[-1]), 10, TimeLeft(10.0, 9.0, 11.0, 0.1), 0.0, 1.2)
    final.work.changed.emit()
    assert stage.controls.offer.isVisible() and stage.controls.offer_words.text().startswith("It slips. ")
    qtbot.mouseClick(stage.controls.take, LEFT)
    assert run.plan.samples[-1] == samples[-1] and not stage.controls.offer.isVisible()
    assert final.work.record.messages[-1].words.startswith("Planned anew: ")
    qtbot.mouseClick(stage.stop_button, LEFT)
    qtbot.waitUntil(lambda: not final.busy, timeout=30_000)


def test_frames_are_planned_onto_workers_as_each_becomes_free():
    """Two equal workers, longest job last: Graham's list order, by hand."""
    spans = scheduled_spans([(1, 2.0), (2, 2.0), (3, 3.0), (4, 1.0)], [1.0, 2.0])
    assert [(s.lane, s.frame, s.begin, s.end) for s in spans] == [(0, 1, 0.0, 2.0), (1, 2, 0.0, 1.0), (1, 3, 1.0, 2.5), (0, 4, 2.0, 3.0)]


def test_all_shots_are_rendered_by_their_priority_and_one_is_added_meanwhile(qtbot, window):
    session, stage, final = window.session, window.run, window.session.final
    keep = ("sh010", "sh020", "sh030")
    session.do("Few", lambda reel: few(reel, keep))
    qtbot.waitUntil(lambda: not session.planner.stale and final._looking is None and final.run is not None, timeout=30_000)
    qtbot.mouseClick(stage.controls.everything, LEFT)
    qtbot.waitUntil(lambda: final.work.busy, timeout=20_000)
    begun = [final.work.run.shot.id]
    assert begun == ["sh020"], "the higher priority first"
    assert [r.shot.id for r in final.work.waiting] == ["sh010", "sh030"] or final.work.waiting == []
    qtbot.waitUntil(lambda: len(final.work.waiting) == 2 or not final.busy, timeout=20_000)
    assert "sh020 is being rendered" in stage.note.text()
    final.work.ended.connect(lambda: begun.append(final.work.run.shot.id) if final.busy else None)
    qtbot.waitUntil(lambda: not final.busy, timeout=120_000)
    assert begun == ["sh020", "sh010", "sh030"]
    for shot in keep:
        assert len(list((final.folder / shot).glob(f"{shot}.*.exr"))) == 3


def few(reel, keep):
    from hasty_reel.reel.edits import with_frames, with_shot_fields

    for shot in reel.shots:
        if shot.id not in keep:
            reel = with_shot_fields(reel, shot.id, enabled=False)
    for shot in keep:
        reel = with_shot_fields(reel, shot, move=None)
        reel = with_frames(reel, shot, 1001, 1003)
    return with_shot_fields(reel, "sh020", priority=1)


def test_two_at_once_end_with_a_strangers_renderer_and_a_film_says_what_it_lacks(qtbot, open_reel, small_path):
    """A renderer that the program never saw; one frame of it fails for good."""
    reel = read_reel(small_path)
    shots = tuple(msgspec.structs.replace(s, scene="crossing") if s.id == "sh010" else s for s in reel.shots)
    save_reel(small_path, msgspec.structs.replace(reel, shots=shots))
    broken = reel.shot("sh010").scene_frame(1003)
    LINKS.save(LINKS.read().added(faulty_second("--crash-at", str(broken))))
    window = open_reel(small_path)
    window.show_stage(RUN)
    stage, final = window.run, window.session.final
    qtbot.waitUntil(lambda: final.run is not None and final._looking is None, timeout=30_000)
    stage.frames.committed.emit("1001-1006")
    ready(qtbot, final, 6)
    stage.controls.workers.committed.emit("2")
    said: list[str] = []
    window.session.said.connect(said.append)
    qtbot.mouseClick(stage.go_button, LEFT)
    qtbot.waitUntil(lambda: final.busy, timeout=10_000)
    qtbot.waitUntil(lambda: not final.busy and final._looking is None, timeout=90_000)
    assert final.finished == 5 and not any("went wrong inside" in words for words in said)
    qtbot.mouseClick(stage.pages.choices[2], LEFT)
    assert "Frames 1001-1002,1004-1006 were finished with fewer neighbours" in stage.account.words.text()
    hand = stage.hand
    qtbot.mouseClick(hand.film_button, LEFT)
    assert said[-1].startswith("1 of 6 frames is not finished (1003): nothing was made.") and not hand.model.film_path.exists()
    qtbot.mouseClick(hand.film_button, LEFT)
    qtbot.waitUntil(lambda: not hand.model.busy and hand.model.film_path.is_file(), timeout=60_000)
    assert hand.words.text() == "5 frames handed over: sh010.mp4, without 1003"


def test_a_window_that_is_closed_leaves_no_renderer_behind(qtbot, open_reel, small_path):
    reel = read_reel(small_path)
    LINKS.save(LINKS.read().added(faulty_second("--child-at", str(reel.shot("sh010").scene_frame(1001)))))
    window = open_reel(small_path)
    window.show_stage(RUN)
    final = window.session.final
    qtbot.waitUntil(lambda: final.run is not None and final._looking is None, timeout=30_000)
    qtbot.mouseClick(window.run.go_button, LEFT)
    qtbot.waitUntil(lambda: len(outliving()) == 2, timeout=30_000)
    window.close()
    qtbot.waitUntil(lambda: outliving() == [], timeout=20_000)


def outliving() -> list[int]:
    """Processes that the renderer started."""
    out = []
    for process in psutil.process_iter():
        with contextlib.suppress(psutil.Error, OSError):
            words = process.cmdline()
            if any(CHILD in w for w in words) and any("sleep" in w for w in words):
                out.append(process.pid)
    return out
