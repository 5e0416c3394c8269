"""The Brief with 5,000 shots and 500,000 frames: opening, editing, saving, shots in and out.

Without a screen the window is drawn offscreen.
"""

from __future__ import annotations

import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

import msgspec

from hasty_reel.demo.make import demo_reel
from hasty_reel.reel import edits as ed
from hasty_reel.reel.file import read_reel, save_reel
from hasty_reel.reel.incoming import read_shots
from hasty_reel.reel.shottable import write_table
from hasty_reel.reel.timeline import write_timeline

SHOTS, FRAMES = 5000, 100


def timed(act: Callable[[], object], rounds: int = 5) -> float:
    """Median milliseconds of an act."""
    out = []
    for _ in range(rounds):
        began = time.perf_counter()
        act()
        out.append((time.perf_counter() - began) * 1000)
    return statistics.median(out)


def large(folder: Path) -> Path:
    """A reel of 5,000 shots of 100 frames."""
    reel = demo_reel()
    shots = tuple(msgspec.structs.replace(reel.shots[0], id=f"sh{k:05d}", name=f"Shot {k}", last=1000 + FRAMES) for k in range(SHOTS))
    path = folder / "large.reel"
    save_reel(path, msgspec.structs.replace(reel, shots=shots))
    return path


def core(path: Path) -> None:
    """Without a window."""
    reel = read_reel(path)
    print(f"read {timed(lambda: read_reel(path)):.0f} ms, save {timed(lambda: save_reel(path, reel)):.0f} ms")
    acts = {
        "rename a shot": lambda: ed.with_shot_fields(reel, "sh02500", name="Other"),
        "move a shot": lambda: ed.moved(reel, "sh02500", 10),
        "split a shot": lambda: ed.split(reel, "sh02500", 1050),
        "set a line": lambda: ed.with_line(reel, "sh02500", "bounces", 3),
        "rename a recipe": lambda: ed.renamed_recipe(reel, "Final", "Night"),
    }
    for name, act in acts.items():
        print(f"{name} {timed(act):.1f} ms")
    for write, ending in ((write_timeline, "otio"), (write_table, "csv")):
        target = path.with_suffix(f".{ending}")
        out = timed(partial(write, target, reel), 1)
        back = timed(partial(read_shots, target, reel), 1)
        print(f"{ending}: out {out:.0f} ms, in {back:.0f} ms")


def window(path: Path) -> None:
    """The real window: ready, and the longest its thread is kept by an edit."""
    began = time.perf_counter()
    import pyqtgraph
    from PySide6.QtWidgets import QApplication

    from hasty_reel.desk import theme
    from hasty_reel.desk.eventloop import QtEventLoop
    from hasty_reel.desk.screen import draw_offscreen
    from hasty_reel.desk.window import ReelWindow
    from hasty_reel.studio.session import Session

    draw_offscreen()
    app = QApplication(sys.argv[:1])
    theme.apply(app)
    pyqtgraph.setConfigOptions(antialias=True, imageAxisOrder="row-major")
    imported = time.perf_counter()
    shown = ReelWindow(Session(path, QtEventLoop(app)))
    shown.show()
    app.processEvents()
    print(f"window shown {time.perf_counter() - began:.2f} s after the start, of which imports {imported - began:.2f} s")
    session = shown.session
    while session.planner.outlook.deadline is None:
        app.processEvents()
        time.sleep(0.005)
    print(f"planned after {time.perf_counter() - began:.2f} s")
    shown._may_leave = lambda: True
    acts = {
        "choose a shot": lambda k: session.playhead.show_shot(f"sh{k:05d}"),
        "rename a shot": lambda k: session.do("x", lambda r: ed.with_shot_fields(r, f"sh{k:05d}", name=f"n {k}")),
        "drag a shot": lambda k: session.do("x", lambda r: ed.moved(r, f"sh{k:05d}", 3)),
        "set a line": lambda k: session.do("x", lambda r: ed.with_line(r, f"sh{k:05d}", "bounces", k % 9)),
    }
    for name, act in acts.items():
        took = []
        for k in range(100, 107):
            began = time.perf_counter()
            act(k)
            app.processEvents()
            took.append((time.perf_counter() - began) * 1000)
            until = time.perf_counter() + 0.4
            while time.perf_counter() < until:
                app.processEvents()
        print(f"{name}: median {statistics.median(took):.0f} ms, longest {max(took):.0f} ms")
    shown.close()


if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as name:
        path = large(Path(name))
        core(path)
        window(path)
