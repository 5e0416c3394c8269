"""Who renders the frames of a run: the workers of this machine, or of many."""

from __future__ import annotations

import time
from abc import abstractmethod
from collections.abc import Callable
from concurrent.futures import FIRST_COMPLETED, Future, ThreadPoolExecutor, wait
from dataclasses import dataclass
from typing import Any, Protocol

from hasty_reel.errors import HastyReelError, RendererFault, Stopped, WrongInput
from hasty_reel.farm.halves import render_halves
from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.renderers import cache_maker, gathers_history
from hasty_reel.farm.renderers.protocol import RenderedFrame, Renderer
from hasty_reel.farm.tiles import in_tiles
from hasty_reel.plan.time.timeleft import UnderWay
from hasty_reel.run.bound import BoundToken
from hasty_reel.work import CancelToken, silent

MOST_WORKERS = 64
THIS_MACHINE = "this machine"


@dataclass(frozen=True)
class FrameTask:
    """A frame that somebody is to render.

    frame : as the shot numbers it; job : what is rendered, and before it `preroll`, which are dropped
    planned : seconds by the plan on this machine; bound : seconds after which it is given up
    caches : the light caches that the frame owns are wanted, not its picture
    """

    frame: int
    job: FrameJob
    planned: float
    bound: float
    preroll: tuple[FrameJob, ...] = ()
    caches: bool = False


@dataclass(frozen=True)
class Outcome:
    """What became of a frame: a picture, or an error.

    seconds : it took; machine : that had it; speed : of that machine, as it is planned with
    lost : its machine went away: no fault of the frame
    """

    task: FrameTask
    seconds: float
    machine: str
    made: RenderedFrame | None = None
    error: Exception | None = None
    speed: float = 1.0
    lost: bool = False


class Crew(Protocol):
    """Renders frames, several at once."""

    @abstractmethod
    def free_hands(self) -> int:
        """Return how many frames could begin now."""

    @abstractmethod
    def begin(self, task: FrameTask, cancel: CancelToken) -> None:
        """Begin a frame.

        Parameters
        ----------
        task : the frame
        cancel : of the whole run
        """

    @abstractmethod
    def wait(self, seconds: float) -> list[Outcome]:
        """Return what ended, waiting for it so long.

        Parameters
        ----------
        seconds : of the clock
        """

    @abstractmethod
    def under_way(self) -> dict[int, UnderWay]:
        """Return the frames that are being rendered, by frame."""

    @abstractmethod
    def hands(self) -> list[tuple[str, float]]:
        """Return machine and speed of each worker there is."""

    @abstractmethod
    def close(self) -> None:
        """Let the workers go."""


def rendered_in_time(renderer: Renderer, task: FrameTask, cancel: CancelToken, share: Callable[[float], None]) -> RenderedFrame:
    """Render a frame, with the frames before it that give it its history; end it where it takes too long.

    Parameters
    ----------
    renderer : what renders
    task : the frame
    cancel : of the whole run
    share : called with the share of the frame that is done

    Raises
    ------
    RendererFault
        When the frame takes longer than its bound.
    Stopped
        When `cancel` asked for it.
    HastyReelError
        When the renderer fails.
    """
    token = BoundToken(cancel, task.bound)
    try:
        if task.caches:
            make = cache_maker(renderer)
            if make is None:
                raise WrongInput(f"Frame {task.frame}: this renderer computes no light cache by itself.")
            return make(task.job, token)
        for job in task.preroll if gathers_history(renderer) else ():
            token.check()
            renderer(job, silent, token, None)
        renderer = in_tiles(renderer) if task.job.recipe.tiles > 1 else renderer
        whole = render_halves if task.job.recipe.halves else _render_whole
        return whole(renderer, task.job, lambda done, words: share(done), token, None)
    except Stopped:
        if token.late and not cancel.cancelled:
            raise token.fault(task.frame, task.planned) from None
        raise


def _render_whole(renderer: Renderer, job: FrameJob, *more: Any) -> RenderedFrame:
    return renderer(job, *more)


class LocalCrew:
    """Workers of this machine, each a thread of its own.

    Parameters
    ----------
    renderer : what renders
    workers : frames rendered at once, 1 to 64
    """

    def __init__(self, renderer: Renderer, workers: int = 1) -> None:
        if workers < 1 or workers > MOST_WORKERS:
            raise WrongInput(f"Run: {workers} workers; expected 1 to {MOST_WORKERS}.")
        self._renderer, self._workers = renderer, workers
        self._threads = ThreadPoolExecutor(workers, "render")
        self._futures: dict[Future[Outcome], FrameTask] = {}
        self._threads_each = 0
        self._begun: dict[int, tuple[float, FrameTask]] = {}
        self._shares: dict[int, float] = {}

    def free_hands(self) -> int:
        """Return how many frames could begin now."""
        # one more lies ready where there are several, so that none waits while frames are looked at and finished
        return self._workers + (self._workers > 1) - len(self._futures)

    def begin(self, task: FrameTask, cancel: CancelToken) -> None:
        """Begin a frame.

        Parameters
        ----------
        task : the frame
        cancel : of the whole run
        """
        self._futures[self._threads.submit(self._render, task, cancel)] = task

    def _render(self, task: FrameTask, cancel: CancelToken) -> Outcome:
        if self._workers > 1:
            import numba

            if not self._threads_each:
                self._threads_each = numba.get_num_threads()
            numba.set_num_threads(max(1, self._threads_each // self._workers))
        began = time.perf_counter()
        self._begun[task.frame] = began, task
        try:
            made = rendered_in_time(self._renderer, task, cancel, lambda share: self._shares.__setitem__(task.frame, share))
        except (HastyReelError, MemoryError) as error:
            return Outcome(task, time.perf_counter() - began, THIS_MACHINE, error=error)
        except Exception as error:  # a fault of ours costs the frame, as it does on another machine, and not the run
            fault = RendererFault(f"Frame {task.frame}: its worker failed ({type(error).__name__}: {str(error)[:160]}).")
            return Outcome(task, time.perf_counter() - began, THIS_MACHINE, error=fault)
        return Outcome(task, time.perf_counter() - began, THIS_MACHINE, made)

    def wait(self, seconds: float) -> list[Outcome]:
        """Return what ended, waiting for it so long.

        Parameters
        ----------
        seconds : of the clock
        """
        if not self._futures:  # nothing to wait for: the run is paused
            time.sleep(seconds)
            return []
        ended = wait(self._futures, timeout=seconds, return_when=FIRST_COMPLETED).done
        out = []
        for future in ended:
            task = self._futures.pop(future)
            self._begun.pop(task.frame, None)
            self._shares.pop(task.frame, None)
            out.append(future.result())
        return out

    def under_way(self) -> dict[int, UnderWay]:
        """Return the frames that are being rendered, by frame."""
        now = time.perf_counter()
        return {
            f: UnderWay(THIS_MACHINE, 1.0, now - began, task.planned, self._shares.get(f, 0.0), task.bound)
            for f, (began, task) in list(self._begun.items())
        }

    def hands(self) -> list[tuple[str, float]]:
        """Return machine and speed of each worker there is."""
        return [(THIS_MACHINE, 1.0)] * self._workers

    def close(self) -> None:
        """Let the workers go."""
        self._threads.shutdown(wait=True)
