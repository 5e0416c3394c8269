"""Starting the application."""

from __future__ import annotations

import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from hasty_reel.desk.screen import draw_offscreen, need_screen
from hasty_reel.errors import HastyReelError, WrongInput
from hasty_reel.own.preferences import Preferences, preferences
from hasty_reel.share.integration import DATA

if TYPE_CHECKING:
    from hasty_reel.desk.window import ReelWindow

READY_MS = 1500
GIVE_UP_MS = 30_000


def open_window(path: Path | None, picture: Path | None = None) -> int:
    """Open a reel in a window and stay until it is closed.

    Parameters
    ----------
    path : the reel; None opens the window with what one can do without one
    picture : where to save a picture of the window once its plan is there; the window closes then

    Raises
    ------
    HastyReelError
        When the reel cannot be opened, there is no screen, or the picture cannot be saved.
    """
    if picture is not None:
        draw_offscreen()
    need_screen()
    if picture is not None and not picture.parent.is_dir():
        raise WrongInput(f"{picture}: there is no folder {picture.parent}; expected a place where a picture can be saved.")
    from hasty_reel.desk import theme
    from hasty_reel.desk.faultreport import FaultTeller, ended_words, show_details
    from hasty_reel.own.logbook import OpenMark, begin_log, end_log, ended_badly

    ended = [] if picture is not None else ended_badly()
    held = _held_preferences()
    if held.text_size != 100 and "QT_SCALE_FACTOR" not in os.environ:
        os.environ["QT_SCALE_FACTOR"] = f"{held.text_size / 100:g}"
    theme.set_surround(held.surround)
    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)
    app.setApplicationName("Hasty Reel")
    app.setDesktopFileName("hasty-reel")
    app.setWindowIcon(QIcon(str(DATA / "icons" / "hasty-reel-256.png")))
    theme.apply(app)
    faults: list[str] = []
    if path is None:
        from hasty_reel.desk.start import StartWindow

        window: StartWindow | ReelWindow = StartWindow(show_reel)
        if picture is not None:
            QTimer.singleShot(READY_MS, lambda: _take(window, picture, faults))
    else:
        window = reel_window(path)
        if picture is not None:
            _picture_when_ready(window, picture, faults)
    window.show()
    if picture is not None:
        status = app.exec()
    else:
        begin_log()
        mark = OpenMark(str(path or ""))
        FaultTeller(app)
        if words := ended_words(ended):
            window.notice.ask(words, {"Details for a report …": lambda: show_details(window), "Go on": window.notice.hide})
        status = app.exec()
        mark.close()
        end_log()
    if faults:
        raise WrongInput(faults[0])
    return int(status)


def reel_window(path: Path) -> ReelWindow:
    """Make the window of a reel; it is not shown yet.

    Raises
    ------
    HastyReelError
        When the reel cannot be opened.
    """
    from hasty_reel.desk.eventloop import QtEventLoop
    from hasty_reel.desk.window import ReelWindow, keep_window
    from hasty_reel.studio.session import Session

    window = ReelWindow(Session(path, QtEventLoop(QApplication.instance())))
    keep_window(window)
    return window


def show_reel(path: Path, words: str) -> bool:
    """Open a reel in a window of its own.

    Parameters
    ----------
    path : the reel
    words : said in it; a second line names a picture whose sequence may be brought in as a proof

    Raises
    ------
    HastyReelError
        When the reel cannot be opened.
    """
    window = reel_window(path)
    window.show()
    said, _, first = words.partition("\n")
    if first:
        window.notice.ask(said, {"Bring them in as a proof": lambda: window.files.bring_frames(Path(first)), "Later": window.notice.hide})
    elif said:
        window.notice.say(said)
    return True


def _held_preferences() -> Preferences:
    """How the window is wanted; what cannot be read is as it ships."""
    try:
        return preferences()
    except HastyReelError:
        return Preferences()


def _picture_when_ready(window, picture: Path, faults: list[str]) -> None:
    """Save a picture once the plan is there, and close."""
    from hasty_reel.desk.follow import follow

    follow(window, window.session.planner.plan_changed, lambda: QTimer.singleShot(READY_MS, lambda: _take(window, picture, faults)))
    QTimer.singleShot(GIVE_UP_MS, lambda: _take(window, picture, faults))


def _take(window, picture: Path, faults: list[str]) -> None:
    if window.isVisible():
        if not window.grab().save(str(picture)):
            faults.append(f"{picture}: the picture cannot be saved; expected a name ending in .png in a folder that takes files.")
        window.close()
