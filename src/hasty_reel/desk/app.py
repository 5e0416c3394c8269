"""Starting the application."""

from __future__ import annotations

import os
import sys
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QFileDialog

from hasty_reel.errors import HastyReelError, WrongInput

READY_MS = 1500
GIVE_UP_MS = 30_000


def open_window(path: Path | None, picture: Path | None = None) -> int:
    """Open a reel in a window and stay until it is closed.

    Parameters
    ----------
    path : the reel; None asks for one
    picture : where to save a picture of the window once its plan is there; the window closes then

    Raises
    ------
    HastyReelError
        When the reel cannot be opened.
    """
    if not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY") or os.environ.get("QT_QPA_PLATFORM")):
        if picture is None:
            raise WrongInput("There is no screen here; give --picture FILE.png to have the window drawn into a file.")
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
    import pyqtgraph

    from hasty_reel.desk import theme
    from hasty_reel.desk.session import Session
    from hasty_reel.desk.window import ReelWindow

    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)
    app.setApplicationName("Hasty Reel")
    theme.apply(app)
    pyqtgraph.setConfigOptions(antialias=True, imageAxisOrder="row-major")
    if path is None:
        name, _ = QFileDialog.getOpenFileName(None, "Open a reel", "", "Reels (*.reel)")
        if not name:
            return 0
        path = Path(name)
    window = ReelWindow(Session(path))
    window.show()
    if picture is not None:
        _picture_when_ready(window, picture)
    status = app.exec()
    return int(status)


def _picture_when_ready(window, picture: Path) -> None:
    """Save a picture once the plan is there, and close."""

    def take() -> None:
        if not window.grab().save(str(picture)):
            print(f"hasty-reel: {picture}: the picture cannot be saved.", file=sys.stderr)
        window.close()

    window.session.plan_changed.connect(lambda: QTimer.singleShot(READY_MS, take))
    QTimer.singleShot(GIVE_UP_MS, take)


__all__ = ["HastyReelError", "open_window"]
