"""A crew of many machines: the frames of a run sent to a cluster of dask.distributed, an optional library.

The cluster is started with that library's own commands (docs/cluster.md). Frames come back over the network and are
written here, so that the machines need no common disk; a worker that dies loses nothing, its frames go to the others.
"""

from __future__ import annotations

import contextlib
import logging
import socket
import time
import uuid
from pathlib import Path
from typing import Any

from hasty_reel.errors import HastyReelError, RendererFault, Stopped, WrongInput
from hasty_reel.farm.renderers import renderer_of
from hasty_reel.farm.renderers.links import Link
from hasty_reel.plan.time.timeleft import UnderWay
from hasty_reel.run.clusterkeys import KEY_FILES
from hasty_reel.run.crew import FrameTask, Outcome, rendered_in_time
from hasty_reel.run.wire import FarFrame, as_bytes, from_bytes
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


def render_far(link: Link, task: FrameTask, stop: str) -> bytes:
    """Render a frame on a worker of the cluster; what becomes of it, good or bad, goes back as plain bytes (`wire`).

    Parameters
    ----------
    link : the renderer link
    task : the frame
    stop : name of the event that stops the run
    """
    began, made, words, stopped = time.perf_counter(), None, "", False
    try:
        made = rendered_in_time(renderer_of(link), task, _StopToken(stop), lambda share: None)
    except Stopped:
        stopped = True
    except (HastyReelError, MemoryError) as error:
        words = str(error) or "out of memory"
    except Exception as error:  # a fault of ours over there is no reason to send an object here
        words = f"Frame {task.frame}: its worker failed ({type(error).__name__}: {str(error)[:160]})."
    return as_bytes(FarFrame(made, words, stopped, time.perf_counter() - began, socket.gethostname()))


def _security(address: str, keys: Path | None) -> Any:
    """What the connection is secured by; None for a plain one."""
    if keys is None:
        if address.startswith("tls://"):
            raise WrongInput(f"--scheduler {address}: is encrypted; expected --keys with the folder that `hasty-reel cluster-keys` made.")
        return None
    if not address.startswith("tls://"):
        raise WrongInput(f"--scheduler {address}: --keys goes with an address that begins with tls://.")
    from distributed.security import Security

    lacking = [name for name in KEY_FILES if not (keys / name).is_file()]
    if lacking:
        raise WrongInput(f"{keys}: has no {lacking[0]}; expected the folder that `hasty-reel cluster-keys` made.")
    ca, certificate, key = (str(keys / name) for name in KEY_FILES)
    return Security(require_encryption=True, tls_ca_file=ca, tls_client_cert=certificate, tls_client_key=key)


class ClusterCrew:
    """Renders frames on a cluster.

    Parameters
    ----------
    address : of its scheduler, as tls://192.168.1.10:8786, or tcp://127.0.0.1:8786
    link : the renderer link, as the machines of the cluster know it
    keys : folder with the certificates of the cluster; None where it is not encrypted

    Raises
    ------
    WrongInput
        When the library is not installed, or no scheduler answers.
    """

    def __init__(self, address: str, link: Link, keys: Path | None = None) -> None:
        try:
            from distributed import Client, Event
        except ImportError:
            raise WrongInput("--scheduler needs the library dask.distributed; install hasty-reel with its extra 'cluster'.") from None
        security = _security(address, keys)
        logging.getLogger("distributed").setLevel(logging.CRITICAL)  # what it would print is said here, in a sentence
        try:
            # results are bytes; what comes as anything else is refused before it is unpickled
            self._client: Any = Client(
                address, timeout=CONNECT_SECONDS, set_as_default=False, security=security, serializers=["dask", "pickle"],
                deserializers=["dask", "msgpack"],
            )  # fmt: skip
        except (OSError, ValueError, TypeError, RuntimeError) as error:
            told = " ".join(str(error).split())[:160]
            raise WrongInput(f"--scheduler {address}: no scheduler answers there ({told}); expected tls://host:port.") from error
        self._client._stream_handlers["task-erred"] = self._erred
        self._address, self._link = address, link
        self._stop = Event(f"hasty-reel-{uuid.uuid4().hex}", client=self._client)
        self._futures: dict[Any, tuple[FrameTask, float]] = {}
        self._threads, self._counted, self._lost = 0, 0.0, False
        self._cancel: CancelToken | None = None

    def _erred(self, key: Any = None, **_: Any) -> None:
        """Take in that a task failed over there, without its exception, which would be unpickled."""
        state = self._client.futures.get(key)
        if state is not None:
            state.set_error(RuntimeError("it failed before it could say why"), None)

    def _workers(self) -> int:
        now = time.monotonic()
        if now - self._counted > LOOK_SECONDS:
            self._counted = now
            try:
                self._threads = sum(self._client.nthreads().values())
            except (OSError, AttributeError, TimeoutError):
                self._threads = 0
        return self._threads

    def free_hands(self) -> int:
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
            try:
                far = from_bytes(future.result(), task.job, task.caches)
            except RendererFault as fault:
                return Outcome(task, took, self._address, error=fault)
            except Exception as refused:  # no bytes: it was refused before it was read
                words = f"Frame {task.frame}: what its worker sent is no frame ({type(refused).__name__})."
                return Outcome(task, took, self._address, error=RendererFault(words))
            error: Exception | None = Stopped("Stopped on request; what was finished is kept.") if far.stopped else None
            return Outcome(task, far.seconds, far.machine, far.made, RendererFault(far.words) if far.words else error)
        if future.status == "error":
            words = f"Frame {task.frame}: its worker failed before it could say why."
            return Outcome(task, took, self._address, error=RendererFault(words))
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
