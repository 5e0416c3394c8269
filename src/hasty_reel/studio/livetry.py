"""A small picture of what is tried: rendered again at once when a line of the recipe changes, and better from pass to pass."""

from __future__ import annotations

import threading
import time
from typing import TYPE_CHECKING

import msgspec
import numpy as np
from psygnal import Signal

from hasty_reel.pictures.colour import codes8
from hasty_reel.scaledsize import scaled_size
from hasty_reel.studio.background import BackgroundTask

if TYPE_CHECKING:
    from hasty_reel.farm.renderers.links import Link
    from hasty_reel.farm.renderers.protocol import Renderer
    from hasty_reel.settings.recipe import Recipe
    from hasty_reel.studio.session import Session

WIDTH = 160
"""Pixels across of the picture."""
PASSES = (1, 1, 2, 4, 8, 16, 32)
"""Samples of each pass; what is shown is the mean of all so far, but for the first."""
FIRST_STEPS = 2
"""Shutter steps of the first look at most."""
PLAN_WAITS = 0.4
"""Seconds that planning waits for the first look at most: both at once take twice as long each."""


class LiveTry:
    """The picture of what is tried. changed() : it is another, or better.

    on : whether it is rendered at all; codes : (h, w, 3) uint8 display codes, None before the first
    samples : that it has so far; first_seconds : from the change to its first picture

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()

    def __init__(self, session: Session) -> None:
        self._session = session
        link = session.own.links.current
        self.on = link.command is None or link.stays  # else each pass would start the renderer anew
        self.codes: np.ndarray | None = None
        self.samples = 0
        self.first_seconds: float | None = None
        self._task: BackgroundTask | None = None
        self._key: tuple | None = None
        self._fresh = True
        self._renderer: tuple[Link, Renderer] | None = None
        self._looked_at = threading.Event()  # not set: a first look is under way
        self._looked_at.set()
        session.planner.give_way = self._let_look
        for signal in (session.trial.changed, session.reel_changed, session.playhead.shot_changed, session.playhead.frame_changed):
            signal.connect(self._look)

    def switch(self, on: bool) -> None:
        """Render it, or stop.

        Parameters
        ----------
        on : whether it is rendered
        """
        self.on = on
        self._look()
        self.changed.emit()

    @property
    def words(self) -> str:
        """What is shown, in words; '' where nothing is."""
        if not self.on or not self._session.trial.trying:
            return ""
        if self.codes is None:
            return self._session.preparing.words or "rendering …"
        return f"frame {self._session.playhead.frame}, {self.samples} samples"

    def _look(self, *_: object) -> None:
        """Begin anew where something else is tried, and stop where nothing is."""
        session = self._session
        if not (self.on and session.trial.trying):
            self._stop()
            self._key, self.codes = None, None
            return
        recipe: Recipe = session.recipe
        key = (session.playhead.shot_id, session.playhead.frame, recipe)
        if key == self._key:
            return
        self._key = key
        self._stop()
        self._begin(recipe)

    def _let_look(self) -> None:
        """Wait, in the thread that plans, until the first look is there."""
        self._looked_at.wait(PLAN_WAITS)

    def _stop(self) -> None:
        self._looked_at.set()
        if self._task is not None:
            self._task.cancel.cancel()
            self._task = None

    def _begin(self, recipe: Recipe) -> None:
        # what renders brings the compiler along: a window opens without it
        from hasty_reel.farm.job import FrameJob, camera_of, moment_of, whole_steps
        from hasty_reel.farm.renderers import renderer_at_hand
        from hasty_reel.work import silent

        session = self._session
        reel, shot, frame = session.reel, session.shot, session.playhead.frame
        scale = 100.0 * min(WIDTH, reel.width) / reel.width
        small = msgspec.structs.replace(recipe, tiles=1, render_scale=scale, keep_scene=1)
        quick = msgspec.structs.replace(small, shutter_steps=min(small.shutter_steps, FIRST_STEPS))
        width, height = scaled_size(reel.picture_size, scale)
        link, began = session.own.links.current, time.monotonic()
        if self._renderer is None or self._renderer[0] != link:
            self._renderer = link, renderer_at_hand(link)
        render = self._renderer[1]
        looked_at = self._looked_at = threading.Event()

        def _work(task: BackgroundTask) -> None:
            session.preparing.wait(lambda words: task.cancel.check())
            total, weight = np.zeros((height, width, 3)), 0
            for seed, samples in enumerate(PASSES):
                # the very first look has hardly a shutter: it is there at once, and makes way for the next one
                look = quick if seed == 0 else small
                job = FrameJob(
                    shot.scene, shot.scene_frame(frame), width, height, samples, look, seed + 1, guides=False, camera=camera_of(reel),
                    moment=moment_of(shot, recipe, frame, frame),
                )  # fmt: skip
                got, rgb = whole_steps(samples, look), render(job, silent, task.cancel, None).picture.rgb
                if seed == 0:
                    looked_at.set()
                    task.send((codes8(rgb), got, time.monotonic() - began))
                    continue
                total += got * rgb
                weight += got
                task.send((codes8((total / weight).astype(np.float32)), weight, time.monotonic() - began))

        def _came(made: tuple[np.ndarray, int, float]) -> None:
            if task is not self._task:
                return  # something else is tried by now
            if self._fresh:
                self.first_seconds, self._fresh = made[2], False
            self.codes, self.samples = made[0], made[1]
            self.changed.emit()

        self._fresh = True
        self._task = task = session.background.start(_work)
        task.came.connect(_came)
        task.failed.connect(session.said)
