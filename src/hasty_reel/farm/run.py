"""The final frames of a shot by its plan: rendered in order, finished as soon as their neighbours are there."""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from hasty_reel.errors import HastyReelError, Stopped, WrongInput
from hasty_reel.farm.folder import (
    FAILED,
    FINISHED,
    OTHER,
    RENDERED,
    RENDERING,
    WAITING,
    RunFolder,
    chain_of,
    final_hash,
    finishes,
    states,
)
from hasty_reel.farm.link import Job, Renderer, camera_of, moment_of, render_job
from hasty_reel.finish.chain import Finisher
from hasty_reel.pictures.frame import Picture, read_picture, write_picture
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.reel.document import Reel
from hasty_reel.work import CancelToken, silent

RATIO_WEIGHT = 4.0
"""How many frames' worth of trust the plan has before real times outweigh it."""


@dataclass(frozen=True)
class FrameEvent:
    """Something happened to a frame; `picture` where there is one to show."""

    frame: int
    state: str
    seconds: float = 0.0
    words: str = ""
    picture: np.ndarray | None = field(default=None, repr=False)


Listener = Callable[[FrameEvent], None]


class Run:
    """One run of a shot, from the first missing frame to the last finished one."""

    def __init__(self, reel: Reel, plan: ShotPlan, out: Path, frames: list[int] | None = None, renderer: Renderer = render_job) -> None:
        self.plan = plan
        self._renderer = renderer
        self.shot = plan.shot
        self.frames = [int(f) for f in plan.frames] if frames is None else sorted(frames)
        outside = [f for f in self.frames if f not in plan.shot.frames]
        if outside:
            raise WrongInput(
                f"Run of {self.shot.id}: frame {outside[0]} is not in the shot; expected {self.shot.begin} to {self.shot.end}."
            )
        self.chain = chain_of(plan, reel.picture_size)
        self._camera = camera_of(reel)
        self.folder = RunFolder(out, self.shot.id, finishes(self.chain))
        self._hash = self._job(self.frames[0]).hash
        self.states = states(self.folder, self.frames, self._hash, self.chain, self.shot.offset)
        self.faults: dict[int, str] = {}
        self._ratio_log, self._ratio_count = 0.0, RATIO_WEIGHT
        self._lock = threading.Lock()

    def _job(self, frame: int) -> Job:
        samples = int(self.plan.samples[self.plan.index(frame)])
        return Job(
            self.shot.scene, self.shot.scene_frame(frame), self.plan.width, self.plan.height, samples, self.plan.recipe,
            camera=self._camera, moment=moment_of(self.shot, self.plan.recipe, frame, self.shot.begin),
        )  # fmt: skip

    def planned_seconds(self, frame: int) -> float:
        """Seconds the plan gives a frame."""
        return float(self.plan.seconds[self.plan.index(frame)])

    @property
    def planned_left(self) -> float:
        """Seconds the plan gives the frames that are not done."""
        done = {FINISHED: 1.0, RENDERED: 0.9}
        return sum(self.planned_seconds(f) * (1 - done.get(s, 0.0)) for f, s in self.states.items() if s != FAILED)

    @property
    def share_done(self) -> float:
        """Share of the planned seconds that is done, 0 to 1."""
        return 1.0 - self.planned_left / max(1e-9, sum(self.planned_seconds(f) for f in self.frames))

    @property
    def seconds_left(self) -> float:
        """Of the frames that are not done, at the pace of those that are."""
        return self.planned_left * float(np.exp(self._ratio_log / self._ratio_count))

    def count(self, state: str) -> int:
        """How many frames are in a state."""
        return sum(1 for s in self.states.values() if s == state)

    def look(self) -> None:
        """Check that the folder can be used without asking: no frame of another plan or run in it.

        Raises
        ------
        WrongInput
            When there are frames in it already; says how many, and of which kind.
        """
        other, done = self.count(OTHER), self.count(FINISHED) + self.count(RENDERED)
        if other:
            raise WrongInput(
                f"{self.folder.final.folder}: holds {other} frames of {self.shot.id} made with other settings; "
                "go on to render them again, or choose another folder."
            )
        if done:
            raise WrongInput(
                f"{self.folder.final.folder}: holds {done} frames of {self.shot.id} already; go on to keep them, or choose another folder."
            )

    def go(self, listen: Listener, cancel: CancelToken, workers: int = 1) -> None:
        """Render and finish what is not done yet; a frame that fails is told, the rest goes on.

        Raises
        ------
        Stopped
            When `cancel` asked for it; every finished frame is kept.
        WrongInput
            When the folder cannot be written at all.
        """
        if workers < 1 or workers > 64:
            raise WrongInput(f"Run: {workers} workers; expected 1 to 64.")
        _try_folder(self.folder.final.folder)
        todo = [f for f in self.frames if self.states[f] in (WAITING, OTHER, FAILED)]
        finisher = Finisher(self.chain, lambda f: read_picture(self.folder.rendered.path(f)))
        self._finish_ready(finisher, listen)
        if workers == 1:
            for frame in todo:
                cancel.check()
                self._render(frame, listen, cancel)
                self._finish_ready(finisher, listen)
        else:
            with ThreadPoolExecutor(workers) as pool:
                for _ in pool.map(lambda f: self._worker(f, listen, cancel, workers), todo):
                    self._finish_ready(finisher, listen)
            cancel.check()
        self._finish_ready(finisher, listen)

    def _worker(self, frame: int, listen: Listener, cancel: CancelToken, workers: int) -> None:
        import numba

        numba.set_num_threads(max(1, numba.get_num_threads() // workers))
        if not cancel.cancelled:
            try:
                self._render(frame, listen, cancel)
            except Stopped:
                return

    def _render(self, frame: int, listen: Listener, cancel: CancelToken) -> None:
        self._tell(listen, FrameEvent(frame, RENDERING))
        began = time.perf_counter()
        try:
            made = self._renderer(self._job(frame), silent, cancel, None)
            picture = made.picture
            if not self.folder.finishes:
                picture = Picture(picture.rgb, picture.guides, {**picture.attributes, "hr:final": self._hash})
            write_picture(self.folder.rendered.path(frame), picture)
        except Stopped:
            self._tell(listen, FrameEvent(frame, WAITING))
            raise
        except (HastyReelError, MemoryError) as error:
            self._fail(frame, str(error) or "out of memory", listen)
            return
        seconds = time.perf_counter() - began
        planned = self.planned_seconds(frame) - float(self.plan.denoise[self.plan.index(frame)])
        with self._lock:
            self._ratio_log += float(np.log(max(seconds, 1e-6) / max(planned, 1e-6)))
            self._ratio_count += 1
        state = RENDERED if self.folder.finishes else FINISHED
        self._tell(listen, FrameEvent(frame, state, seconds, picture=picture.rgb))

    def _finish_ready(self, finisher: Finisher, listen: Listener) -> None:
        """Finish every rendered frame whose neighbours are all there or will never be."""
        if not self.folder.finishes:
            return
        for frame in self.frames:
            if self.states[frame] != RENDERED:
                continue
            # beyond the frames asked for there may be others of the shot on disk: they help too
            window = self.chain.needed(frame, set(self.frames))
            if any(self.states[f] in (WAITING, RENDERING, OTHER) for f in window):
                continue
            began = time.perf_counter()
            try:
                made = finisher.finish(frame, [f for f in window if self.states[f] != FAILED])
                attributes = {**made.attributes, "hr:final": final_hash(self._hash, self.chain)}
                write_picture(self.folder.final.path(frame), Picture(made.rgb, {}, attributes))
            except HastyReelError as error:
                self._fail(frame, str(error), listen)
                continue
            self._tell(listen, FrameEvent(frame, FINISHED, time.perf_counter() - began, picture=made.rgb))

    def _fail(self, frame: int, words: str, listen: Listener) -> None:
        self.faults[frame] = words
        self._tell(listen, FrameEvent(frame, FAILED, words=words))

    def _tell(self, listen: Listener, event: FrameEvent) -> None:
        with self._lock:
            self.states[event.frame] = event.state
        listen(event)


def _try_folder(folder: Path) -> None:
    """Find out now, not after the first hour, that a folder takes no files."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        probe = folder / f".probe.{os.getpid()}"
        probe.touch()
        probe.unlink()
    except OSError as error:
        raise WrongInput(f"{folder}: frames cannot be written there ({error.strerror or error}).") from error
