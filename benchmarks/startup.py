"""From the start of the process to the first painted plan, with the demo reel and warm caches; and to the window without a file.

Each figure is the median of several processes started one after another, as a person starts the program.
"""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

ROUNDS = 7
PLANNED = """
import sys
from hasty_reel.desk.screen import draw_offscreen
draw_offscreen()
import hasty_reel.desk.app as starting
from hasty_reel.cli import main
from PySide6.QtCore import QTimer
make = starting.reel_window

def watched(path):
    window = make(path)

    def painted():
        window.repaint()
        print("painted", flush=True)
        QTimer.singleShot(0, window.close)

    window.session.planner.plan_changed.connect(lambda: QTimer.singleShot(0, painted))
    return window

starting.reel_window = watched
main([sys.argv[1]])
"""
EMPTY = """
import sys
from hasty_reel.desk.screen import draw_offscreen
draw_offscreen()
from PySide6.QtWidgets import QApplication
from hasty_reel.desk import theme
from hasty_reel.desk.start import StartWindow
app = QApplication(sys.argv[:1])
theme.apply(app)
window = StartWindow(lambda path, words: False)
window.show()
window.repaint()
print("painted", flush=True)
window.close()
"""


def seconds(code: str, *arguments: str) -> float:
    """Seconds from starting a process to its first line of output."""
    began = time.perf_counter()
    with subprocess.Popen([sys.executable, "-c", code, *arguments], stdout=subprocess.PIPE, text=True) as process:
        assert process.stdout is not None
        line = process.stdout.readline()
        took = time.perf_counter() - began
    if "painted" not in line:
        raise SystemExit("the window did not come up")
    return took


def told(words: str, found: list[float]) -> None:
    """Print a median with its spread."""
    print(f"{words}: median {statistics.median(found):.2f} s, {min(found):.2f} to {max(found):.2f}")


def main() -> None:
    """Measure, and compare with the interpreter and its window library alone."""
    from datetime import datetime

    from hasty_reel.demo import copy_demo

    os.environ.pop("PYTHONDONTWRITEBYTECODE", None)  # warm caches: the byte code of the program is one of them
    with tempfile.TemporaryDirectory() as temporary:
        path = copy_demo(Path(temporary), datetime.now().astimezone())
        bare = "import PySide6.QtWidgets, numpy; print('painted', flush=True)"
        for code, arguments in ((bare, ()), (EMPTY, ()), (PLANNED, (str(path),))):  # warm caches
            seconds(code, *arguments)
        library = [seconds(bare) for _ in range(ROUNDS)]
        empty = [seconds(EMPTY) for _ in range(ROUNDS)]
        planned = [seconds(PLANNED, str(path)) for _ in range(ROUNDS)]
    told("interpreter with Qt and NumPy alone", library)
    told("window without a file painted", empty)
    told("window with the demo reel, plan painted (2 s asked)", planned)
    print(f"against the interpreter with its libraries: {statistics.median(planned) / statistics.median(library):.1f} times")


if __name__ == "__main__":
    main()
