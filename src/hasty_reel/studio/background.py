"""Work beside the models' thread: progress at a bearable rate, a way to stop, errors as one sentence."""

from __future__ import annotations

import time
import traceback
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor, wait
from typing import Any

from psygnal import Signal

from hasty_reel.errors import HastyReelError, Stopped
from hasty_reel.studio.eventloop import EventLoop
from hasty_reel.work import CancelToken

TELLS_PER_SECOND = 15
THREADS = 4


class BackgroundTask:
    """One piece of work under way. All signals arrive in the models' thread.

    progressed(share, words) : at most fifteen times a second
    came(object) : whatever the work sends on the way
    done(object), failed(str), stopped() : exactly one of them, then ended()

    Parameters
    ----------
    loop : in whose thread its signals arrive
    """

    progressed = Signal(float, str)
    came = Signal(object)
    done = Signal(object)
    failed = Signal(str)
    stopped = Signal()
    ended = Signal()

    def __init__(self, loop: EventLoop) -> None:
        self.cancel = CancelToken()
        self._loop = loop
        self._told = 0.0

    def tell(self, share: float, words: str) -> None:
        """Report progress; called by the work.

        Parameters
        ----------
        share : done, 0 to 1
        words : what happens
        """
        now = time.monotonic()
        if share >= 1.0 or now - self._told >= 1.0 / TELLS_PER_SECOND:
            self._told = now
            self._loop.call_soon_threadsafe(self.progressed.emit, float(share), words)

    def send(self, thing: object) -> None:
        """Hand something over on the way; called by the work.

        Parameters
        ----------
        thing : what `came` tells of
        """
        self._loop.call_soon_threadsafe(self.came.emit, thing)

    def run(self, work: Callable[[BackgroundTask], Any], forget: Callable[[BackgroundTask], None]) -> None:
        """Do the work in this thread and tell what became of it.

        Parameters
        ----------
        work : given the task, to tell progress and to look whether it should stop
        forget : called last, in the models' thread
        """
        soon = self._loop.call_soon_threadsafe
        try:
            result = work(self)
        except Stopped:
            soon(self.stopped.emit)
        except HastyReelError as error:
            soon(self.failed.emit, str(error))
        except MemoryError:
            soon(self.failed.emit, "There is not enough memory for this; a smaller size or fewer frames may do.")
        except Exception as error:  # a fault of ours must not take the program down: it is told, and its trace kept
            traceback.print_exc()
            soon(self.failed.emit, f"This went wrong inside Hasty Reel: {error}.")
        else:
            soon(self.done.emit, result)
        finally:
            soon(forget, self)
            soon(self.ended.emit)


class Background:
    """Starts tasks and knows those under way.

    Parameters
    ----------
    loop : in whose thread the signals of the tasks arrive
    """

    def __init__(self, loop: EventLoop) -> None:
        self._loop = loop
        self._threads = ThreadPoolExecutor(THREADS, "background")
        self._futures: dict[BackgroundTask, Future[None]] = {}
        self.running: list[BackgroundTask] = []
        self._closed = False

    def start(self, work: Callable[[BackgroundTask], Any]) -> BackgroundTask:
        """Start work.

        Parameters
        ----------
        work : given its task, to tell progress and to look whether it should stop

        Returns
        -------
        BackgroundTask
            The task; it begins on the next turn of the event loop, so that none ends before its signals are connected.
        """
        task = BackgroundTask(self._loop)
        self.running.append(task)
        self._loop.call_soon_threadsafe(self._begin, task, work)
        return task

    def _begin(self, task: BackgroundTask, work: Callable[[BackgroundTask], Any]) -> None:
        if self._closed:
            self._forget(task)
        elif task in self.running:
            self._futures[task] = self._threads.submit(task.run, work, self._forget)

    def _forget(self, task: BackgroundTask) -> None:
        if task in self.running:
            self.running.remove(task)
        self._futures.pop(task, None)

    def stop_all(self, seconds: float = 8.0) -> bool:
        """Ask everything to stop and wait for it; what has not begun never begins.

        Parameters
        ----------
        seconds : the longest to wait

        Returns
        -------
        bool
            Whether all of it has ended.
        """
        for task in self.running:
            task.cancel.cancel()
        self.running = [t for t in self.running if t in self._futures]
        return not wait(list(self._futures.values()), timeout=seconds).not_done

    def close(self) -> None:
        """Begin nothing any more, and let the threads go once what is under way has ended."""
        self._closed = True
        self._threads.shutdown(wait=False, cancel_futures=True)
