"""Layers and crops put together by the formulas of Porter and Duff; one film of a reel; a contact sheet."""

from __future__ import annotations

import json
from pathlib import Path

import av
import numpy as np
import PIL.Image
import pytest

from hasty_reel.cli import main
from hasty_reel.errors import WrongInput
from hasty_reel.handover.contactsheet import contact_sheet
from hasty_reel.handover.parts import Part, compose, put_together, read_part
from hasty_reel.pictures.footage import Footage
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.pictures.sequence import read_pattern
from hasty_reel.pictures.writing import write_picture
from hasty_reel.reel.edits import with_frames, with_shot_fields
from hasty_reel.reel.file import read_reel, save_reel
from hasty_reel.reel.frames import evenly


def call(*arguments) -> int:
    with pytest.raises(SystemExit) as leave:
        main([str(a) for a in arguments])
    return int(leave.value.code or 0)


def sequence(folder: Path, name: str, rgb: np.ndarray, alpha: np.ndarray | None = None, count: int = 2):
    pattern = read_pattern(str(folder / f"{name}.####.exr"))
    for k in range(count):
        write_picture(pattern.path(1001 + k), Picture(rgb, {} if alpha is None else {"A": alpha}, {}))
    return pattern


def test_over_plus_and_place_are_those_of_the_formulas():
    """A over B: a + b (1 - alpha_a), for light multiplied with alpha; twice half a cover covers three quarters."""
    rng = np.random.default_rng(1)
    back, alpha = rng.random((6, 8, 3), np.float32), np.full((6, 8), 0.5, np.float32)
    front = Picture(rng.random((6, 8, 3), np.float32), {"A": np.full((6, 8), 0.5, np.float32)})
    rgb, cover = put_together(back, alpha, front, "over")
    np.testing.assert_allclose(rgb, front.rgb + 0.5 * back, rtol=1e-6)
    np.testing.assert_allclose(cover, 0.75)
    rgb, cover = put_together(back, alpha, front, "plus")
    np.testing.assert_allclose(rgb, front.rgb + back, rtol=1e-6)
    assert (cover == 1.0).all()
    crop = Picture(front.rgb[:2, :3])
    rgb, cover = put_together(back, alpha, crop, "place", 6, -1)
    np.testing.assert_array_equal(rgb[0, 6:8], crop.rgb[1, :2])
    np.testing.assert_array_equal(rgb[1:], back[1:])
    with pytest.raises(WrongInput, match="lies beside the frame of 8x6"):
        put_together(back, alpha, crop, "place", 8, 0)


def test_crops_of_a_frame_come_back_as_the_whole(tmp_path):
    whole = np.random.default_rng(2).random((20, 32, 3), np.float32).astype(np.float16).astype(np.float32)
    parts = []
    for k, (y, x) in enumerate(((0, 0), (0, 16), (10, 0), (10, 16))):
        sequence(tmp_path, f"crop{k}", whole[y : y + 10, x : x + 16])
        parts.append(f"place:{tmp_path}/crop{k}.####.exr@{x},{y}")
    assert call("compose", *parts, "--size", "32x20", "--out", tmp_path / "whole.####.exr") == 0
    np.testing.assert_array_equal(read_picture(tmp_path / "whole.1002.exr", ()).rgb, whole)
    assert call("compose", *parts, "--size", "32x20", "--out", tmp_path / "whole.####.exr") == 2, "nothing is overwritten unasked"


def test_parts_that_make_no_sense_are_told(tmp_path, capsys):
    back = sequence(tmp_path, "back", np.full((4, 4, 3), 0.5, np.float32))
    assert read_part(f"plus:{tmp_path}/back.####.exr@2,3") == Part(back, "plus", 2, 3)
    with pytest.raises(WrongInput, match="expected two whole numbers such as @320,180"):
        read_part("a.####.exr@left")
    with pytest.raises(WrongInput, match="frames 1003 are missing; nothing was written"):
        compose([Part(back)], read_pattern(str(tmp_path / "o.####.exr")), [1002, 1003])
    assert call("compose", f"{tmp_path}/back.####.exr", "--out", tmp_path / "o.####.png") == 2
    assert "expected a pattern ending in .exr" in capsys.readouterr().err


def test_a_reel_becomes_one_film_in_its_order_without_handles(small_path, tmp_path, capsys):
    reel = read_reel(small_path)
    for shot in reel.shots:
        reel = with_shot_fields(reel, shot.id, move=None, handle_in=0, handle_out=0, enabled=shot.id in ("sh010", "sh020"))
    reel = with_frames(with_frames(reel, "sh010", 1001, 1003), "sh020", 1001, 1002)
    save_reel(small_path, with_shot_fields(reel, "sh020", handle_in=1, handle_out=1))
    for shot, first, last, level in (("sh010", 1001, 1003, 0.1), ("sh020", 1000, 1003, 0.6)):
        for frame in range(first, last + 1):
            path = tmp_path / "out" / shot / f"{shot}.{frame}.exr"
            write_picture(path, Picture(np.full((36, 64, 3), level + 0.02 * (frame - 1000), np.float32)))
    assert call("film", small_path, "--run", tmp_path / "out", "--out", tmp_path / "reel.mkv", "--json") == 0
    assert json.loads(capsys.readouterr().out)["frames"] == 5
    with av.open(str(tmp_path / "reel.mkv")) as film:
        means = [f.to_ndarray(format="rgb24").mean() for f in film.decode(video=0)]
    assert len(means) == 5 and means == sorted(means) and means[3] - means[2] > 60, "the cut is after the third frame"
    (tmp_path / "out" / "sh020" / "sh020.1002.exr").unlink()
    assert call("film", small_path, "--run", tmp_path / "out", "--out", tmp_path / "b.mkv") == 1
    assert "1 of 2 frames is missing (1002)" in capsys.readouterr().err and not (tmp_path / "b.mkv").exists()


def test_a_contact_sheet_shows_each_frame_at_its_place(tmp_path):
    pattern = read_pattern(str(tmp_path / "a.####.exr"))
    for k in range(7):
        write_picture(pattern.path(1 + k), Picture(np.full((36, 64, 3), 0.1 * (k + 1), np.float32)))
    pattern.path(4).write_bytes(b"broken")
    sheet = contact_sheet(Footage(pattern), range(1, 8), columns=3, wide=64)
    assert sheet.shape == (3 * (36 + 30) + 10, 3 * 74 + 10, 3)
    at = [sheet[10 + k // 3 * 66 + 18, 10 + k % 3 * 74 + 32, 0] for k in range(7)]
    assert at[3] == 58, "what cannot be read is left grey"
    assert [v for k, v in enumerate(at) if k != 3] == sorted(v for k, v in enumerate(at) if k != 3)
    assert call("contact", tmp_path / "a.####.exr", "--out", tmp_path / "sheet.png", "--columns", "3", "--wide", "64") == 0
    with PIL.Image.open(tmp_path / "sheet.png") as image:
        assert image.size == (sheet.shape[1], sheet.shape[0])
    assert evenly(range(100), 5) == [0, 25, 50, 74, 99] and evenly([1, 2], 5) == [1, 2]
    with pytest.raises(WrongInput, match="expected 1 to 400 frames"):
        contact_sheet(Footage(pattern), [])
    assert call("contact", tmp_path / "a.####.exr", "--out", tmp_path / "sheet.gif") == 2
