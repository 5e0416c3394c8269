"""The Brief in the real window: delivery, shots, layers, the night band, draft cuts, files."""

from __future__ import annotations

from datetime import datetime, timedelta
from itertools import pairwise
from pathlib import Path

import msgspec
import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QApplication
from test_window import settled, type_into

from hasty_reel.desk.stagesof import BRIEF, PROOFS, RUN
from hasty_reel.own.draftcuts import DRAFT_CUTS
from hasty_reel.reel.file import read_reel, save_reel
from hasty_reel.reel.hours import Once, Weekly
from hasty_reel.reel.machine import Machine
from hasty_reel.reel.moves import Turntable, Viewpoints
from hasty_reel.reel.saves import autosave_path, earlier_saves
from hasty_reel.settings.recipe import SETTING
from hasty_reel.studio.brief.nights import DAY, local_midnights, snapped
from hasty_reel.studio.pictures import THUMBNAIL
from hasty_reel.studio.reelfiles import export_shots, go_back

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def window(open_reel, demo_path):
    window = open_reel(demo_path)
    window.show_stage(BRIEF)
    return window


def order(window) -> list[str]:
    return [s.id for s in window.session.reel.shots]


def drag(qtbot, widget, start: QPoint, end: QPoint) -> None:
    qtbot.mousePress(widget, LEFT, pos=start)
    qtbot.mouseMove(widget, QPoint((start.x() + end.x()) // 2, end.y()))
    middle = QPointF(end)
    from PySide6.QtGui import QMouseEvent

    event = QMouseEvent(
        QMouseEvent.Type.MouseMove, middle, widget.mapToGlobal(middle), Qt.MouseButton.NoButton, LEFT, Qt.KeyboardModifier.NoModifier
    )
    QApplication.sendEvent(widget, event)
    qtbot.mouseRelease(widget, LEFT, pos=end)


def test_the_demo_has_five_shots_with_plans_and_thumbnails(qtbot, window):
    table = window.brief.table
    assert table.shots.rowCount() == 5 and all(window.session.planner.outlook.seconds_of(s) for s in window.session.reel.shots)
    table.grab()
    qtbot.waitUntil(lambda: sum(w.box == THUMBNAIL for w in window.session.pictures._kept) >= 5, timeout=10_000)
    assert "h of work at speed 1; the free hours before the due time hold" in window.brief.verdict.text()


def test_rate_timecode_and_size_are_set_where_they_are_shown(qtbot, window):
    bar, session = window.brief.delivery, window.session
    type_into(qtbot, bar.rate, "29.97")
    assert session.reel.rate == (30000, 1001) and session.reel.shot("sh050").length == 120
    assert bar.drop.isEnabled() and "00:00:" in bar.film.text() and ";" in bar.film.text()
    type_into(qtbot, bar.start, "01:00:00;00")
    assert session.place_words().endswith("01:00:00;00")
    type_into(qtbot, bar.width_field, "1280")
    assert (session.reel.width, session.reel.height) == (1280, 720), "the camera's aspect is kept"
    type_into(qtbot, bar.height_field, "uhd")
    assert (session.reel.width, session.reel.height) == (3840, 2160) and bar.size_pick.text() == "UHD"
    qtbot.mouseClick(bar.swap, LEFT)
    assert (session.reel.width, session.reel.height) == (2160, 3840)
    type_into(qtbot, bar.pixel, "64/45")
    assert session.reel.pixel_aspect == (64, 45)
    qtbot.mouseClick(bar.around, LEFT)
    type_into(qtbot, bar.part, "90 x 90")
    assert session.reel.panorama.share == 0.125
    bar._rate_menu().actions()[1].trigger()
    assert session.reel.rate == (24, 1)
    for field, text, words in (
        (bar.rate, "0", "expected 1 to 1000"),
        (bar.width_field, "5", "expected 16 to 16384 pixels"),
        (bar.start, "99:00:00:00", "timecode"),
        (bar.part, "wide", "expected degrees across"),
    ):
        before = session.reel
        type_into(qtbot, field, text)
        assert session.reel is before and words in window.notice.label.text()


def test_frames_from_a_range_viewpoints_a_turntable_a_loop(qtbot, window):
    framing, session = window.brief.pane.framing, window.session
    type_into(qtbot, framing.fields["last"], "1048")
    assert session.shot.last == 1048 and "48 frames, 2 s" in framing.outcome.text()
    type_into(qtbot, framing.fields["step"], "2")
    assert len(session.shot.frames) == 24 and "24 rendered" in framing.outcome.text()
    framing._model.choose("a turntable")
    assert isinstance(session.shot.move, Turntable) and session.shot.length == 48
    type_into(qtbot, framing.fields["seconds"], "15")
    assert session.shot.length == 360 and "1° a frame" in framing.outcome.text()
    qtbot.mouseClick(framing._loop, LEFT)
    assert not session.shot.move.loop and "the last frame stands at 360°" in framing.outcome.text()
    framing._way_menu().actions()[1].trigger()
    assert session.shot.move.direction == "anticlockwise"
    framing._model.choose("viewpoints")
    assert isinstance(session.shot.move, Viewpoints) and len(session.shot.move.views) == 2
    type_into(qtbot, framing.fields["hold0"], "1")
    type_into(qtbot, framing.fields["move0"], "6")
    assert session.shot.length == 168, "1 s of rest and 6 s of move are 7 s"
    framing._model.add_view()
    assert len(session.shot.move.views) == 3 and "name2" in framing.fields
    framing._model.choose("a loop")
    type_into(qtbot, framing.fields["seconds"], "2")
    assert session.shot.length == 48 and "first again" in framing.outcome.text()
    type_into(qtbot, framing.fields["seconds"], "long")
    assert "is no number" in window.notice.label.text() and session.shot.length == 48


def test_shots_are_added_duplicated_split_removed_and_it_is_undone_by_name(qtbot, window):
    brief, session = window.brief, window.session
    qtbot.mouseClick(brief.buttons["duplicate"], LEFT)
    assert order(window)[:2] == ["sh010", "sh010b"] and session.playhead.shot_id == "sh010b"
    assert window.undo_action.text() == "Undo: duplicate sh010"
    settled(qtbot, window)
    qtbot.waitUntil(lambda: "sh010b" in session.planner.outlook.plans, timeout=20_000)
    session.playhead.show_frame(1049)
    qtbot.mouseClick(brief.buttons["split"], LEFT)
    assert order(window)[:3] == ["sh010", "sh010b", "sh010bb"] and session.shot.first == 1049
    qtbot.mouseClick(brief.buttons["remove"], LEFT)
    assert order(window)[:3] == ["sh010", "sh010b", "sh020"]
    qtbot.mouseClick(brief.buttons["new"], LEFT)
    assert session.playhead.shot_id == "sh060" and session.shot.length == 24
    while session.history.undo_name:
        session.undo()
    assert order(window) == ["sh010", "sh020", "sh030", "sh040", "sh050"] and session.reel == session.saved
    assert session.playhead.shot_id in order(window)


def test_shots_are_moved_by_drag_and_by_keys(qtbot, window):
    table = window.brief.table
    model = table.shots
    data = model.mimeData([model.index(0)])
    model.dropMimeData(data, Qt.DropAction.MoveAction, 3, 0, model.index(-1))
    assert order(window) == ["sh020", "sh030", "sh010", "sh040", "sh050"]
    table.setFocus()
    window.session.playhead.show_shot("sh050")
    qtbot.keyClick(table, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)
    assert order(window)[3:] == ["sh050", "sh040"] and window.undo_action.text() == "Undo: move shot sh050"
    qtbot.keyClick(table, Qt.Key.Key_Up)
    assert window.session.playhead.shot_id == "sh010", "looking at another shot is no edit"
    assert window.undo_action.text() == "Undo: move shot sh050"
    qtbot.keyClick(table, Qt.Key.Key_Delete)
    assert "sh010" not in order(window)


def test_all_of_a_shot_is_edited_in_its_pane(qtbot, window):
    pane, session = window.brief.pane, window.session
    type_into(qtbot, pane.name, "The lamp wakes")
    type_into(qtbot, pane.before, "8")
    type_into(qtbot, pane.numbered, "101")
    shot = session.shot
    assert (shot.name, shot.handle_in, shot.first, shot.offset) == ("The lamp wakes", 8, 101, -900)
    qtbot.waitUntil(lambda: session.evidence.frames and session.evidence.frames[0].frame == 101, timeout=10_000)
    type_into(qtbot, pane.id, "lamp")
    assert session.playhead.shot_id == "lamp" and session.shot.proofs == "sh010"
    qtbot.mouseClick(pane.on, LEFT)
    assert not session.shot.enabled and session.reel.length == 412 - 96
    pane.note.setFocus()
    pane.note.setPlainText("Slower at the end")
    pane.name.setFocus()
    qtbot.waitUntil(lambda: session.shot.note == "Slower at the end", timeout=3000)
    pane._recipe_menu().actions()[1].trigger()
    assert session.shot.recipe == "Preview"
    type_into(qtbot, pane.id, "a/b")
    assert session.playhead.shot_id == "lamp" and "expected letters, digits" in window.notice.label.text()


def test_layers_are_added_ordered_and_looked_at(qtbot, window):
    pane, session = window.brief.pane, window.session
    qtbot.mouseClick(pane.layers.add_button, LEFT)
    qtbot.mouseClick(pane.layers.add_button, LEFT)
    rows = pane.layers._rows
    type_into(qtbot, rows[0]["frames"], "held 1001")
    type_into(qtbot, rows[1]["frames"], "1010-1020")
    type_into(qtbot, rows[1]["scene"], "comet_pass")
    layers = session.shot.layers
    assert [(y.id, y.held, y.first, y.last, y.scene) for y in layers] == [
        ("back", 1001, None, None, "lamp_wakes"),
        ("front", None, 1010, 1020, "comet_pass"),
    ]
    pane.layers._model.move(1, -1)
    assert [y.id for y in session.shot.layers] == ["front", "back"]
    qtbot.waitUntil(lambda: "Rendered as its layers" in session.planner.outlook.lacks.get("sh010", ""), timeout=10_000)
    labels = [a.text() for a in window._menu().actions()]
    assert any("sh010.front" in t for t in labels)
    session.playhead.show_shot("sh010.front")
    settled(qtbot, window)
    assert session.shot.frames[0] == 1010 and window.brief.pane.shot.id == "sh010"
    session.set_recipe("Preview")
    assert session.reel.shot("sh010").layers[0].recipe == "Preview" and session.reel.shot("sh010").recipe == "Final"
    type_into(qtbot, rows[0]["frames"], "held soon")
    assert "expected 'held' and a frame" in window.notice.label.text()


def only_night(path: Path, begin: str = "20:00", end: str = "06:00") -> None:
    free = (Weekly(days=("mon", "tue", "wed", "thu", "fri", "sat", "sun"), start=begin, end=end),)
    zone = "UTC"
    due = (datetime.now().astimezone() + timedelta(days=2)).replace(minute=0, second=0, microsecond=0)
    reel = read_reel(path)
    machines = (Machine(name="Desk", free=free, zone=zone), Machine(name="Tower"))
    save_reel(path, msgspec.structs.replace(reel, machines=machines, due=due.isoformat()))


def test_windows_and_the_due_flag_are_dragged_in_the_night_band(qtbot, open_reel, demo_path):
    only_night(demo_path)
    window = open_reel(demo_path)
    band, session = window.brief.night, window.session
    y = int(band.band.lane_top(0)) + 13
    span = band.band.spans(0)[1]
    drag(qtbot, band, QPoint(round(band.band.x_of(span.end)), y), QPoint(round(band.band.x_of(span.end + 2 * 3600)), y))
    assert session.reel.machines[0].free[0] == Weekly(days=("mon", "tue", "wed", "thu", "fri", "sat", "sun"), start="20:00", end="08:00")
    assert window.undo_action.text() == "Undo: move free hours of Desk"
    span = band.band.spans(0)[1]
    middle = (span.begin + span.end) / 2
    drag(qtbot, band, QPoint(round(band.band.x_of(middle)), y), QPoint(round(band.band.x_of(middle - 3600)), y))
    assert (session.reel.machines[0].free[0].start, session.reel.machines[0].free[0].end) == ("19:00", "07:00")
    at = snapped(span.begin - 6 * 3600)  # in the day before, which is in sight at any hour
    drag(qtbot, band, QPoint(round(band.band.x_of(at)), y), QPoint(round(band.band.x_of(at + 2 * 3600)), y))
    single = session.reel.machines[0].free[1]
    assert isinstance(single, Once)
    qtbot.mouseClick(band, LEFT, pos=QPoint(round(band.band.x_of(at + 3600)), y))
    band.setFocus()
    qtbot.keyClick(band, Qt.Key.Key_Delete)
    assert len(session.reel.machines[0].free) == 1
    due = session.reel.due_time.timestamp()
    x = round(band.band.x_of(due))
    drag(qtbot, band, QPoint(x, 4), QPoint(round(band.band.x_of(due - 6 * 3600)), 4))
    assert abs(session.reel.due_time.timestamp() - (due - 6 * 3600)) <= 1800
    assert session.reel.due_time.minute % 15 == 0 and window.undo_action.text() == "Undo: set due time"
    while session.history.undo_name:
        session.undo()
    assert session.reel == session.saved


def test_a_machine_is_edited_in_its_page_and_faults_are_told_there(qtbot, window):
    band, session = window.brief.night, window.session
    band.setFocus()
    qtbot.keyClick(band, Qt.Key.Key_Down)
    qtbot.keyClick(band, Qt.Key.Key_Return)
    from hasty_reel.desk.stages.brief.machine import MachinePage

    page = next(w for w in QApplication.topLevelWidgets() if isinstance(w, MachinePage) and w.isVisible())
    for name, text in (
        ("name", "Tower"),
        ("speed", "2,5"),
        ("workers", "4"),
        ("together", "3.2"),
        ("free", "weekends"),
        ("zone", "Europe/Oslo"),
        ("price_per_hour", "1.5"),
    ):
        page.fields[name].committed.emit(text)
    tower = session.reel.machines[1]
    assert (tower.name, tower.speed, tower.workers, tower.together, tower.zone, tower.price_per_hour) == (
        "Tower",
        2.5,
        4,
        3.2,
        "Europe/Oslo",
        1.5,
    )
    assert tower.free == (Weekly(days=("sat", "sun")),) and window.undo_action.text() == "Undo: set price of Tower"
    page.fields["free"].committed.emit("sometimes")
    assert "expected days and times" in page.fault.text() and session.reel.machines[1].free == tower.free
    page.fields["zone"].committed.emit("Mars")
    assert "tz database" in page.fault.text()
    page.close()
    window.brief.add_machine()
    assert len(session.reel.machines) == 3


def test_a_day_with_a_change_of_the_clocks_keeps_its_length(monkeypatch):
    """Directive 2000/84/EC: 25 October 2026 has 25 hours in the EU, 28 March 2027 has 23."""
    import time

    monkeypatch.setenv("TZ", "Europe/Oslo")
    time.tzset()
    try:
        begin = datetime(2026, 10, 24, 12).timestamp()
        nights = local_midnights(begin, begin + 3 * DAY)
        assert [round((b - a) / 3600) for a, b in pairwise(nights)] == [24, 25, 24]
        begin = datetime(2027, 3, 27, 12).timestamp()
        nights = local_midnights(begin, begin + 2 * DAY)
        assert [round((b - a) / 3600) for a, b in pairwise(nights)] == [24, 23]
    finally:
        monkeypatch.undo()
        time.tzset()


def test_draft_cuts_reach_proofs_and_nothing_else(qtbot, window, tmp_path):
    session, row = window.session, window.ledger.recipe_row
    before, seconds = session.reel, session.plan.total_seconds
    window.show_stage(PROOFS)
    plain = window.proofs.order_bar._model.asked.order(window.session)
    qtbot.mouseClick(row.switch, LEFT)
    assert session.own.draft_on and window.banner.isVisible() and "not for delivery" in window.banner.words
    order_ = window.proofs.order_bar._model.asked.order(window.session)
    assert order_.draft == "First look" and order_.samples < plain.samples and order_.recipe.bounces == 1
    assert session.reel is before and not session.changed and session.history.undo_name is None
    session.planner.replan()
    settled(qtbot, window)
    assert session.plan.total_seconds == pytest.approx(seconds) and session.plan.recipe == session.recipe
    assert session.save(tmp_path / "b.reel") and "draft" not in (tmp_path / "b.reel").read_text().lower()
    window.show_stage(RUN)
    qtbot.waitUntil(lambda: window.run.final.run is not None and window.run.final._looking is None, timeout=10_000)
    assert not window.run.go_button.isEnabled() and "Draft cuts are on: finals cannot start" in window.run.note.text()
    window.run.go()
    assert not window.run.final.busy
    qtbot.mouseClick(row.switch, LEFT)
    assert not window.banner.isVisible() and window.run.go_button.isEnabled()


def test_draft_cuts_are_changed_and_kept(qtbot, window):
    page = window.ledger.recipe_row._edit_cuts()
    page._model.duplicate()
    page.fields["name"].committed.emit("Tiny")
    page.fields["samples"].committed.emit("2")
    page.fields["size"].committed.emit("none")
    cut = DRAFT_CUTS.read().current
    assert (cut.name, cut.samples, cut.size) == ("Tiny", 2, None)
    page.fields["samples"].committed.emit("0")
    assert "samples 0; expected 1 to 65536" in window.notice.label.text() and DRAFT_CUTS.read().current == cut
    page.fields["bounces"].committed.emit("many")
    assert "is no number" in window.notice.label.text()
    page._model.remove()
    assert [c.name for c in DRAFT_CUTS.read().items] == ["First look", "Light check"]
    page.close()


def test_recipes_are_duplicated_renamed_compared_and_departed_from(qtbot, window):
    button, session = window.ledger.recipe_row.recipe, window.session
    button.duplicate()
    assert session.shot.recipe == "Final 2" and session.reel.shot("sh020").recipe == "Final"
    button.rename("Night")
    assert session.shot.recipe == "Night" and window.undo_action.text() == "Undo: rename recipe Final 2"
    row = window.ledger.rows["bounces"]
    row.menu().actions()[0].trigger()
    type_into(qtbot, row.field, "2")
    assert session.shot.departures == {"bounces": 2} and session.reel.recipe("Night").bounces == 6
    table = button.compare()
    heads = [table.table.horizontalHeaderItem(k).text() for k in range(table.table.columnCount())]
    assert heads == ["Final", "Night", "Preview", "sh010 departs"]
    place = list(SETTING).index("bounces")
    assert table.table.item(place, 3).text() == "2" and table.table.item(place, 3).font().bold()
    table.close()
    row.menu().actions()[1].trigger()
    assert session.shot.departures == {} and session.recipe.bounces == 6


def test_changes_are_kept_while_they_are_not_saved_and_taken_up_after_a_crash(qtbot, open_reel, demo_path):
    window = open_reel(demo_path)
    window.session.set_line("bounces", 2)
    qtbot.waitUntil(lambda: autosave_path(demo_path).is_file(), timeout=6000)
    assert read_reel(demo_path).recipe("Final").bounces == 6
    window.session.writer.release()  # the first one never closed: as after a crash, when the system frees its lock
    again = open_reel(demo_path)
    assert "were not saved" in again.notice.label.text()
    qtbot.mouseClick(again.notice.choices[0], LEFT)
    assert again.session.recipe.bounces == 2 and again.session.changed
    assert again.undo_action.text() == "Undo: take up unsaved changes"
    again.session.save()
    assert read_reel(demo_path).recipe("Final").bounces == 2 and not autosave_path(demo_path).exists()


def test_one_goes_back_to_an_earlier_save(qtbot, window, demo_path):
    session = window.session
    for bounces in (5, 4):
        session.set_line("bounces", bounces)
        assert session.save()
    saves = earlier_saves(demo_path)
    assert [read_reel(p).recipe("Final").bounces for p in saves] == [5, 6]
    go_back(session, saves[1])
    assert session.recipe.bounces == 6 and session.changed and session.history.undo_name.startswith("Go back to the save of")


def drop(window, path: Path) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    place = QPoint(300, 300)
    enter = QDragEnterEvent(place, Qt.DropAction.CopyAction, data, LEFT, Qt.KeyboardModifier.NoModifier)
    QApplication.sendEvent(window, enter)
    assert enter.isAccepted()
    QApplication.sendEvent(window, QDropEvent(QPointF(place), Qt.DropAction.CopyAction, data, LEFT, Qt.KeyboardModifier.NoModifier))


def test_shots_are_exported_dropped_and_brought_in(qtbot, window, tmp_path):
    session = window.session
    for ending in ("otio", "csv"):
        path = tmp_path / f"shots.{ending}"
        export_shots(session, path)
        qtbot.waitUntil(path.is_file, timeout=10_000)
        before = len(session.reel.shots)
        drop(window, path)
        qtbot.waitUntil(lambda n=before: len(session.reel.shots) == 2 * n, timeout=10_000)
        assert window.undo_action.text() == f"Undo: bring in {before} shots"
    bad = tmp_path / "bad.otio"
    bad.write_text("{")
    drop(window, bad)
    qtbot.waitUntil(lambda: "not an OpenTimelineIO file" in window.notice.label.text(), timeout=10_000)
    drop(window, tmp_path / "picture.psd")
    assert "expected a reel, a picture of a sequence, or a file ending in .otio or .csv" in window.notice.label.text()


def test_a_dropped_or_new_reel_opens_and_is_remembered(qtbot, window, tmp_path):
    window.files.new()
    opened = QApplication.instance().property("open_window")
    qtbot.addWidget(opened)
    try:
        assert opened.session.untitled and opened.session.reel.name == "Untitled" and not window.isVisible()
        qtbot.waitUntil(lambda: opened.session.planner.outlook.deadline is not None, timeout=10_000)
        assert "No proof" in opened.session.planner.outlook.lacks["sh010"]
        assert any(
            "tidal-orrery" in a.text() for a in next(a for a in opened._menu().actions() if a.text() == "Open recent").menu().actions()
        )
    finally:
        opened.close()


def test_the_film_band_goes_anywhere_in_the_film(qtbot, window):
    film, session = window.brief.film, window.session
    y = round(film.y_of(session.reel.places["sh040"] + 10.5))
    qtbot.mouseClick(film, LEFT, pos=QPoint(30, y))
    assert session.playhead.shot_id == "sh040" and abs(session.playhead.frame - 1015) <= 1
    heights = [film.y_of(p) for p in session.reel.places.values()]
    assert (heights[1] - heights[0]) / (heights[2] - heights[1]) == pytest.approx(96 / 72), "true proportion"
    assert session.history.undo_name is None
