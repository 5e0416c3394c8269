"""The course of the eye test: whose eyes, which screen, what is shown in each trial, and what came out."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date
from typing import TYPE_CHECKING

import msgspec
import numpy as np
from psygnal import Signal

from hasty_reel.measure.eyesight import LONGEST_NAME, Watcher
from hasty_reel.measure.eyetest import FRAMES, REVERSALS, Staircase, Stimulus, grey_patch, picture_patch
from hasty_reel.measure.seen import Eyes, heights_of
from hasty_reel.typednumbers import read_number

if TYPE_CHECKING:
    from hasty_reel.studio.context import ShotContext

KINDS = (("fine grain", 1.0, 1), ("blotches", 4.0, 1), ("crawling grain", 1.0, 5))
"""What the unrest is, the size of its grain in pixels, and the frames it is averaged over."""
USUAL_ROWS = 1080
SIZES = {"distance_cm": ("Distance of the eyes", 10, 5000), "screen_cm": ("Height of the picture", 3, 2000)}
"""Sizes in centimetres: what they are called, their least and their most."""


def limit_words(watcher: Watcher) -> str:
    """Return from when on somebody sees flicker, in words.

    Parameters
    ----------
    watcher : one person at one screen

    Returns
    -------
    str
        Words.
    """
    return "not tested" if watcher.limit is None else f"from {watcher.limit:.2g} JND on"


class EyeTest:
    """The eye test.

    watcher : the person and screen it is for, as they are typed; stairs : the course, None while none is under way
    kind : what the unrest is; on_picture : shown on the frames of A, else on even grey
    loops : what is shown of the trial under way; asking : an answer is waited for
    changed() : something of this; trial() : other loops are to be shown

    Parameters
    ----------
    session : the open reel
    picture_frames : gives the frames of A in memory, (h, w, 3) display light each
    """

    changed = Signal()
    trial = Signal()

    def __init__(self, session: ShotContext, picture_frames: Callable[[], Sequence[np.ndarray]]) -> None:
        self._session, self._picture_frames = session, picture_frames
        self.watcher = session.own.watchers.choice or Watcher(person="Me", screen="This screen")
        self.kind, self.on_picture = KINDS[0], False
        self.stairs: Staircase | None = None
        self.loops: list[list[np.ndarray]] = []
        self.asking = False
        self.screen_rows = USUAL_ROWS
        self._stimulus: Stimulus | None = None
        self._restless = 0
        self._rng = np.random.default_rng()
        session.own.eyes_changed.connect(self.changed)

    @property
    def running(self) -> bool:
        """Whether a test is under way."""
        return self.stairs is not None and not self.stairs.ended

    @property
    def fps(self) -> float:
        """Rate of the loops, in frames a second."""
        return float(self._session.reel.fps)

    @property
    def eyes(self) -> Eyes:
        """Where they sit."""
        return Eyes(heights_of(self.watcher.distance_cm, self.watcher.screen_cm))

    # -- whose eyes

    def let_count(self, name: str) -> None:
        """Let somebody's eyes count.

        Parameters
        ----------
        name : of the person at the screen; '' for the standard observer
        """
        own = self._session.own
        own.set_watchers(own.watchers.choosing(name))
        self.watcher = own.watchers.choice or self.watcher
        self.changed.emit()

    def forget_current(self) -> None:
        """Forget whose eyes count; the standard observer's count then."""
        own = self._session.own
        if own.watchers.choice is not None:
            own.set_watchers(own.watchers.without(own.watchers.choice))

    def type_name(self, part: str, text: str) -> None:
        """Name the person or the screen as it is typed; what is none is said.

        Parameters
        ----------
        part : 'person' or 'screen'
        text : its name
        """
        text = text.strip()
        if not text or len(text) > LONGEST_NAME or not text.isprintable():
            self._session.said.emit(f"A person or a screen without a name; expected up to {LONGEST_NAME} characters.")
            self.changed.emit()
        else:
            self._change(**{part: text})

    def type_size(self, part: str, text: str) -> None:
        """Set a size as it is typed; what is none is said.

        Parameters
        ----------
        part : 'distance_cm' or 'screen_cm'
        text : the number, with or without its unit
        """
        words, low, high = SIZES[part]
        try:
            value = read_number(text.replace("cm", ""))
        except ValueError:
            value = None
        if value is None or not low <= value <= high:
            self._session.said.emit(f"{words} '{text[:40]}'; expected {low} to {high} cm.")
            self.changed.emit()
            return
        self._change(**{part: value})

    def _change(self, **changes: object) -> None:
        # another distance or screen: what was found does not hold there
        self.watcher = msgspec.structs.replace(self.watcher, **changes, limit=None, factor=None, made="", limits={})
        self.changed.emit()

    def choose(self, kind: int | None = None, on_picture: bool | None = None) -> None:
        """Show another kind of unrest, or show it elsewhere; not while a test is under way.

        Parameters
        ----------
        kind : index in `KINDS`; None for as it is
        on_picture : on the frames of A, else on even grey; None for as it is
        """
        if self.stairs is None:
            self.kind = self.kind if kind is None else KINDS[kind]
            self.on_picture = self.on_picture if on_picture is None else on_picture
        self.changed.emit()

    # -- the test

    def begin(self, screen_rows: int = USUAL_ROWS) -> None:
        """Begin anew; that there is nothing to show it on is said.

        Parameters
        ----------
        screen_rows : rows of pixels of the screen
        """
        frames = self._picture_frames() if self.on_picture else []
        if self.on_picture and not frames:
            self._session.said.emit("The frames of A are not in memory yet; play the loop once, or take even grey.")
            return
        self.screen_rows = screen_rows
        self._stimulus = Stimulus(picture_patch(frames[:FRAMES]) if frames else grey_patch(), self.kind[1], self.kind[2])
        self.stairs = Staircase()
        self._next_trial()

    def _next_trial(self) -> None:
        assert self.stairs is not None and self._stimulus is not None
        amount = self.stairs.amount
        seed = int(self._rng.integers(1 << 31))
        self._restless = int(self._rng.integers(2))
        found = self._stimulus.loops(amount, self.eyes, self.screen_rows, self.fps, seed)
        self.loops = [found.calm, found.calm]
        self.loops[self._restless] = found.restless
        self.asking = False
        self.changed.emit()
        self.trial.emit()

    def ask(self) -> None:
        """Wait for an answer: both loops were shown."""
        self.asking = True
        self.changed.emit()

    def answer(self, which: int) -> None:
        """Take an answer.

        Parameters
        ----------
        which : loop that was restless, 0 the first, 1 the second
        """
        if self.stairs is None or self.stairs.ended:
            return
        self.stairs = self.stairs.answered(which == self._restless)
        self.asking = False
        if self.stairs.ended:
            self.loops = []
            self.changed.emit()
        else:
            self._next_trial()

    def stop(self) -> None:
        """Leave it; what was not finished counts for nothing."""
        self.stairs, self.loops, self.asking = None, [], False
        self.changed.emit()

    def keep(self) -> None:
        """Keep the limit that was found; it counts from now on."""
        if self.stairs is None or self.stairs.limit is None:
            return
        limits = {**self.watcher.limits, self.kind[0]: round(self.stairs.limit, 3)}
        found = msgspec.structs.replace(
            self.watcher,
            limits=limits,
            limit=min(limits.values()),
            factor=round(self.stairs.spread or 1.0, 3),
            made=date.today().isoformat(),
        )
        if self._session.own.set_watchers(self._session.own.watchers.added(found)):
            self.stairs, self.watcher = None, found
            self.changed.emit()

    @property
    def words(self) -> tuple[str, str]:
        """Where it stands: a head, and what it means."""
        stairs = self.stairs
        if stairs is None and self.watcher.apart:
            told = ", ".join(f"{kind} from {limit:.2g} JND on" for kind, limit in self.watcher.limits.items())
            return (
                f"Calm by the eye test is flicker below {self._session.own.eyes.limit:.2g} JND, the lowest of your limits.",
                f"You see {told}: the weighting of unrest does not fit your eyes well, so the lowest is used.",
            )
        if stairs is None:
            return (
                f"Calm by the eye test is flicker below {self._session.own.eyes.limit:.2g} JND.",
                "Two loops, one of them restless: you say which. What you find seven times in ten is your limit. It takes about three "
                f"minutes and holds for this screen at {self.eyes.heights:.2g} picture heights. That distance counts in every stage, the "
                "limit where the reel or a shot is to be calm by the eye test.",
            )
        if not stairs.ended:
            return f"Trial {len(stairs.trials) + 1}", f"{len(stairs.reversals)} of {REVERSALS} turns. Keys 1 and 2 answer."
        if stairs.limit is None:
            if stairs.fitted.guessed:
                return (
                    "These answers look like guesses.",
                    f"{len(stairs.trials)} answers are hardly better than chance: no limit is in them. Begin again, nearer by.",
                )
            return (
                "No limit was found.",
                f"After {len(stairs.trials)} answers the amounts did not come to rest. Begin again, a little slower.",
            )
        return (
            f"You see flicker from {stairs.limit:.2g} JND on.",
            f"{len(stairs.trials)} answers; right to a factor of {stairs.spread:.2g}. The standard observer sees it from 1 JND on.",
        )
