"""Files in the window: nothing overwritten unasked, one writer for a reel, a stranger's first minute."""

from __future__ import annotations

from pathlib import Path

import msgspec
import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication, QFileDialog, QMessageBox

from hasty_reel.desk.app import show_reel
from hasty_reel.desk.asking import ask_target
from hasty_reel.desk.start import StartWindow
from hasty_reel.errors import ReelError
from hasty_reel.own.finishmemory import finish_memory
from hasty_reel.pictures.frame import Picture
from hasty_reel.pictures.limits import PictureLimits, current_limits
from hasty_reel.pictures.writing import write_picture
from hasty_reel.reel.file import read_reel, save_reel
from hasty_reel.reel.saves import autosave_path, earlier_saves
from hasty_reel.reel.untitled import left_untitled
from hasty_reel.reel.writer import ReelWriter

LEFT = Qt.MouseButton.LeftButton
YES, NO = QMessageBox.StandardButton.Yes, QMessageBox.StandardButton.No


@pytest.fixture
def answers(monkeypatch):
    """Stands for the person at the dialogs: names typed, and what is answered to questions."""

    class Person:
        name = ""
        kind = "Reels (*.reel)"
        answer = NO
        asked: list[str] = []

    person = Person()
    person.asked = []

    def question(parent, title, text, *buttons):
        person.asked.append(text)
        return person.answer

    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (person.name, person.kind))
    monkeypatch.setattr(QMessageBox, "question", question)
    return person


@pytest.fixture
def window(open_reel, demo_path):
    return open_reel(demo_path)


def choice(window, words: str):
    return next(b for b in window.notice.choices if b.text() == words)


def close_opened() -> None:
    opened = QApplication.instance().property("open_window")
    if opened is not None:
        opened._may_leave = lambda: True
        opened.close()


# -- names typed without their ending


def test_a_name_typed_without_its_ending_does_not_overwrite_unasked(window, answers, tmp_path):
    """The dialog asks about the name as typed; the file that would be lost has the ending."""
    there = tmp_path / "tide.reel"
    save_reel(there, msgspec.structs.replace(window.session.reel, name="Precious"))
    answers.name = str(tmp_path / "tide")
    assert not window.files.save_as() and read_reel(there).name == "Precious"
    assert answers.asked == [f"'tide.reel' is in {tmp_path} already. Replace it?"]
    answers.answer = YES
    assert window.files.save_as() and read_reel(there).name == window.session.reel.name
    assert [read_reel(p).name for p in earlier_saves(there)] == ["Precious"], "what was replaced is kept among the saves"
    assert window.session.path == there and window.files.save() and len(answers.asked) == 2


def test_an_ending_of_another_kind_is_part_of_the_name(window, answers, tmp_path):
    answers.name = str(tmp_path / "shots.csv")
    assert window.files.save_as() and window.session.path == tmp_path / "shots.csv.reel"


def test_exports_ask_too(qtbot, window, answers, tmp_path):
    (tmp_path / "shots.csv").write_text("mine")
    answers.name, answers.kind = str(tmp_path / "shots"), "CSV table (*.csv)"
    window.files.export()
    assert answers.asked and (tmp_path / "shots.csv").read_text() == "mine"
    answers.answer = YES
    window.files.export()
    qtbot.waitUntil(lambda: (tmp_path / "shots.csv").read_text().startswith("id,name"), timeout=10_000)


def test_nothing_is_asked_where_nothing_is_lost(window, answers, tmp_path):
    answers.name = str(tmp_path / "new")
    kinds = {".png": "PNG"}
    assert ask_target(window, "t", tmp_path, kinds) == tmp_path / "new.png" and answers.asked == []
    answers.name = ""
    assert ask_target(window, "t", tmp_path, kinds) is None


# -- the open reel opened again, two windows, other programs


def test_opening_the_open_reel_again_shows_what_was_saved_on_the_way(qtbot, window, demo_path):
    window.session.set_line("bounces", 2)
    window._may_leave = window.files.save  # as one answers 'Save'
    assert window.open_reel(demo_path)
    opened = QApplication.instance().property("open_window")
    qtbot.addWidget(opened)
    try:
        assert opened.session.recipe.bounces == 2 and not opened.session.read_only
    finally:
        close_opened()


def test_a_second_window_reads_only_says_who_has_it_and_spares_the_autosave(qtbot, open_reel, demo_path, window):
    window.session.set_line("bounces", 2)
    qtbot.waitUntil(lambda: autosave_path(demo_path).is_file(), timeout=6000)
    second = open_reel(demo_path)
    assert second.session.read_only and "open in another window on this machine" in second.notice.label.text()
    assert "(read only)" in second.windowTitle() and second.session.left_unsaved is None
    second.session.set_line("bounces", 5)
    qtbot.wait(1800)
    assert read_reel(autosave_path(demo_path)).recipe("Final").bounces == 2, "the first window's changes are still kept"
    assert not second.session.save() and read_reel(demo_path).recipe("Final").bounces == 6
    second.session.let_go()
    assert autosave_path(demo_path).is_file()
    window.session.save()
    window.close()
    qtbot.mouseClick(choice(second, "Try again"), LEFT)
    assert not second.session.read_only
    assert not second.session.save(), "the first window's save is not overwritten unasked"
    assert "was changed by another program" in second.notice.label.text()
    qtbot.mouseClick(choice(second, "Overwrite it"), LEFT)
    assert read_reel(demo_path).recipe("Final").bounces == 5 and read_reel(earlier_saves(demo_path)[0]).recipe("Final").bounces == 2


def changed_elsewhere(path: Path) -> None:
    save_reel(path, msgspec.structs.replace(read_reel(path), name="Changed elsewhere"))


def test_a_file_changed_by_another_program_is_noticed_before_saving(qtbot, window, demo_path):
    session = window.session
    session.set_line("bounces", 2)
    changed_elsewhere(demo_path)
    assert not window.files.save() and read_reel(demo_path).name == "Changed elsewhere"
    qtbot.mouseClick(choice(window, "Keep both"), LEFT)
    beside = demo_path.with_name("tidal-orrery-2.reel")
    assert session.path == beside and read_reel(beside).recipe("Final").bounces == 2 and read_reel(demo_path).name == "Changed elsewhere"


def test_reloading_what_another_program_wrote_is_an_edit_that_can_be_undone(qtbot, window, demo_path):
    session = window.session
    session.set_line("bounces", 2)
    changed_elsewhere(demo_path)
    window.files.save()
    qtbot.mouseClick(choice(window, "Reload it"), LEFT)
    assert session.reel.name == "Changed elsewhere" and session.recipe.bounces == 6 and not session.changed
    session.undo()
    assert session.recipe.bounces == 2 and session.save()


def test_a_file_that_was_only_touched_is_saved_without_a_question(window, demo_path):
    window.session.set_line("bounces", 2)
    demo_path.touch()
    assert window.files.save() and read_reel(demo_path).recipe("Final").bounces == 2


def test_saving_over_a_reel_that_is_open_elsewhere_is_refused(window, tmp_path):
    other = tmp_path / "b.reel"
    save_reel(other, window.session.reel)
    holder = ReelWriter(other)
    assert holder.take()
    assert not window.session.save(other) and "is open in another window" in window.notice.label.text()
    holder.release()


# -- without a file


@pytest.fixture
def start(qtbot, qapp):
    made = StartWindow(show_reel)
    qtbot.addWidget(made)
    made.show()
    yield made
    close_opened()
    made.close()


def opened_window(qtbot):
    opened = QApplication.instance().property("open_window")
    opened._may_leave = lambda: True
    return opened


def test_a_stranger_opens_the_demo_reel_with_one_click(qtbot, start):
    assert [e.text() for e in start.entries.values()][:3] == ["Open the demo reel", "Guided tour", "New reel"]
    assert start.entries["demo"].hasFocus() or not start.isActiveWindow()
    qtbot.mouseClick(start.entries["demo"], LEFT, pos=QPoint(20, 20))
    opened = opened_window(qtbot)
    assert opened.session.reel.name == "Tidal Orrery" and not start.isVisible()
    qtbot.waitUntil(lambda: opened.session.plan is not None, timeout=20_000)


def test_a_new_reel_asks_for_its_place_only_when_it_is_saved(qtbot, start, answers, tmp_path):
    qtbot.mouseClick(start.entries["new"], LEFT, pos=QPoint(20, 20))
    opened = opened_window(qtbot)
    session = opened.session
    place = session.path
    assert session.untitled and answers.asked == [] and "(not saved yet)" in opened.windowTitle()
    session.set_line("bounces", 3)
    (session.proofs_root / "sh010").mkdir(parents=True)
    (session.proofs_root / "sh010" / "a.txt").write_text("a proof")
    answers.name = str(tmp_path / "moon")
    assert opened.files.save() and session.path == tmp_path / "moon.reel" and not session.untitled
    saved = read_reel(tmp_path / "moon.reel")
    assert saved.recipes[0].bounces == 3 and saved.name == "moon" and not session.changed
    assert (tmp_path / "proofs" / "sh010" / "a.txt").is_file() and not place.parent.exists(), "its proofs went with it"


def test_a_new_reel_that_nothing_was_done_with_leaves_nothing_behind(qtbot, start):
    start.new()
    opened = opened_window(qtbot)
    place = opened.session.path.parent
    assert place.is_dir()
    opened.close()
    assert not place.exists() and left_untitled() == []


def test_a_reel_without_a_name_survives_a_crash_and_is_offered(qtbot, qapp, start):
    start.new()
    opened = opened_window(qtbot)
    opened.session.set_line("bounces", 3)
    qtbot.waitUntil(lambda: autosave_path(opened.session.path).is_file(), timeout=6000)
    opened.session.writer.release()  # as the system does when the process dies
    again = StartWindow(show_reel)
    qtbot.addWidget(again)
    assert [p for p, _ in again.nameless] == [opened.session.path]
    assert again.open(again.nameless[0][0])
    second = opened_window(qtbot)
    assert "were not saved" in second.notice.label.text()
    second.session.take_up()
    assert second.session.recipe.bounces == 3
    second.session.let_go()


def test_what_a_crash_left_of_a_reel_without_a_name_outlives_a_window_closed_undecided(qtbot, qapp, start):
    start.new()
    opened = opened_window(qtbot)
    path = opened.session.path
    opened.session.set_line("bounces", 3)
    qtbot.waitUntil(lambda: autosave_path(path).is_file(), timeout=6000)
    opened.session.writer.release()  # as the system does when the process dies
    assert show_reel(path, "")
    second = opened_window(qtbot)
    second.close()  # neither taken up nor let go
    assert autosave_path(path).is_file() and [p for p, _ in left_untitled()] == [path]
    opened.session.let_go()


def test_a_second_window_on_a_reel_without_a_name_never_throws_it_away(qtbot, qapp, start):
    start.new()
    first = opened_window(qtbot)
    path = first.session.path
    assert show_reel(path, "")
    second = opened_window(qtbot)
    assert second.session.read_only
    second.session.let_go()
    second.close()
    assert path.is_file()
    first.close()
    assert not path.exists(), "the window that holds it may, since nothing was done with it"


def test_a_first_save_that_fails_leaves_no_copied_proofs(qtbot, start, tmp_path, monkeypatch):
    start.new()
    session = opened_window(qtbot).session
    (session.proofs_root / "sh010").mkdir(parents=True)

    def full(*args):
        raise ReelError("a.reel: cannot be saved (No space left on device); nothing was changed.")

    monkeypatch.setattr("hasty_reel.studio.openreel.save_keeping", full)
    assert not session.save(tmp_path / "moon.reel") and list(tmp_path.glob("[!.]*")) == []
    assert session.untitled and (session.proofs_root / "sh010").is_dir()
    session.let_go()


def test_a_folder_of_frames_becomes_a_reel(qtbot, start, tmp_path):
    for k in range(1001, 1006):
        write_picture(tmp_path / "rings" / f"rings.{k}.exr", Picture(np.zeros((36, 64, 3), np.float32)))
    start.from_frames(tmp_path / "rings")
    qtbot.waitUntil(lambda: not start.isVisible(), timeout=20_000)
    opened = opened_window(qtbot)
    assert [(s.id, s.first, s.last) for s in opened.session.reel.shots] == [("rings", 1001, 1005)]
    assert opened.session.reel.picture_size == (64, 36) and "1 shot from rings" in opened.notice.label.text()
    assert choice(opened, "Bring them in as a proof")


def test_what_cannot_be_opened_is_said_and_the_window_stays(qtbot, start, tmp_path):
    (tmp_path / "a.reel").write_text("{")
    assert not start.open(tmp_path / "a.reel") and start.isVisible() and "a.reel" in start.notice.label.text()
    start.from_frames(tmp_path)
    qtbot.waitUntil(lambda: "no numbered pictures" in start.notice.label.text(), timeout=10_000)


# -- small things


def test_the_largest_picture_and_the_memory_of_finishing_are_set_in_the_window(qtbot, window):

    from hasty_reel.desk.preferences import PreferencesPage

    current_limits.cache_clear()
    page = PreferencesPage(window)
    qtbot.addWidget(page)
    assert page.fields["megapixels"].text() == "256"
    page.fields["megapixels"].committed.emit("100")
    assert current_limits() == PictureLimits(megapixels=100.0)
    page.fields["channels"].committed.emit("-4")
    assert "expected 1 to" in page.fault.text() and current_limits().channels == 64
    page.fields["channels"].committed.emit("many")
    assert "expected a whole number" in page.fault.text()
    page.fields["memory"].committed.emit("0,75 GB")
    assert finish_memory() == 3 << 28 and page.fields["memory"].text() == "0.75"
    page.fields["memory"].committed.emit("0.1")
    assert "expected 0.5 to" in page.fault.text() and finish_memory() == 3 << 28
    assert any(a.text() == "Preferences …" for a in window._menu().actions())


def test_a_long_set_of_frames_shows_its_beginning(window):
    field = window.proofs.order_bar.frames
    window.proofs.order_bar._model.choose(tuple(range(1001, 1097, 3)))
    assert len(field.text()) > 10 and field.cursorPosition() == 0


def test_the_queue_and_the_order_bar_say_time_left(qtbot, open_reel, small_path):
    window = open_reel(small_path)
    proofs = window.proofs
    bar = proofs.order_bar
    window.session.proofs.queue.pause()
    bar._model.choose((1001, 1002, 1003))
    bar._model.order_now()
    assert "paused" in proofs.queue_page.left.text()
    entry = window.session.proofs.queue.entries[0]
    assert entry.expected is not None and entry.expected > 0 and entry.seconds_left == pytest.approx(entry.expected)
    entry.expected = 600.0
    window.session.proofs.toggle()
    qtbot.waitUntil(lambda: "left" in bar.note.text() or entry.ended, timeout=30_000)
    qtbot.waitUntil(lambda: entry.ended and not window.session.proofs.busy, timeout=60_000)
    assert entry.state == "done" and entry.seconds_left == 0.0 and "left" not in bar.note.text()


def test_draft_cuts_that_cannot_be_read_are_told_and_those_that_ship_count(qtbot, open_reel, demo_path):
    from hasty_reel.own.draftcuts import DRAFT_CUTS, SHIPPED

    DRAFT_CUTS.path.parent.mkdir(parents=True, exist_ok=True)
    DRAFT_CUTS.path.write_text("{")
    window = open_reel(demo_path)
    assert window.session.own.cuts == SHIPPED
    qtbot.waitUntil(lambda: DRAFT_CUTS.path.name in window.notice.label.text(), timeout=5000)
