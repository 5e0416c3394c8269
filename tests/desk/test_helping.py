"""Help where one is: the menu of everything, the guide, what a thing is, preferences, the tour, faults that are told."""

from __future__ import annotations

import itertools

import pytest
from PySide6.QtCore import QPoint, QSize, Qt
from PySide6.QtGui import QAction, QColor
from PySide6.QtWidgets import QAbstractButton, QApplication, QComboBox, QLineEdit, QListWidget, QMenu, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.faultreport import DetailsPage, FaultTeller, ended_words
from hasty_reel.desk.helpwindow import said_of
from hasty_reel.desk.placement import LEAST_HEIGHT, LEAST_WIDTH, room_for
from hasty_reel.desk.preferences import PreferencesPage
from hasty_reel.desk.window import keep_window
from hasty_reel.desk.windowmenu import frame_menu, main_menu
from hasty_reel.errors import WrongInput
from hasty_reel.own.logbook import EndedBadly
from hasty_reel.own.preferences import Preferences, keep_preferences, preferences, preferences_path


@pytest.fixture
def window(open_reel, demo_path):
    return open_reel(demo_path)


def entries(menu: QMenu) -> list[QAction]:
    """All actions of a menu and of the menus in it."""
    found = []
    for action in menu.actions():
        found += entries(action.menu()) if action.menu() is not None else [action]
    return found


def test_the_menu_has_every_command_with_its_keys(window):
    menu = main_menu(window)
    there = entries(menu)
    missing = [a.text() for a in window.actions() if a not in there and a.text() != "Menu"]
    assert missing == []
    assert [a.text().replace("&", "") for a in menu.actions()] == ["Reel", "Edit", "Shots", "Frames", "Stages", "Help"]
    head = window.session.playhead
    before = head.frame
    next(a for a in there if a.text().startswith("One frame on")).trigger()
    assert head.frame == before + 1
    assert [a.text() for a in there if a.isChecked() and a in window.stage_actions] == ["Brief"]


def test_a_right_click_on_a_frame_says_what_can_be_done_with_it(window):
    head = window.session.playhead
    menu = frame_menu(window, head.frame + 5)
    first, last = head.frame, head.frame + 5
    next(a for a in menu.actions() if a.text().startswith("Select from")).trigger()
    assert head.selection == (first, last)
    next(a for a in frame_menu(window, last).actions() if a.text().startswith("Clear")).trigger()
    assert head.selection is None
    next(a for a in frame_menu(window, last).actions() if a.text() == f"Go to frame {last}").trigger()
    assert head.frame == last


def test_help_opens_at_the_stage_one_is_in_is_searched_and_goes_with_the_window(qtbot, window):
    window.show_stage(3)
    page = window.open_help()
    assert page.text.toPlainText().startswith("Budget") and page.list.currentItem().text() == "Budget"
    qtbot.keyClicks(page.field, "shimmer")
    assert page.text.textCursor().selectedText().lower() == "shimmer"
    page.field.setText("nobody wrote this")
    assert "Nothing in the guide" in page.text.toPlainText()
    window.keys_action.trigger()
    assert "Ctrl+K" in page.text.toPlainText()
    page._follow(page.text.document().baseUrl().resolved("output.md"))
    assert page.text.toPlainText().startswith("Output")
    window.close()
    assert not page.isVisible()


def test_what_a_thing_is_is_said_of_figures_and_headings(window):
    said, told = said_of(window.clock, QPoint())
    assert "due" in dict(told) and said
    said, told = said_of(window.ledger.rows["bounces"].field, QPoint())
    assert "surface to surface" in said and "bounces" in dict(told)
    assert "seconds by part" in said_of(window.strip, QPoint())[0]
    assert "worst frames" in said_of(window.total, QPoint())[0]
    assert said_of(None, QPoint()) == ("", [])


def test_preferences_are_kept_and_what_makes_no_sense_is_said(qtbot, window):
    page = PreferencesPage(window)
    qtbot.addWidget(page)
    next(a for a in page._sizes_menu().actions() if a.text() == "125 %").trigger()
    next(a for a in page._surrounds_menu().actions() if a.text() == "middle grey").trigger()
    assert preferences() == Preferences(text_size=125, surround="grey") and page.text_size.text() == "125 %"
    preferences_path().write_text('{"text_size": 400}')
    page.refresh()
    assert "text_size: 400; expected one of 100" in page.fault.text() and page.text_size.text() == "100 %"
    preferences_path().unlink()
    page._as_shipped()
    assert preferences() == Preferences()
    with pytest.raises(WrongInput, match="surround: 'pink'; expected one of dark, grey"):
        keep_preferences(surround="pink")


def test_a_fault_is_told_in_the_window_and_details_are_copied_without_names(qtbot, window, monkeypatch):
    import sys
    import threading

    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    monkeypatch.setattr(threading, "excepthook", threading.excepthook)
    keep_window(window)
    teller = FaultTeller(QApplication.instance())
    sys.excepthook(ValueError, ValueError("no tide"), None)
    assert "ValueError: no tide" in window.notice.label.text() and window.notice.choices[0].text() == "Details for a report …"
    teller.deleteLater()
    QApplication.instance().setProperty("open_window", None)
    page = DetailsPage(window)
    qtbot.addWidget(page)
    page.copy.click()
    assert "Qt 6" in QApplication.clipboard().text() and "Screens:" in QApplication.clipboard().text()
    words = ended_words([EndedBadly("orrery/tidal-orrery.reel", "2026-12-01T22:10:03+00:00")])
    assert words == (
        "The window of 2026-12-01 22:10 ended without being closed with 'tidal-orrery' open. What was edited was kept as it went."
    )
    assert ended_words([]) == ""


def test_the_tour_leads_from_stage_to_stage_by_what_is_done_and_is_left_at_any_time(qtbot, window):
    assert not window.tour_banner.isVisible()
    window.tour_action.trigger()
    banner = window.tour_banner
    assert banner.isVisible() and window.stage.currentIndex() == 0 and banner.next_button.text() == "Skip this"
    window.session.playhead.show_shot("sh020")
    assert banner.asks.text() == "Done." and banner.next_button.text() == "Next"
    banner.next_button.click()
    assert window.stage.currentIndex() == 1 and "2 of 7" in banner.words.text()
    banner.next_button.click()
    assert window.stage.currentIndex() == 2
    banner.leave_button.click()
    assert not banner.isVisible() and window.stage.currentIndex() == 2


@pytest.mark.parametrize("free, size", [((1280, 720), (1280, 688)), ((1366, 728), (1280, 696)), ((1920, 1040), (1280, 800))])
def test_windows_fit_what_panels_leave_of_a_screen(free, size):
    assert room_for(QSize(*free)) == size
    assert room_for(QSize(800, 500)) == (LEAST_WIDTH, LEAST_HEIGHT), "less it cannot be laid out in"


def luminance(colour: QColor) -> float:
    parts = (p / 12.92 if p <= 0.03928 else ((p + 0.055) / 1.055) ** 2.4 for p in (colour.redF(), colour.greenF(), colour.blueF()))
    return sum(w * p for w, p in zip((0.2126, 0.7152, 0.0722), parts))


def test_words_stand_out_from_their_ground():
    """Contrast of 4.5 : 1 for words (WCAG 2.2, success criterion 1.4.3, its formula)."""
    grounds = (theme.SHELL, theme.PAGE, theme.STAGE, theme.WELL, theme.PRESSED)
    for ink, ground in itertools.product((theme.INK, theme.INK2, theme.INK3, theme.OFF, theme.LAGOON, theme.AMBER, theme.CORAL), grounds):
        light, dark = sorted((luminance(ink), luminance(ground)), reverse=True)
        assert (light + 0.05) / (dark + 0.05) >= 4.5, f"{ink.name()} on {ground.name()}"
    assert (luminance(QColor("white")) + 0.05) / 0.05 == pytest.approx(21.0), "the largest there is"


def test_everything_that_takes_keys_has_a_name(qtbot, window):
    """WCAG 2.2, success criterion 4.1.2: name, role, value."""
    kinds = (QAbstractButton, QLineEdit, QComboBox, QListWidget)
    nameless = set()
    for stage in range(7):
        window.show_stage(stage)
        QApplication.processEvents()
        for widget in window.findChildren(QWidget):
            if isinstance(widget, kinds) and widget.focusPolicy() & Qt.FocusPolicy.TabFocus and widget.isVisibleTo(window):
                text = widget.text() if isinstance(widget, QAbstractButton) else ""
                if not (widget.accessibleName().strip() or text.strip() or widget.toolTip().strip()):
                    nameless.add(f"{type(widget).__name__} in {type(widget.parentWidget()).__name__}")
    assert nameless == set()
