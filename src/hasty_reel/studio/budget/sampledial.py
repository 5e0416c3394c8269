"""The sample dial: the loop of a proof run as it would look at so many samples, with its price, and 'this is calm enough'."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime
from typing import TYPE_CHECKING

import numpy as np
from psygnal import Signal

from hasty_reel.errors import HastyReelError
from hasty_reel.farm.atsamples import ProofRun, RunAtSamples, run_to_look_at
from hasty_reel.farm.proofrun import delivered_size
from hasty_reel.finish.chain import Chain
from hasty_reel.image.plaincodes import plain_codes
from hasty_reel.measure.viewing import calm_words
from hasty_reel.own.finishmemory import finish_memory
from hasty_reel.pictures.colour import dither_of
from hasty_reel.plan.compare.dial import LEAST, AtSamples, DialMarks, SampleDialPlans
from hasty_reel.programs.ownsteps import own_step
from hasty_reel.reel.calm import LEAST_CALM, MOST_CALM
from hasty_reel.reel.durations import spoken
from hasty_reel.settings.finishorder import own_names
from hasty_reel.studio.background import BackgroundTask
from hasty_reel.studio.budget.hold import HoldModel
from hasty_reel.studio.compare.player import LoopPlayer
from hasty_reel.viewers import seen_by, who_sees

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session

LEVELS = 6
"""Sample counts at which finished frames are made, evenly over the dial; between them the nearest is shown."""


@dataclass(frozen=True)
class DialPrice:
    """What the dial says of a sample count: as rendered, and finished as the recipe says."""

    raw: AtSamples
    finished: AtSamples


class SampleDial:
    """What is looked at. changed() : something of it; drawn() : another picture is to be shown, many times a second.

    samples : per pixel; finished : with the finishing chain; at : place in the run
    run : the proof run that is shown; None where no proof has one

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()
    drawn = Signal()

    def __init__(self, session: Session) -> None:
        self._session = session
        self.samples, self.finished, self.at = 0.0, False, 0
        self.run: ProofRun | None = None
        self._shown: RunAtSamples | None = None
        self._ready: set[int] = set()
        self._finished: dict[tuple[str, float, int], np.ndarray] = {}
        self._marks: dict[bool, DialMarks] = {}
        self._price: DialPrice | None = None
        self._for: tuple | None = None
        self._priced: float | None = None
        self._pricing = self._finishing = False
        self._progress = ""
        self._watchers = 0
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
        elif self.run is not None and len(self._ready) == len(self.run.frames):
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
        """Percent of viewers who see the unrest of the finished frames, as a level of calm; None while it is not known."""
        price = self._price
        if price is None or self._priced != self.samples:
            return None
        share = 100.0 * seen_by((price.finished if self.finished else price.raw).seen)
        return float(np.clip(round(share), LEAST_CALM, MOST_CALM))

    @property
    def marks(self) -> DialMarks | None:
        """Where the dial meets what is promised; None while it is looked for."""
        return self._marks.get(self.finished)

    @property
    def price(self) -> AtSamples | None:
        """What these samples come to; None while it is looked for."""
        if self._price is None:
            return None
        return self._price.finished if self.finished else self._price.raw

    # -- the picture

    @property
    def picture(self) -> np.ndarray | None:
        """The frame that is looked at, (h, w, 3) uint8 display codes; None while it is not there."""
        run, shown = self.run, self._shown
        if run is None or shown is None:
            return None
        frame = run.frames[self.at]
        if self.finished:
            return self._finished.get((self._chain_words, self.level, frame))
        if frame not in self._ready:
            return None
        rgb = shown.as_rendered(frame, self.samples, quickly=True).rgb
        return plain_codes(rgb, dither_of(*rgb.shape[:2]))

    @property
    def level(self) -> float:
        """The sample count at which finished frames are made that is nearest to the dial."""
        levels = np.geomspace(self.least, self.most, LEVELS)
        return float(round(levels[int(np.argmin(np.abs(np.log(levels / max(self.samples, 1.0)))))]))

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
            if self._progress:
                return f"{of}; {self._progress}"
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
    def enough_words(self) -> str:
        """What 'this is calm enough' would hold."""
        return "" if self.percent is None else f"Holds calm at {calm_words(self.percent)} for this shot"

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
            self._ready, self._progress = set(), ""
            self._finished.clear()
            if run is not None:
                self.at = len(run.frames) // 2
                self._read(self._shown)
        self._marks, self._priced = {}, None
        if session.plan is not None and (not self.samples or self._price is None):
            self.samples = float(round(session.plan.typical_samples))
        self.samples = float(np.clip(self.samples or LEAST, self.least, self.most))
        self.changed.emit()
        self.drawn.emit()
        self._look_further()

    def _look_further(self) -> None:
        self._find_price()
        self._finish()

    def _read(self, shown: RunAtSamples | None) -> None:
        assert shown is not None
        key = self._for

        def _work(task: BackgroundTask) -> None:
            self._session.preparing.wait(lambda words: task.cancel.check())
            first = shown.as_rendered(shown.run.frames[0], LEAST).rgb
            plain_codes(first, dither_of(*first.shape[:2]))  # compiled here, and not where it is drawn
            for step in (shown.prepare, shown.prepare_calm):
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
            self.changed.emit()
            self.drawn.emit()
            if self.run is not None and len(self._ready) == len(self.run.frames):
                self._finish()

    def _find_price(self) -> None:
        session = self._session
        model = session.planner.outlook.models.get(session.playhead.shot_id)
        if self._pricing or not self._watchers or session.plan is None or model is None or session.planner.stale:
            return
        if self._priced == self.samples and self._marks:
            return
        plans, samples, wants_marks = session.planner.outlook.plans, self.samples, not self._marks
        reel, shot, now, eyes = session.reel, session.shot, datetime.now().astimezone(), session.own.eyes

        def _work(task: BackgroundTask) -> tuple[DialPrice, dict[bool, DialMarks]]:
            both = {done: SampleDialPlans(reel, shot, model, plans, now, done, eyes) for done in (False, True)}
            price = DialPrice(both[False].at(samples), both[True].at(samples))
            return price, {done: found.marks() for done, found in both.items()} if wants_marks else {}

        def _done(found: tuple[DialPrice, dict[bool, DialMarks]]) -> None:
            if session.shot is shot and session.reel is reel:
                self._price, self._priced = found[0], samples
                self._marks = found[1] or self._marks
                self.changed.emit()

        def _ended() -> None:
            self._pricing = False
            self.changed.emit()
            self._find_price()

        self._pricing = True
        task = session.background.start(_work)
        task.done.connect(_done)
        task.failed.connect(session.said)
        task.ended.connect(_ended)

    # -- finished frames

    @property
    def _chain_words(self) -> str:
        resolved = self._session.reel.resolved(self._session.shot)
        return repr((resolved.window, resolved.despike, resolved.thorough, resolved.strength, resolved.recipe.sharpen, resolved.chain))

    def _chain(self) -> Chain:
        assert self.run is not None
        resolved = self._session.reel.resolved(self._session.shot)
        own = [own_step(name, self._session.own.steps) for name in own_names(resolved.recipe.finish_order)]
        proof = self.run.proof
        size = delivered_size((proof.width, proof.height), resolved.recipe.render_scale) if resolved.scaled else None
        return replace(Chain.of(resolved, size, own), loop=None)

    def _finish(self) -> None:
        """Make the frames of the level that is looked at, beside everything else."""
        run, shown = self.run, self._shown
        if self._finishing or not (self._watchers and self.finished) or run is None or shown is None or len(self._ready) < len(run.frames):
            return
        words, level = self._chain_words, self.level
        wanted = [f for f in run.frames if (words, level, f) not in self._finished]
        if not wanted:
            self._progress = ""
            return
        try:
            chain = self._chain()
        except HastyReelError as error:
            self._session.said.emit(str(error))
            return
        key = self._for

        def _work(task: BackgroundTask) -> None:
            self._session.preparing.wait(lambda words: task.cancel.check())
            finish = shown.finisher(chain, level)
            for frame in wanted:
                task.cancel.check()
                rgb = finish(frame).rgb
                task.send((frame, plain_codes(rgb, dither_of(*rgb.shape[:2]))))
                if self.level != level or not self.finished:
                    return  # the dial stands elsewhere now

        def _came(made: tuple[int, np.ndarray]) -> None:
            if key == self._for:
                self._finished[words, level, made[0]] = made[1]
                there = sum((words, level, f) in self._finished for f in run.frames)
                self._progress = "" if there == len(run.frames) else f"finishing at {level:.0f} samples, {there} of {len(run.frames)}"
                self.drawn.emit()
                self.changed.emit()

        def _ended() -> None:
            self._finishing = False
            self._finish()
            self.changed.emit()

        self._finishing = True
        self._progress = f"finishing at {level:.0f} samples"
        task = self._session.background.start(_work)
        task.came.connect(_came)
        task.failed.connect(self._session.said)
        task.ended.connect(_ended)

    def _due(self, at: int) -> None:
        self.at = at
        self.drawn.emit()
