"""What is compared, how it is shown, the loop in memory; without a window."""

from __future__ import annotations

import numpy as np
import pytest

from hasty_reel.errors import WrongInput
from hasty_reel.pictures.frame import Picture
from hasty_reel.studio.background import Background
from hasty_reel.studio.compare.player import LoopPlayer
from hasty_reel.studio.compare.presentation import Presentation
from hasty_reel.studio.look import PLAIN_LOOK
from hasty_reel.studio.pictures import PictureMemory, Wanted


def wanted(source: str, frame: int, read) -> Wanted:
    return Wanted(source, frame, read, PLAIN_LOOK)


def grey(frame: int, guides=None) -> Picture:
    return Picture(np.full((64, 64, 3), 0.2 + 0.001 * frame, np.float32))


@pytest.fixture
def memory(loop):
    background = Background(loop.events)
    yield PictureMemory(background)
    background.stop_all()


def test_a_picture_is_read_once_and_told(memory, loop):
    read = []

    def reading(frame, guides=None):
        read.append(frame)
        return grey(frame)

    came = []
    memory.came.connect(came.append)
    one = wanted("a", 1, lambda guides: reading(1))
    assert memory.get(one) is None
    loop.until(lambda: came)
    assert memory.get(one).codes.shape == (64, 64, 3) and memory.get(one) is not None and read == [1]
    memory.forget("a")
    assert memory.peek(one) is None and memory.megabytes == 0


def test_memory_keeps_to_its_bound_and_drops_what_was_looked_at_longest_ago(memory, loop):
    memory.bound_mb = 64 * 64 * 3 * 3 / 1e6
    pictures = [wanted("a", k, lambda guides, k=k: grey(k)) for k in range(6)]
    for one in pictures:
        memory.get(one)
        loop.until(lambda one=one: memory.peek(one) is not None)
    assert memory.megabytes <= memory.bound_mb
    assert memory.holds(pictures[-1]) and not memory.holds(pictures[0])


def test_a_picture_that_cannot_be_read_is_told_once_and_not_tried_again(memory, loop):
    tried, failed = [], []

    def broken(guides):
        tried.append(1)
        raise WrongInput("a.exr: no picture; expected an OpenEXR file.")

    memory.failed.connect(lambda one, words: failed.append(words))
    one = wanted("a", 1, broken)
    memory.get(one)
    loop.until(lambda: failed)
    memory.get(one)
    loop.turn()
    assert failed == ["a.exr: no picture; expected an OpenEXR file."] and len(tried) == 1


def test_a_loop_plays_at_its_rate_and_leaves_out_what_is_late(loop):
    player, due, rates = LoopPlayer(loop.events), [], []
    player.due.connect(due.append)
    player.rate.connect(rates.append)
    player.play(5, 50.0, first=2)
    loop.until(lambda: len(due) >= 30)
    player.stop()
    seen = len(due)
    loop.turn()
    assert len(due) == seen and not player.playing
    steps = np.diff(due) % 5
    assert set(due) <= set(range(5)) and (steps >= 1).all()


def test_how_it_is_shown_is_told_when_it_changes(session):
    shown = Presentation()
    told = []
    shown.look_changed.connect(lambda: told.append(shown.look))
    shown.type_exposure("1,5")
    assert shown.look.exposure == 1.5 and told[-1] == shown.look
    for text in ("bright", "99"):
        with pytest.raises(WrongInput, match="expected −10 to 10"):
            shown.type_exposure(text)
    assert shown.look.exposure == 1.5
    shown.set_mode("difference")
    assert shown.mode == "difference"


def test_two_runs_of_the_same_frames_are_compared_at_first(session, loop):
    comparison = session.comparison
    comparison.watch(True)
    sides = comparison.sides
    loop.until(lambda: len(sides.sides) == 2)
    assert len(sides.run) > 1 and sides.sides[0].key != sides.sides[1].key
    a, b = sides.sides
    sides.swap()
    assert sides.sides == [b, a] and sides.by_hand
    sides.choose(1, None)
    assert sides.sides == [b]


def test_footage_that_is_none_is_said_and_nothing_changes(session, tmp_path):
    sides = session.comparison.sides
    before = list(sides.chosen)
    sides.take_footage(0, tmp_path / "nothing.txt")
    assert sides.chosen == before and len(session.heard) == 1


def test_the_loop_fills_and_tells_what_is_in_memory(session, loop):
    comparison = session.comparison
    comparison.watch(True)
    loop.until(lambda: len(comparison.sides.run) > 1 and all(comparison.loop.in_memory), 60.0)
    assert comparison.image(0, 320, 180).codes.shape[2] == 3
    assert session.pictures.megabytes > 0
    comparison.loop.type_bound("lots")
    assert "expected" in session.heard[-1]


def test_measures_of_both_sides_are_rows_with_a_verdict(session, loop):
    comparison = session.comparison
    comparison.watch(True)
    comparison.measures.watched = True
    loop.until(lambda: len(comparison.sides.sides) == 2)
    comparison.measures.look()
    loop.until(lambda: len(comparison.measures.rows) > 3 and comparison.measures.verdict[0], 120.0)
    names = [r.name for r in comparison.measures.rows]
    assert any("flicker" in n.lower() for n in names)
    head, body = comparison.measures.verdict
    assert head.endswith(".") and body
