"""The final frames of a shot by its plan: rendered by a crew, finished as soon as their neighbours are there."""

from __future__ import annotations

import threading
from dataclasses import replace
from pathlib import Path

import msgspec
import numpy as np

from hasty_reel.errors import WrongInput
from hasty_reel.farm.job import FrameJob, camera_of, moment_of
from hasty_reel.farm.renderers import cache_maker, frames_of_a_start
from hasty_reel.farm.renderers.bench import render_on_bench
from hasty_reel.farm.renderers.protocol import Renderer
from hasty_reel.finish.chain import Chain
from hasty_reel.plan.frames.chunks import PREROLL_SAMPLES
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.plan.time.slip import NewPlan
from hasty_reel.plan.time.timeleft import Pace, TimeLeft, time_left
from hasty_reel.reel.document import Reel
from hasty_reel.run.around import Around
from hasty_reel.run.cachepass import CachePass
from hasty_reel.run.control import RunControl
from hasty_reel.run.crew import THIS_MACHINE, Crew, FrameTask, LocalCrew
from hasty_reel.run.events import DueTime, Listener
from hasty_reel.run.folder import LIGHT_CACHES, RunFolder, chain_of, finishes, states
from hasty_reel.run.framestate import FAILED, FINISHED, OTHER, RENDERED, RENDERING, WAITING, FrameState
from hasty_reel.run.state import RunState
from hasty_reel.work import CancelToken

DONE = {FINISHED: 1.0, RENDERED: 0.9}
"""Share of the planned seconds of a frame that is done, by its state, where nothing tells more."""


class Run:
    """One run of a shot, from the first missing frame to the last finished one.

    state : how its frames stand, and what is asked of it; while it works the loop alone sets another one
    replaced : pixels of a frame that were no numbers; pace : how much slower than planned it goes
    around : what stands around the crop; None where frames are rendered whole
    caches : light caches that are computed once for all workers; None where the renderer makes its own, or there are none
    offer : fewer samples with which it is not late, None while it does not slip

    Parameters
    ----------
    reel : the reel
    plan : of the shot
    out : folder of the run
    frames : which of the plan; None for all
    renderer : what renders
    finish : the frames are finished too; False where nothing but the rendering is looked at
    """

    def __init__(
        self, reel: Reel, plan: ShotPlan, out: Path, frames: list[int] | None = None, renderer: Renderer = render_on_bench,
        finish: bool = True,
    ) -> None:  # fmt: skip
        self.plan = plan
        self.renderer = renderer
        self.shot = plan.shot
        self.frames = [int(f) for f in plan.frames] if frames is None else sorted(frames)
        outside = [f for f in self.frames if f not in plan.shot.frames]
        if outside:
            raise WrongInput(
                f"Run of {self.shot.id}: frame {outside[0]} is not in the shot; expected {self.shot.begin} to {self.shot.end}."
            )
        box = plan.recipe.crop_box(plan.width, plan.height)
        if box is not None:  # what stands around the others is rendered too
            self.frames = sorted({*self.frames, plan.shot.middle})
        self.chain = chain_of(plan, reel.picture_size) if finish else Chain(1)
        self._camera = camera_of(reel)
        self.folder = RunFolder(out, self.shot.id, finishes(self.chain))
        self.around = None if box is None else Around(plan.shot.middle, box, self.folder.rendered.path(plan.shot.middle))
        self.hash = self.job(self.frames[0]).hash
        found = states(self.folder, self.frames, self.hash, self.chain, self.shot.offset)
        self.state = RunState.of(
            found, self.chain, self.folder.finishes, self.chain.on_folders, None if self.around is None else self.around.frame
        )
        self.replaced: dict[int, int] = {}
        self.pace = Pace()
        self.offer: NewPlan | None = None
        self.crew: Crew | None = None
        self.workers = 1
        self.caches = CachePass(plan) if plan.recipe.cache_step and cache_maker(renderer) is not None else None
        self.lock = threading.Lock()

    def job(self, frame: int) -> FrameJob:
        """Return what is asked of a renderer for a frame.

        Parameters
        ----------
        frame : as the shot numbers it
        """
        samples = int(self.plan.samples[self.plan.index(frame)])
        recipe = self.plan.recipe
        return FrameJob(
            self.shot.scene, self.shot.scene_frame(frame), self.plan.width, self.plan.height, samples, recipe,
            camera=self._camera, moment=moment_of(self.shot, recipe, frame, self.shot.begin),
            floor=recipe.samples_floor, stop_noise=recipe.stop_noise, cap=recipe.time_cap,
            crop=None if self.around is None or frame == self.around.frame else self.around.box,
            cache_folder=str(self.folder.final.folder / LIGHT_CACHES) if recipe.cache_step else "",
        )  # fmt: skip

    def preroll_of(self, before: int) -> tuple[FrameJob, ...]:
        """Return the frames that give a frame its history, with a sample each: they are rendered and dropped.

        Parameters
        ----------
        before : the frame, as the shot numbers it
        """
        recipe = self.plan.recipe
        plain = replace(
            self.job(before), samples=PREROLL_SAMPLES, guides=False, stop_noise=None, crop=None,
            recipe=msgspec.structs.replace(recipe, shutter_steps=0, cache_step=0),
        )  # fmt: skip
        return tuple(replace(plain, frame=self.shot.scene_frame(f)) for f in range(before - recipe.preroll, before))

    # -- how it stands

    @property
    def states(self) -> dict[int, FrameState]:
        """State of each frame, by number."""
        return {f: frame.state for f, frame in self.state.frames.items()}

    @property
    def faults(self) -> dict[int, str]:
        """What was wrong with the frames that failed, by number."""
        return {f: frame.fault for f, frame in self.state.frames.items() if frame.state is FAILED}

    @property
    def attempts(self) -> dict[int, int]:
        """How often each frame was begun, of those that were."""
        return {f: frame.attempts for f, frame in self.state.frames.items() if frame.attempts}

    @property
    def late(self) -> float:
        """Chance of being late, as it was told last."""
        return self.state.late

    def planned_seconds(self, frame: int) -> float:
        """Return the seconds the plan gives a frame.

        Parameters
        ----------
        frame : as the shot numbers it
        """
        return float(self.plan.seconds[self.plan.index(frame)])

    def planned_rendering(self, frame: int) -> float:
        """Return the seconds the plan gives a frame without finishing.

        Parameters
        ----------
        frame : as the shot numbers it
        """
        return self.planned_seconds(frame) - float(self.plan.denoise[self.plan.index(frame)])

    def _cached_seconds(self, frame: int) -> float:
        """Of the planned seconds of a frame, those of caches that are there or in work."""
        if self.caches is None or not (self.caches.there(frame) or frame in self.caches.in_work):
            return 0.0
        return float(self.plan.cache[self.plan.index(frame)])

    @property
    def share_done(self) -> float:
        """Share of the planned seconds that is done, 0 to 1."""
        whole = sum(self.planned_seconds(f) for f in self.frames)
        left = sum(self.planned_seconds(f) * (1 - DONE.get(s, 0.0)) for f, s in self.states.items() if s != FAILED)
        return 1.0 - left / max(1e-9, whole)

    @property
    def left(self) -> TimeLeft:
        """How long it still takes."""
        return self.left_with(self.plan.seconds - self.plan.denoise)

    def left_with(self, seconds: np.ndarray) -> TimeLeft:
        """Return how long it still takes with other seconds of rendering.

        Parameters
        ----------
        seconds : (f,) of each frame of the plan, without finishing
        """
        now = self.states
        crew = self.crew
        under_way = {} if crew is None else {f: u for f, u in crew.under_way().items() if f in now}
        hands = [(THIS_MACHINE, 1.0)] * self.workers if crew is None else crew.hands()
        caching = set() if self.caches is None else self.caches.in_work & set(under_way)
        waiting = [
            float(seconds[self.plan.index(f)]) - self._cached_seconds(f)
            for f, s in now.items()
            if s in (WAITING, OTHER, RENDERING) and (f not in under_way or f in caching)
        ]
        finishing = sum(self.planned_seconds(f) - self.planned_rendering(f) for f, s in now.items() if s not in (FINISHED, FAILED))
        return time_left(self.pace, waiting, hands, list(under_way.values()), finishing)

    @property
    def seconds_left(self) -> float:
        """Of the frames that are not done, with an even chance."""
        return self.left.middle

    def count(self, state: str) -> int:
        """Return how many frames are in a state.

        Parameters
        ----------
        state : one of those of `folder`
        """
        return sum(1 for frame in self.state.frames.values() if frame.state == state)

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

    def go(
        self,
        listen: Listener,
        cancel: CancelToken,
        workers: int = 1,
        crew: Crew | None = None,
        control: RunControl | None = None,
        trouble_first: bool = False,
        due: DueTime | None = None,
    ) -> None:
        """Render and finish what is not done yet; a frame that fails is told, the rest goes on.

        Parameters
        ----------
        listen : called with everything that happens to a frame
        cancel : looked at between frames and while one is rendered
        workers : frames rendered at once on this machine, 1 to 64
        crew : who renders; None for workers of this machine
        control : pauses it, or ends it after the frames under way; None for nobody
        trouble_first : the first, last, slowest and worst frames are rendered before the rest
        due : when it is to be ready, and how it is planned anew where it slips; None: it is not watched

        Raises
        ------
        Stopped
            When `cancel` asked for it; every finished frame is kept.
        WrongInput
            When the folder cannot be written, or another run renders into it.
        """
        from hasty_reel.run.loop import RunLoop

        self.workers = workers
        self.crew = LocalCrew(self.renderer, workers) if crew is None else crew
        try:
            RunLoop(self, self.crew, listen, control or RunControl(cancel), trouble_first, due).work()
        finally:
            if crew is None:
                self.crew.close()
            self.crew = None

    def take_offer(self, due: DueTime) -> None:
        """Render the frames that are left with the samples that are offered.

        Parameters
        ----------
        due : how it is planned with them
        """
        offer = self.offer
        if offer is not None:
            with self.lock:
                self.plan = due.planned(offer.samples)
                self.offer = None

    def task(self, frame: int, preroll: bool) -> FrameTask:
        """Return a frame as a worker takes it.

        Parameters
        ----------
        frame : as the shot numbers it
        preroll : whether the frames before it are rendered first
        """
        from hasty_reel.run.bound import longest_seconds

        planned = self.planned_rendering(frame) - self._cached_seconds(frame)
        job = self.job(frame) if self.caches is None else self.caches.given(self.job(frame), frame)
        if (most := frames_of_a_start(self.renderer)) > 1:
            job = replace(job, ahead=self._ahead(frame, most - 1))
        return FrameTask(frame, job, planned, longest_seconds(planned, self.pace.factor()), self.preroll_of(frame) if preroll else ())

    def _ahead(self, frame: int, most: int) -> tuple[tuple[int, int], ...]:
        """Frames after one that are to be rendered, as the scene numbers them, each with its samples."""
        now = self.states
        wanted = [f for f in self.frames if f > frame and now[f] in (WAITING, OTHER)][:most]
        return tuple((int(self.shot.scene_frame(f)), int(self.plan.samples[self.plan.index(f)])) for f in wanted)

    def cache_task(self, owner: int) -> FrameTask:
        """Return the light caches that a frame owns, as a worker takes them.

        Parameters
        ----------
        owner : the frame, as the shot numbers it
        """
        from hasty_reel.run.bound import longest_seconds

        planned = float(self.plan.cache.max())
        job = replace(self.job(self.frames[0]), frame=self.shot.scene_frame(owner))
        return FrameTask(owner, job, planned, longest_seconds(planned, self.pace.factor()), caches=True)
