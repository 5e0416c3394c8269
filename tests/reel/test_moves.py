"""Frames of viewpoints, turntables and loops."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hasty_reel.errors import ReelError
from hasty_reel.reel.moves import Loop, Turntable, Viewpoint, Viewpoints, checked_move

FILM = Fraction(24)


def test_a_turntable_of_15_seconds_is_360_frames_of_one_degree():
    """Common practice, no source: 0 to 360 degrees in 15 s at 24 fps."""
    turn = Turntable(start=0, end=360, seconds=15)
    assert turn.count(FILM) == 360 and turn.step(FILM) == 1.0
    assert turn.at(0, FILM) == 0 and turn.at(359, FILM) == 359, "the last frame is not the first again"
    assert turn.at(360, FILM) % 360 == 0, "the frame after it is"


def test_a_turn_that_does_not_loop_ends_at_its_end():
    turn = Turntable(start=0, end=90, seconds=2, loop=False)
    assert turn.at(turn.count(FILM) - 1, FILM) == pytest.approx(90)
    back = Turntable(start=0, end=90, seconds=2, loop=False, direction="anticlockwise")
    assert back.at(47, FILM) == pytest.approx(-90)
    for way, end in (("clockwise", 180), ("anticlockwise", 0)):
        from_90 = Turntable(start=90, end=180, seconds=2, loop=False, direction=way)
        assert from_90.at(0, FILM) == 90 and from_90.at(47, FILM) == pytest.approx(end), "it starts where it is told to, either way"


def test_a_delay_of_1_s_and_a_move_of_6_s_are_a_film_of_7_s():
    """Common practice, no source."""
    move = Viewpoints(views=(Viewpoint(name="A", hold=1, move=6), Viewpoint(name="B")))
    assert move.seconds == 7 and move.count(FILM) == 168
    assert move.bounds(FILM) == [0, 24, 168, 168], "where one part ends and the next begins there is one frame, not two"
    assert move.at(23, FILM) == 0.0 and 0 < move.at(30, FILM) < 1 and move.at(167, FILM) == pytest.approx(1.0)


def test_in_a_loop_of_viewpoints_the_last_moves_back_to_the_first():
    views = (Viewpoint(name="A", hold=1, move=2), Viewpoint(name="B", hold=1, move=2))
    once, loop = Viewpoints(views=views), Viewpoints(views=views, loop=True)
    assert once.count(FILM) == 96 and loop.count(FILM) == 144
    assert loop.at(143, FILM) > 1.9 and loop.at(0, FILM) == 0
    assert "loop" in loop.words() and "loop" not in once.words()


viewpoints = st.builds(
    Viewpoints,
    views=st.lists(st.builds(Viewpoint, name=st.just("v"), hold=st.floats(0, 9), move=st.floats(0, 9)), min_size=2, max_size=6).map(tuple),
    loop=st.booleans(),
)


@given(viewpoints, st.sampled_from([Fraction(24), Fraction(25), Fraction(24000, 1001), Fraction(60)]))
def test_parts_add_up_to_the_whole_at_any_rate(move, rate):
    bounds = move.bounds(rate)
    assert bounds == sorted(bounds) and bounds[0] == 0
    assert abs(move.count(rate) - move.seconds * rate) <= 0.5 + 1e-6, "no frame is lost or counted twice between the parts"
    places = [move.at(k, rate) for k in range(0, move.count(rate), 7)]
    assert all(0 <= p < len(move.views) for p in places)
    if not move.loop:
        assert places == sorted(places)


@given(st.floats(0.1, 60), st.sampled_from([24, 25, 30]))
def test_a_loop_never_shows_its_first_frame_twice(seconds, rate):
    loop = Loop(seconds=seconds)
    count = loop.count(Fraction(rate))
    if count:
        assert loop.at(count - 1, Fraction(rate)) < 1.0 and loop.at(count, Fraction(rate)) == 1.0


@pytest.mark.parametrize(
    "move, words",
    [
        (Viewpoints(views=(Viewpoint(name="A"),)), "expected 2 to 1000 viewpoints"),
        (Viewpoints(views=(Viewpoint(name="A", hold=-1), Viewpoint(name="B"))), r"m\.views\[0\]\.hold: -1"),
        (Turntable(seconds=float("nan")), r"m\.seconds: nan"),
        (Turntable(start=0, end=0), "expected another angle"),
        (Turntable(end=1e9), "-36000 to 36000 degrees"),
        (Loop(seconds=1e9), "0 to 86400 seconds"),
    ],
)
def test_moves_that_cannot_be_made_are_told_with_their_place(move, words):
    with pytest.raises(ReelError, match=words):
        checked_move(move, "m")
