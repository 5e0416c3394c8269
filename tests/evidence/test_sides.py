"""The sides of a comparison."""

from __future__ import annotations

import numpy as np
import pytest

from hasty_reel.errors import PictureError, WrongInput
from hasty_reel.evidence.sides import MOST_LOOP_FRAMES, Side, common_frames, loop_of, side_of_footage, sides_of, two_runs, verdict
from hasty_reel.measure.sequence import measure_sequence
from hasty_reel.pictures.footage import Footage
from hasty_reel.pictures.frame import Picture
from hasty_reel.pictures.sequence import read_pattern
from hasty_reel.pictures.writing import write_picture


def side(frames, seconds: float = 1.0, key: str = "a") -> Side:
    return Side(key, key, "", {f: () for f in frames}, dict.fromkeys(frames, seconds))


def test_proofs_are_sides_the_newest_first(demo_reel, demo_evidence):
    shot = demo_reel.shot("sh010")
    found = sides_of(demo_evidence["sh010"], shot)
    assert [s.key for s in found][:2] == ["p018", "p015"] and len(found) == 16, "a scan and noise kept small are not looked at"
    run, cleaner = (next(s for s in found if s.key == k) for k in ("p002", "p015"))
    assert run.two_seeds and cleaner.two_seeds
    assert common_frames(run, cleaner) == cleaner.frames == list(range(1045, 1052))
    measured = [measure_sequence(cleaner.frames, s.read, s.read_pair if s.two_seeds else None) for s in (run, cleaner)]
    assert measured[0].noise_L > 1.5 * measured[1].noise_L and measured[0].flicker_L > measured[1].flicker_L
    with pytest.raises(PictureError, match="has no frame 3"):
        run.read(3)


def test_runs_are_found_around_the_playhead():
    a = side([1, 2, 3, 10, 11, 12, 13, 40])
    assert a.run_at(11) == [10, 11, 12, 13] and a.run_at(30) == [40] and a.longest_run() == [10, 11, 12, 13]
    assert a.nearest(6) == 3 and side([]).nearest(6) is None and side([]).run_at(1) == []
    assert common_frames(a, side([2, 3, 4, 40])) == [2, 3, 40] and common_frames(a, None) == a.frames


def test_frames_on_disk_are_a_side(tmp_path):
    for k in (7, 8):
        write_picture(tmp_path / f"shot.{k:04d}.exr", Picture(np.full((10, 12, 3), 0.1 * k, np.float32)))
    found = side_of_footage(Footage(read_pattern(str(tmp_path / "shot.####.exr"))), "shot")
    assert found.frames == [7, 8] and found.read(8).rgb[0, 0, 0] == pytest.approx(0.8, abs=1e-3)
    with pytest.raises(WrongInput, match="no frames there"):
        side_of_footage(Footage(read_pattern(str(tmp_path / "other.####.exr"))), "other")


def test_the_verdict_says_what_was_measured():
    """24 s becoming 36 s is +50 %, not +33 % (common practice, no source)."""
    a, b = side([1, 2], 24.0), side([1, 2], 36.0, "b")
    head, body = verdict(a, b, (1.8, 0.7), (2.0, 1.0), limit=1.0)
    assert (
        head == "B hides the flicker."
        and body == "Its unrest is seen by 1 in 3 in A and by 1 in 18 in B; B takes 12 s more a frame (+50 %)."
    )
    assert verdict(a, b, (1.8, 0.7), (2.0, 1.0), limit=3.0)[0] == "B is calmer."
    assert verdict(a, b, (0.7, 1.8), (2.0, 1.0), limit=1.0)[0] == "A hides the flicker."
    assert verdict(a, b, (1.0, 1.02), (2.0, 1.0), limit=3.0)[0] == "Both have the same seen flicker."
    assert verdict(a, b, (np.nan, np.nan), (2.0, 1.0), limit=1.0)[1].startswith("Noise 2 in A and 1 L* in B")
    assert verdict(a, b, (np.nan, np.nan), (np.nan, 1.0), limit=1.0)[0] == "Not to be told apart yet."


def test_the_loop_is_what_both_sides_have_around_the_playhead():
    a, b = side([1, 2, 3, 10, 11, 12]), side([2, 3, 10, 11, 12, 13], key="b")
    assert loop_of([a, b], 11) == [10, 11, 12] and loop_of([a, b], 2) == [2, 3] and loop_of([a], 1) == [1, 2, 3]
    assert loop_of([side([5]), side([5])], 9) == [5] and loop_of([side([5]), side([6])], 5) == []
    assert loop_of([side([1, 7, 8])], 1) == [7, 8]  # a frame by itself shows no motion
    assert loop_of([], 5) == []
    long = loop_of([side(range(2000))], 1990)
    assert len(long) == MOST_LOOP_FRAMES and long[-1] == 1999
    assert two_runs([b, a, side([1])]) == (a, b) and two_runs([side([1]), a]) == (a, None) and two_runs([]) == (None, None)
