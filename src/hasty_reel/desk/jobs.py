"""Work beside the window's thread: progress at a bearable rate, a way to stop, errors as one sentence."""

from __future__ import annotations

import time
import traceback
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QRunnable, QThreadPool, QTimer, Signal

from hasty_reel.errors import HastyReelError, Stopped
from hasty_reel.work import CancelToken

TELLS_PER_SECOND = 15


class Job(QObject):
    """One piece of work under way. All signals arrive in the window's thread.

    progressed(share, words) : at most fifteen times a second
    came(object) : whatever the work sends on the way
    done(object), failed(str), stopped() : exactly one of them, then ended()
    """

    progressed = Signal(float, str)
    came = Signal(object)
    done = Signal(object)
    failed = Signal(str)
    stopped = Signal()
    ended = Signal()
    _over = Signal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.cancel = CancelToken()
        self.share, self.words = 0.0, ""
        self._told = 0.0

    def tell(self, share: float, words: str) -> None:
        """Report progress; called from the worker."""
        now = time.monotonic()
        if share >= 1.0 or now - self._told >= 1.0 / TELLS_PER_SECOND:
            self._told = now
            self.progressed.emit(float(share), words)

    def send(self, thing: object) -> None:
        """Hand something over on the way; called from the worker."""
        self.came.emit(thing)


class _Runnable(QRunnable):
    def __init__(self, job: Job, work: Callable[[Job], Any]) -> None:
        super().__init__()
        self._job, self._work = job, work

    def run(self) -> None:
        try:
            result = self._work(self._job)
        except Stopped:
            self._job.stopped.emit()
        except HastyReelError as error:
            self._job.failed.emit(str(error))
        except MemoryError:
            self._job.failed.emit("There is not enough memory for this; a smaller size or fewer frames may do.")
        except Exception as error:  # a fault of ours must not take the window down: it is told, and its trace kept
            traceback.print_exc()
            self._job.failed.emit(f"This went wrong inside Hasty Reel: {error}.")
        else:
            self._job.done.emit(result)
        finally:
            self._job.ended.emit()
            # apart from `ended`: the job is deleted here, and what `ended` has still to tell would be lost with it
            self._job._over.emit()


class Jobs(QObject):
    """Starts jobs and knows those under way."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(4)
        self.running: list[Job] = []

    def start(self, work: Callable[[Job], Any]) -> Job:
        """Start work; it is given its job, to tell progress and to look whether it should stop."""
        job = Job(self)
        self.running.append(job)
        job._over.connect(self._forget)
        # begun on the next turn of the event loop: a quick job must not end before its signals are connected
        QTimer.singleShot(0, self, lambda: self._pool.start(_Runnable(job, work)))
        return job

    def _forget(self) -> None:
        job = self.sender()
        if job in self.running:
            self.running.remove(job)
            job.deleteLater()

    def stop_all(self, milliseconds: int = 8000) -> bool:
        """Ask everything to stop and wait for it; used when the window closes."""
        for job in self.running:
            job.cancel.cancel()
        return self._pool.waitForDone(milliseconds)
