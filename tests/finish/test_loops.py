"""Loops: the first frame comes again after the last one, and nothing tells where it was cut."""

from __future__ import annotations

from fractions import Fraction

import msgspec
import numpy as np
import pytest

from hasty_reel.finish.chain import Chain
from hasty_reel.finish.finisher import Finisher
from hasty_reel.image.luminance import luminance
from hasty_reel.pictures.frame import Picture
from hasty_reel.reel.moves import Loop, Turntable, Viewpoint, Viewpoints
from hasty_reel.reel.shot import Shot

FIRST, COUNT = 1001, 14
LOOP = (FIRST, FIRST + COUNT - 1)


@pytest.fixture(scope="module")
def run() -> list[Picture]:
    """A texture that goes round once, two pixels a frame, with grain on it and its vectors."""
    rng = np.random.default_rng(4)
    texture = np.kron(rng.random((8, 2 * COUNT // 4)), np.ones((6, 4))).astype(np.float32)
    wide = np.tile(texture, (1, 4))
    vectors = {"motion.X": np.full((48, 64), -2.0, np.float32), "motion.Y": np.zeros((48, 64), np.float32)}
    grain = 0.03 * rng.standard_normal((COUNT, 48, 64, 3))
    return [Picture((0.3 + 0.5 * wide[:, 2 * k : 2 * k + 64, None] + grain[k]).astype(np.float32), vectors) for k in range(COUNT)]


def finished(run: list[Picture], chain: Chain) -> list[np.ndarray]:
    frames = range(FIRST, FIRST + COUNT)
    finisher = Finisher(chain, lambda f: run[f - FIRST])
    return [finisher.finish(f, chain.needed(f, frames)).rgb for f in frames]


@pytest.mark.parametrize("despike", [False, True])
def test_wherever_a_loop_is_cut_its_frames_come_out_the_same(run, despike):
    chain = Chain(window=3, loop=LOOP, despike=despike)
    made = finished(run, chain)
    cut = 5
    other = finished(run[cut:] + run[:cut], chain)
    for k in range(COUNT):
        assert np.array_equal(made[k], other[(k - cut) % COUNT]), k


def test_the_seam_of_a_loop_is_as_calm_as_the_rest_and_without_it_is_not(run):
    """Noise that is left, by what two runs of the same picture differ."""
    rng = np.random.default_rng(9)
    again = [Picture(p.rgb + 0.03 * rng.standard_normal(p.rgb.shape).astype(np.float32), p.guides) for p in run]
    left = {}
    for loop in (LOOP, None):
        pairs = zip(finished(run, Chain(window=5, loop=loop)), finished(again, Chain(window=5, loop=loop)))
        left[loop] = np.array([np.std(luminance(a - b)[4:-4, 12:-12]) for a, b in pairs])
    middle = left[LOOP][3:-3].mean()
    ends = [0, 1, -2, -1]
    assert left[LOOP][ends].mean() == pytest.approx(middle, rel=0.1)
    assert left[None][ends].mean() > 1.15 * middle


def test_frames_beyond_the_ends_are_those_of_the_other_end():
    chain = Chain(window=3, thorough=False, loop=LOOP)
    frames = range(FIRST, FIRST + COUNT)
    assert chain.needed(FIRST, frames)[: chain.reach] == list(range(LOOP[1] - chain.reach + 1, LOOP[1] + 1))
    assert chain.places(FIRST, chain.needed(FIRST, frames)) == list(range(FIRST - chain.reach, FIRST + chain.reach + 1))
    assert LOOP[1] in chain.near(FIRST) and FIRST in chain.near(LOOP[1])
    gone = set(frames) - {LOOP[1] - 1}
    assert chain.needed(FIRST, gone)[0] == LOOP[1], "over no gap"
    short = Chain(window=11, loop=(1, 6))
    assert len(set(short.needed(3, range(1, 7)))) == len(short.needed(3, range(1, 7))) == 5, "no frame stands on both sides"
    assert chain.words.endswith(" in a loop") and not Chain(loop=LOOP).words.endswith(" in a loop")


def test_a_shot_is_a_loop_by_its_move():
    def loop(move, **changes):
        shot = Shot(id="a", name="A", scene="a", first=1, last=move.count(Fraction(24)), recipe="Final", move=move)
        return msgspec.structs.replace(shot, **changes).loop

    assert loop(Loop(seconds=1.0)) == (1, 24)
    assert loop(Turntable(seconds=2.0)) == (1, 48) and loop(Turntable(end=720.0)) is not None
    assert loop(Turntable(end=180.0)) is None and loop(Turntable(loop=False)) is None
    views = (Viewpoint(name="one", hold=1.0, move=1.0), Viewpoint(name="two", hold=1.0, move=1.0))
    assert loop(Viewpoints(views=views, loop=True)) is not None and loop(Viewpoints(views=views)) is None
    assert loop(Loop(), handle_in=8) is None and loop(Loop(), step=2) is None, "what is beyond is rendered, or nothing is beside"
