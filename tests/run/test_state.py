"""The rules of a run, without threads: whatever happens in whatever order, no frame is lost, rendered for nothing, or left behind."""

from __future__ import annotations

from dataclasses import dataclass

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hasty_reel.run.framestate import ATTEMPTS, FAILED, FINISHED, OTHER, RENDERED, RENDERING, WAITING
from hasty_reel.run.state import (
    Asked,
    Begun,
    Came,
    CropCame,
    Damaged,
    Dropped,
    Ended,
    Failed,
    Finish,
    Finished,
    FinishFailed,
    RunState,
    TakeCrops,
    Tell,
)


class Neighbours:
    """A frame is finished from itself and those right beside it."""

    def near(self, frame):
        return {frame - 1, frame, frame + 1}

    def needed(self, frame, frames):
        return [f for f in range(frame - 1, frame + 2) if f in frames]


WINDOW = Neighbours()


class Disk:
    """A loop without threads: what lies on disk, and what was told."""

    def __init__(self, state: RunState, rendered=(), finished=()):
        self.state = state
        self.rendered, self.finished, self.told = set(rendered), set(finished), []
        self.begun: dict[int, int] = {}

    def take(self, state_and_effects) -> list:
        """Take a state and its effects; gives what is to be finished."""
        self.state, effects = state_and_effects
        out = []
        for effect in effects:
            if isinstance(effect, Tell):
                self.told.append(effect)
                assert self.state.frames[effect.frame] is not None
            elif isinstance(effect, TakeCrops):
                for f in effect.frames:
                    self.rendered.add(f)
                    out += self.take(self.state.after(Came(f)))
            else:
                out.append(effect)
        return out

    def begin(self, order=None) -> list:
        order = self.state.to_render(self.rendered) if order is None else order
        around = self.state.around
        return self.take(self.state.begin(order, self.rendered, around in self.rendered and around not in order))

    def start(self, frame: int) -> None:
        assert frame not in self.state.under_way
        self.begun[frame] = self.begun.get(frame, 0) + 1
        self.take(self.state.after(Begun(frame)))

    def finish(self, effects) -> None:
        """Finish what is to be finished, as it is asked for."""
        for effect in effects:
            assert set(effect.window) <= self.rendered, "every picture of the window lies on disk"
            self.finished.add(effect.frame)
            self.finish(self.take(self.state.after(Finished(effect.frame))))


def fresh(count: int = 5, **more) -> RunState:
    return RunState.of(dict.fromkeys(range(1, count + 1), WAITING), WINDOW, **more)


def test_a_frame_is_finished_once_its_neighbours_are_rendered():
    disk = Disk(fresh(3))
    assert disk.begin() == []
    for frame in (1, 2, 3):
        disk.start(frame)
        disk.rendered.add(frame)
        made = disk.take(disk.state.after(Came(frame)))
        assert [e.frame for e in made] == {1: [], 2: [1], 3: [2, 3]}[frame]
        disk.finish(made)
    assert {f.state for f in disk.state.frames.values()} == {FINISHED} and disk.state.over


def test_a_frame_that_fails_for_good_is_tried_as_often_as_said_and_its_neighbours_are_finished_without_it():
    disk = Disk(fresh(4))
    disk.begin()
    for frame in (1, 2, 4):
        disk.start(frame)
        disk.rendered.add(frame)
        disk.finish(disk.take(disk.state.after(Came(frame))))
    for attempt in range(1, ATTEMPTS + 1):
        disk.start(3)
        made = disk.take(disk.state.after(Failed(3, "the lamp is missing.")))
        assert bool(made) == (attempt == ATTEMPTS)
    assert made == [Finish(2, (1, 2), (3,)), Finish(4, (4,), (3,))]
    disk.finish(made)
    assert disk.state.frames[3].fault == "the lamp is missing." and disk.state.over
    assert [t.retried for t in disk.told if t.frame == 3 and t.words] == [True, True, False]


def test_what_is_asked_for_wrongly_is_not_tried_again_and_a_lost_machine_is_no_attempt():
    state = fresh(1).begin((1,), (), False)[0].after(Begun(1))[0]
    assert state.after(Failed(1, "no scene", hopeless=True))[0].frames[1].state == FAILED
    for _ in range(2 * ATTEMPTS):
        state = state.after(Failed(1, "gone", machine_lost=True))[0]
        assert state.frames[1].state == WAITING and state.frames[1].attempts == 0 and state.queue == (1,)
        state = state.after(Begun(1))[0]


def test_a_finished_frame_whose_picture_is_gone_is_rendered_for_its_neighbour_and_stays_finished():
    states = {1: FINISHED, 2: WAITING, 3: FINISHED}
    disk = Disk(RunState.of(states, WINDOW), rendered=[3], finished=[1, 3])
    disk.begin()
    assert disk.state.queue == (1, 2) and disk.state.frames[1].for_neighbours
    disk.start(1)
    assert disk.take(disk.state.after(Failed(1, "no light", hopeless=True))) == []
    assert disk.state.frames[1].state == FINISHED and disk.state.frames[1].lost
    disk.start(2)
    disk.rendered.add(2)
    assert disk.take(disk.state.after(Came(2))) == [Finish(2, (2, 3), (1,))]


def test_a_damaged_picture_is_rendered_again_once():
    disk = Disk(RunState.of({1: RENDERED, 2: RENDERED}, WINDOW), rendered=[1, 2])
    assert [e.frame for e in disk.begin()] == [1, 2]
    disk.take(disk.state.after(Damaged(2, "cut short.", 1)))
    assert disk.state.queue == (2,) and disk.state.frames[2].state == WAITING and disk.told[-1].words.endswith("It is rendered again.")
    disk.start(2)
    assert [e.frame for e in disk.take(disk.state.after(Came(2)))] == [1]
    made = disk.take(disk.state.after(Damaged(2, "cut short.", 1)))
    assert disk.state.frames[2].state == FAILED and made == [Finish(1, (1,), (2,))]


def test_crops_wait_for_the_frame_around_them_and_fail_with_it():
    disk = Disk(RunState.of(dict.fromkeys((1, 2, 3), WAITING), WINDOW, together=True, around=2))
    disk.begin()
    assert disk.state.queue == (2, 1, 3)
    for frame in (2, 1):
        disk.start(frame)
    disk.take(disk.state.after(CropCame(1)))
    assert disk.state.crops == (1,) and disk.state.frames[1].state == RENDERING
    lost = disk.state.after(Failed(2, "no light", hopeless=True))[0]
    assert {f.state for f in lost.frames.values()} == {FAILED} and lost.frames[1].fault.startswith("Frame 2, which stands around")
    disk.take(disk.state.after(Came(2)))
    assert disk.state.crops == () and disk.state.frames[1].state == RENDERED
    ended = RunState.of(dict.fromkeys((1, 2), WAITING), WINDOW, together=True, around=2).begin((1, 2), (), False)[0]
    ended = ended.after(Begun(1))[0].after(CropCame(1))[0].after(Ended())
    assert ended[0].frames[1].state == WAITING and ended[1] == (Tell(1, WAITING),)


def test_no_frame_begins_while_it_is_paused_or_ends():
    state = fresh(2).begin((1, 2), (), False)[0]
    assert state.may_begin == (1, 2)
    paused, ending = state.after(Asked(paused=True))[0], state.after(Asked(ending=True))[0]
    assert paused.may_begin == () and not paused.over
    assert ending.may_begin == () and ending.over
    assert paused.after(Asked())[0].may_begin == (1, 2)
    stopped = state.after(Begun(1))[0].after(Dropped(1))[0]
    assert stopped.frames[1].state == WAITING and stopped.under_way == frozenset()


def test_something_that_is_no_event_is_refused():
    with pytest.raises(TypeError, match="expected an event"):
        fresh().after("rendered")


@dataclass
class Night:
    """What can happen: outcomes drawn one after the other."""

    draw: object

    def of(self, *choices):
        return self.draw(st.sampled_from(choices))


@given(st.data())
def test_whatever_happens_every_frame_ends_finished_or_failed_and_none_is_rendered_for_nothing(data):
    """Random events in random order: pictures gone and damaged, machines lost, frames that fail, holds; with a crop and without."""
    night = Night(data.draw)
    count = data.draw(st.integers(1, 7))
    frames = range(1, count + 1)
    cropped = data.draw(st.booleans())
    states = {f: night.of(WAITING, RENDERED, FINISHED, OTHER) for f in frames}
    around = data.draw(st.sampled_from(list(frames))) if cropped else None
    rendered = {f for f in frames if states[f] == RENDERED or (states[f] == FINISHED and night.of(True, False))}
    finished = {f for f in frames if states[f] == FINISHED}
    disk = Disk(RunState.of(states, WINDOW, around=around), rendered, finished)
    kept = set(rendered)
    to_finish = disk.begin()
    due = set(disk.state.queue)
    lost_machines = damaged = 0
    for _ in range(400):
        assert not set(disk.state.queue) & disk.state.under_way and not set(disk.state.crops) & disk.state.under_way
        assert len(set(disk.state.queue)) == len(disk.state.queue)
        if disk.state.over and not to_finish:
            break
        doing = [
            *(["begin"] if disk.state.may_begin else []),
            *(["end"] if disk.state.under_way else []),
            *(["finish"] if to_finish else []),
        ]
        what = night.of(*doing) if doing else "go on"
        if what == "go on":
            disk.take(disk.state.after(Asked()))
        elif what == "begin":
            disk.start(disk.state.may_begin[0])
            if night.of(False, False, False, True):
                disk.take(disk.state.after(Asked(paused=True)))
        elif what == "end":
            frame = night.of(*sorted(disk.state.under_way))
            how = night.of("came", "came", "came", "failed", "lost", "wrong")
            if how == "came" and around is not None and frame != around and not disk.state.around_there:
                to_finish += disk.take(disk.state.after(CropCame(frame)))
            elif how == "came":
                disk.rendered.add(frame)
                to_finish += disk.take(disk.state.after(Came(frame)))
            elif how == "lost" and lost_machines < 5:
                lost_machines += 1
                disk.begun[frame] -= 1
                to_finish += disk.take(disk.state.after(Failed(frame, "gone", machine_lost=True)))
            else:
                to_finish += disk.take(disk.state.after(Failed(frame, "no", hopeless=how == "wrong")))
        else:
            effect = to_finish.pop(0)
            how = night.of("done", "done", "done", "damaged", "failed")
            if how == "damaged":
                bad = night.of(*effect.window)
                damaged += 1
                disk.begun[bad] = 0
                kept.discard(bad)
                to_finish += disk.take(disk.state.after(Damaged(bad, "cut short.", effect.frame)))
            elif how == "failed":
                to_finish += disk.take(disk.state.after(FinishFailed(effect.frame, "out of memory")))
            else:
                assert set(effect.window) <= disk.rendered
                to_finish += disk.take(disk.state.after(Finished(effect.frame)))
    assert disk.state.over and not to_finish and disk.state.crops == ()
    assert {f.state for f in disk.state.frames.values()} <= {FINISHED, FAILED}
    assert all(n <= ATTEMPTS for n in disk.begun.values())
    begun_for_nothing = {f for f, n in disk.begun.items() if n and f in kept and f not in due and not damaged}
    assert begun_for_nothing == set()
