"""A crew of many machines: the frames of a run sent to a cluster of dask.distributed, an optional library.

The cluster is started with that library's own commands (docs/cluster.md). Frames come back over the network and are
written here, so that the machines need no common disk; a worker that dies loses nothing, its frames go to the others.
"""

from __future__ import annotations

import contextlib
import socket
import time
import uuid
from typing import Any

from hasty_reel.errors import HastyReelError, RendererFault, Stopped, WrongInput
from hasty_reel.farm.finals.crew import FrameTask, Outcome, rendered_in_time
from hasty_reel.farm.renderers import renderer_of
from hasty_reel.farm.renderers.links import Link
from hasty_reel.farm.renderers.protocol import RenderedFrame
from hasty_reel.plan.timeleft import UnderWay
from hasty_reel.work import CancelToken

CONNECT_SECONDS, LOOK_SECONDS, STOP_SECONDS = 10.0, 1.0, 1.0
"""How long the scheduler is waited for; how often workers are counted; how often a worker looks whether it is to stop."""


class _StopToken(CancelToken):
    """Looks on the scheduler, now and then, whether the run is to stop."""

    def __init__(self, name: str) -> None:
        super().__init__()
        from distributed import Event

        self._far, self._looked, self._is_set = Event(name), 0.0, False

    @property
    def cancelled(self) -> bool:
        """Whether the run is to stop."""
        now = time.monotonic()
        if not self._is_set and now - self._looked > STOP_SECONDS:
            self._looked = now
            self._is_set = bool(self._far.is_set())
        return self._is_set or super().cancelled


def render_far(link: Link, task: FrameTask, stop: str) -> tuple[RenderedFrame | None, str, bool, float, str]:
    """Render a frame on a worker of the cluster.

    Parameters
    ----------
    link : the renderer link
    task : the frame
    stop : name of the event that stops the run

    Returns
    -------
    made
        The frame; None where it failed.
    words
        What went wrong; '' where nothing did.
    stopped
        Whether the run was stopped meanwhile.
    seconds
        It took.
    machine
        That had it.
    """
    began = time.perf_counter()
    try:
        made = rendered_in_time(renderer_of(link), task, _StopToken(stop), lambda share: None)
    except Stopped:
        return None, "", True, time.perf_counter() - began, socket.gethostname()
    except (HastyReelError, MemoryError) as error:
        return None, str(error) or "out of memory", False, time.perf_counter() - began, socket.gethostname()
    return made, "", False, time.perf_counter() - began, socket.gethostname()


class ClusterCrew:
    """Renders frames on a cluster.

    Parameters
    ----------
    address : of its scheduler, as tcp://127.0.0.1:8786
    link : the renderer link, as the machines of the cluster know it

    Raises
    ------
    WrongInput
        When the library is not installed, or no scheduler answers.
    """

    def __init__(self, address: str, link: Link) -> None:
        try:
            from distributed import Client, Event
        except ImportError:
            raise WrongInput("--scheduler needs the library dask.distributed; install hasty-reel with its extra 'cluster'.") from None
        try:
            self._client: Any = Client(address, timeout=CONNECT_SECONDS, set_as_default=False)
        except (OSError, ValueError, TypeError) as error:
            raise WrongInput(f"--scheduler {address}: no scheduler answers there ({str(error)[:160]}); expected host:port.") from error
        self._address, self._link = address, link
        self._stop = Event(f"hasty-reel-{uuid.uuid4().hex}", client=self._client)
        self._futures: dict[Any, tuple[FrameTask, float]] = {}
        self._threads, self._counted, self._lost = 0, 0.0, False
        self._cancel: CancelToken | None = None

    def _workers(self) -> int:
        now = time.monotonic()
        if now - self._counted > LOOK_SECONDS:
            self._counted = now
            try:
                self._threads = sum(self._client.nthreads().values())
            except (OSError, AttributeError, TimeoutError):
                self._threads = 0
        return self._threads

    def room(self) -> int:
        """Return how many frames could begin now."""
        return max(0, self._workers() - len(self._futures))

    def hands(self) -> list[tuple[str, float]]:
        """Return machine and speed of each worker there is."""
        return [(self._address, 1.0)] * max(1, self._threads)

    def begin(self, task: FrameTask, cancel: CancelToken) -> None:
        """Begin a frame.

        Parameters
        ----------
        task : the frame
        cancel : of the whole run
        """
        self._cancel = cancel
        future = self._client.submit(render_far, self._link, task, self._stop.name, pure=False, retries=0)
        self._futures[future] = task, time.perf_counter()

    def wait(self, seconds: float) -> list[Outcome]:
        """Return what ended, waiting for it so long.

        Parameters
        ----------
        seconds : of the clock

        Raises
        ------
        HastyReelError
            When the scheduler is gone.
        """
        if self._lost:  # said already: what is under way there cannot be asked about any more
            stopped = [Outcome(t, 0.0, self._address, error=Stopped("The scheduler is gone.")) for t, _ in self._futures.values()]
            self._futures.clear()
            return stopped
        if self._cancel is not None and self._cancel.cancelled:
            with contextlib.suppress(OSError, TimeoutError):
                self._stop.set()
        until = time.monotonic() + seconds
        while True:
            ended = [f for f in self._futures if f.done()]
            if ended or time.monotonic() >= until:
                break
            time.sleep(0.01)
        if self._client.status != "running":
            self._lost = True
            raise HastyReelError(f"The scheduler at {self._address} is gone; what was finished is kept, and the run can be gone on with.")
        return [self._outcome(f) for f in ended]

    def _outcome(self, future: Any) -> Outcome:
        task, began = self._futures.pop(future)
        took = time.perf_counter() - began
        if future.status == "finished":
            made, words, stopped, seconds, machine = future.result()
            error: Exception | None = Stopped("Stopped on request; what was finished is kept.") if stopped else None
            return Outcome(task, seconds, machine, made, RendererFault(words) if words else error)
        if future.status == "error":
            fault = RendererFault(f"Frame {task.frame}: its worker failed ({str(future.exception())[:160]}).")
            return Outcome(task, took, self._address, error=fault)
        return Outcome(task, took, self._address, error=RendererFault(f"Frame {task.frame}: its worker went away."), lost=True)

    def under_way(self) -> dict[int, UnderWay]:
        """Return the frames that are being rendered, by frame."""
        now = time.perf_counter()
        return {t.frame: UnderWay(self._address, 1.0, now - began, t.planned, bound=t.bound) for t, began in list(self._futures.values())}

    def close(self) -> None:
        """Let the workers go."""
        for future in self._futures:
            future.cancel()
        self._client.close()
