"""The menu of everything one can do, with its keys; and what can be done with the frame one points at."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QMenu

from hasty_reel.desk.stagesof import COMPARE, RUN

if TYPE_CHECKING:
    from hasty_reel.desk.window import ReelWindow


def main_menu(window: ReelWindow) -> QMenu:
    """A menu with all actions, by what they act on."""
    menu = QMenu(window)
    menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    reel = menu.addMenu("&Reel")
    reel.addActions([window.new_action, window.open_action])
    window.files.fill_recent(reel.addMenu("Open recent"))
    reel.addSeparator()
    reel.addActions([window.save_action, window.save_as_action])
    window.files.fill_saves(reel.addMenu("Earlier saves"))
    reel.addSeparator()
    reel.addActions([window.bring_action, window.frames_action, window.export_action])
    reel.addSeparator()
    reel.addActions([window.close_action])
    edit = menu.addMenu("&Edit")
    edit.addActions([window.undo_action, window.redo_action])
    edit.addSeparator()
    edit.addActions([window.try_action, window.find_action])
    edit.addSeparator()
    edit.addActions([window.preferences_action])
    window.files.fill_shots(menu.addMenu("&Shots"))
    _fill_frames(window, menu.addMenu("&Frames"))
    stages = menu.addMenu("S&tages")
    for place, action in enumerate(window.stage_actions):
        action.setCheckable(True)
        action.setChecked(place == window.stage.currentIndex())
        stages.addAction(action)
    told = menu.addMenu("&Help")
    told.addActions([window.help_action, window.what_action, window.guide_action, window.tour_action, window.keys_action])
    told.addSeparator()
    told.addActions([window.report_action])
    return menu


def _fill_frames(window: ReelWindow, menu: QMenu) -> None:
    """Going from frame to frame; the keys stand beside, since they count wherever nobody is typing."""
    session = window.session
    head, shot = session.playhead, session.shot
    for words, keys, act in (
        ("One frame on", "Right", lambda: head.show_frame(head.frame + 1)),
        ("One frame back", "Left", lambda: head.show_frame(head.frame - 1)),
        ("First frame", "Home", lambda: head.show_frame(shot.begin)),
        ("Last frame", "End", lambda: head.show_frame(shot.past - 1)),
        ("Clear what is selected", "Esc", lambda: head.select(None)),
    ):
        menu.addAction(f"{words}\t{keys}").triggered.connect(lambda _=False, act=act: act())
    menu.addSeparator()
    play = menu.addAction("Play or stop\tSpace")
    play.setEnabled(window.stage.currentIndex() in (RUN, COMPARE))
    play.triggered.connect(lambda _=False: window.play())
    menu.addAction(f"A proof of frame {head.frame} …").triggered.connect(lambda _=False: window.ask_proof(head.frame))


def frame_menu(window: ReelWindow, frame: int) -> QMenu:
    """What can be done with a frame of the strip."""
    session = window.session
    menu = QMenu(window)
    menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    menu.addAction(f"Go to frame {frame}").triggered.connect(lambda _=False: session.playhead.show_frame(frame))
    menu.addAction(f"A proof of frame {frame} …").triggered.connect(lambda _=False: window.ask_proof(frame))
    here = session.playhead.frame
    select = menu.addAction(f"Select from {min(here, frame)} to {max(here, frame)}")
    select.setEnabled(here != frame)
    select.triggered.connect(lambda _=False: session.playhead.select((here, frame)))
    clear = menu.addAction("Clear what is selected\tEsc")
    clear.setEnabled(session.playhead.selection is not None)
    clear.triggered.connect(lambda _=False: session.playhead.select(None))
    return menu
