"""Frames from a renderer that stays open: processes that keep what they loaded, each asked for one thing at a time.

A process belongs to one thread while it renders, and is given back to the same thread where it can be: it then has the
frame before, and its scene is loaded. One that dies, hangs or floods its output costs the frame it had, and is started
anew for the next, which pays for its start and for reading the scene.
"""

from __future__ import annotations

import contextlib
import math
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from hasty_reel.errors import HastyReelError, RendererFault, Stopped
from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.renderers.askedframe import asked_frame, settings_told
from hasty_reel.farm.renderers.cachefiles import CacheFiles
from hasty_reel.farm.renderers.links import Link
from hasty_reel.farm.renderers.messages import (
    Cache,
    CacheShare,
    Greeting,
    Result,
)
from hasty_reel.farm.renderers.protocol import RenderedFrame
from hasty_reel.farm.renderers.statistics import by_name
from hasty_reel.farm.renderers.takenpicture import rendered_samples, taken
from hasty_reel.farm.renderers.worker import Refused, Worker, started
from hasty_reel.pictures.frame import read_picture
from hasty_reel.temporary import temporary_folder
from hasty_reel.work import CancelToken, Progress, silent

LOOK_SECONDS = 0.05
"""How often it is looked whether to stop while a renderer works."""
CANCEL_SECONDS = 2.0
"""Seconds that a renderer has for giving up a frame; then it is ended."""
MOST_WORDS = 300
IDLE_SECONDS = 60.0
"""Seconds after which processes that nobody asks for anything are ended: they hold their scene in memory."""

PARTS = ("load", "history", "cache", "sample", "write")
"""That a renderer may tell the seconds of."""

Show = Callable[[np.ndarray], None]


@dataclass(frozen=True)
class _Cached:
    """The light caches that a frame blends; seconds and number of those that were made for it."""

    shares: list[CacheShare] = field(default_factory=list)
    seconds: float = 0.0
    made: int = 0


class SessionRenderer:
    """Renders frame jobs by processes that stay open.

    Parameters
    ----------
    link : the renderer link; its command starts one process
    """

    def __init__(self, link: Link) -> None:
        self.link = link
        self._whose = f"renderer '{link.name[:60]}'"
        self._lock = threading.Lock()
        self._idle: list[Worker] = []
        self._busy = 0
        self._greeting: Greeting | None = None
        self._timer: threading.Timer | None = None
        self._caches = CacheFiles()

    # -- what it is to the rest

    def __call__(
        self, job: FrameJob, progress: Progress = silent, cancel: CancelToken | None = None, show: Show | None = None
    ) -> RenderedFrame:
        """Render a job.

        Parameters
        ----------
        job : the frame
        progress : called with the share that is done, 0 to 1, and words
        cancel : looked at meanwhile; None: it cannot be stopped
        show : called with the growing picture, (h, w, 3) scene-linear light; None for nobody

        Raises
        ------
        RendererFault
            Which frame, what went wrong, and the renderer's last line.
        Stopped
            When `cancel` asked for it.
        """
        what = f"Frame {job.frame}"
        with self._worker(job, what, cancel) as worker, temporary_folder("frame") as folder:
            self._can(worker, job)
            load = worker.start_seconds + self._load(worker, job, what, cancel)
            cached = self._cached(worker, job, what, cancel) if worker.can("caches") else _Cached()
            history, fresh = self._history(worker, job)
            output, preview = folder / "frame.exr", folder / "preview.exr"
            message = asked_frame(
                job, output, self._settings(worker, job), worker.next_number(), history, fresh, cached.shares,
                None if show is None else preview,
            )  # fmt: skip
            cpu, began = worker.process.cpu_seconds(), time.perf_counter()
            result = worker.ask(message, what, cancel, progress, None if show is None else _shown(preview, show))
            seconds = time.perf_counter() - began
            if result.frame is not None and result.frame != job.frame:
                raise RendererFault(f"{what}: {self._whose} says that it rendered frame {result.frame:g}.")
            if not output.is_file():
                raise RendererFault(f"{what}: {self._whose} says that it is done and wrote no picture.")
            picture = taken(job, output, self.link)
            worker.frame = float(job.frame)
            worker.start_seconds = 0.0
            parts = _seconds_by_part(result, seconds)
            apart = "sample" in parts
            sampled = parts.get("sample", max(0.0, seconds - sum(parts.values())))
            told = result.samples
            rest = max(0.0, seconds - sampled - parts.get("cache", 0.0))
            gathered = parts.get("history", rest if apart else 0.0) if history else 0.0
            return RenderedFrame(
                picture,
                load_seconds=load + (max(0.0, rest - gathered) if apart else parts.get("load", 0.0)),
                sample_seconds=sampled,
                cache_seconds=cached.seconds + parts.get("cache", 0.0),
                samples=told if told is not None and 0 < told < math.inf else rendered_samples(job, picture),
                memory_bytes=result.memory_bytes or worker.process.peak_bytes(),
                messages="\n".join([*(f"warning: {w[:MOST_WORDS]}" for w in result.warnings[:50]), worker.process.messages()]).strip(),
                cache_bytes=sum(Path(c.path).stat().st_size for c in cached.shares),
                caches_made=cached.made,
                objects=by_name(result.objects),
                object_memory=by_name(result.object_memory),
                cpu_seconds=max(0.0, worker.process.cpu_seconds() - cpu),
                one_number=not apart and not parts,
                history_seconds=gathered,
                history_frames=len(history) if gathered else 0,
            )

    def caches(self, job: FrameJob, cancel: CancelToken | None = None) -> RenderedFrame:
        """Compute the light cache that a frame owns into a file, and no picture.

        Parameters
        ----------
        job : the frame
        cancel : looked at meanwhile; None: it cannot be stopped

        Raises
        ------
        RendererFault
            Which frame, and what went wrong.
        Stopped
            When `cancel` asked for it.
        """
        what = f"Light cache of frame {job.frame}"
        began = time.perf_counter()
        with self._worker(job, what, cancel) as worker:
            self._load(worker, job, what, cancel)
            found = self._caches.owned(job, lambda one, path: self._make_cache(worker, one, path, what, cancel))
            return self._caches.as_frame(found, time.perf_counter() - began)

    @property
    def greeting(self) -> Greeting:
        """What the renderer said that it is and can; a process is started for it where none was.

        Raises
        ------
        RendererFault
            When it cannot be started, or does not answer as expected.
        """
        if self._greeting is None:
            worker = self._start("Hello", None)
            with self._lock:
                self._idle.append(worker)
            self._rest()
        assert self._greeting is not None
        return self._greeting

    def close(self) -> None:
        """End the processes that nobody uses."""
        with self._lock:
            idle, self._idle = self._idle, []
            if self._timer is not None:
                self._timer.cancel()
        for worker in idle:
            worker.quit()
        if not self._busy:
            self._caches.close()

    def _rest(self) -> None:
        """End the processes in a while, where nobody asks for anything until then."""
        with self._lock:
            if self._timer is not None:
                self._timer.cancel()
            self._timer = threading.Timer(IDLE_SECONDS, self._close_idle)
            self._timer.daemon = True
            self._timer.start()

    def _close_idle(self) -> None:
        if not self._busy:
            self.close()

    # -- processes

    @contextlib.contextmanager
    def _worker(self, job: FrameJob, what: str, cancel: CancelToken | None):
        """Give a process for one job; it is given back where it still answers, and ended else."""
        me, found = threading.get_ident(), None
        with self._lock:
            self._busy += 1
            ready = [w for w in self._idle if w.process.there]
            dead = [w for w in self._idle if not w.process.there]
            if ready:
                found = max(
                    ready,
                    key=lambda w: (_follows(job, w), w.thread == me, w.scene == job.scene, w.frame is not None and w.frame <= job.frame),
                )
            self._idle = [w for w in ready if w is not found]
        for worker in dead:
            worker.process.end()
        good = False
        try:
            worker = found or self._start(what, cancel)
            worker.thread = me
            try:
                yield worker
                good = True
            except Stopped:
                good, worker.frame = worker.process.there, None  # it gave the frame up and answered; how far its history came is not known
                raise
            except Refused:
                # it said so itself, and goes on; what any other fault left behind is not known
                good, worker.frame = worker.process.there, None
                raise
            finally:
                if not good:
                    worker.process.end()
        finally:
            with self._lock:
                self._busy -= 1
                if good:
                    self._idle.append(worker)
            self._rest()

    def _start(self, what: str, cancel: CancelToken | None) -> Worker:
        worker = started(self.link, what, self._whose, cancel)
        self._greeting = worker.greeting
        return worker

    # -- what is asked for

    def _load(self, worker: Worker, job: FrameJob, what: str, cancel: CancelToken | None) -> float:
        # a history is lost with the scene
        return worker.load(job.scene, bool(job.recipe.keep_scene or job.recipe.preroll), what, cancel)

    def _settings(self, worker: Worker, job: FrameJob) -> dict[str, float]:
        """What it is told of the settings: those that it knows, all where it did not say which."""
        told = settings_told(job)
        known = worker.greeting.settings
        for name, value in told.items():
            if name in known and not known[name].low <= value <= known[name].high:
                bounds = f"{known[name].low:g} to {known[name].high:g}"
                raise Refused(f"Frame {job.frame}: {name} is {value:g}; {self._whose} takes {bounds}.")
        return {name: value for name, value in told.items() if not known or name in known}

    def _history(self, worker: Worker, job: FrameJob) -> tuple[list[float], bool]:
        """The frames before a frame that the process has not gone through, and whether a history begins with them.

        It goes on from the last one that it rendered, where that lies within the pre-roll.
        """
        if not worker.can("history") or not job.recipe.preroll:
            return [], True
        before = [float(job.frame - k) for k in range(job.recipe.preroll, 0, -1)]
        last = worker.frame
        if last is None or not before[0] - 1 <= last <= job.frame:
            return before, True
        return [frame for frame in before if frame > last], False

    def _cached(self, worker: Worker, job: FrameJob, what: str, cancel: CancelToken | None) -> _Cached:
        """The light caches that a frame blends, made where they are not there."""
        if not job.recipe.cache_step:
            return _Cached()
        seconds: list[float] = []

        def _make(one: FrameJob, path: Path) -> None:
            began = time.perf_counter()
            self._make_cache(worker, one, path, what, cancel)
            seconds.append(time.perf_counter() - began)

        shares = self._caches.blended(job, _make)
        return _Cached(shares, sum(seconds), len(seconds))

    def _make_cache(self, worker: Worker, job: FrameJob, path: Path, what: str, cancel: CancelToken | None) -> None:
        message = Cache(
            id=worker.next_number(), scene=job.scene, frame=float(job.frame), seed=job.settings.seed, settings=self._settings(worker, job),
            output=str(path),
        )  # fmt: skip
        worker.ask(message, what, cancel)
        if not path.is_file() or not path.stat().st_size:
            raise RendererFault(f"{what}: {self._whose} says that the light cache is done and wrote no file.")

    def _can(self, worker: Worker, job: FrameJob) -> None:
        """See that it can what is asked for."""
        if job.crop is not None and not worker.can("crop"):
            raise Refused(f"Frame {job.frame}: {self._whose} does not say that it can 'crop'; expected that for a part of a frame.")


def _follows(job: FrameJob, worker: Worker) -> bool:
    """Whether a process has just what a frame needs of the frames before it."""
    return bool(job.recipe.preroll) and worker.scene == job.scene and worker.frame in (job.frame, job.frame - 1)


def _shown(preview: Path, show: Show) -> Callable[[], None]:
    """What shows a preview that was written; one that is not whole yet is left to the next."""

    def _look() -> None:
        with contextlib.suppress(HastyReelError):
            picture = read_picture(preview)
            if np.isfinite(picture.rgb).all():
                show(picture.rgb)

    return _look


def _seconds_by_part(result: Result, clock: float) -> dict[str, float]:
    """The seconds by part that a renderer told; nothing where they are no seconds, or more than the clock had."""
    parts = {k: v for k, v in result.seconds.items() if k in PARTS and math.isfinite(v) and v >= 0}
    # a clock of its own may differ by little from ours
    return parts if sum(parts.values()) <= clock * 1.02 + 0.05 else {}
