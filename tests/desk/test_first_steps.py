"""A shot without proofs in the real window: a rough pass that plays as it comes, and proofs that are chosen by themselves."""

from __future__ import annotations

import shutil

import numpy as np
import pytest
from PySide6.QtCore import Qt

from hasty_reel.desk.clip import keep_clip
from hasty_reel.desk.stages.proofs.firststeps import FirstSteps
from hasty_reel.desk.stagesof import COMPARE, PROOFS

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def unproven(qtbot, open_reel, small_path, monkeypatch):
    """The window at Proofs, on a shot of which nothing is known."""
    monkeypatch.setattr("hasty_reel.farm.usual.CROP", (48, 27))
    shutil.rmtree(small_path.parent / "proofs" / "sh050")
    window = open_reel(small_path)
    session = window.session
    session.playhead.show_shot("sh050")
    window.show_stage(PROOFS)
    qtbot.waitUntil(lambda: not session.planner.stale and session.prove_it.wanted, timeout=60_000)
    return window, session, window.findChild(FirstSteps)


def test_a_rough_pass_plays_while_its_frames_arrive_and_the_next_one_is_compared_with_it(qtbot, unproven, tmp_path):
    window, session, first = unproven
    rough = session.rough_pass
    heard: list[str] = []
    session.said.connect(heard.append)
    first.rough_time.committed.emit("soon")
    assert "expected" in heard[-1] and rough.seconds == 180.0
    first.rough_time.committed.emit("20 s")
    assert rough.seconds == 20.0 and "at most 20 s" in first.words.text()
    qtbot.mouseClick(first.rough, LEFT)
    qtbot.waitUntil(lambda: len(rough._codes) >= 3, timeout=120_000)
    assert rough.player.playing and rough.picture is not None
    seen: set[int] = set()
    rough.drawn.connect(lambda: seen.add(rough.at))
    qtbot.waitUntil(lambda: len(seen) > 5, timeout=20_000)
    rough.at = max(rough._codes) - rough._frames[0] + 20 if len(rough._codes) < len(rough._frames) else 0
    assert rough.picture is not None, "a missing frame holds the last one before it"
    qtbot.waitUntil(lambda: not session.proofs.busy, timeout=120_000)
    assert len(rough._codes) == len(session.shot.frames) and rough.shown
    assert window.proofs.clip.isVisible()
    frames = window.proofs.clip_frames()
    assert len(frames) == len(session.shot.frames) and "Rough pass" in frames[0][1][0] and frames[0][0].width() >= 480
    keep_clip(session, tmp_path / "pass.mp4", frames, True)
    qtbot.waitUntil(lambda: (tmp_path / "pass.mp4").is_file(), timeout=60_000)
    qtbot.keyClick(window.proofs, Qt.Key.Key_Space)
    assert not rough.player.playing and "stopped" in rough.words
    rough.close()
    assert not rough.shown and not window.proofs.clip.isVisible()
    window.show_stage(COMPARE)
    sides = session.comparison.sides
    qtbot.waitUntil(lambda: len(sides.sides) == 1 and not session.planner.stale, timeout=60_000)
    rough.start()
    qtbot.waitUntil(lambda: not session.proofs.busy and len(sides.sides) == 2, timeout=120_000)
    assert [s.key for s in sides.sides] == ["p001", "p002"], "the newest against the one before, without a click"
    sides.by_hand = True
    rough.start()
    qtbot.waitUntil(lambda: not session.proofs.busy and len(sides.listed) == 3, timeout=120_000)
    assert [s.key for s in sides.sides] == ["p002", "p003"], "though others were chosen by hand"
    qtbot.keyClick(window.compare, Qt.Key.Key_Down)
    assert [s.key for s in sides.sides] == ["p002", "p001"], "the one before, beside the same"


def test_a_shot_is_proven_by_itself_within_a_time(qtbot, unproven):
    window, session, first = unproven
    prove = session.prove_it
    assert first.prove._main and not window.proofs.order_bar.button._main, "one primary button"
    first.prove_time.committed.emit("30 s")
    told: list[str] = []
    prove.changed.connect(lambda: told.append(prove.words))
    qtbot.mouseClick(first.prove, LEFT)
    assert prove.running and first.prove.text() == "Stop"
    qtbot.waitUntil(lambda: session.plan is not None, timeout=60_000)
    qtbot.waitUntil(lambda: not prove.running, timeout=120_000)
    assert any("A first look at frame" in words and "left" in words for words in told)
    assert prove.words.endswith(" s.") and "proofs in" in prove.words and not prove.wanted
    kinds = {p.scan for p in session.evidence.proofs}
    assert len(session.evidence.proofs) >= 3 and session.plan is not None and kinds
    assert np.isfinite(session.plan.total_seconds) and not first.prove._main


def test_it_is_stopped_at_once(qtbot, unproven):
    _, session, first = unproven
    prove = session.prove_it
    qtbot.mouseClick(first.prove, LEFT)
    qtbot.waitUntil(lambda: session.proofs.busy, timeout=60_000)
    qtbot.mouseClick(first.prove, LEFT)
    assert not prove.running and prove.words.startswith("Stopped after ")
    qtbot.waitUntil(lambda: not session.proofs.busy, timeout=60_000)
    assert first.prove.text() == "Prove it"
