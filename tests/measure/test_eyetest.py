"""The eye test: the staircase against the psychophysics it is built on, the loops against the measure, what is kept."""

from __future__ import annotations

import json

import numpy as np
import pytest

from hasty_reel.errors import ReelError
from hasty_reel.image.lightness import lightness
from hasty_reel.image.srgb import srgb_decode
from hasty_reel.measure.eyesight import WATCHERS, Watcher, eyes_of
from hasty_reel.measure.eyetest import FRAMES, MOST_TRIALS, Staircase, Stimulus, grey_patch, picture_patch
from hasty_reel.measure.seen import STANDARD, Eyes, contrast_of
from hasty_reel.measure.seennoise import seen_over_all
from hasty_reel.measure.timeslice import time_slice

CONVERGES_AT = 0.5**0.5
"""Share of right answers at which one up, two down comes to rest: p * p = 1/2."""


def chance_of(amount: float, limit: float) -> float:
    """A person's psychometric function: half at chance, a Weibull of slope 3 that passes 70.7 % at the limit."""
    scale = limit / (-np.log(2 * (1 - CONVERGES_AT))) ** (1 / 3)
    return 0.5 + 0.5 * (1 - np.exp(-((amount / scale) ** 3)))


def taken_by(limit: float, seed: int) -> Staircase:
    rng = np.random.RandomState(seed)
    stairs = Staircase()
    while not stairs.ended:
        stairs = stairs.answered(bool(rng.rand() < chance_of(stairs.amount, limit)))
    return stairs


@pytest.mark.parametrize("limit", [0.5, 1.0, 2.5])
def test_one_up_two_down_comes_to_rest_where_seven_in_ten_are_right(limit):
    """Levitt 1971 (J. Acoust. Soc. Am. 49, 467-477): 70.7 %. Over 100 people the mean limit is theirs within 8 %."""
    found = [s.limit for s in (taken_by(limit, k) for k in range(100)) if s.limit is not None]
    assert len(found) > 95
    assert np.exp(np.mean(np.log(found))) == pytest.approx(limit, rel=0.08)


@pytest.mark.parametrize("lapse", [0.0, 0.06])
def test_the_error_that_is_told_is_the_error_that_is_made(lapse):
    """100 simulated people, some of whose answers slip: the stated factor is the spread of the limits within a third."""
    logs, told = [], []
    for k in range(100):
        rng = np.random.RandomState(500 + k)
        stairs = Staircase()
        while not stairs.ended:
            stairs = stairs.answered(bool(rng.rand() < (chance_of(stairs.amount, 1.3) if rng.rand() > 2 * lapse else 0.5)))
        if stairs.limit is not None:
            logs.append(np.log(stairs.limit / 1.3))
            told.append(np.log(stairs.spread))
    assert len(logs) > 92 and abs(np.mean(logs)) < 0.12
    assert np.sqrt(np.mean(np.square(logs))) == pytest.approx(np.sqrt(np.mean(np.square(told))), rel=0.35)


def test_a_guesser_is_told_so():
    guessed = 0
    for k in range(40):
        rng = np.random.RandomState(k)
        stairs = Staircase()
        while not stairs.ended:
            stairs = stairs.answered(bool(rng.rand() < 0.5))
        guessed += stairs.limit is None
    assert guessed >= 34


def test_limits_far_apart_are_told_and_the_lowest_counts():
    one = Watcher(person="A", screen="B", limit=0.8, limits={"fine grain": 0.8, "blotches": 1.5})
    assert one.apart and one.eyes.limit == 0.8
    assert not Watcher(person="A", screen="B", limit=0.8, limits={"fine grain": 0.8, "blotches": 1.0}).apart


def test_the_course_of_a_staircase_by_hand():
    stairs = Staircase(amount=4.0)
    stairs = stairs.answered(True)
    assert stairs.amount == 4.0 and stairs.streak == 1
    stairs = stairs.answered(True)
    assert stairs.amount == pytest.approx(2.5) and stairs.reversals == ()
    stairs = stairs.answered(False)
    assert stairs.amount == pytest.approx(4.0) and stairs.reversals == (2.5,)
    assert stairs.limit is None and not stairs.ended and len(stairs.trials) == 3


def test_who_never_finds_it_gets_no_invented_limit():
    stairs = Staircase()
    for _ in range(MOST_TRIALS):
        stairs = stairs.answered(False)
    assert stairs.ended and stairs.limit is None and stairs.spread is None


@pytest.mark.parametrize("grain, averaged", [(1.0, 1), (4.0, 1), (1.0, 5)])
@pytest.mark.parametrize("amount", [1.0, 4.0])
def test_the_loops_hold_the_amount_that_was_planned(grain, averaged, amount):
    """The unrest of the display codes, measured, is the amount asked for; the calm loop has only the dither."""
    eyes, rows = Eyes(3.0), 1080
    loops = Stimulus(grey_patch(256), grain, averaged).loops(amount, eyes, rows, 24.0, seed=5)

    def seen(frames: list[np.ndarray]) -> float:
        planes = [lightness(srgb_decode(f[..., 0] / 255.0)) for f in frames]
        mean = np.mean(planes, axis=0)
        return seen_over_all(np.stack([contrast_of(p - mean, mean) for p in planes]), eyes.pixels_per_degree(rows), 24.0)

    assert len(loops.calm) == FRAMES == len(loops.restless)
    calm, restless = seen(loops.calm), seen(loops.restless)
    assert calm < 0.2 and np.sqrt(restless**2 - calm**2) == pytest.approx(amount, rel=0.12)


def test_a_picture_can_be_the_ground():
    frames = [np.random.RandomState(k).rand(90, 400, 3).astype(np.float32) for k in range(3)]
    patch = picture_patch(frames, 256)
    assert len(patch) == 3 and patch[0].shape == (90, 256, 3)
    loops = Stimulus(patch).loops(1.0, STANDARD, 1080, 24.0, 1)
    assert loops.calm[0].shape == (90, 256, 3) and np.any(loops.calm[0] != loops.restless[0])


def test_limits_are_kept_for_each_person_and_screen(tmp_path):
    path = tmp_path / "eyes.json"
    nobody = WATCHERS.read(path)
    assert nobody.items == () and eyes_of(nobody) == STANDARD
    near = Watcher(person="Iris", screen="Desk", distance_cm=60.0, screen_cm=30.0, limit=1.7)
    own = nobody.added(near).added(Watcher(person="Iris", screen="Wall", limit=2.5))
    own = own.added(Watcher(person="Iris", screen="Desk", distance_cm=60.0, screen_cm=30.0, limit=1.4))
    assert len(own.items) == 2 and own.current.limit == 1.4 and eyes_of(own) == Eyes(2.0, 1.4)
    WATCHERS.save(own, path)
    assert WATCHERS.read(path) == own
    path.write_text('{"watchers": [{"person": "Iris", "screen": "Desk", "limit": 1.7}], "chosen": 1}')
    assert WATCHERS.read(path).current.limit == 1.7  # the number of the chosen one, as earlier versions had it
    untested = nobody.added(Watcher(person="Iris", screen="Desk"))
    assert eyes_of(untested).limit == STANDARD.limit


@pytest.mark.parametrize(
    "text, words",
    [
        ("{", "truncated"),
        ('{"chosen": 3}', "number 3 is chosen; expected 0 to 0"),
        ('{"watchers": [{"person": "", "screen": "x"}]}', "without a name"),
        ('{"watchers": [{"person": "I", "screen": "x", "limit": -1}]}', "limit"),
        ('{"watchers": [{"person": "I", "screen": "x", "shoe": 1}]}', "shoe"),
    ],
)
def test_a_broken_file_of_limits_is_told(tmp_path, text, words):
    path = tmp_path / "eyes.json"
    path.write_text(text)
    with pytest.raises(ReelError) as error:
        WATCHERS.read(path)
    assert words in str(error.value) and "\n" not in str(error.value)
    assert json.dumps(str(error.value))


def test_a_time_slice_has_a_row_for_each_frame():
    frames = [np.full((20, 30, 3), k, np.uint8) for k in range(5)]
    for frame in frames:
        frame[:, 10] = 200
    cut = time_slice(frames, (0, 7), (29, 7))
    assert cut.shape == (5, 30, 3) and (cut[:, 10] == 200).all() and list(cut[:, 3, 0]) == list(range(5))
    leaning = time_slice(frames, (0, 0), (29, 19))
    assert leaning.shape[1] == 36  # as long as the line
    outside = time_slice(frames, (-10, 3), (40, 3), 51)
    assert outside.shape == (5, 51, 3) and (outside[:, 0] == frames[0][3, 0] * 0 + np.arange(5)[:, None]).all()
