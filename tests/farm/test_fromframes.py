"""A reel from a folder of frames: shots, rate and size as the files say."""

from __future__ import annotations

from datetime import datetime
from fractions import Fraction

import numpy as np
import OpenImageIO as oiio
import pytest

from hasty_reel.errors import WrongInput
from hasty_reel.farm.fromframes import rate_in, reel_from_frames, sequences_below
from hasty_reel.pictures.frame import Picture
from hasty_reel.pictures.writing import write_picture

NOW = datetime(2026, 11, 24, 21, 14, 3).astimezone()


def frames(folder, name: str, numbers, size=(32, 18), rate: tuple[int, int] | None = None) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    for k in numbers:
        path = folder / name.format(k)
        if rate is None:
            write_picture(path, Picture(np.zeros((size[1], size[0], 3), np.float32)))
        else:
            spec = oiio.ImageSpec(*size, 3, "half")
            spec.attribute("FramesPerSecond", "rational", rate)
            buffer = oiio.ImageBuf(spec)
            buffer.write(str(path))


def test_each_sequence_is_a_shot_with_its_frames_rate_and_size(tmp_path):
    frames(tmp_path / "a", "rings.{:04d}.exr", range(1001, 1011), (64, 36), (24000, 1001))
    frames(tmp_path / "b", "tide.s1.{:04d}.exr", range(1, 6), (64, 36), (24000, 1001))
    frames(tmp_path / "b", "tide.s2.{:04d}.exr", range(1, 6), (64, 36), (24000, 1001))
    (tmp_path / "b" / "notes.txt").write_text("no frame")
    (tmp_path / ".hidden").mkdir()
    frames(tmp_path / ".hidden", "x.{:04d}.exr", [1])
    found = reel_from_frames(tmp_path, NOW)
    assert [(s.id, s.first, s.last) for s in found.reel.shots] == [("rings", 1001, 1010), ("tide", 1, 5)], "a second seed is no shot"
    assert found.reel.fps == Fraction(24000, 1001) and found.reel.picture_size == (64, 36)
    assert found.words == () and found.patterns["tide"].frames() == [1, 2, 3, 4, 5]


def test_what_the_files_do_not_tell_is_said(tmp_path):
    frames(tmp_path, "rings.{:d}.exr", [8, 9, 10, 12])
    frames(tmp_path / "small", "rings.{:04d}.exr", [1], (16, 9))
    found = reel_from_frames(tmp_path, NOW)
    said = " ".join(found.words)
    assert "tell no rate: 24 a second is taken" in said and "frames 11 are missing" in said and "another size than" in said
    assert [(s.id, s.first, s.last) for s in found.reel.shots] == [("rings", 8, 12), ("rings-2", 1, 1)]


def test_a_folder_without_frames_is_told(tmp_path):
    with pytest.raises(WrongInput, match="no numbered pictures that can be read"):
        reel_from_frames(tmp_path, NOW)
    (tmp_path / "a.0001.exr").write_text("no picture")
    with pytest.raises(WrongInput, match="no numbered pictures"):
        reel_from_frames(tmp_path, NOW)
    with pytest.raises(WrongInput, match="cannot be read"):
        sequences_below(tmp_path / "none")


@pytest.mark.parametrize(
    "told, rate",
    [
        ((24000, 1001), Fraction(24000, 1001)),
        (23.976, Fraction(24000, 1001)),
        (29.97, Fraction(30000, 1001)),
        (25, Fraction(25)),
        (12.5, Fraction(25, 2)),
        ((24, 0), None),
        (float("nan"), None),
        (float("inf"), None),
        (0.0, None),
        ("many", None),
    ],
)
def test_rates_are_read_as_they_are_told(told, rate):
    assert rate_in({"framespersecond": told}) == rate
