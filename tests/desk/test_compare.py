"""The Compare stage in the real window: sides, ways of seeing, the loop, measures, causes with levers, the eye test."""

from __future__ import annotations

import msgspec
import numpy as np
import pytest
from hasty_reel.desk.stages.compare.frames import Frames, Look, developed
from hasty_reel.desk.stages.compare.geometry import Line, Sight, Wipe, panned, placed, zoomed
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QImage, QWheelEvent
from PySide6.QtWidgets import QApplication
from test_window import settled

from hasty_reel.desk.stages.compare.measured import Heads
from hasty_reel.desk.stages.compare.view import BESIDE, DIFFERENCE, FLIP, WIPE
from hasty_reel.desk.stagesof import COMPARE
from hasty_reel.measure.eyesight import read_watchers, watchers_path
from hasty_reel.pictures.frame import Picture
from hasty_reel.pictures.writing import write_picture
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
    qtbot.waitUntil(lambda: not stage.judged.study.busy and len(stage.judged.measured.rows) >= 6, timeout=30_000)


def drag(qtbot, widget, start: QPointF, end: QPointF) -> None:
    qtbot.mousePress(widget, LEFT, pos=start.toPoint())
    for k in range(1, 6):
        qtbot.mouseMove(widget, (start + (end - start) * k / 5).toPoint())
    qtbot.mouseRelease(widget, LEFT, pos=end.toPoint())


def pixel(view, x: float, y: float) -> tuple[int, int, int]:
    colour = view.grab().toImage().pixelColor(QPoint(round(x), round(y)))
    return colour.red(), colour.green(), colour.blue()


# -- geometry, without a window


def test_zooming_holds_the_place_under_the_pointer():
    area = (0.0, 0.0, 680.0, 400.0)
    at = placed(Sight(), (192, 108), area)
    assert at.scale == 3.0 and at.left == 52 and at.top == 38
    near = zoomed(Sight(), at, 2.0, 200.0, 150.0, area)
    there = placed(near, (192, 108), area)
    assert there.scale == 6.0
    assert there.to_picture(200.0, 150.0) == pytest.approx(at.to_picture(200.0, 150.0), abs=0.002)
    moved = placed(panned(near, there, 24.0, -12.0), (192, 108), area)
    assert (moved.left - there.left, moved.top - there.top) == (24, -12)
    small = placed(Sight(), (1920, 1080), area)
    assert small.scale == pytest.approx(0.342, abs=0.01) and zoomed(Sight(), small, 100.0, 0, 0, area).zoom == 32.0


def test_the_wipe_line_turns_and_snaps_and_the_slice_line_stays_inside():
    wipe = Wipe().turned(44.0)
    assert wipe.angle == 44.0 and wipe.turned(89.0).angle == 90.0 and wipe.turned(190.0).angle == -170.0
    assert Wipe().moved(1.4, -2.0) == Wipe(1.0, 0.0)
    line = Line().moved(0.3, 0.9)
    assert (line.x0, line.y0, line.y1) == (0.0, 1.0, 1.0)
    upright = Line(0.2, 0.5, 0.8, 0.5).turned(90.0, 16 / 9)
    assert upright.x0 == pytest.approx(0.5) and upright.x1 == pytest.approx(0.5) and upright.y1 - upright.y0 == pytest.approx(0.6 * 16 / 9)


def test_channels_exposure_and_pixels_that_are_no_numbers():
    rgb = np.full((4, 6, 3), 0.18, np.float32)
    rgb[1, 2] = np.nan
    picture = Picture(rgb, {"Z": np.full((4, 6), 3.0, np.float32), "A": np.full((4, 6), 0.5, np.float32)})
    plain = developed(picture, Look())
    assert plain.bad == 1 and abs(int(plain.codes[3, 3, 0]) - 118) <= 1 and plain.codes[1, 2].tolist() in ([0] * 3, [255] * 3)
    assert abs(int(developed(picture, Look(exposure=1.0)).codes[3, 3, 0]) - 162) <= 1  # sRGB of 0.36
    assert developed(picture, Look(channel="Alpha")).codes[0, 0, 0] == 128
    assert developed(picture, Look(channel="Depth")).codes[0, 0, 0] == 255
    assert developed(picture, Look(channel="Normal")).words == "has no normal"
    assert developed(picture, Look(view="ACES 2.0 - SDR 100 nits (Rec.709)")).codes[3, 3, 0] in (88, 89, 90)


# -- in the window


def test_two_runs_of_the_same_frames_are_set_side_by_side(qtbot, stage):
    assert [s.key for s in stage.chosen.sides] == ["p002", "p015"] and stage.chosen.run == list(range(1045, 1052))
    measured(qtbot, stage)
    rows = {r.name: r.values for r in stage.judged.measured.rows}
    assert rows["Noise"][0] > rows["Noise"][1] and rows["Flicker"][0] > rows["Flicker"][1] and rows["Time"][1] > rows["Time"][0]
    assert stage.judged.measured.head.text() == "B is calmer."
    qtbot.waitUntil(lambda: any(r.name == "FLIP" for r in stage.judged.measured.rows), timeout=20_000)
    stage.bar.swap_button.click()
    assert [s.key for s in stage.chosen.sides] == ["p015", "p002"]
    measured(qtbot, stage)
    assert stage.judged.measured.head.text() == "A is calmer."


def test_the_wipe_shows_a_on_one_side_and_b_on_the_other(qtbot, stage, tmp_path):
    for name, grey in (("dark", 0.05), ("bright", 0.6)):
        for k in range(1045, 1048):
            write_picture(tmp_path / f"{name}.{k}.exr", Picture(np.full((90, 160, 3), grey, np.float32)))
    stage.chosen.take_footage(0, tmp_path / "dark.1045.exr")
    stage.chosen.take_footage(1, tmp_path / "bright.1045.exr")
    view = stage.view
    qtbot.waitUntil(
        lambda: all(stage.frames.has(s, 1045) for s in stage.chosen.sides) and view.size_of_picture == (160, 90), timeout=10_000
    )
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
    stage.bar.set_mode(FLIP)
    qtbot.keyClick(view, Qt.Key.Key_F)
    assert view.flipped and pixel(view, left, y)[0] > 180
    stage.bar.set_mode(BESIDE)
    assert pixel(view, view.width() * 0.25, view.height() / 2)[0] < 80 < pixel(view, view.width() * 0.75, view.height() / 2)[0]
    stage.bar._set_kind("Light")
    stage.bar._set_gain(1)
    stage.bar.set_mode(DIFFERENCE)
    qtbot.waitUntil(lambda: "mean 0.55" in view.difference_words, timeout=10_000)
    assert pixel(view, left, y)[0] == pytest.approx(140, abs=2)  # 0.55 of 255
    for kind in ("L*", "FLIP"):
        stage.bar._set_kind(kind)
        qtbot.waitUntil(lambda kind=kind: f"difference in {kind}" in view.difference_words, timeout=20_000)


def test_wheel_keys_and_drags_move_both_pictures_together(qtbot, stage):
    view = stage.view
    view.with_line = False
    stage.bar.set_mode(BESIDE)
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
    qtbot.waitUntil(lambda: all(stage.frames.has(s, f) for s in stage.chosen.sides for f in stage.chosen.run), timeout=20_000)
    assert stage.transport.length.text() == "7 frames, 0.29 s"
    shown = []
    stage.loop.player.due.connect(shown.append)
    window = stage.window_
    with qtbot.waitActive(window, timeout=3000):
        window.activateWindow()
    stage.view.setFocus()
    qtbot.keyClick(stage.view, Qt.Key.Key_Space)
    assert stage.loop.player.playing
    qtbot.waitUntil(lambda: stage.transport.reached.text().endswith("of 24 fps"), timeout=5000)
    qtbot.wait(600)
    qtbot.keyClick(stage.view, Qt.Key.Key_Space)
    assert not stage.loop.player.playing and set(shown) == set(range(7))
    assert stage.window_.session.playhead.frame == stage.chosen.run[stage.chosen.at]
    stage.transport.bar.chosen.emit(0)
    assert stage.window_.session.playhead.frame == 1045
    stage.transport.memory.committed.emit("64 MB")
    assert stage.frames.bound_mb == 64


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
    page = stage.judged.causes
    qtbot.waitUntil(lambda: page.found is not None and bool(page.levers), timeout=30_000)
    assert page.found.causes[0].name in ("sparks", "grain") and stage.view.region is not None
    # the corners in the picture belong to the cause that is read about
    stage.show_page(0)
    assert stage.view.region is None
    page_of_measures = stage.judged.measured
    qtbot.waitUntil(lambda: any(w.isVisible() for w in page_of_measures.findChildren(Heads)))
    heads = [w for w in page_of_measures.findChildren(Heads) if w.isVisible()]
    stage.judged.find_out()
    assert not any(w.isVisible() for w in heads), "rows that were shown before are out of sight at once"
    stage.show_page(1)
    assert stage.view.region is not None
    lever = next(lever for lever in page.levers if lever.words)
    before = session.recipe
    page.lever_wanted.emit(lever)
    assert session.recipe != before or session.shot.hold == lever.hold
    assert "use" in (session.history.undo_name or "").lower() or "hold" in (session.history.undo_name or "").lower()
    session.undo()
    assert session.recipe == before
    settled(qtbot, stage.window_)
    page.which_changed.emit(1)
    page._turn(1)
    qtbot.waitUntil(lambda: page.found is not None and not stage.judged.study.busy, timeout=30_000)
    marks = stage.window_.header.stage_line._marks
    assert marks[COMPARE].state == "look" and "in Proof" in marks[COMPARE].reason
    stage.bar._set_overlay("flicker")
    assert all(m is not None for m in stage.view.maps)
    stage.bar._set_overlay("noise")
    assert stage.view.maps[0].values.max() > stage.view.maps[1].values.max()


def test_a_proof_that_is_kept_gives_the_shot_its_settings(qtbot, stage):
    session = stage.window_.session
    key = next(s.key for s in stage.bar.listed if s.proof.recipe.bounces == 2)
    stage.chosen.compare(key, "p002")
    stage.judged.measured.keep.emit(0)
    assert session.recipe.bounces == 2
    session.undo()
    assert session.recipe.bounces == 6


def test_one_frame_alone_says_what_it_lacks(qtbot, stage):
    key = next(s.key for s in stage.bar.listed if len(s.frames) == 1)
    stage.chosen.compare(key, None)
    measured_rows = lambda: not stage.judged.study.busy and len(stage.judged.measured.rows) >= 5  # noqa: E731
    qtbot.waitUntil(measured_rows, timeout=20_000)
    assert stage.transport.length.text() == "one frame: no loop" and not stage.transport.button.isEnabled()
    assert not stage.view.two and stage.slice._empty.startswith("A time slice takes a run")
    stage.show_page(1)
    assert "Causes show in motion" in stage.judged.causes.words


def test_the_eye_test_ends_in_a_limit_that_counts(qtbot, stage, monkeypatch):
    session = stage.window_.session
    stage.show_page(2)
    page = stage.eye_test
    monkeypatch.setattr(stage.patch, "play", lambda loops, fps: (setattr(stage.patch, "asking", True), page.refresh()))
    page.person.committed.emit("Iris")
    page.distance.committed.emit("67")
    page.start_button.click()
    assert stage.front.currentIndex() == 1 and page.answers[0].isEnabled()
    visible = 2.0
    while page.stairs is not None and not page.stairs.ended:
        finds = page.stairs.amount > visible
        page._answer(page._restless if finds else 1 - page._restless)
    assert page.verdict.text() == f"You see flicker from {page.stairs.limit:.2g} JND on." and page.stairs.limit == pytest.approx(
        visible, rel=0.2
    )
    before = session.plan.visible.sum()
    with qtbot.waitSignal(session.planner.plan_changed, timeout=20_000):
        page.keep_button.click()
    kept = read_watchers(watchers_path())
    assert kept.current.person == "Iris" and kept.eyes.heights == pytest.approx(2.0) and session.plan.eyes == kept.eyes
    assert session.plan.visible.sum() <= before and page.pick.text() == "Iris at This screen"
    page._let_count(0)
    assert session.own.eyes.limit == 1.0


def test_the_patch_plays_both_loops_and_then_asks(qtbot, stage):
    stage.show_page(2)
    stage.eye_test.begin()
    with qtbot.waitSignal(stage.patch.played, timeout=15_000):
        pass
    assert stage.patch.asking and stage.eye_test.answers[0].isEnabled()
    qtbot.keyClick(stage.patch, Qt.Key.Key_1)
    assert len(stage.eye_test.stairs.trials) == 1
    stage.eye_test.stop_button.click()
    assert stage.front.currentIndex() == 0 and stage.eye_test.stairs is None


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
    lines = stage.snapshot_lines()
    assert lines[0].startswith("A  Proof p002: 16 samples, 7 frames") and "frame 1045" in lines[2] and "plain view" in lines[2]
    height = stage.view.height()  # the word that it was kept takes a line of the window
    stage.save_snapshot(tmp_path / "kept.png")
    image = QImage(str(tmp_path / "kept.png"))
    assert image.width() == stage.view.width() and image.height() == height + 16 + 60
    said = []
    stage.window_.session.said.connect(said.append)
    stage.save_snapshot(tmp_path / "kept.png" / "below a file.png")
    assert said and said[0].startswith("Cannot write")


def test_the_bound_of_the_memory_is_held(qtbot, stage):
    frames = Frames(stage.window_.session)
    frames.bound_mb = 16
    for k in range(40):
        frames._have(("x", k, Look()), developed(Picture(np.zeros((540, 960, 3), np.float32)), Look()))
    assert frames.megabytes <= 16


def test_another_shot_brings_its_own_sides(qtbot, stage):
    stage.loop.toggle()
    with qtbot.waitSignal(stage.window_.session.planner.plan_changed, timeout=20_000):
        stage.window_.session.playhead.show_shot("sh020")
    assert not stage.loop.player.playing
    qtbot.waitUntil(lambda: bool(stage.chosen.sides) and stage.view.size_of_picture is not None, timeout=20_000)
    assert all("sh020" in str(next(iter(s.paths.values()))[0]) for s in stage.chosen.sides) and stage.bar.mode == WIPE


def test_sides_are_chosen_anew_until_somebody_chooses(qtbot, stage):
    listed = list(stage.bar.listed)
    cleaner = listed[0]
    stage.bar.listed = [s for s in listed if s.key != cleaner.key]
    stage.bar.chosen = [stage.bar.listed[0], None]
    stage.refresh()
    assert [s.key for s in stage.chosen.sides] == ["p002", "p015"]  # a new run that can be compared is set beside the old one
    stage.bar.choose(1, next(s for s in listed if s.key == "p001"))
    stage.refresh()
    assert [s.key for s in stage.chosen.sides] == ["p002", "p001"]
