"""Bundles in the real window: three side by side, taken with a click, undone with one."""

from __future__ import annotations

from datetime import datetime, timedelta

import msgspec
import numpy as np
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest

from hasty_reel.desk.stagesof import BUDGET
from hasty_reel.evidence.moving import Moving
from hasty_reel.plan.frames import crops
from hasty_reel.reel.file import read_reel, save_reel
from hasty_reel.reel.shot import CLEAN
from hasty_reel.viewers import seen_by


def test_a_bundle_is_taken_with_a_click_and_undone_with_one(qtbot, open_reel, demo_path):
    due = (datetime.now().astimezone() + timedelta(days=60)).isoformat(timespec="seconds")  # in time at any hour of the day
    save_reel(demo_path, msgspec.structs.replace(read_reel(demo_path), due=due))
    window = open_reel(demo_path)
    window.show_stage(BUDGET)
    session, row, stage = window.session, window.budget.bundles, window.budget
    qtbot.waitUntil(lambda: len(row.bundles) == 3 and not row.model.stale, timeout=60_000)
    assert [b.name for b in row.bundles] == ["sharpest", "calmest", "fastest"]
    before, fastest = session.reel, row.bundles[2]
    box = row._box(2).center()
    qtbot.mouseMove(row, QPoint(int(box.x()) - 3, int(box.y())))
    qtbot.mouseMove(row, box.toPoint())
    assert row.toolTip().startswith("Fastest: bounces 6 → ")
    qtbot.mouseClick(row, Qt.MouseButton.LeftButton, pos=box.toPoint())
    assert session.shot.hold == CLEAN and session.recipe.bounces == fastest.recipe.bounces
    assert session.reel.recipe("Final") == before.recipe("Final"), "other shots stay as they are"
    qtbot.waitUntil(lambda: not session.planner.stale and session.plan.budget.solved, timeout=30_000)
    assert stage.verdict.text.startswith("Calm for all but 1 in 4 by ") and not stage.noise_chart.isVisibleTo(stage)
    qtbot.waitUntil(lambda: len(row.bundles) == 3 and not row.model.stale and row.model.taken(row.bundles[2]), timeout=60_000)
    assert window.undo_action.text() == "Undo: take the fastest"
    window.undo_action.trigger()
    assert session.reel.shots == before.shots


def test_calm_is_held_by_its_ring_as_so_many_viewers_as_are_typed_or_chosen(qtbot, open_reel, demo_path):
    window = open_reel(demo_path)
    window.show_stage(BUDGET)
    session, stage = window.session, window.budget
    qtbot.mouseClick(stage.holds["clean"].choice, Qt.MouseButton.LeftButton)
    assert session.shot.hold == CLEAN
    session.set_line("samples_ceiling", 32)
    qtbot.waitUntil(lambda: stage.verdict.text.startswith("Not calm for all but 1 in 4: "), timeout=30_000)
    assert "samples would do, for " in stage.verdict.text
    qtbot.waitUntil(lambda: session.verdicts[BUDGET].standing == "look", timeout=30_000)
    stage.holds["clean"].field.committed.emit("6 in 10")
    qtbot.waitUntil(lambda: not session.planner.stale and session.plan.budget.solved, timeout=30_000)
    assert session.reel.calm == 60.0 and seen_by(float(session.plan.seen_flicker.max())) < 0.6
    stage.holds["clean"].field.committed.emit("none")
    assert session.reel.calm == 60.0
    menu = stage.meant_menu("clean")
    entries = {a.text(): a for a in menu.actions() if a.text()}
    assert {"Usual: 1 in 4 may see it", "Nobody, by the eye test", "For this shot alone", "Seen in a cinema"} <= set(entries)
    entries["Usual: 1 in 4 may see it"].trigger()
    entries["Seen in a cinema"].trigger()
    assert (session.reel.calm, session.reel.viewing) == (25.0, "cinema")
    assert stage.holds["clean"].meant.text() == "usual, cinema"


def test_what_buys_time_is_made_with_a_click_and_all_shots_are_listed(qtbot, open_reel, demo_path):
    window = open_reel(demo_path)
    window.show_stage(BUDGET)
    session, stage = window.session, window.budget
    qtbot.mouseClick(stage.pages.choices[2], Qt.MouseButton.LeftButton)
    model = stage.bundles.model
    qtbot.waitUntil(lambda: bool(model.savings) and not model.stale, timeout=60_000)
    before = session.plan.total_seconds
    row = [s.words for s in model.savings].index("denoise window 5 → 7")
    assert model.savings[row].low < model.savings[row].seconds < model.savings[row].high
    assert [s.seconds for s in model.savings] == sorted((s.seconds for s in model.savings), reverse=True)
    box = stage.savings.table.row_box(row).center()
    qtbot.mouseClick(stage.savings.table, Qt.MouseButton.LeftButton, pos=box.toPoint())
    assert session.recipe.denoise_window == 7
    qtbot.waitUntil(lambda: not session.planner.stale and not model.stale, timeout=60_000)
    assert before - session.plan.total_seconds > 0 and "denoise window 5 → 7" not in {s.words for s in model.savings}
    window.undo_action.trigger()
    assert session.recipe.denoise_window == 5
    qtbot.mouseClick(stage.pages.choices[6], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not session.planner.stale, timeout=30_000)
    rows = stage.shots.rows
    assert [r.shot for r in rows] == ["sh010", "sh020", "sh030", "sh040", "sh050", ""]
    assert rows[-1].seconds == sum(r.seconds for r in rows[:-1]) and abs(sum(r.share for r in rows) - 1.0) < 1e-9
    stage.shots.setFocus()
    qtbot.keyClick(stage.shots, Qt.Key.Key_Down)
    qtbot.keyClick(stage.shots, Qt.Key.Key_Return)
    assert session.playhead.shot_id == "sh020"


def test_a_frame_is_pinned_by_dragging_it_in_the_chart_and_let_go_by_a_double_click(qtbot, open_reel, demo_path):
    window = open_reel(demo_path)
    window.show_stage(BUDGET)
    session, chart = window.session, window.budget.samples_chart
    qtbot.waitUntil(lambda: not session.planner.stale, timeout=30_000)
    port, view = chart.plot.viewport(), chart.plot.getPlotItem().vb

    def place(frame: float, samples: float) -> QPoint:
        return chart.plot.mapFromScene(view.mapViewToScene(QPointF(frame + 0.5, samples)))

    before = int(session.plan.samples[session.plan.index(1030)])
    qtbot.mousePress(port, Qt.MouseButton.LeftButton, pos=place(1030, before))
    qtbot.mouseMove(port, place(1030, 30.0))
    qtbot.mouseRelease(port, Qt.MouseButton.LeftButton, pos=place(1030, 30.0))
    assert list(session.shot.pins) == [1030] and abs(session.shot.pins[1030] - 30) <= 10
    pinned = session.shot.pins[1030]
    assert pinned % session.recipe.shutter_steps == 0 and window.undo_action.text() == "Undo: pin frame 1030"
    qtbot.waitUntil(lambda: not session.planner.stale, timeout=30_000)
    assert session.plan.samples[session.plan.index(1030)] == pinned
    qtbot.mouseClick(port, Qt.MouseButton.LeftButton, pos=place(1040, 40.0))
    assert list(session.shot.pins) == [1030] and session.playhead.frame == 1040, "a click alone pins nothing"
    qtbot.mouseDClick(port, Qt.MouseButton.LeftButton, pos=place(1030, pinned))
    assert not session.shot.pins


def test_pins_are_dragged_in_steps_of_shutter_steps_and_halves_as_they_are_solved(qtbot, open_reel, demo_path):
    window = open_reel(demo_path)
    window.show_stage(BUDGET)
    session, chart = window.session, window.budget.samples_chart
    session.set_line("halves", 1)
    qtbot.waitUntil(lambda: not session.planner.stale, timeout=30_000)
    port, view = chart.plot.viewport(), chart.plot.getPlotItem().vb
    places = [chart.plot.mapFromScene(view.mapViewToScene(QPointF(1030.5, n))) for n in (40.0, 24.0)]
    qtbot.mousePress(port, Qt.MouseButton.LeftButton, pos=places[0])
    qtbot.mouseMove(port, places[1])
    qtbot.mouseRelease(port, Qt.MouseButton.LeftButton, pos=places[1])
    pinned = session.shot.pins[1030]
    qtbot.waitUntil(lambda: not session.planner.stale, timeout=30_000)
    assert pinned % session.recipe.sample_step == 0 and session.plan.samples[session.plan.index(1030)] == pinned


def test_lines_that_are_left_out_are_put_away_until_they_are_asked_for(qtbot, open_reel, demo_path):
    window = open_reel(demo_path)
    ledger, session = window.ledger, window.session
    qtbot.waitUntil(lambda: not session.planner.stale, timeout=30_000)
    assert ledger.rows["bounces_fog"].isHidden() and ledger.rows["preroll"].isHidden() and not ledger.rows["bounces"].isHidden()
    assert ledger.fold.text().endswith("lines that are left out")
    fits = ledger.minimumHeight()
    qtbot.mouseClick(ledger.fold, Qt.MouseButton.LeftButton)
    assert not ledger.rows["bounces_fog"].isHidden() and ledger.minimumHeight() > fits + 300
    ledger.rows["preroll"].field.committed.emit("8")
    assert session.recipe.preroll == 8
    qtbot.mouseClick(ledger.fold, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not session.planner.stale, timeout=30_000)
    assert not ledger.rows["preroll"].isHidden() and ledger.rows["bounces_fog"].isHidden(), "what is set stays in sight"


def test_all_shots_are_weighed_and_taken_at_once(qtbot, open_reel, demo_path):
    window = open_reel(demo_path)
    window.show_stage(BUDGET)
    session, stage = window.session, window.budget
    qtbot.mouseClick(stage.pages.choices[6], Qt.MouseButton.LeftButton)
    page, before = stage.reel_page, session.reel
    qtbot.waitUntil(lambda: not session.planner.stale, timeout=30_000)
    qtbot.mouseClick(page.weigh, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: page.model.found is not None, timeout=120_000)
    assert page.words.text().startswith("All shots calm in ")
    qtbot.mouseClick(page.take, Qt.MouseButton.LeftButton)
    assert all(s.hold == CLEAN for s in session.reel.shots)
    qtbot.waitUntil(lambda: not session.planner.stale and all(r.clean for r in stage.shots.rows), timeout=60_000)
    window.undo_action.trigger()
    assert session.reel.shots == before.shots


def test_settings_are_tried_with_the_plan_as_it_stands_in_sight_and_kept_or_dropped(qtbot, open_reel, demo_path):
    window = open_reel(demo_path)
    window.show_stage(BUDGET)
    session, stage = window.session, window.budget
    qtbot.waitUntil(lambda: session.plan is not None and not session.planner.stale, timeout=30_000)
    assert not window.trial.isVisible()
    qtbot.mouseClick(stage.try_button, Qt.MouseButton.LeftButton)
    assert window.trial.isVisible() and not stage.try_button.isVisible()
    session.set_line("bounces", 1)
    qtbot.waitUntil(lambda: "bounces 6 → 1" in window.trial.words.text(), timeout=30_000)
    assert stage.samples_chart.ghost is session.trial.stands is not None
    qtbot.mouseClick(window.trial.drop, Qt.MouseButton.LeftButton)
    assert session.recipe.bounces == 6 and not window.trial.isVisible()
    window.try_action.trigger()
    session.set_line("bounces", 2)
    qtbot.mouseClick(window.trial.keep, Qt.MouseButton.LeftButton)
    assert session.recipe.bounces == 2 and window.undo_action.text() == "Undo: keep what was tried"


def test_a_change_that_is_pointed_at_lies_dashed_over_the_plan(qtbot, open_reel, demo_path):
    window = open_reel(demo_path)
    window.show_stage(BUDGET)
    stage = window.budget
    qtbot.mouseClick(stage.pages.choices[2], Qt.MouseButton.LeftButton)
    model = stage.bundles.model
    qtbot.waitUntil(lambda: bool(model.savings) and not model.stale, timeout=60_000)
    qtbot.mouseMove(stage.savings.table, stage.savings.table.row_box(0).center().toPoint())
    assert stage.savings.charts[0].ghost is model.savings[0].plan
    stage.savings.table.leaveEvent(None)
    assert stage.savings.charts[0].ghost is None


def test_sizes_are_listed_and_steps_set_with_a_click(qtbot, open_reel, demo_path):
    window = open_reel(demo_path)
    window.show_stage(BUDGET)
    session, stage = window.session, window.budget
    qtbot.mouseClick(stage.pages.choices[3], Qt.MouseButton.LeftButton)
    page = stage.motion
    qtbot.waitUntil(lambda: page.model.found is not None and not page.model.stale, timeout=60_000)
    assert page.take.text() == f"Set {page.model.needed} steps" and page.product.text().endswith("samples")
    qtbot.mouseClick(page.take, Qt.MouseButton.LeftButton)
    assert session.recipe.shutter_steps == page.model.needed and not page.take.isVisible()
    qtbot.mouseClick(stage.pages.choices[4], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not session.planner.stale and not page.model.stale, timeout=60_000)
    table = stage.sizes.sizes
    k = [r.scale for r in page.model.found.sizes].index(75.0)
    qtbot.mouseClick(table, Qt.MouseButton.LeftButton, pos=table.row_box(k).center().toPoint())
    assert session.recipe.render_scale == 75.0


def test_light_caches_and_stop_at_noise_have_pages_of_their_own(qtbot, open_reel, demo_path):
    window = open_reel(demo_path)
    window.show_stage(BUDGET)
    session, stage = window.session, window.budget
    session.set_line("cache_step", 4)
    qtbot.mouseClick(stage.pages.choices[5], Qt.MouseButton.LeftButton)
    page = stage.caches
    qtbot.waitUntil(lambda: page.model.placing is not None and not session.planner.stale and page.place.isVisible(), timeout=60_000)
    assert page.words.text().startswith("25 light caches, on every 4th frame") and page.chart._items
    qtbot.mouseClick(page.place, Qt.MouseButton.LeftButton)
    assert session.shot.caches and window.undo_action.text() == "Undo: place light caches"
    qtbot.waitUntil(lambda: page.by_step.isVisible() and not page.place.isVisible(), timeout=30_000)
    qtbot.mouseClick(stage.pages.choices[6], Qt.MouseButton.LeftButton)
    stops = stage.stops
    qtbot.waitUntil(lambda: stops.model.found is not None and stops.take.isVisible(), timeout=60_000)
    seen = stops.map.grab().toImage()
    codes = {seen.pixelColor(x, seen.height() // 2 - 20).lightness() for x in range(0, seen.width(), 3)}
    assert min(codes) < 60 < 200 < max(codes), "dark where few samples do, light where all are taken"
    stops.stop.committed.emit("0.03")
    qtbot.waitUntil(lambda: stops.take.text() == "Stop at 0.03", timeout=30_000)
    qtbot.mouseClick(stops.take, Qt.MouseButton.LeftButton)
    assert session.recipe.stop_noise == 0.03


def test_held_back_frames_are_shown_where_they_lie_in_the_shot(qtbot, open_reel, demo_path):
    window = open_reel(demo_path)
    window.show_stage(BUDGET)
    session, stage = window.session, window.budget
    qtbot.mouseClick(stage.pages.choices[7], Qt.MouseButton.LeftButton)
    sure = stage.pages.pages.currentWidget().page
    seconds, noise, seen = sure.charts
    qtbot.waitUntil(lambda: bool(seconds.dots and noise.dots and seen.dots), timeout=60_000)
    held = session.trust.known.held.frames
    assert [d["pos"][0] - 0.5 for d in seconds.dots] == [f.frame for f in held]
    assert seconds.dots[0]["pos"][1] == 100.0 * (held[0].seconds - 1.0)
    assert sure.memory.text().startswith("Memory: ") and sure.trust.words.text().startswith("Seconds within ")


def test_a_crop_is_the_shots_own_and_undone_with_one_click(qtbot, open_reel, demo_path, monkeypatch):
    """Planted: a quarter of the picture moves."""
    monkeypatch.setattr(crops, "moving_of", lambda *_: Moving((0.25, 0.5, 0.75, 1.0), 0.2, 1001.0, 1096.0))
    window = open_reel(demo_path)
    window.show_stage(BUDGET)
    session, stage = window.session, window.budget
    qtbot.mouseClick(stage.pages.choices[2], Qt.MouseButton.LeftButton)
    model = stage.bundles.model
    qtbot.waitUntil(lambda: bool(model.savings) and not model.stale, timeout=60_000)
    k = next(k for k, s in enumerate(model.savings) if s.own)
    assert model.savings[k].words == "render the 25 % of the picture that move, frame 1048 around them"
    before, total = session.reel, session.plan.total_seconds
    qtbot.mouseClick(stage.savings.table, Qt.MouseButton.LeftButton, pos=stage.savings.table.row_box(k).center().toPoint())
    assert session.recipe.crop == (25, 50, 25, 0) and session.reel.recipe("Final").crop == (0, 0, 0, 0)
    qtbot.waitUntil(lambda: not session.planner.stale and session.plan.total_seconds < 0.5 * total, timeout=30_000)
    window.undo_action.trigger()
    assert session.reel.shots == before.shots


def test_a_step_to_calm_is_one_click_and_undone_with_one(qtbot, open_reel, demo_path):
    """Where a ceiling is in the way: a button raises it, and nothing is left to do."""
    window = open_reel(demo_path)
    window.show_stage(BUDGET)
    session, stage = window.session, window.budget
    session.set_line("samples_ceiling", 32)
    steps = stage.steps
    qtbot.waitUntil(
        lambda: len(steps.buttons) == 2 and steps.buttons[0].isEnabled() and ": calm, " in steps.buttons[0].text(), timeout=60_000
    )
    before = session.reel
    qtbot.mouseClick(steps.buttons[0], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not session.planner.stale and session.plan.budget.solved, timeout=30_000)
    assert session.reel.recipes == before.recipes, "other shots stay as they are"
    assert window.undo_action.text().startswith("Undo: ceiling 32 → ")
    window.undo_action.trigger()
    assert session.reel.shots == before.shots


def test_samples_are_dragged_on_the_dial_and_what_is_seen_there_is_held_and_undone(qtbot, open_reel, demo_path):
    window = open_reel(demo_path)
    window.show_stage(BUDGET)
    session, stage = window.session, window.budget
    qtbot.waitUntil(lambda: session.plan is not None and not session.planner.stale, timeout=30_000)
    qtbot.mouseClick(stage.pages.choices[1], Qt.MouseButton.LeftButton)
    page = stage.pages.pages.currentWidget().page
    model, scale = page.model, page.scale
    qtbot.waitUntil(lambda: page.picture.image is not None and model.marks is not None and model.percent is not None, timeout=90_000)
    assert model.samples == round(session.plan.typical_samples) and "samples in every frame: " in page.price.text()
    shown = [_codes(page)]
    for wanted in (8.0, 64.0):
        start, end = (QPoint(int(scale.x_of(n)), 44) for n in (model.samples, wanted))
        qtbot.mousePress(scale, Qt.MouseButton.LeftButton, pos=start)
        qtbot.mouseMove(scale, end)
        QTest.mouseEvent(QTest.MouseAction.MouseRelease, scale, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, end)
        model.turn(scale.samples_at(end.x()))
        assert abs(model.samples / wanted - 1.0) < 0.1
        shown.append(_codes(page))
    off = [float(np.mean((codes - shown[0]) ** 2)) for codes in shown[1:]]
    assert off[0] > 2.0 * off[1] > 0.0, "the fewer samples, the more grain, at once"
    qtbot.waitUntil(lambda: model.percent is not None and model.price.samples < 80, timeout=30_000)
    assert "reel is ready " in page.price.text() and page.enough.isEnabled()
    before, percent = session.reel, model.percent
    qtbot.mouseClick(page.enough, Qt.MouseButton.LeftButton)
    assert session.shot.calm == percent and session.shot.hold == CLEAN and session.reel.calm == before.calm
    window.undo_action.trigger()
    assert session.reel.shots == before.shots
    qtbot.keyClick(scale, Qt.Key.Key_PageUp)
    assert 110 < model.samples < 145
    qtbot.mouseClick(page.finished, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: model.picture is not None, timeout=90_000)
    assert "finish" in page.words.text() and model.level in (141.0, 142.0, 169.0, 170.0, 49.0)
    qtbot.waitUntil(lambda: "the nearest of 6" in model.words, timeout=120_000)
    qtbot.mouseClick(page.play, Qt.MouseButton.LeftButton)
    at = model.at
    qtbot.waitUntil(lambda: model.at != at, timeout=5_000)
    qtbot.mouseClick(page.play, Qt.MouseButton.LeftButton)
    assert not model.player.playing
    qtbot.keyClick(page.picture, Qt.Key.Key_Right)
    assert model.at != at or len(model.run.frames) == 1


def _codes(page) -> np.ndarray:
    return page.model.picture.astype(float)
