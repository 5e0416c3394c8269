"""The finder in the real window."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication

from hasty_reel.desk.finder import Finder
from hasty_reel.desk.stagesof import BUDGET, COMPARE

KEY = Qt.Key


@pytest.fixture
def window(open_reel, demo_path):
    return open_reel(demo_path)


def opened(qtbot, window, by_key: bool = False) -> Finder:
    if by_key:
        qtbot.keyClick(window, KEY.Key_K, Qt.KeyboardModifier.ControlModifier)
    else:  # no screen gives the window its keys back when a dialog goes
        window.find_action.trigger()
    qtbot.waitUntil(lambda: window.findChild(Finder) is not None, timeout=5_000)
    return window.findChild(Finder)


def shown(finder: Finder) -> list[str]:
    return [finder.list.item(k).text() for k in range(finder.list.count())]


def test_stages_pages_settings_shots_and_frames_are_found_and_gone_to(qtbot, window):
    session = window.session
    window.show_stage(BUDGET)
    finder = opened(qtbot, window, by_key=True)
    qtbot.keyClicks(finder.field, "compa")
    assert shown(finder)[0] == "Compare"
    qtbot.keyClick(finder.field, KEY.Key_Return)
    assert window.stage.currentIndex() == COMPARE
    qtbot.waitUntil(lambda: window.findChild(Finder) is None, timeout=5_000)
    finder = opened(qtbot, window)
    qtbot.keyClicks(finder.field, "see it")
    qtbot.keyClick(finder.field, KEY.Key_Return)
    assert window.stage.currentIndex() == BUDGET and window.budget.pages.index == 1
    qtbot.waitUntil(lambda: window.findChild(Finder) is None, timeout=5_000)
    finder = opened(qtbot, window)
    qtbot.keyClicks(finder.field, "1040")
    assert shown(finder)[0] == f"Frame 1040 of {session.playhead.shot_id}"
    qtbot.keyClick(finder.field, KEY.Key_Return)
    assert session.playhead.frame == 1040
    qtbot.waitUntil(lambda: window.findChild(Finder) is None, timeout=5_000)
    finder = opened(qtbot, window)
    other = session.reel.shots[2]
    qtbot.keyClicks(finder.field, other.id)
    qtbot.keyClick(finder.field, KEY.Key_Down)
    qtbot.keyClick(finder.field, KEY.Key_Up)
    qtbot.keyClick(finder.field, KEY.Key_Return)
    assert session.playhead.shot_id == other.id


def test_a_setting_that_is_folded_away_is_put_in_sight(qtbot, window):
    row = window.ledger.rows["fog_cut"]
    qtbot.waitUntil(lambda: window.session.plan is not None and not row.isVisible(), timeout=60_000)
    finder = opened(qtbot, window)
    qtbot.keyClicks(finder.field, "ray cut")
    assert shown(finder) == ["Ray cut-off"]
    qtbot.keyClick(finder.field, KEY.Key_Return)
    assert row.isVisible() and QApplication.focusWidget() is row.field


def test_every_action_of_the_menus_is_found_with_its_keys(qtbot, window):
    finder = opened(qtbot, window)
    qtbot.keyClicks(finder.field, "try settings")
    thing = finder.list.item(0).data(Qt.ItemDataRole.UserRole)
    assert (thing.words, thing.kind, thing.keys) == ("Try settings", "command", "Ctrl+T")
    qtbot.keyClick(finder.field, KEY.Key_Escape)
    named = {action.text().rstrip(" …").lower() for action in window.actions() if action.isEnabled()} - {"find"}
    found = {thing.words.lower() for thing in finder._things}
    assert named <= found
