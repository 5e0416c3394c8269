"""The rules of a run, frozen: what happened comes in as an event, out come the next state and what is to be done.

Nothing here renders, writes, waits or looks at a clock. The loop hands frames that `may_begin` to whoever renders them,
tells what became of each by an event, and carries out the effects in their order:

    >>> from hasty_reel.finish.chain import Chain
    >>> state = RunState.of({1: WAITING, 2: WAITING}, Chain(), finishes=False)
    >>> state, effects = state.begin([1, 2], there=(), around_there=False)
    >>> state, effects = state.after(Begun(1))
    >>> state, effects = state.after(Failed(1, "The lamp is missing."))
    >>> effects
    (Tell(frame=1, state=<FrameState.WAITING: 'waiting'>, words='The lamp is missing. It is tried again.', retried=True),)
    >>> state.may_begin
    (2, 1)

A frame is begun `ATTEMPTS` times at most. One whose rendered picture will never be had is `lost`, and its neighbours are
finished without it. A finished frame whose rendered picture a neighbour needs and that is gone or damaged is rendered once
more and stays finished, whatever comes of it. Where a crop is rendered, the one frame around it comes first, and crops wait for it.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import singledispatchmethod
from types import MappingProxyType
from typing import Protocol

from hasty_reel.reel.frames import write_frames
from hasty_reel.run.framestate import ATTEMPTS, FAILED, FINISHED, RENDERED, RENDERING, TO_COME, WAITING, WITHOUT, Frame, FrameState

# -- what happens


@dataclass(frozen=True)
class Event:
    """Something that happened to a frame."""

    frame: int


class Begun(Event):
    """It was handed to a worker."""


class Came(Event):
    """It was rendered, and its picture lies on disk."""


class CropCame(Event):
    """It was rendered, and its crop waits in memory for the frame around it."""


@dataclass(frozen=True)
class Failed(Event):
    """It was not rendered, or its picture was none.

    hopeless : it would fail alike again; machine_lost : its machine went away, which is no fault of the frame
    """

    words: str
    hopeless: bool = False
    machine_lost: bool = False


class Dropped(Event):
    """It was stopped while it was rendered, because somebody asked for it."""


@dataclass(frozen=True)
class Finished(Event):
    """Its finished picture lies on disk; without : frames that would belong to its window and failed."""

    without: tuple[int, ...] = ()


@dataclass(frozen=True)
class FinishFailed(Event):
    """It could not be finished."""

    words: str


@dataclass(frozen=True)
class Damaged(Event):
    """Its rendered picture on disk cannot be read; `needed_by` was to be finished with it."""

    words: str
    needed_by: int


@dataclass(frozen=True)
class Asked:
    """What somebody asks of the run: no new frame for now, or an end after the frames under way."""

    paused: bool = False
    ending: bool = False


@dataclass(frozen=True)
class Slipped:
    """How likely the run is late, as it was told last."""

    late: float


class Ended:
    """The loop ends: what waits for something that will not come is let go."""


Events = Event | Asked | Slipped | Ended

# -- what is to be done


@dataclass(frozen=True)
class Tell:
    """Tell and write down how a frame stands; words : what is to be said of it. `retried` : it is begun again."""

    frame: int
    state: FrameState
    words: str = ""
    retried: bool = False


@dataclass(frozen=True)
class Finish:
    """Finish a frame from the rendered pictures of a window; without : frames that would belong to it and failed."""

    frame: int
    window: tuple[int, ...]
    without: tuple[int, ...] = ()


@dataclass(frozen=True)
class TakeCrops:
    """Put these crops, which waited, into the frame around them, and write them."""

    frames: tuple[int, ...]


Effect = Tell | Finish | TakeCrops


class Windows(Protocol):
    """Which frames a frame is finished from."""

    def near(self, frame: int) -> Collection[int]:
        """Return the frames that look at a frame.

        Parameters
        ----------
        frame : its number
        """

    def needed(self, frame: int, frames: Collection[int]) -> Sequence[int]:
        """Return the frames that must be there before a frame can be finished.

        Parameters
        ----------
        frame : that is to be finished
        frames : that there are
        """


@dataclass(frozen=True)
class RunState:
    """How a run stands.

    frames : by number; windows : which frames each is finished from
    finishes : whether a rendered frame is not yet a finished one; together : all frames are finished at once, in the end
    around : the frame around the crop, None where there is none
    queue : frames that wait, in their order; under_way : with a worker; crops : that wait for the frame around them
    finishing : an order to finish them was given, and nothing came of it yet
    around_there : the frame around the crop can be read; paused, ending : what somebody asked for; late : chance of being late
    """

    frames: Mapping[int, Frame]
    windows: Windows
    finishes: bool = True
    together: bool = False
    around: int | None = None
    queue: tuple[int, ...] = ()
    under_way: frozenset[int] = frozenset()
    crops: tuple[int, ...] = ()
    finishing: frozenset[int] = frozenset()
    around_there: bool = False
    paused: bool = False
    ending: bool = False
    late: float = 0.0

    @classmethod
    def of(
        cls, states: Mapping[int, FrameState], windows: Windows, finishes: bool = True, together: bool = False, around: int | None = None
    ) -> RunState:  # fmt: skip
        """Return how a run stands before it begins.

        Parameters
        ----------
        states : of the frames, as they lie on disk
        windows : which frames each is finished from
        finishes : whether a rendered frame is not yet a finished one
        together : all frames are finished at once, in the end
        around : the frame around the crop, None where there is none
        """
        return cls(MappingProxyType({f: Frame(s) for f, s in states.items()}), windows, finishes, together, around)

    # -- how it stands

    @property
    def may_begin(self) -> tuple[int, ...]:
        """Frames that may begin now, in their order; none while it is paused or ends."""
        return () if self.paused or self.ending else self.queue

    @property
    def over(self) -> bool:
        """Whether nothing is left to wait for: no frame is under way, and none may or will begin."""
        return not self.under_way and not self.finishing and (self.ending or not self.queue)

    def to_render(self, there: Collection[int]) -> tuple[int, ...]:
        """Return the frames that are to be rendered: those that are not there, and finished ones whose neighbours need their picture.

        Parameters
        ----------
        there : frames whose rendered picture lies on disk
        """
        missing = {f for f, frame in self.frames.items() if frame.state in (*TO_COME, FAILED)}
        return tuple(sorted(missing | self._gone(there)))

    def _gone(self, there: Collection[int]) -> set[int]:
        if not self.finishes:
            return set()
        needed = {g for f, frame in self.frames.items() if frame.state != FINISHED for g in self.windows.needed(f, self.frames)}
        return {f for f in needed if self.frames[f].state == FINISHED and f not in there}

    # -- how it goes on

    def begin(self, order: Sequence[int], there: Collection[int], around_there: bool) -> tuple[RunState, tuple[Effect, ...]]:
        """Return the state as the run begins, and the frames that can be finished at once.

        Parameters
        ----------
        order : frames that are to be rendered, in their order
        there : frames whose rendered picture lies on disk
        around_there : the frame around the crop can be read, and is not to be rendered
        """
        wanted = self._gone(there)
        if self.around is not None and order and not around_there:  # its picture as rendered is not there, whatever else is
            wanted = wanted | {self.around}
        frames = {f: Frame(frame.state) for f, frame in self.frames.items()}  # a run that begins again tries everything again
        for f in wanted:
            frames[f] = replace(frames[f], wanted=True, for_neighbours=frames[f].state == FINISHED)
        queue = [*order, *(f for f in sorted(wanted) if f not in order)]
        if self.around in queue:  # the others wait for it
            queue = [self.around, *(f for f in queue if f != self.around)]
        state = replace(self, frames=MappingProxyType(frames), queue=tuple(queue), around_there=around_there, late=0.0)
        return state._with_finishes(self.frames, ())

    @singledispatchmethod
    def after(self, event: Events) -> tuple[RunState, tuple[Effect, ...]]:
        """Return the next state, and what is to be done.

        Parameters
        ----------
        event : what happened
        """
        raise TypeError(f"{event!r}; expected an event of a run.")

    @after.register(Begun)
    def _after_begun(self, event: Begun) -> tuple[RunState, tuple[Effect, ...]]:
        frame = self.frames[event.frame]
        state = self._changed(event.frame, state=RENDERING, attempts=frame.attempts + 1)
        queue = tuple(f for f in self.queue if f != event.frame)
        return replace(state, queue=queue, under_way=self.under_way | {event.frame}), (Tell(event.frame, RENDERING),)

    @after.register(Came)
    def _after_came(self, event: Came) -> tuple[RunState, tuple[Effect, ...]]:
        frame = self.frames[event.frame]
        new = RENDERED if self.finishes and not frame.for_neighbours else FINISHED
        state = self._changed(event.frame, state=new, wanted=False, lost=False)._idle(event.frame)
        effects: tuple[Effect, ...] = (Tell(event.frame, new),)
        if event.frame == self.around:
            state, effects = replace(state, around_there=True, crops=()), effects + ((TakeCrops(self.crops),) if self.crops else ())
        return state._with_finishes([event.frame], effects)

    @after.register(CropCame)
    def _after_crop_came(self, event: CropCame) -> tuple[RunState, tuple[Effect, ...]]:
        assert self.around is not None
        if _is_lost(self.frames[self.around]):
            return self._idle(event.frame)._failed(event.frame, self._around_lost)
        return replace(self._idle(event.frame), crops=(*self.crops, event.frame)), ()

    @after.register(Failed)
    def _after_failed(self, event: Failed) -> tuple[RunState, tuple[Effect, ...]]:
        state = self._idle(event.frame)
        attempts = self.frames[event.frame].attempts - event.machine_lost
        state = state._changed(event.frame, attempts=attempts)
        if attempts >= ATTEMPTS or event.hopeless:
            return state._failed(event.frame, event.words)
        state = state._changed(event.frame, state=WAITING)
        queue = (event.frame, *state.queue) if event.frame == self.around else (*state.queue, event.frame)
        return replace(state, queue=queue), (Tell(event.frame, WAITING, f"{event.words} It is tried again.", retried=True),)

    @after.register(Dropped)
    def _after_dropped(self, event: Dropped) -> tuple[RunState, tuple[Effect, ...]]:
        new = FINISHED if self.frames[event.frame].for_neighbours else WAITING
        return self._changed(event.frame, state=new)._idle(event.frame), (Tell(event.frame, new),)

    @after.register(Finished)
    def _after_finished(self, event: Finished) -> tuple[RunState, tuple[Effect, ...]]:
        state = self._changed(event.frame, state=FINISHED)
        lost = event.without
        words = f"{WITHOUT} frame{'s' if len(lost) > 1 else ''} {write_frames(lost)}, which failed." if lost else ""
        return replace(state, finishing=self.finishing - {event.frame}), (Tell(event.frame, FINISHED, words),)

    @after.register(FinishFailed)
    def _after_finish_failed(self, event: FinishFailed) -> tuple[RunState, tuple[Effect, ...]]:
        return replace(self, finishing=self.finishing - {event.frame})._failed(event.frame, event.words)

    @after.register(Damaged)
    def _after_damaged(self, event: Damaged) -> tuple[RunState, tuple[Effect, ...]]:
        state, frame = replace(self, finishing=self.finishing - {event.needed_by}), self.frames[event.frame]
        if frame.damaged or frame.state == FAILED:
            state, effects = state._failed(event.frame, event.words)
            return state._with_finishes([event.needed_by], effects)
        finished = frame.state == FINISHED
        new = FINISHED if finished else WAITING
        state = state._changed(event.frame, state=new, damaged=True, wanted=True, for_neighbours=frame.for_neighbours or finished)
        if event.frame not in (*state.queue, *state.under_way):
            state = replace(state, queue=(*state.queue, event.frame))
        return state, (Tell(event.frame, new, f"{event.words} It is rendered again.", retried=not finished),)

    @after.register(Asked)
    def _after_asked(self, event: Asked) -> tuple[RunState, tuple[Effect, ...]]:
        return replace(self, paused=event.paused, ending=event.ending), ()

    @after.register(Slipped)
    def _after_slipped(self, event: Slipped) -> tuple[RunState, tuple[Effect, ...]]:
        return replace(self, late=event.late), ()

    @after.register(Ended)
    def _after_ended(self, event: Ended) -> tuple[RunState, tuple[Effect, ...]]:
        state: RunState = self
        for f in self.crops:  # what was to stand around them did not come
            state = state._changed(f, state=WAITING)
        return replace(state, crops=(), queue=()), tuple(Tell(f, WAITING) for f in self.crops)

    # -- pieces of these

    @property
    def _around_lost(self) -> str:
        return f"Frame {self.around}, which stands around the crop, failed."

    def _changed(self, frame: int, **changes) -> RunState:
        return replace(self, frames=MappingProxyType({**self.frames, frame: replace(self.frames[frame], **changes)}))

    def _idle(self, frame: int) -> RunState:
        return replace(self, under_way=self.under_way - {frame})

    def _failed(self, frame: int, words: str) -> tuple[RunState, tuple[Effect, ...]]:
        """A frame is given up: its picture is lost, and its neighbours are finished without it."""
        was = self.frames[frame]
        if was.for_neighbours and was.state != FAILED:  # it is finished: only neighbours lack it
            state = self._changed(frame, state=FINISHED, wanted=False, lost=True)
            told = f"{words} It stays as it was finished; its neighbours are finished without it."
            effects: tuple[Effect, ...] = (Tell(frame, FINISHED, told),)
        else:
            state = self._changed(frame, state=FAILED, wanted=False, lost=True, fault=words)
            effects = (Tell(frame, FAILED, words),)
        if frame == self.around:  # nothing can be put together without it
            others = (*state.crops, *(f for f in state.queue if f != frame))
            state = replace(state, crops=(), queue=())
            for other in others:
                state, more = state._failed(other, self._around_lost)
                effects += more
        return state._with_finishes([frame], effects)

    def _with_finishes(self, changed: Iterable[int], effects: tuple[Effect, ...]) -> tuple[RunState, tuple[Effect, ...]]:
        """Besides other effects, finish every rendered frame near the changed ones whose neighbours are all there or will never be."""
        if not self.finishes or self.together:
            return self, effects
        near = sorted({g for f in changed for g in self.windows.near(f) if g in self.frames})
        found = []
        for f in near:
            if self.frames[f].state != RENDERED or f in self.finishing:
                continue
            window = self.windows.needed(f, _Without(self.frames))
            if any(self.frames[g].state in TO_COME or self.frames[g].wanted for g in window):
                continue
            every = self.windows.needed(f, self.frames)
            found.append(Finish(f, tuple(window), tuple(g for g in every if _is_lost(self.frames[g]))))
        return replace(self, finishing=self.finishing | {e.frame for e in found}), effects + tuple(found)


def _is_lost(frame: Frame) -> bool:
    return frame.lost or frame.state == FAILED


class _Without(Collection[int]):
    """The frames whose rendered picture is there, or may still come."""

    def __init__(self, frames: Mapping[int, Frame]) -> None:
        self._frames = frames

    def __contains__(self, frame: object) -> bool:
        found = self._frames.get(frame)  # type: ignore[call-overload]
        return found is not None and not _is_lost(found)

    def __iter__(self):
        return (f for f, frame in self._frames.items() if not _is_lost(frame))

    def __len__(self) -> int:
        return sum(1 for _ in self)
