"""The real window, offscreen."""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import pyqtgraph
import pytest

from hasty_reel.desk import theme
from hasty_reel.desk.eventloop import QtEventLoop
from hasty_reel.desk.window import ReelWindow
from hasty_reel.studio.session import Session

sys.path.insert(0, str(Path(__file__).parent))


@contextmanager
def emitted(qtbot, *signals, timeout: int) -> Iterator[None]:
    """Wait until each of some signals of the models was emitted."""
    heard: set[int] = set()

    def listener(k: int) -> Callable[..., None]:
        return lambda *things: heard.add(k)

    slots = [listener(k) for k in range(len(signals))]
    for signal, slot in zip(signals, slots):
        signal.connect(slot)
    yield
    try:
        qtbot.waitUntil(lambda: len(heard) == len(signals), timeout=timeout)
    finally:
        for signal, slot in zip(signals, slots):
            signal.disconnect(slot)


@pytest.fixture(scope="session")
def themed(qapp):
    """The application with its theme, given once as when it starts: styling anew reaches for windows that are half gone."""
    theme.apply(qapp)
    return qapp


@pytest.fixture
def open_reel(qtbot, themed):
    """Opens a reel in the real window and waits for its plan; ahead : stages nobody went to are made, too, as time allows."""
    qapp = themed
    pyqtgraph.setConfigOptions(antialias=True, imageAxisOrder="row-major")
    opened = []

    def open_(path, ahead: bool = False) -> ReelWindow:
        session = Session(path, QtEventLoop(qapp))
        window = ReelWindow(session)
        window._may_leave = lambda: True  # nobody is here to answer
        if not ahead:
            window.stage.make_next = lambda: False
        qtbot.addWidget(window)
        with emitted(qtbot, session.planner.plan_changed, timeout=30_000):
            window.show()
        qtbot.waitUntil(lambda: not session.planner.stale, timeout=30_000)  # the deadline comes after the plans
        opened.append(window)
        return window

    yield open_
    for window in opened:
        window.close()
