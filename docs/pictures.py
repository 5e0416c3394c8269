"""Take the pictures of docs/screenshots anew from the demo reel: `python docs/pictures.py [planned] [rendered] [started]` (some
minutes; no screen needed).

Each picture is the real window at 1280 x 800 on a copy of the demo; for those of a run a few frames are rendered first, with so much
noise held that a frame takes two seconds.
"""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from datetime import datetime
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
HOME = tempfile.TemporaryDirectory(prefix="pictures-")
for kind in ("CONFIG", "STATE", "DATA"):  # nothing of the person who runs this is in sight
    os.environ[f"XDG_{kind}_HOME"] = f"{HOME.name}/{kind.lower()}"

import pyqtgraph  # noqa: E402
from PySide6.QtWidgets import QApplication, QWidget  # noqa: E402

from hasty_reel.demo import copy_demo  # noqa: E402
from hasty_reel.desk import theme  # noqa: E402
from hasty_reel.desk.eventloop import QtEventLoop  # noqa: E402
from hasty_reel.desk.stagesof import BRIEF, BUDGET, COMPARE, FINISH, OUTPUT, PROOFS, RUN  # noqa: E402
from hasty_reel.desk.window import ReelWindow  # noqa: E402
from hasty_reel.reel.edits import with_value  # noqa: E402
from hasty_reel.studio.session import Session  # noqa: E402

OUT = Path(__file__).parent / "screenshots"
SIZE = (1280, 800)
SETTLE, MOST = 2.5, 900.0
"""Seconds in which pictures come and curves are drawn, and the longest that something is waited for."""


class Photographer:
    """One application, and windows on copies of the demo."""

    def __init__(self) -> None:
        self.app = QApplication([])
        theme.apply(self.app)
        pyqtgraph.setConfigOptions(antialias=True, imageAxisOrder="row-major")
        self.windows: list[ReelWindow] = []

    def wait(self, seconds: float = SETTLE, until: Callable[[], bool] | None = None) -> None:
        """Let the window work for so long, or until something is so."""
        end = time.monotonic() + (seconds if until is None else MOST)
        while time.monotonic() < end and not (until is not None and until()):
            self.app.processEvents()
            time.sleep(0.01)
        if until is not None:
            self.wait(SETTLE)

    def open(self, name: str, **changes: str) -> ReelWindow:
        """Open a copy of the demo, some values of it changed."""
        path = copy_demo(Path(HOME.name) / name, datetime.now().astimezone())
        session = Session(path, QtEventLoop(self.app))
        for place, text in changes.items():
            session.do("Set", lambda reel, place=place, text=text: with_value(reel, place.replace("__", "."), text))
        window = ReelWindow(session)
        window._may_leave = lambda: True  # nobody is here to answer
        window.resize(*SIZE)
        window.show()
        self.wait(until=lambda: not session.planner.stale)
        self.windows.append(window)
        return window

    def take(self, widget: QWidget, name: str) -> None:
        """Keep a picture, in as many colours as it has."""
        widget.grab().save(str(OUT / f"{name}.png"))
        print(name, file=sys.stderr)


def planned(on: Photographer) -> None:
    """Brief, Proofs, Compare, Budget and its pages, Finish, as the demo opens."""
    window = on.open("demo")
    window.show_stage(BRIEF)
    on.wait()
    on.take(window, "brief")
    window.show_stage(PROOFS)
    for page, name in ((0, "proofs"), (1, "tradeoffs"), (2, "findings")):
        window.proofs.show_page(page)
        on.wait(2 * SETTLE)
        on.take(window, name)
    window.show_stage(COMPARE)
    on.wait(6 * SETTLE)
    on.take(window, "compare")
    window.compare.show_page(1)
    on.wait(8 * SETTLE)
    on.take(window, "causes")
    window.compare.show_page(2)
    window.compare.eye_test.begin()
    on.wait(SETTLE)
    on.take(window, "eyetest")
    window.show_stage(BUDGET)
    for page, name in ((0, "budget"), (1, "seeit"), (3, "motionblur"), (5, "lightcache"), (7, "sure"), (8, "allshots")):
        window.budget.pages.choices[page].click()
        on.wait(4 * SETTLE)
        on.take(window, name)
    window.show_stage(FINISH)
    on.wait(8 * SETTLE)
    on.take(window, "finish")
    window.show_stage(RUN)
    on.wait()
    window.run.pages.show_page(1)
    window.run.controls.rehearse.click()
    on.wait(until=lambda: window.session.final.finished >= 64)
    on.take(window, "run")
    window.session.final.work.stop()
    on.wait(until=lambda: not window.session.final.busy)


def rendered(on: Photographer) -> None:
    """Account, Output and Folder check of frames that were rendered."""
    window = on.open("rendered", size="480x270", sh010__hold="noise 0.03")
    session = window.session
    session.final.type_frames("1001-1016")
    window.show_stage(RUN)
    on.wait()
    window.run.go_button.click()
    on.wait(until=lambda: session.final.finished >= 16 and not session.final.busy)
    window.run.pages.show_page(2)
    window.run.account.measure.click()
    on.wait(until=lambda: "Measured on" in window.run.account.found.text())
    on.take(window, "account")
    window.show_stage(OUTPUT)
    on.wait(2 * SETTLE)
    on.take(window, "output")
    frames = session.final.run.folder.final
    frames.path(1006).unlink()
    whole = frames.path(1011).read_bytes()
    frames.path(1011).write_bytes(whole[: len(whole) // 2])
    window.output.pages.show_page(1)
    window.output.checks.check()
    on.wait(until=lambda: window.output.checks.found is not None)
    on.take(window, "check")


def started(on: Photographer) -> None:
    """The window while no reel is open."""
    from hasty_reel.desk.start import StartWindow

    window = StartWindow(lambda path, words: True)
    window.resize(*SIZE)
    window.show()
    on.wait(2 * SETTLE)
    on.take(window, "start")
    window.close()


def main() -> None:
    """Take the pictures that are named, or all of them."""
    on = Photographer()
    chosen = sys.argv[1:] or ["started", "planned", "rendered"]  # the start page first: nothing was opened lately
    for name in chosen:
        {"planned": planned, "rendered": rendered, "started": started}[name](on)
    for window in on.windows:
        window.close()


if __name__ == "__main__":
    main()
