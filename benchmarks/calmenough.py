"""A stranger's way on the demo reel to 'This is calm enough': real clicks and keys in the real window, an empty home; seconds after each.

`python benchmarks/calmenough.py [cold]` prints a line a click with the seconds since the process began, and how many clicks there were.
With 'cold' machine code that was compiled for other windows is not used: the very first start on a machine.
Each click is made as soon as what it needs is there; whoever looks and thinks takes longer.
"""

from __future__ import annotations

import os
import sys
import tempfile
import time

BEGAN = time.perf_counter()
HOME = tempfile.TemporaryDirectory()
CODE = HOME.name if "cold" in sys.argv else os.environ.get("XDG_CACHE_HOME", os.path.expanduser("~/.cache"))
os.environ.update(HOME=HOME.name, XDG_CACHE_HOME=CODE, XDG_CONFIG_HOME=HOME.name, XDG_DATA_HOME=HOME.name, XDG_DOCUMENTS_DIR=HOME.name)
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QPoint, Qt  # noqa: E402  the folders are set before anything reads them
from PySide6.QtTest import QTest  # noqa: E402
from PySide6.QtWidgets import QApplication, QWidget  # noqa: E402

from hasty_reel.desk import theme  # noqa: E402
from hasty_reel.desk.app import show_reel  # noqa: E402
from hasty_reel.desk.start import StartWindow  # noqa: E402

LEFT = Qt.MouseButton.LeftButton
GIVE_UP = 280.0


class Stranger:
    """Clicks, and says when."""

    def __init__(self) -> None:
        self.app = QApplication.instance() or QApplication(sys.argv[:1])
        theme.apply(self.app)
        self.clicks = 0

    def wait(self, ready) -> None:
        """Let the window work until something is there."""
        until = time.perf_counter() + GIVE_UP
        while not ready():
            self.app.processEvents()
            time.sleep(0.005)
            assert time.perf_counter() < until, "it never came"

    def told(self, words: str) -> None:
        """Print what happened, and when."""
        print(f"{time.perf_counter() - BEGAN:6.1f} s  {words}", flush=True)

    def click(self, widget: QWidget, words: str, at: QPoint | None = None) -> None:
        """Click."""
        QTest.mouseClick(widget, LEFT, pos=widget.rect().center() if at is None else at)
        self.clicks += 1
        self.told(f"click {self.clicks}: {words}")


def main() -> None:
    """Go the way."""
    me = Stranger()
    start = StartWindow(show_reel)
    start.show()
    me.wait(start.isVisible)
    me.told("the start page is there")
    me.click(start.entries["demo"], "'Open the demo reel'")
    from hasty_reel.desk.stages.budget.seeit import SeeItPage
    from hasty_reel.desk.stagesof import BUDGET
    from hasty_reel.desk.window import ReelWindow

    def _window() -> ReelWindow | None:
        return next((w for w in me.app.topLevelWidgets() if isinstance(w, ReelWindow) and w.isVisible()), None)

    me.wait(lambda: _window() is not None)
    window = _window()
    assert window is not None
    session = window.session
    me.wait(lambda: not session.planner.stale)
    me.told("its plan is painted")
    line = window.header.stage_line
    me.click(line, "Budget", QPoint(round(line._centre(BUDGET)), line.height() // 2))
    me.wait(lambda: window.budget.isVisible())
    me.click(next(choice for choice in window.budget.pages.choices if choice.text() == "See it"), "See it")
    me.wait(lambda: window.findChild(SeeItPage) is not None and window.findChild(SeeItPage).model.picture is not None)
    page = window.findChild(SeeItPage)
    me.told("the loop at the plan's samples is there")
    scale = page.scale
    before, x = page.model.samples, scale.width() // 2
    QTest.mousePress(scale, LEFT, pos=QPoint(x, scale.height() // 2))
    for step in range(1, 12):
        QTest.mouseMove(scale, QPoint(x + 8 * step, scale.height() // 2))
        me.app.processEvents()
    QTest.mouseRelease(scale, LEFT, pos=QPoint(x + 88, scale.height() // 2))
    me.clicks += 1
    me.told(f"click {me.clicks}: dragged the dial from {before:.0f} to {page.model.samples:.0f} samples")
    me.wait(lambda: page.enough.isEnabled())
    hold = session.reel
    me.click(page.enough, "'This is calm enough'")
    me.wait(lambda: session.reel is not hold and not session.planner.stale)
    me.told(f"the plan holds it; {me.clicks} clicks")
    sys.stdout.flush()
    os._exit(0)  # what is prepared beside everything else is of no interest here


if __name__ == "__main__":
    main()
