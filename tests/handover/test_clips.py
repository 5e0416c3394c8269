"""Loops to show somebody: films and pictures read back by general libraries."""

from __future__ import annotations

from fractions import Fraction

import av
import cv2
import numpy as np
import pytest

from hasty_reel.errors import WrongInput
from hasty_reel.handover.clips import SHORTEST, write_clip

FRAMES = [np.full((54, 96, 3), 40 * k, np.uint8) for k in range(5)]


def test_a_film_plays_the_loop_over_and_over(tmp_path):
    words = write_clip(tmp_path / "look.mp4", FRAMES, Fraction(24))
    with av.open(str(tmp_path / "look.mp4")) as film:
        read = [f.to_ndarray(format="rgb24") for f in film.decode(video=0)]
    assert len(read) % 5 == 0 and len(read) >= SHORTEST * 24 and f"{len(read) // 5} times over" in words
    assert abs(float(read[3].mean()) - 120.0) < 6.0 and abs(float(read[8].mean()) - 120.0) < 6.0


def test_pictures_are_numbered_and_unchanged(tmp_path):
    write_clip(tmp_path / "look.png", FRAMES, Fraction(24))
    made = sorted(tmp_path.glob("look.*.png"))
    assert [p.name for p in made] == [f"look.{k:04d}.png" for k in range(1, 6)]
    assert np.array_equal(cv2.imread(str(made[2]))[..., ::-1], FRAMES[2])


def test_what_cannot_be_written_is_said(tmp_path):
    with pytest.raises(WrongInput, match="expected a loop"):
        write_clip(tmp_path / "look.mp4", [], Fraction(24))
    with pytest.raises(WrongInput, match=r"\.mp4 or \.png"):
        write_clip(tmp_path / "look.gif", FRAMES, Fraction(24))
    (tmp_path / "there").write_text("a file")
    with pytest.raises(WrongInput, match="cannot be written"):
        write_clip(tmp_path / "there" / "look.png", FRAMES, Fraction(24))
