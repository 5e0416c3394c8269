"""The Compare stage in the real window: sides, ways of seeing, the loop, measures, causes with levers, the eye test."""

from __future__ import annotations

import msgspec
import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QImage, QWheelEvent
from PySide6.QtWidgets import QApplication
from test_window import settled

from conftest import emitted
from hasty_reel.desk.clip import codes_of, keep_clip
from hasty_reel.desk.stages.compare.measured import Heads
from hasty_reel.desk.stagesof import COMPARE
from hasty_reel.measure.eyesight import WATCHERS, eyes_of
from hasty_reel.pictures.frame import Picture
from hasty_reel.pictures.writing import write_picture
from hasty_reel.reel.edits import with_calm
from hasty_reel.reel.file import read_reel, save_reel

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def stage(qtbot, open_reel, demo_path):
    reel = read_reel(demo_path)
    save_reel(demo_path, msgspec.structs.replace(reel, shots=reel.shots[:2]))  # the rest would be read for nothing
    window = open_reel(demo_path)
    window.show_stage(COMPARE)
    stage = window.compare
    qtbot.waitUntil(lambda: stage.view.size_of_picture is not None, timeout=20_000)
    stage.window_ = window
    return stage


def measured(qtbot, stage) -> None:
    qtbot.waitUntil(lambda: not stage.comparison.study.busy and len(stage.measured.rows) >= 6, timeout=30_000)


def in_memory(stage, frames) -> bool:
    comparison, pictures = stage.comparison, stage.window_.session.pictures
    return all(pictures.holds(comparison.loop.wanted(s, f)) for s in comparison.sides.sides for f in frames)


def drag(qtbot, widget, start: QPointF, end: QPointF) -> None:
    qtbot.mousePress(widget, LEFT, pos=start.toPoint())
    for k in range(1, 6):
        qtbot.mouseMove(widget, (start + (end - start) * k / 5).toPoint())
    qtbot.mouseRelease(widget, LEFT, pos=end.toPoint())


def pixel(view, x: float, y: float) -> tuple[int, int, int]:
    colour = view.grab().toImage().pixelColor(QPoint(round(x), round(y)))
    return colour.red(), colour.green(), colour.blue()


def test_two_runs_of_the_same_frames_are_set_side_by_side(qtbot, stage):
    assert [s.key for s in stage.comparison.sides.sides] == ["p002", "p015"] and stage.comparison.sides.run == list(range(1045, 1052))
    measured(qtbot, stage)
    rows = {r.name: r.values for r in stage.measured.rows}
    assert rows["Noise"][0] > rows["Noise"][1] and rows["Flicker"][0] > rows["Flicker"][1] and rows["Time"][1] > rows["Time"][0]
    assert stage.measured.head.text() == "B is calmer."
    qtbot.waitUntil(lambda: any(r.name == "FLIP" for r in stage.measured.rows), timeout=20_000)
    stage.bar.swap_button.click()
    assert [s.key for s in stage.comparison.sides.sides] == ["p015", "p002"]
    measured(qtbot, stage)
    assert stage.measured.head.text() == "A is calmer."


def test_the_wipe_shows_a_on_one_side_and_b_on_the_other(qtbot, stage, tmp_path):
    for name, grey in (("dark", 0.05), ("bright", 0.6)):
        for k in range(1045, 1048):
            write_picture(tmp_path / f"{name}.{k}.exr", Picture(np.full((90, 160, 3), grey, np.float32)))
    stage.comparison.sides.take_footage(0, tmp_path / "dark.1045.exr")
    stage.comparison.sides.take_footage(1, tmp_path / "bright.1045.exr")
    view = stage.view
    qtbot.waitUntil(lambda: in_memory(stage, [1045]) and view.size_of_picture == (160, 90), timeout=10_000)
    view.with_line = False
    place = view.place()
    left, right = (place.left + place.width * s for s in (0.25, 0.75))
    y = place.top + place.height * 0.3
    assert pixel(view, left, y)[0] < 80 < 180 < pixel(view, right, y)[0]
    gx, gy = view._grip(place)
    drag(qtbot, view, QPointF(gx, gy), QPointF(place.left + 0.9 * place.width, gy))
    assert view.wipe.x == pytest.approx(0.9, abs=0.02) and pixel(view, right, y)[0] < 80
    kx, ky = view._knob(place)
    gx, gy = view._grip(place)
    drag(qtbot, view, QPointF(kx, ky), QPointF(gx - 80, gy))
    assert view.wipe.angle == 90.0
    stage.comparison.presentation.set_mode("flip")
    qtbot.keyClick(view, Qt.Key.Key_F)
    assert view.flipped and pixel(view, left, y)[0] > 180
    stage.comparison.presentation.set_mode("beside")
    assert pixel(view, view.width() * 0.25, view.height() / 2)[0] < 80 < pixel(view, view.width() * 0.75, view.height() / 2)[0]
    stage.comparison.presentation.show(difference="Light", gain=1)
    stage.comparison.presentation.set_mode("difference")
    qtbot.waitUntil(lambda: "mean 0.55" in view.difference_words, timeout=10_000)
    assert pixel(view, left, y)[0] == pytest.approx(140, abs=2)  # 0.55 of 255
    for kind in ("L*", "FLIP"):
        stage.comparison.presentation.show(difference=kind)
        qtbot.waitUntil(lambda kind=kind: f"difference in {kind}" in view.difference_words, timeout=20_000)


def test_wheel_keys_and_drags_move_both_pictures_together(qtbot, stage):
    view = stage.view
    view.with_line = False
    stage.comparison.presentation.set_mode("beside")
    fit = view.place().scale
    at = QPointF(100, 100)
    delta = QPoint(0, 240)
    wheel = QWheelEvent(
        at,
        view.mapToGlobal(at),
        QPoint(),
        delta,
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(view, wheel)
    assert view.place(0).scale == view.place(1).scale > fit
    before = [view.place(k).left for k in (0, 1)]
    drag(qtbot, view, QPointF(120, 120), QPointF(150, 120))
    assert [view.place(k).left - b for k, b in zip((0, 1), before)] == [30, 30]
    qtbot.keyClick(view, Qt.Key.Key_8)
    assert view.place().scale == 8.0
    qtbot.keyClick(view, Qt.Key.Key_0)
    assert view.place().scale == fit


def test_the_loop_plays_at_its_rate_and_says_so(qtbot, stage):
    qtbot.waitUntil(lambda: in_memory(stage, stage.comparison.sides.run), timeout=20_000)
    assert stage.transport.length.text() == "7 frames, 0.29 s"
    shown = []
    stage.comparison.loop.player.due.connect(shown.append)
    window = stage.window_
    with qtbot.waitActive(window, timeout=3000):
        window.activateWindow()
    stage.view.setFocus()
    qtbot.keyClick(stage.view, Qt.Key.Key_Space)
    assert stage.comparison.loop.playing
    qtbot.waitUntil(lambda: stage.transport.reached.text().endswith("of 24 fps"), timeout=5000)
    qtbot.wait(600)
    assert stage.comparison.loop.playing, "nothing stops it by itself"
    with qtbot.waitActive(window, timeout=3000):
        window.activateWindow()
    qtbot.keyClick(stage.view, Qt.Key.Key_Space)
    assert not stage.comparison.loop.playing and set(shown) == set(range(7))
    assert stage.window_.session.playhead.frame == stage.comparison.sides.run[stage.comparison.sides.at]
    stage.transport.bar.chosen.emit(0)
    assert stage.window_.session.playhead.frame == 1045
    stage.transport.memory.committed.emit("64 MB")
    assert stage.window_.session.pictures.bound_mb == 64


def test_the_time_slice_follows_its_line(qtbot, stage):
    qtbot.waitUntil(lambda: len(stage.slice._slices) == 2 and all(s is not None for s in stage.slice._slices), timeout=20_000)
    before = QImage(stage.slice._slices[0])
    assert before.height() == 7
    view = stage.view
    place = view.place()
    x, y = place.to_widget(0.25, view.line.y0)
    drag(qtbot, view, QPointF(x, y), QPointF(x, y + 30))
    assert view.line.y0 == view.line.y1 > 0.5
    qtbot.waitUntil(lambda: QImage(stage.slice._slices[0]) != before, timeout=5000)
    ex, ey = view.place().to_widget(view.line.x1, view.line.y1)
    drag(qtbot, view, QPointF(ex, ey), QPointF(ex - 40, place.top + 5))
    assert view.line.y1 < 0.1 and view.line.y0 > 0.5


def test_causes_are_named_with_levers_that_can_be_used(qtbot, stage):
    session = stage.window_.session
    stage.show_page(1)
    page = stage.causes
    qtbot.waitUntil(lambda: page.model.causes is not None and bool(page.model.levers), timeout=30_000)
    assert page.model.causes.causes[0].name in ("sparks", "grain") and stage.view.region is not None
    # the corners in the picture belong to the cause that is read about
    stage.show_page(0)
    assert stage.view.region is None
    page_of_measures = stage.measured
    qtbot.waitUntil(lambda: any(w.isVisible() for w in page_of_measures.findChildren(Heads)))
    heads = [w for w in page_of_measures.findChildren(Heads) if w.isVisible()]
    stage.comparison.find_out()
    assert not any(w.isVisible() for w in heads), "rows that were shown before are out of sight at once"
    stage.show_page(1)
    assert stage.view.region is not None
    lever = next(lever for lever in page.model.levers if lever.words)
    before, held = session.recipe, session.shot.hold
    page.model.use(lever)
    hold = session.shot.hold
    assert (session.recipe, hold) == (lever.recipe or before, lever.hold or held)
    assert (session.recipe, hold) != (before, held)
    session.undo()
    assert (session.recipe, session.shot.hold) == (before, held)
    settled(qtbot, stage.window_)
    page.model.turn_to(1)
    qtbot.waitUntil(lambda: page.model.causes is not None and not stage.comparison.study.busy, timeout=30_000)
    marks = stage.window_.header.stage_line._marks
    assert marks[COMPARE].standing == "look" and "in Proof" in marks[COMPARE].reason
    stage.comparison.presentation.set_overlay("flicker")
    assert all(m is not None for m in stage.view.maps)
    stage.comparison.presentation.set_overlay("noise")
    assert stage.view.maps[0].values.max() > stage.view.maps[1].values.max()


def test_a_proof_that_is_kept_gives_the_shot_its_settings(qtbot, stage):
    session = stage.window_.session
    key = next(s.key for s in stage.comparison.sides.listed if s.proof.recipe.bounces == 2)
    stage.comparison.sides.compare(key, "p002")
    stage.measured.keep_buttons[0].click()
    assert session.recipe.bounces == 2
    session.undo()
    assert session.recipe.bounces == 6


def test_one_frame_alone_says_what_it_lacks(qtbot, stage):
    key = next(s.key for s in stage.comparison.sides.listed if len(s.frames) == 1)
    stage.comparison.sides.compare(key, None)
    measured_rows = lambda: not stage.comparison.study.busy and len(stage.measured.rows) >= 5  # noqa: E731
    qtbot.waitUntil(measured_rows, timeout=20_000)
    assert stage.transport.length.text() == "one frame: no loop" and not stage.transport.button.isEnabled()
    assert not stage.view.two and stage.slice._empty.startswith("A time slice takes a run")
    stage.show_page(1)
    assert "Causes show in motion" in stage.causes.model.words


def test_the_eye_test_ends_in_a_limit_that_counts(qtbot, stage, monkeypatch):
    session = stage.window_.session
    stage.show_page(2)
    page = stage.eye_test
    model = page.model
    monkeypatch.setattr(stage.patch, "play", lambda: None)
    model.trial.connect(model.ask)
    page.person.committed.emit("Iris")
    page.distance.committed.emit("67")
    page.start_button.click()
    assert stage.front.currentIndex() == 1 and page.answers[0].isEnabled()
    visible = 2.0
    while model.running:
        finds = model.stairs.amount > visible
        model.answer(model._restless if finds else 1 - model._restless)
    assert page.verdict.text() == f"You see flicker from {model.stairs.limit:.2g} JND on." and model.stairs.limit == pytest.approx(
        visible, rel=0.2
    )
    before = session.plan.visible.sum()
    with emitted(qtbot, session.planner.plan_changed, timeout=20_000):
        page.keep_button.click()
    kept = WATCHERS.read()
    assert kept.current.person == "Iris" and session.plan.eyes.heights == eyes_of(kept).heights == pytest.approx(2.0)
    with emitted(qtbot, session.planner.plan_changed, timeout=20_000):
        session.do("Calm by the eye test", lambda reel: with_calm(reel, None, "eyes"))
    assert session.plan.eyes == eyes_of(kept)
    assert session.plan.visible.sum() <= before and page.pick.text() == "Iris at This screen"
    model.let_count("")
    assert session.own.eyes.limit == 1.0


def test_the_patch_plays_both_loops_and_then_asks(qtbot, stage):
    stage.show_page(2)
    stage.eye_test.begin()
    with qtbot.waitSignal(stage.patch.played, timeout=15_000):
        pass
    assert stage.eye_test.model.asking and stage.eye_test.answers[0].isEnabled()
    qtbot.keyClick(stage.patch, Qt.Key.Key_1)
    assert len(stage.eye_test.model.stairs.trials) == 1
    stage.eye_test.stop_button.click()
    assert stage.front.currentIndex() == 0 and stage.eye_test.model.stairs is None


@pytest.mark.parametrize(
    "field, text, words", [("distance", "far", "10 to 5000 cm"), ("tall", "1", "3 to 2000 cm"), ("person", " ", "without a name")]
)
def test_what_does_not_do_is_said(qtbot, stage, field, text, words):
    said = []
    stage.window_.session.said.connect(said.append)
    getattr(stage.eye_test, field).committed.emit(text)
    stage.bar._typed_exposure("dark")
    assert words in said[0] and "expected −10 to 10 stops" in said[1]


def test_a_snapshot_carries_its_settings(qtbot, stage, tmp_path):
    measured(qtbot, stage)
    lines = stage.comparison.snapshot_lines(stage.view.place().scale)
    assert lines[0].startswith("A  Proof p002: 16 samples, 9 frames") and "frame 1045" in lines[2] and "plain view" in lines[2]
    height = stage.view.height()  # the word that it was kept takes a line of the window
    stage.save_snapshot(tmp_path / "kept.png")
    image = QImage(str(tmp_path / "kept.png"))
    assert image.width() == stage.view.width() and image.height() == height + 16 + 60
    said = []
    stage.window_.session.said.connect(said.append)
    stage.save_snapshot(tmp_path / "kept.png" / "below a file.png")
    assert said and said[0].startswith("Cannot write")


def test_another_shot_brings_its_own_sides(qtbot, stage):
    stage.comparison.loop.toggle()
    with emitted(qtbot, stage.window_.session.planner.plan_changed, timeout=20_000):
        stage.window_.session.playhead.show_shot("sh020")
    assert not stage.comparison.loop.playing
    qtbot.waitUntil(lambda: bool(stage.comparison.sides.sides) and stage.view.size_of_picture is not None, timeout=20_000)
    assert (
        all("sh020" in str(next(iter(s.paths.values()))[0]) for s in stage.comparison.sides.sides)
        and stage.comparison.presentation.mode == "wipe"
    )


def test_sides_are_chosen_anew_until_somebody_chooses(qtbot, stage):
    sides = stage.comparison.sides
    listed = list(sides.listed)
    sides.listed = listed[1:]
    sides.chosen = [listed[1], None]
    stage.comparison.refresh()
    assert [s.key for s in sides.sides] == ["p002", "p015"]  # a new run that can be compared is set beside the old one
    sides.choose(1, next(s for s in listed if s.key == "p001"))
    stage.comparison.refresh()
    assert [s.key for s in sides.sides] == ["p002", "p001"]


def test_the_loop_is_written_as_it_is_seen(qtbot, open_reel, demo_path, tmp_path):
    window = open_reel(demo_path)
    window.show_stage(COMPARE)
    stage, session = window.compare, window.session
    count = len(stage.comparison.sides.run)
    assert count > 2
    qtbot.waitUntil(lambda: all(stage.comparison.loop.in_memory), timeout=60_000)
    frames = stage.clip_frames()
    assert len(frames) == count and stage.comparison.sides.at < count
    assert frames[0][0].width() == stage.view.width() and frames[0][1][0].startswith("A  ")
    assert codes_of(frames[0][0]).tobytes() != codes_of(frames[-1][0]).tobytes(), "each frame as it is"
    keep_clip(session, tmp_path / "loop.png", frames, False)
    qtbot.waitUntil(lambda: len(list(tmp_path.glob("loop.*.png"))) == count, timeout=60_000)
