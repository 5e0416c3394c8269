"""Keeps a coder's library from taking the whole processor: its threads wait in line like everyone's.

An AV1 coder asks for real-time scheduling where the system grants it (to root): for the thread that opens it, for its
own, and so for every thread that these begin later. The window then stands still while anything is computed.
"""

from __future__ import annotations

import contextlib
import os
from collections.abc import Iterator
from pathlib import Path

TASKS = Path("/proc/self/task")
REAL_TIME = (os.SCHED_FIFO, os.SCHED_RR)


def _real_time() -> set[int]:
    """Return the threads of this process that are scheduled in real time."""
    found = set()
    for task in TASKS.iterdir():
        with contextlib.suppress(OSError):  # it has ended
            if os.sched_getscheduler(int(task.name)) in REAL_TIME:
                found.add(int(task.name))
    return found


@contextlib.contextmanager
def no_real_time() -> Iterator[None]:
    """Let no thread come out scheduled in real time that was not before.

    Yields
    ------
    None
        While the library does its work.
    """
    before = _real_time()
    try:
        yield
    finally:
        for thread in _real_time() - before:
            with contextlib.suppress(OSError):
                os.sched_setscheduler(thread, os.SCHED_OTHER, os.sched_param(0))
