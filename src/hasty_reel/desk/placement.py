"""Where a window is put: it fits what the screen leaves free of panels, its title bar included."""

from __future__ import annotations

from PySide6.QtCore import QSize
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QMainWindow

from hasty_reel.desk.screen import WITHOUT

WIDTH, HEIGHT = 1280, 800
"""Pixels of a window on a screen that has room for it."""
LEAST_WIDTH, LEAST_HEIGHT = 1200, 640
TITLE_BAR = 32
"""Pixels that a window manager usually adds at the top; it is not known before the window is shown."""


def fit_screen(window: QMainWindow) -> None:
    """Size a window for its screen; one that is drawn into memory has none that counts."""
    window.setMinimumSize(LEAST_WIDTH, LEAST_HEIGHT)
    if QGuiApplication.platformName() in WITHOUT:
        window.resize(WIDTH, HEIGHT)
        return
    window.resize(*room_for(window.screen().availableSize()))


def room_for(free: QSize) -> tuple[int, int]:
    """Width and height of a window in what a screen leaves free, in pixels; never less than it can be laid out in."""
    return max(LEAST_WIDTH, min(WIDTH, free.width())), max(LEAST_HEIGHT, min(HEIGHT, free.height() - TITLE_BAR))
