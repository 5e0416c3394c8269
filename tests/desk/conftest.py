"""The real window, offscreen."""

from __future__ import annotations

import sys
from pathlib import Path

import pyqtgraph
import pytest

from hasty_reel.desk import theme
from hasty_reel.desk.window import ReelWindow
from hasty_reel.studio.session import Session

sys.path.insert(0, str(Path(__file__).parent))


@pytest.fixture
def open_reel(qtbot, qapp):
    """Opens a reel in the real window and waits for its plan."""
    theme.apply(qapp)
    pyqtgraph.setConfigOptions(antialias=True, imageAxisOrder="row-major")
    opened = []

    def open_(path) -> ReelWindow:
        session = Session(path)
        window = ReelWindow(session)
        window._may_leave = lambda: True  # nobody is here to answer
        qtbot.addWidget(window)
        with qtbot.waitSignal(session.planner.plan_changed, timeout=30_000):
            window.show()
        opened.append(window)
        return window

    yield open_
    for window in opened:
        window.close()
