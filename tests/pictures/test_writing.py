"""No picture that is not whole has a final name; damaged and hostile pictures end one frame in one sentence."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import msgspec
import numpy as np
import OpenImageIO as oiio
import pytest

from hasty_reel.errors import PictureError, WrongInput
from hasty_reel.pictures.finite import mended, replaced_words
from hasty_reel.pictures.frame import Picture, read_header, read_picture
from hasty_reel.pictures.limits import PictureLimits, current_limits, limits_path, set_limits
from hasty_reel.pictures.outputs import FORMAT, write_format
from hasty_reel.pictures.writing import write_picture

FULL = """
import resource, signal, sys
from pathlib import Path
import numpy as np
from hasty_reel.errors import PictureError
from hasty_reel.pictures.frame import Picture
from hasty_reel.pictures.outputs import FORMAT, write_format
from hasty_reel.pictures.writing import write_picture

folder, kind, room = Path(sys.argv[1]), sys.argv[2], int(sys.argv[3])
rgb = np.random.default_rng(1).random((48, 64, 3), np.float32)
signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
resource.setrlimit(resource.RLIMIT_FSIZE, (room, room))
try:
    if kind == "exr":
        write_picture(folder / "a.exr", Picture(rgb, {"Z": rgb[..., 0].copy()}, {"hr:recipe": "x"}))
    else:
        write_format(folder / "a.png", Picture(rgb), FORMAT["png-16"])
except PictureError as error:
    print(error)
    sys.exit(3)
"""


def picture(size: int = 32) -> Picture:
    rgb = np.random.default_rng(2).random((size, size, 3), np.float32)
    return Picture(rgb, {}, {"hr:recipe": "abcdef012345", "hr:frame": "1001"})


@pytest.fixture(autouse=True)
def shipped_limits():
    current_limits.cache_clear()
    yield
    current_limits.cache_clear()


@pytest.mark.parametrize("kind", ["exr", "png"])
def test_where_the_disk_takes_only_part_there_is_no_file(tmp_path, kind):
    """The room that a file may take stands for a full disk: from nothing to just too little."""
    whole = tmp_path / "whole"
    whole.mkdir()
    run = [sys.executable, "-c", FULL]
    assert subprocess.run([*run, str(whole), kind, str(1 << 30)], timeout=60).returncode == 0
    size = (whole / f"a.{kind}").stat().st_size
    for k, room in enumerate((0, 1, size // 3, size - 200, size - 1)):
        folder = tmp_path / f"{k}"
        folder.mkdir()
        done = subprocess.run([*run, str(folder), kind, str(room)], capture_output=True, text=True, timeout=60)
        assert done.returncode == 3 and "Cannot write" in done.stdout
        assert list(folder.iterdir()) == [], f"{room} of {size} bytes left something behind"


def test_a_failed_rewrite_leaves_the_earlier_picture(tmp_path, monkeypatch):
    path = tmp_path / "a.exr"
    write_picture(path, picture())
    before = path.read_bytes()

    def full(*args):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("os.sendfile", full)
    with pytest.raises(PictureError, match="No space left on device"):
        write_picture(path, picture(64))
    assert path.read_bytes() == before and [p.name for p in tmp_path.iterdir()] == ["a.exr"]


def test_a_disk_that_loses_bytes_without_a_word_is_found_out(tmp_path, monkeypatch):
    import os

    real = os.sendfile
    monkeypatch.setattr("os.sendfile", lambda out, source, offset, count: real(out, source, offset, count // 2) and count)
    with pytest.raises(PictureError, match="the disk took"):
        write_picture(tmp_path / "a.exr", picture())
    assert list(tmp_path.iterdir()) == []


def mangled(path: Path, old: bytes, new: bytes) -> None:
    raw = path.read_bytes()
    assert raw.count(old) >= 1 and len(old) == len(new)
    path.write_bytes(raw.replace(old, new))


def test_an_attribute_that_is_no_text_is_told(tmp_path):
    path = tmp_path / "a.exr"
    write_picture(path, picture())
    mangled(path, b"abcdef012345", b"\xff\xfe\xff\xfe\xff\xfe\xff\xfe\xff\xfe\xff\xfe")
    for read in (read_header, read_picture):
        with pytest.raises(PictureError, match=r"a\.exr: broken picture"):
            read(path)


def test_every_byte_of_a_head_may_be_wrong(tmp_path):
    """Whatever one byte of the head becomes, reading gives a picture or one sentence."""
    path = tmp_path / "a.exr"
    write_picture(path, picture(8))
    raw = path.read_bytes()
    for k in range(0, 420, 3):
        path.write_bytes(raw[:k] + bytes([raw[k] ^ 0xA5]) + raw[k + 1 :])
        for read in (lambda p: read_header(p, whole=True), read_picture):
            try:
                read(path)
            except PictureError as error:
                assert str(error).startswith(str(path)) and len(str(error)) > len(str(path)) + 5


@pytest.mark.parametrize("ending", ["exr", "png", "tif"])
def test_a_picture_that_unfolds_to_more_than_is_read_is_refused_by_its_head(tmp_path, ending):
    path = tmp_path / f"bomb.{ending}"
    buffer = oiio.ImageBuf(oiio.ImageSpec(4000, 3000, 1, "uint8" if ending != "exr" else "half"))
    buffer.write(str(path))
    assert path.stat().st_size < 400_000 or ending == "tif"
    set_limits(PictureLimits(megapixels=8.0))
    with pytest.raises(PictureError, match=r"larger than the largest picture that is read \(8 megapixels"):
        read_picture(path)
    set_limits(PictureLimits())
    assert read_picture(path).width == 4000


def test_too_many_channels_are_refused(tmp_path):
    path = tmp_path / "many.exr"
    oiio.ImageBuf(oiio.ImageSpec(8, 8, 100, "half")).write(str(path))
    with pytest.raises(PictureError, match="with 100 channels"):
        read_picture(path)


def test_limits_are_kept_and_make_sense(tmp_path):
    set_limits(PictureLimits(megapixels=12.5, channels=9))
    assert current_limits() == PictureLimits(megapixels=12.5, channels=9) and limits_path().is_file()
    for bad in (PictureLimits(megapixels=0), PictureLimits(channels=0), PictureLimits(megapixels=float("nan"))):
        with pytest.raises(WrongInput, match="Largest picture"):
            set_limits(bad)
    limits_path().write_bytes(msgspec.json.encode({"megapixels": "many"}))
    current_limits.cache_clear()
    with pytest.raises(WrongInput, match=r"largest-picture\.json"):
        current_limits()


def test_an_empty_file_is_said_to_be_empty(tmp_path):
    (tmp_path / "a.exr").touch()
    with pytest.raises(PictureError, match="is empty"):
        read_picture(tmp_path / "a.exr")


def test_a_frame_with_an_odd_name_is_written_and_read(tmp_path):
    path = tmp_path / ("ä#@ " + "n" * 180 + ".1001.exr")
    write_picture(path, picture())
    assert read_picture(path).width == 32


# -- pixels that are no numbers


def test_few_pixels_that_are_no_numbers_take_the_mean_of_their_neighbours():
    rgb = np.full((40, 40, 3), 0.25, np.float32)
    rgb[5, 5] = np.nan
    found, count = mended(Picture(rgb, {"Z": np.full((40, 40), np.inf, np.float32)}), "a")
    assert count == 1 and np.allclose(found.rgb, 0.25) and np.isnan(rgb[5, 5]).all()
    assert np.isfinite(found.guides["Z"]).all() and found.guides["Z"].min() > 1e9, "what is infinitely far stays far"
    whole = Picture(np.full((4, 4, 3), 1.0, np.float32))
    assert mended(whole, "a") == (whole, 0)
    assert replaced_words({1001: 1}) == "1 pixel that was no finite number was replaced from neighbours, in frame 1001."
    assert replaced_words({}) == ""


@pytest.mark.parametrize("share", [0.01, 1.0])
def test_many_pixels_that_are_no_numbers_are_refused(share):
    rgb = np.full((40, 40, 3), 0.25, np.float32)
    rgb.reshape(-1, 3)[: int(1600 * share)] = np.inf
    with pytest.raises(PictureError, match=rf"frame 7: {int(1600 * share)} of 1600 pixels are not finite"):
        mended(Picture(rgb), "frame 7")


def test_png_heads_say_their_size(tmp_path):
    write_format(tmp_path / "a.png", Picture(np.zeros((5, 7, 3), np.float32)), FORMAT["png-16"])
    head = read_header(tmp_path / "a.png")
    assert (head.width, head.height) == (7, 5)
