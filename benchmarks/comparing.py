"""The Compare stage with 48 frames of 1080p on each side: the rate the loop reaches, and what a step of wipe, pan and zoom takes.

Without a screen the window is drawn offscreen.
"""

from __future__ import annotations

import os
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from datetime import datetime
from pathlib import Path

import numpy as np

FRAMES, WIDTH, HEIGHT = 48, 1920, 1080


def steps(act: Callable[[int], None], paint: Callable[[], None], rounds: int = 40) -> tuple[float, float]:
    """Median and 95th percentile milliseconds of a step with its painting."""
    out = []
    for k in range(rounds):
        began = time.perf_counter()
        act(k)
        paint()
        out.append((time.perf_counter() - began) * 1000)
    return statistics.median(out), float(np.percentile(out, 95))


def main() -> None:
    """Print the figures."""
    from PySide6.QtWidgets import QApplication

    from hasty_reel.demo import copy_demo
    from hasty_reel.desk import theme
    from hasty_reel.desk.eventloop import QtEventLoop
    from hasty_reel.desk.screen import draw_offscreen
    from hasty_reel.desk.stagesof import COMPARE
    from hasty_reel.desk.window import ReelWindow
    from hasty_reel.pictures.colour import views
    from hasty_reel.pictures.frame import Picture
    from hasty_reel.pictures.quickview import is_costly
    from hasty_reel.pictures.writing import write_picture
    from hasty_reel.studio.session import Session

    with tempfile.TemporaryDirectory() as temporary:
        folder = Path(temporary)
        for name in ("CONFIG", "STATE"):
            os.environ[f"XDG_{name}_HOME"] = str(folder / name)
        rng = np.random.default_rng(1)
        scene = rng.random((HEIGHT, WIDTH + 2 * FRAMES, 3), np.float32)
        for k in range(FRAMES):
            for side, gain in (("a", 1.0), ("b", 0.9)):
                write_picture(folder / f"{side}.{1001 + k}.exr", Picture(scene[:, 2 * k : 2 * k + WIDTH] * gain))
        draw_offscreen()
        app = QApplication(sys.argv[:1])
        theme.apply(app)
        window = ReelWindow(Session(copy_demo(folder / "demo", datetime.now().astimezone()), QtEventLoop(app)))
        window._may_leave = lambda: True
        window.show()
        window.show_stage(COMPARE)
        compared, view = window.compare.comparison, window.compare.view
        loop, sides, pictures = compared.loop, compared.sides, window.session.pictures

        def until(done: Callable[[], bool], seconds: float = 120.0) -> None:
            end = time.perf_counter() + seconds
            while not done() and time.perf_counter() < end:
                app.processEvents()
                time.sleep(0.002)

        until(lambda: bool(window.session.planner.evidence))
        compared.study.measure = lambda side, run: None  # what is timed is the picture
        sides.take_footage(0, folder / "a.1001.exr")
        sides.take_footage(1, folder / "b.1001.exr")
        began = time.perf_counter()
        until(lambda: len(sides.run) == FRAMES and all(loop.in_memory))
        print(f"{2 * FRAMES} frames in memory after {time.perf_counter() - began:.1f} s, {pictures.megabytes:.0f} MB")
        until(lambda: not window.session.background.running, 20)
        reached: list[float] = []
        loop.player.rate.connect(reached.append)
        for words, scale in (("fit", 0.0), ("1:1", 1.0)):
            view.zoom_to(scale)
            loop.toggle()
            until(lambda: False, 3.0)  # the first round makes the pictures that are shown smaller
            reached.clear()
            until(lambda: False, 5.0)
            loop.toggle()
            print(f"loop at {words}: {statistics.median(reached):.2f} of 24 fps")
        for words, scale in (("fit", 0.0), ("1:1", 1.0), ("8:1", 8.0)):
            view.zoom_to(scale)
            view.repaint()
            wipe = steps(lambda k: setattr(view, "wipe", view.wipe.moved(0.2 + 0.015 * k, 0.5)), view.repaint)
            turn = steps(lambda k: setattr(view, "wipe", view.wipe.turned(3.0 * k)), view.repaint)
            pan = steps(lambda k: _pan(view, k), view.repaint)
            view.wipe = view.wipe.turned(0.0)
            named = (("wipe", wipe), ("turned", turn), ("pan", pan))
            print(f"at {words}: " + ", ".join(f"{n} {m:.1f} ms (95 %: {w:.1f})" for n, (m, w) in named))
        costly = next(v for v in views() if is_costly(v))
        compared.presentation.set_view(costly)
        began = time.perf_counter()
        until(lambda: all(loop.in_memory))
        print(f"the same through '{costly}' after {time.perf_counter() - began:.1f} s")
        window.close()


def _pan(view, k: int) -> None:
    from hasty_reel.studio.compare.geometry import panned

    if view.sight.zoom:
        view.sight = panned(view.sight, view.place(), 3.0 if k % 20 < 10 else -3.0, 1.0)


if __name__ == "__main__":
    main()
