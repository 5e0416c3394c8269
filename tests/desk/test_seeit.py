"""See it in the real window: the dial dragged, its level held and undone; clips, the run beside the proof, sizes with the same samples."""

from __future__ import annotations

import av
import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt

from hasty_reel.desk.clip import captioned, codes_of, keep_clip
from hasty_reel.desk.stages.budget.seeit import SeeItPage
from hasty_reel.desk.stagesof import BUDGET, COMPARE
from hasty_reel.finish.denoise import Denoising
from hasty_reel.measure.viewing import calm_of
from hasty_reel.reel.shot import CLEAN, Hold

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture(autouse=True)
def quickly(monkeypatch):
    """Frames without noise by a short window: what is done with them is looked at here."""
    monkeypatch.setattr("hasty_reel.farm.atsamples.CALM", Denoising(1, False))


def see_it(qtbot, window):
    """The page, once its run was read and its price is known."""
    window.show_stage(BUDGET)
    window.budget.pages.show_page(1)
    page = window.budget.findChild(SeeItPage)
    qtbot.waitUntil(lambda: page.model.picture is not None and page.model.percent is not None, timeout=120_000)
    return page


def test_the_dial_is_dragged_its_level_held_and_undone(qtbot, open_reel, demo_path):
    window = open_reel(demo_path)
    session = window.session
    session.playhead.show_shot("sh020")
    page = see_it(qtbot, window)
    model, scale = page.model, page.scale
    many = model.picture.astype(float)
    y = int(scale._line().center().y())
    qtbot.mousePress(scale, LEFT, pos=QPoint(int(scale.x_of(200.0)), y))
    for x in np.linspace(scale.x_of(200.0), scale.x_of(16.0), 5):
        qtbot.mouseMove(scale, QPoint(int(x), y))
    qtbot.mouseRelease(scale, LEFT, pos=QPoint(int(scale.x_of(16.0)), y))
    assert abs(model.samples / 16.0 - 1.0) < 0.1
    few = model.picture.astype(float)
    assert np.abs(np.diff(few, axis=1)).mean() > np.abs(np.diff(many, axis=1)).mean(), "fewer samples are noisier"
    qtbot.waitUntil(lambda: model.percent is not None and model.marks is not None, timeout=60_000)
    marks = model.marks
    assert marks.calm["relaxed"] < marks.calm["usual"] < marks.calm["strict"]
    model.turn(marks.calm["usual"])
    qtbot.waitUntil(lambda: model.percent is not None, timeout=60_000)
    before = session.reel
    qtbot.mouseClick(page.enough, LEFT)
    assert session.shot.hold == CLEAN and calm_of(session.reel, session.shot) == model.percent
    assert abs(model.percent - 25.0) <= 2.0, "one in four is usual"
    window.undo_action.trigger()
    assert session.reel.shots == before.shots and session.reel.calm == before.calm


def test_keys_turn_the_dial_and_step_through_the_run(qtbot, open_reel, demo_path):
    window = open_reel(demo_path)
    page = see_it(qtbot, window)
    model = page.model
    model.turn(64)
    qtbot.keyClick(page.scale, Qt.Key.Key_PageUp)
    assert model.samples == 128
    qtbot.keyClick(page.scale, Qt.Key.Key_Left)
    assert model.samples == round(128 / 1.05)
    at = model.at
    qtbot.keyClick(page.picture, Qt.Key.Key_Right)
    assert model.at == (at + 1) % len(model.run.frames)
    qtbot.waitUntil(lambda: len(model._ready) == len(model.run.frames), timeout=60_000)
    qtbot.keyClick(page.picture, Qt.Key.Key_Space)
    assert model.player.playing and page.play.text() == "Stop"
    qtbot.keyClick(page.picture, Qt.Key.Key_Space)
    assert not model.player.playing


def test_finished_frames_come_are_kept_and_written_as_a_clip(qtbot, open_reel, demo_path, tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    window = open_reel(demo_path)
    session = window.session
    session.playhead.show_shot("sh020")
    page = see_it(qtbot, window)
    model = page.model
    model.turn(16)
    raw = model.picture.astype(float)
    qtbot.mouseClick(page.finished, LEFT)
    count = len(model.run.frames)
    qtbot.waitUntil(lambda: all(model.picture_at(k) is not None for k in range(count)), timeout=180_000)
    assert "finished at " in model.words
    assert np.abs(np.diff(model.picture.astype(float), axis=1)).mean() < np.abs(np.diff(raw, axis=1)).mean()
    assert len(list((tmp_path / "cache").rglob("*.png"))) == count, "kept for the next time"
    frames = page.clip_frames()
    assert len(frames) == count and frames[0][0].width() >= 480 and "16 samples, finished" in frames[0][1][0]
    assert codes_of(captioned(*frames[0])).shape[0] > codes_of(frames[0][0]).shape[0]
    heard = []
    session.said.connect(heard.append)
    keep_clip(session, tmp_path / "look.mp4", frames, True)
    qtbot.waitUntil(lambda: any("Written: look.mp4" in words for words in heard), timeout=60_000)
    with av.open(str(tmp_path / "look.mp4")) as film:
        assert film.streams.video[0].width == frames[0][0].width()


def test_the_run_at_other_samples_stands_beside_its_proof_in_compare(qtbot, open_reel, demo_path, tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    window = open_reel(demo_path)
    page = see_it(qtbot, window)
    model = page.model
    model.turn(8)
    qtbot.waitUntil(lambda: len(model._ready) == len(model.run.frames), timeout=60_000)
    with qtbot.waitSignal(page.compare_wanted, timeout=60_000):
        qtbot.mouseClick(page.beside, LEFT)
    assert window.compare.isVisible() and window.stage.stage(COMPARE) is window.compare
    sides = window.session.comparison.sides
    assert sides.chosen[0].key == model.run.proof.id and sides.chosen[1].name == "8 samples, as rendered"
    assert len(sides.run) == len(model.run.frames)


def test_sizes_with_the_same_samples_and_the_same_samples_as_a_goal(qtbot, open_reel, demo_path):
    window = open_reel(demo_path)
    session, stage = window.session, window.budget
    window.show_stage(BUDGET)
    stage.pages.show_page(4)
    page = stage.sizes
    qtbot.waitUntil(lambda: page.model.found is not None and not page.model.stale, timeout=60_000)
    rows = {row.scale: row for row in page.model.found.sizes}
    assert {50.0, 67.0, 75.0, 100.0, 125.0, 150.0} <= set(rows)
    qtbot.mouseClick(page.bases["samples"], LEFT)
    told = {scale: page.model.at_basis(row) for scale, row in rows.items()}
    assert len({round(samples) for samples, _, _ in told.values()}) == 1
    assert told[75.0][1] < 0.75 * told[100.0][1] < told[125.0][1], "seconds grow with the pixels"
    assert told[75.0][2] > told[100.0][2] > told[125.0][2], "what is seen falls with the size"
    assert not page.play.isEnabled(), "no pair was proven"
    qtbot.mouseClick(stage.holds["flat"].choice, LEFT)
    qtbot.waitUntil(lambda: not session.planner.stale, timeout=30_000)
    assert session.shot.hold.kind == "flat" and len(set(session.plan.samples.tolist())) == 1
    stage.holds["flat"].field.committed.emit("128")
    assert session.shot.hold == Hold(kind="flat", value=128.0, of=session.shot.hold.of, goal=session.shot.hold.goal)
    qtbot.waitUntil(lambda: not session.planner.stale, timeout=30_000)
    assert stage.verdict.text.startswith("128 samples in every frame: ")
