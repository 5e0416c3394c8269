"""Faults planted in a long sequence: all of them are found, none is invented, and a file cut anywhere is told."""

from __future__ import annotations

import json
import os
import shutil

import numpy as np
import pytest

from hasty_reel.cli import main
from hasty_reel.handover.foldercheck import check_frames
from hasty_reel.pictures.footage import Footage
from hasty_reel.pictures.frame import Picture
from hasty_reel.pictures.sequence import FramePattern, read_pattern
from hasty_reel.pictures.writing import write_picture

COUNT, WIDTH, HEIGHT = 2000, 48, 27
Y, X = np.mgrid[0:HEIGHT, 0:WIDTH]


def frame_of(k: int, rng: np.random.Generator) -> np.ndarray:
    """A lamp that swings over a turning pattern, with grain, and a slow fade: much moves, nothing is wrong."""
    pattern = 0.25 + 0.15 * np.sin(0.5 * X + 0.05 * k) * np.sin(0.4 * Y - 0.03 * k)
    cx, cy = WIDTH / 2 + 18 * np.sin(k / 17.0), HEIGHT / 2 + 8 * np.cos(k / 23.0)
    lamp = 0.6 * np.exp(-((X - cx) ** 2 + (Y - cy) ** 2) / 12.0)
    plane = (pattern + lamp) * (0.7 + 0.3 * np.sin(k / 200.0)) + 0.01 * rng.standard_normal(X.shape)
    return np.repeat(np.maximum(plane, 0.0)[..., None], 3, axis=2).astype(np.float32)


PLANTED = {
    "missing": [1100, 1101, 1900], "unreadable": [1200, 1350], "wrong_size": [1400], "wrong_channels": [1450], "not_finite": [1500],
    "black": [1600], "stale": [1700, 1701], "doubled": [1801, 1802], "flashing": [1250, 2100], "sparkling": [2200],
}  # fmt: skip


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    """Two thousand frames with faults of every kind."""
    base = tmp_path_factory.mktemp("frames")
    pattern, rng = FramePattern(base, "orrery.", 4, ".exr"), np.random.default_rng(3)
    for k in range(COUNT):
        frame = 1001 + k
        rgb, guides = frame_of(k, rng), {}
        if frame in PLANTED["missing"]:
            continue
        if frame in PLANTED["wrong_size"]:
            rgb = rgb[:20]
        if frame in PLANTED["wrong_channels"]:
            guides = {"Z": rgb[..., 0]}
        if frame in PLANTED["black"]:
            rgb = np.zeros_like(rgb)
        if frame == 1802:
            shutil.copy2(pattern.path(1801), pattern.path(1802))
            continue
        if frame == 1250:
            rgb = rgb * 1.15
        if frame == 2100:
            rgb[:13, :24] *= 2.0
        if frame in PLANTED["sparkling"]:
            rgb[rng.integers(1, HEIGHT - 1, 40), rng.integers(1, WIDTH - 1, 40)] = 4.0
        write_picture(pattern.path(frame), Picture(rgb, guides, {}))
        if frame in PLANTED["unreadable"]:
            raw = pattern.path(frame).read_bytes()
            pattern.path(frame).write_bytes(raw[: len(raw) // 2])
        if frame in PLANTED["stale"]:
            os.utime(pattern.path(frame), (1_000_000, 1_000_000))
    # pixels that are no numbers: written beside our own writer, which keeps them out
    import OpenImageIO as oiio

    bad = frame_of(499, rng)
    bad[3, 4] = np.nan
    spec = oiio.ImageSpec(WIDTH, HEIGHT, 3, "half")
    out = oiio.ImageOutput.create(str(pattern.path(1500)))
    assert out.open(str(pattern.path(1500)), spec) and out.write_image(bad) and out.close()
    return pattern


def test_every_planted_fault_is_found_and_none_invented(folder):
    found = check_frames(Footage(folder), range(1001, 1001 + COUNT), since=2_000_000.0)
    assert {kind: list(frames) for kind, frames in found.faults.items()} == PLANTED, found.faults
    assert found.doubled == ((1801, 1802),)
    again = sorted({f for kind, frames in PLANTED.items() for f in frames} - {1801})
    assert list(found.again) == again and found.marks[1801] == "doubled"
    assert "2 frames are flashing: 1250,2100" in found.words and set(found.why) == {1200, 1350}


def test_heads_alone_tell_what_needs_no_pixels(folder):
    found = check_frames(Footage(folder), range(1001, 1001 + COUNT), since=2_000_000.0, quick=True)
    told = {kind: frames for kind, frames in PLANTED.items() if kind in ("missing", "unreadable", "wrong_size", "wrong_channels", "stale")}
    assert {kind: list(frames) for kind, frames in found.faults.items()} == told and found.content == {}


def test_a_whole_sequence_has_no_fault(folder):
    found = check_frames(Footage(folder), range(1002, 1090))
    assert found.faults == {} and found.words == ["All 88 frames are there and whole."] and found.again == ()


@pytest.mark.parametrize("tenth", range(10))
def test_a_file_cut_anywhere_is_told(folder, tmp_path, tenth):
    for frame in (1002, 1003, 1004):
        shutil.copy(folder.path(frame), tmp_path / folder.path(frame).name)
    path = tmp_path / folder.path(1003).name
    raw = path.read_bytes()
    path.write_bytes(raw[: max(1, len(raw) * tenth // 10)])
    found = check_frames(Footage(FramePattern(tmp_path, "orrery.", 4, ".exr")), [1002, 1003, 1004])
    assert found.faults == {"unreadable": (1003,)}


def test_a_still_plate_and_a_fade_from_black_are_no_faults(tmp_path):
    pattern = FramePattern(tmp_path, "plate.", 4, ".exr")
    for k in range(8):
        write_picture(pattern.path(k + 1), Picture(np.full((9, 16, 3), 0.2, np.float32), {}, {}))
    assert check_frames(Footage(pattern), range(1, 9)).faults == {}
    fade = FramePattern(tmp_path, "fade.", 4, ".exr")
    for k in range(8):
        write_picture(fade.path(k + 1), Picture(np.full((9, 16, 3), 0.0002 * k**3, np.float32), {}, {}))
    assert check_frames(Footage(fade), range(1, 9)).faults == {}


def test_the_command_line_gives_the_lists_and_the_frames_to_render_again(folder, tmp_path, capsys):
    for frame in (1101, 1102, 1103, 1104):
        if frame != 1101:
            shutil.copy(folder.path(frame), tmp_path / folder.path(frame).name)
    with pytest.raises(SystemExit) as leave:
        main(["check", str(tmp_path / "orrery.####.exr"), "--frames", "1101-1105", "--json"])
    document = json.loads(capsys.readouterr().out)
    assert leave.value.code == 1 and document["missing"] == [1101, 1105] and document["render_again"] == "1101,1105"
    assert set(document) >= {"missing", "unreadable", "wrong_size", "not_finite", "black", "stale", "doubled", "flashing"}
    with pytest.raises(SystemExit) as leave:
        main(["check", str(tmp_path / "orrery.####.exr"), "--since", "yesterday"])
    assert leave.value.code == 2 and "expected a time such as" in capsys.readouterr().err


def test_frames_that_were_not_made_as_planned_are_stale(small_path, tmp_path, capsys):
    with pytest.raises(SystemExit):
        main(["run", str(small_path), "--shot", "sh010", "--frames", "1001-1003", "--out", str(tmp_path / "out")])
    capsys.readouterr()
    pattern = str(tmp_path / "out" / "sh010" / "sh010.####.exr")
    asked = ["check", pattern, "--frames", "1001-1003", "--plan", str(small_path), "--shot", "sh010", "--json"]
    with pytest.raises(SystemExit) as leave:
        main(asked)
    assert leave.value.code == 0, capsys.readouterr().out
    capsys.readouterr()
    from hasty_reel.reel.edits import with_line
    from hasty_reel.reel.file import read_reel, save_reel

    save_reel(small_path, with_line(read_reel(small_path), "sh010", "bounces", 1))
    with pytest.raises(SystemExit) as leave:
        main(asked)
    assert leave.value.code == 1 and json.loads(capsys.readouterr().out)["stale"] == [1001, 1002, 1003]
    assert str(read_pattern(pattern)) == pattern
