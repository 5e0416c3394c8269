"""The sample dial: the loop of a proof run as it would look at so many samples, with its price, and 'this is calm enough'."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from typing import TYPE_CHECKING

import numpy as np
from psygnal import Signal

from hasty_reel.farm.atsamples import ProofRun, RunAtSamples, run_to_look_at
from hasty_reel.farm.keptlooks import KeptLooks
from hasty_reel.finish.chain import Chain
from hasty_reel.image.plaincodes import plain_codes
from hasty_reel.machinecode import DIAL
from hasty_reel.measure.viewing import calm_words
from hasty_reel.own.finishmemory import finish_memory
from hasty_reel.pictures.colour import dither_of
from hasty_reel.pictures.writing import write_picture
from hasty_reel.plan.compare.dial import LEAST, AtSamples, DialMarks
from hasty_reel.reel.calm import LEAST_CALM, MOST_CALM
from hasty_reel.reel.durations import spoken
from hasty_reel.studio.background import BackgroundTask
from hasty_reel.studio.budget.dialfinished import LEVELS, FinishedAtLevels, level_of
from hasty_reel.studio.budget.dialprice import DialPrice
from hasty_reel.studio.budget.hold import HoldModel
from hasty_reel.studio.compare.player import LoopPlayer
from hasty_reel.viewers import seen_by, who_sees

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session


class SampleDial:
    """What is looked at.

    changed() : something of it; drawn() : another picture is to be shown, many times a second; compared() : it is a side in Compare

    samples : per pixel; finished : with the finishing chain; at : place in the run
    run : the proof run that is shown; None where no proof has one

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()
    drawn = Signal()
    compared = Signal()

    def __init__(self, session: Session) -> None:
        self._session = session
        self.samples, self.finished, self.at = 0.0, False, 0
        self.run: ProofRun | None = None
        self._shown: RunAtSamples | None = None
        self._ready: set[int] = set()
        self._for: tuple | None = None
        self._watchers = 0
        self._price, self._finished = DialPrice(session), FinishedAtLevels(session)
        self._price.changed.connect(self.changed.emit)
        self._finished.changed.connect(self._came)
        self.player = LoopPlayer(session.loop)
        self.player.due.connect(self._due)
        for signal in (session.planner.plan_changed, session.planner.evidence_changed, session.playhead.shot_changed):
            signal.connect(self._look)

    def watch(self, watched: bool) -> None:
        """Say whether anybody looks at it: else nothing is computed.

        Parameters
        ----------
        watched : whether it is in sight
        """
        self._watchers = max(0, self._watchers + (1 if watched else -1))
        if not self._watchers:
            self.player.stop()
        self._look()

    # -- the dial

    @property
    def least(self) -> float:
        """The fewest samples of the dial."""
        return float(LEAST)

    @property
    def most(self) -> float:
        """The most samples of the dial."""
        return max(16.0 * LEAST, float(self._session.recipe.samples_ceiling))

    def turn(self, samples: float) -> None:
        """Show other samples; beyond an end of the dial, that end.

        Parameters
        ----------
        samples : per pixel
        """
        samples = float(round(min(max(samples, self.least), self.most)))
        if samples != self.samples:
            self.samples = samples
            self.drawn.emit()
            self.changed.emit()
            self._look_further()

    def show_finished(self, finished: bool) -> None:
        """Show frames as finished, or as rendered.

        Parameters
        ----------
        finished : with the finishing chain
        """
        self.finished = finished
        self.drawn.emit()
        self.changed.emit()
        self._look_further()

    def toggle(self) -> None:
        """Play the loop, or stop it."""
        if self.player.playing:
            self.player.stop()
        elif self.run is not None and self._all_ready:
            self.player.play(len(self.run.frames), float(self._session.reel.fps), self.at)
        self.changed.emit()

    def step(self, way: int) -> None:
        """Stop, and look at the next frame of the run or the one before; around its ends.

        Parameters
        ----------
        way : -1 or 1
        """
        self.player.stop()
        if self.run is not None:
            self._due((self.at + way) % len(self.run.frames))
        self.changed.emit()

    def compare(self) -> None:
        """Put the run as it is shown beside the proof as it was rendered, in Compare; `compared` tells when it is there."""
        run, shown = self.run, self._shown
        if run is None or shown is None or not self._all_ready:
            return
        session, samples, off = self._session, self.samples, self._session.shot.offset - run.proof.offset
        chain = self._finished.chain if self.finished else Chain()
        if chain is None:
            return
        pattern = KeptLooks.of(run, chain, samples).light_pattern(samples, self.finished)

        def _work(task: BackgroundTask) -> None:
            session.preparing.wait(lambda words: task.cancel.check())
            make = shown.finisher(chain, samples) if self.finished else partial(shown.as_rendered, samples=samples)
            for frame in run.frames:
                task.cancel.check()
                write_picture(pattern.path(frame + off), replace(make(frame), guides={}))

        def _done(_: object) -> None:
            sides = session.comparison.sides
            sides.list_sides()
            sides.compare(run.proof.id, None)
            sides.take_footage(1, pattern.path(run.frames[0] + off))
            self.compared.emit()

        task = session.background.start(_work)
        task.done.connect(_done)
        task.failed.connect(session.said)

    def enough(self, whole_reel: bool = False) -> None:
        """Hold what is seen here: as calm as that, in the shot or the whole reel; one step of undo.

        Parameters
        ----------
        whole_reel : for all shots that have no level of their own
        """
        percent = self.percent
        if percent is None:
            return
        HoldModel(self._session).set_calm(percent, None if whole_reel else self._session.shot.id)

    @property
    def percent(self) -> float | None:
        """Percent of viewers who see the unrest of what is shown, as a level of calm; None while it is not known."""
        price = self._price.exact(self.samples, self.finished)
        return None if price is None else float(np.clip(round(100.0 * seen_by(price.seen)), LEAST_CALM, MOST_CALM))

    @property
    def marks(self) -> DialMarks | None:
        """Where the dial meets what is promised; None while it is looked for."""
        return self._price.marks(self.finished)

    @property
    def price(self) -> AtSamples | None:
        """What the samples come to that were asked for last; None while it is looked for."""
        return self._price.last(self.finished)

    # -- the picture

    @property
    def picture(self) -> np.ndarray | None:
        """The frame that is looked at, (h, w, 3) uint8 display codes; None while it is not there."""
        return self.picture_at(self.at)

    def picture_at(self, at: int) -> np.ndarray | None:
        """Return a frame as it is shown, (h, w, 3) uint8 display codes; None while it is not there.

        Parameters
        ----------
        at : place in the run
        """
        run, shown = self.run, self._shown
        if run is None or shown is None:
            return None
        frame = run.frames[at]
        if self.finished:
            return self._finished.picture(self.level, frame)
        if frame not in self._ready:
            return None
        rgb = shown.as_rendered(frame, self.samples, quickly=True).rgb
        return plain_codes(rgb, dither_of(*rgb.shape[:2]))

    @property
    def level(self) -> float:
        """The sample count at which finished frames are made that is nearest to the dial."""
        return level_of(self.samples, self.least, self.most)

    @property
    def words(self) -> str:
        """What is shown, or why nothing is."""
        run = self.run
        if run is None:
            return "No proof of this shot has frames in a row with two seeds: 'Denoising' in Proofs renders them."
        if len(self._ready) < len(run.frames):
            return f"Reading the run of proof {run.proof.id}: {len(self._ready)} of {len(run.frames)} frames"
        of = f"frame {run.frames[self.at] + self._session.shot.offset - run.proof.offset} of proof {run.proof.id}, {run.proof.size_words}"
        if self.finished:
            if self._finished.progress:
                return f"{of}; {self._finished.progress}"
            return f"{of}; finished at {self.level:.0f} samples, the nearest of {LEVELS}"
        if self._shown is not None and not self._shown.exact(self.samples):
            return f"{of}; estimated: both seeds together have {2 * run.samples(run.frames[self.at]):.0f} samples"
        return of

    @property
    def price_words(self) -> str:
        """Hours and viewers, in words; '' while they are not known."""
        price = self.price
        if price is None:
            return ""
        hours = spoken(price.seconds / self._session.reel.frame_speed)
        return f"{price.samples:.0f} samples in every frame: {hours} for the shot, unrest seen by {who_sees(price.seen)}"

    @property
    def clip_name(self) -> str:
        """A file name for a clip, without its ending."""
        return f"{self._session.playhead.shot_id}-{self.samples:.0f}-samples-{'finished' if self.finished else 'rendered'}"

    @property
    def clip_lines(self) -> list[str]:
        """What stands under a clip: the shot, and what these samples come to."""
        how = "finished" if self.finished else "as rendered"
        return [f"{self._session.reel.name}, {self._session.shot.name}, {self.samples:.0f} samples, {how}", self.price_words]

    @property
    def enough_words(self) -> str:
        """What 'this is calm enough' would hold."""
        if self.percent is None:
            return ""
        return (
            f"Holds finished frames of this shot as calm as what is seen here, as rendered or finished: calm at {calm_words(self.percent)}"
        )

    # -- looking

    def _look(self) -> None:
        """Begin anew where the run, the shot or the plan is another."""
        session = self._session
        if not self._watchers:
            return
        run = run_to_look_at(session.evidence, session.shot)
        key = None if run is None else (session.playhead.shot_id, run.folder)
        if key != self._for:
            self.player.stop()
            self._for, self.run, self.at = key, run, 0
            self._shown = None if run is None else RunAtSamples(run, finish_memory())
            self._ready = set()
            self._finished.look_at(None)
            self._price.forget_shot()
            if run is not None:
                self.at = len(run.frames) // 2
                self._read(self._shown)
        self._price.forget()
        if session.plan is not None and (not self.samples or self.price is None):
            self.samples = float(round(session.plan.typical_samples))
        self.samples = float(np.clip(self.samples or LEAST, self.least, self.most))
        self.changed.emit()
        self.drawn.emit()
        self._look_further()

    def _look_further(self) -> None:
        if not self._watchers:
            return
        self._price.find(self.samples, self.finished)
        if self.finished and self._all_ready:
            self._finished.look_at(self._shown)
            self._finished.make(self.level)
        else:
            self._finished.stop()

    @property
    def _all_ready(self) -> bool:
        return self.run is not None and len(self._ready) == len(self.run.frames)

    def _read(self, shown: RunAtSamples | None) -> None:
        assert shown is not None
        key = self._for

        def _work(task: BackgroundTask) -> None:
            self._session.preparing.wait(lambda words: task.cancel.check(), DIAL)
            first = shown.as_rendered(shown.run.frames[0], LEAST).rgb
            plain_codes(first, dither_of(*first.shape[:2]))  # compiled here, and not where it is drawn
            for step in (shown.prepare, shown.prepare_calm):
                if step == shown.prepare_calm:  # that denoises
                    self._session.preparing.wait(lambda words: task.cancel.check())
                for frame in shown.run.frames:
                    task.cancel.check()
                    step(frame)
                    task.send(frame)

        task = self._session.background.start(_work)
        task.came.connect(lambda frame: self._have(key, frame))
        task.failed.connect(self._session.said)

    def _have(self, key: tuple | None, frame: int) -> None:
        if key == self._for:
            self._ready.add(frame)
            if self._all_ready:
                self._look_further()
            self.changed.emit()
            self.drawn.emit()

    def _came(self) -> None:
        self.drawn.emit()
        self.changed.emit()

    def _due(self, at: int) -> None:
        self.at = at
        self.drawn.emit()
