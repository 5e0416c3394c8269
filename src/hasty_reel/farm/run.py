"""The final frames of a shot by its plan: rendered in order, finished as soon as their neighbours are there."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from pathlib import Path

import msgspec
import numpy as np

from hasty_reel.errors import HastyReelError, PictureError, Stopped, WrongInput, reason
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
from hasty_reel.farm.job import FrameJob, camera_of, moment_of
from hasty_reel.farm.renderers.bench import render_on_bench
from hasty_reel.farm.renderers.protocol import Renderer
from hasty_reel.finish.chain import FINISH
from hasty_reel.finish.finisher import Finisher
from hasty_reel.finish.sequence import finish_sequence
from hasty_reel.pictures.finite import mended
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.pictures.writing import write_picture
from hasty_reel.plan.chunks import PREROLL_SAMPLES
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.reel.document import Reel
from hasty_reel.wholefile import clear_folder, flush_folder, part_of
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


class DamagedFrame(PictureError):
    """A rendered picture on disk that cannot be read; `frame` says which.

    Parameters
    ----------
    frame : as the shot numbers it
    words : what is wrong
    """

    def __init__(self, frame: int, words: str) -> None:
        super().__init__(words)
        self.frame = frame


class Run:
    """One run of a shot, from the first missing frame to the last finished one.

    Parameters
    ----------
    reel : the reel
    plan : of the shot
    out : folder of the run
    frames : which of the plan; None for all
    renderer : what renders
    """

    def __init__(
        self, reel: Reel, plan: ShotPlan, out: Path, frames: list[int] | None = None, renderer: Renderer = render_on_bench
    ) -> None:
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
        self.replaced: dict[int, int] = {}
        self._again: set[int] = set()
        self._damaged: set[int] = set()
        self._ratio_log, self._ratio_count = 0.0, RATIO_WEIGHT
        self._lock = threading.Lock()

    def _job(self, frame: int) -> FrameJob:
        samples = int(self.plan.samples[self.plan.index(frame)])
        recipe = self.plan.recipe
        return FrameJob(
            self.shot.scene, self.shot.scene_frame(frame), self.plan.width, self.plan.height, samples, recipe,
            camera=self._camera, moment=moment_of(self.shot, recipe, frame, self.shot.begin),
            floor=recipe.samples_floor, stop_noise=recipe.stop_noise, cap=recipe.time_cap,
        )  # fmt: skip

    def planned_seconds(self, frame: int) -> float:
        """Return the seconds the plan gives a frame.

        Parameters
        ----------
        frame : as the shot numbers it
        """
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
        """Return how many frames are in a state.

        Parameters
        ----------
        state : one of those of `folder`
        """
        return sum(1 for s in self.states.values() if s == state)

    def look(self, resume: bool = False, overwrite: bool = False) -> None:
        """Check that the folder can be used as it was asked for.

        Parameters
        ----------
        resume : frames of this plan that are there are kept
        overwrite : frames made with other settings are rendered again, and lost

        Raises
        ------
        WrongInput
            When there are frames in it that nothing was said of; says how many, and of which kind.
        """
        other, done = self.count(OTHER), self.count(FINISHED) + self.count(RENDERED)
        where = self.folder.final.folder
        if other and not overwrite:
            raise WrongInput(
                f"{where}: holds {other} frames of {self.shot.id} made with other settings; "
                "expected --overwrite to render them again, or another folder."
            )
        if done and not (resume or overwrite):
            raise WrongInput(
                f"{where}: holds {done} frames of {self.shot.id} already; expected --resume to go on and keep them, or another folder."
            )

    def go(self, listen: Listener, cancel: CancelToken, workers: int = 1) -> None:
        """Render and finish what is not done yet; a frame that fails is told, the rest goes on.

        Parameters
        ----------
        listen : called with everything that happens to a frame
        cancel : looked at between frames and while one is rendered
        workers : frames rendered at once, 1 to 64

        Raises
        ------
        Stopped
            When `cancel` asked for it; every finished frame is kept.
        WrongInput
            When the folder cannot be written at all.
        """
        if workers < 1 or workers > 64:
            raise WrongInput(f"Run: {workers} workers; expected 1 to 64.")
        folders = {self.folder.final.folder, self.folder.rendered.folder}
        _try_folder(self.folder.final.folder)
        for folder in folders:
            clear_folder(folder)
        finisher = None if self.chain.on_folders else Finisher(self.chain, self._load, cancel)
        todo = [f for f in self.frames if self.states[f] in (WAITING, OTHER, FAILED)]
        self._again |= self._gone()
        try:
            self._finish_ready(finisher, listen)
            while todo := sorted({*todo, *self._again}):
                self._render_all(todo, finisher, listen, cancel, workers)
                self._finish_ready(finisher, listen)
                todo = []
            if finisher is None:
                self._finish_together(listen, cancel, workers)
        finally:
            self.replaced |= {} if finisher is None else finisher.replaced
            for folder in folders:
                flush_folder(folder)

    def _render_all(self, todo: list[int], finisher: Finisher | None, listen: Listener, cancel: CancelToken, workers: int) -> None:
        self._render_preroll(todo[0], cancel)
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

    def _render_preroll(self, before: int, cancel: CancelToken) -> None:
        """Render the frames that give the first one its history, with a sample each, and drop them."""
        recipe = self.plan.recipe
        for frame in range(before - recipe.preroll, before):
            cancel.check()
            plain = replace(self._job(before), frame=self.shot.scene_frame(frame), samples=PREROLL_SAMPLES, guides=False, stop_noise=None)
            self._renderer(replace(plain, recipe=msgspec.structs.replace(recipe, shutter_steps=0)), silent, cancel, None)

    def _gone(self) -> set[int]:
        """Finished frames whose rendered picture is gone and is needed to finish a neighbour."""
        if not self.folder.finishes:
            return set()
        there = set(self.folder.rendered.frames())
        known = set(self.frames)
        needed = {g for f in self.frames if self.states[f] != FINISHED for g in self.chain.needed(f, known)}
        return {f for f in needed if self.states[f] == FINISHED and f not in there}

    def _load(self, frame: int) -> Picture:
        """A rendered picture; one that is damaged is marked to be rendered again, once."""
        try:
            return read_picture(self.folder.rendered.path(frame))
        except PictureError as error:
            raise DamagedFrame(frame, str(error)) from error

    def _worker(self, frame: int, listen: Listener, cancel: CancelToken, workers: int) -> None:
        import numba

        numba.set_num_threads(max(1, numba.get_num_threads() // workers))
        if not cancel.cancelled:
            try:
                self._render(frame, listen, cancel)
            except Stopped:
                return

    def _render(self, frame: int, listen: Listener, cancel: CancelToken) -> None:
        # a finished frame is rendered once more only for its neighbours: it stays finished
        finished = self.states[frame] == FINISHED
        self._tell(listen, FrameEvent(frame, RENDERING))
        began = time.perf_counter()
        try:
            made = self._renderer(self._job(frame), silent, cancel, None)
            picture, count = mended(made.picture, f"Frame {frame}")
            if count:
                self.replaced[frame] = count
            if not self.folder.finishes:
                picture = Picture(picture.rgb, picture.guides, {**picture.attributes, "hr:final": self._hash})
            write_picture(self.folder.rendered.path(frame), picture)
        except Stopped:
            self._tell(listen, FrameEvent(frame, FINISHED if finished else WAITING))
            raise
        except (HastyReelError, MemoryError) as error:
            self._fail(frame, str(error) or "out of memory", listen)
            return
        seconds = time.perf_counter() - began
        planned = self.planned_seconds(frame) - float(self.plan.denoise[self.plan.index(frame)])
        with self._lock:
            self._ratio_log += float(np.log(max(seconds, 1e-6) / max(planned, 1e-6)))
            self._ratio_count += 1
        self._again.discard(frame)
        state = RENDERED if self.folder.finishes and not finished else FINISHED
        self._tell(listen, FrameEvent(frame, state, seconds, picture=picture.rgb))

    def _finish_together(self, listen: Listener, cancel: CancelToken, workers: int) -> None:
        """Finish all frames at once, where a step takes a folder; frames that failed are left out."""
        there = [f for f in self.frames if self.states[f] in (RENDERED, FINISHED)]
        left = [f for f in there if self.states[f] == RENDERED]
        began = time.perf_counter()
        try:
            done = finish_sequence(
                self.chain, there, self.folder.rendered.path, self.folder.final.path, silent, cancel, workers, left,
                {"hr:final": final_hash(self._hash, self.chain)},
            )  # fmt: skip
        except Stopped:
            raise
        except (HastyReelError, MemoryError) as error:
            for frame in left:
                self._fail(frame, str(error) or "out of memory", listen)
            return
        self.replaced |= done.replaced
        for frame in done.frames:
            picture = read_picture(self.folder.final.path(frame), ()).rgb
            self._tell(listen, FrameEvent(frame, FINISHED, (time.perf_counter() - began) / len(left), picture=picture))

    def _finish_ready(self, finisher: Finisher | None, listen: Listener) -> None:
        """Finish every rendered frame whose neighbours are all there or will never be."""
        if not self.folder.finishes or finisher is None:
            return
        for frame in self.frames:
            if self.states[frame] != RENDERED:
                continue
            # beyond the frames asked for there may be others of the shot on disk: they help too
            window = self.chain.needed(frame, set(self.frames))
            if any(self.states[f] in (WAITING, RENDERING, OTHER) or f in self._again for f in window):
                continue
            began = time.perf_counter()
            try:
                made = finisher.finish(frame, [f for f in window if self.states[f] != FAILED])
                attributes = {**made.attributes, FINISH: self.chain.words, "hr:final": final_hash(self._hash, self.chain)}
                write_picture(self.folder.final.path(frame), Picture(made.rgb, {}, attributes))
            except DamagedFrame as damaged:
                self._take_back(damaged, listen)
                continue
            except (HastyReelError, MemoryError) as error:
                self._fail(frame, str(error) or "out of memory", listen)
                continue
            self._tell(listen, FrameEvent(frame, FINISHED, time.perf_counter() - began, picture=made.rgb))

    def _take_back(self, damaged: DamagedFrame, listen: Listener) -> None:
        """Have a frame rendered again whose picture on disk is damaged; the second time it has failed."""
        if damaged.frame in self._damaged:
            self._fail(damaged.frame, str(damaged), listen)
            return
        self._damaged.add(damaged.frame)
        self._again.add(damaged.frame)
        state = FINISHED if self.states[damaged.frame] == FINISHED else WAITING
        self._tell(listen, FrameEvent(damaged.frame, state, words=f"{damaged} It is rendered again."))

    def _fail(self, frame: int, words: str, listen: Listener) -> None:
        self.faults[frame] = words
        self._again.discard(frame)
        self._tell(listen, FrameEvent(frame, FAILED, words=words))

    def _tell(self, listen: Listener, event: FrameEvent) -> None:
        with self._lock:
            self.states[event.frame] = event.state
        listen(event)


def _try_folder(folder: Path) -> None:
    """Find out now, not after the first hour, that a folder takes no files."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        probe = part_of(folder / "probe")
        probe.touch()
        probe.unlink()
    except OSError as error:
        raise WrongInput(f"{folder}: frames cannot be written there ({reason(error)}).") from error
