"""Hand-over: films that play, pictures of 16 bit, nothing overwritten, no holes."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import av
import numpy as np
import OpenImageIO as oiio
import pytest

from hasty_reel.errors import PictureError, WrongInput
from hasty_reel.handover.deliver import Delivery, FramesMissing, deliver
from hasty_reel.handover.films import H264, FilmOptions
from hasty_reel.pictures.colour import codes8
from hasty_reel.pictures.colourspaces import output_named
from hasty_reel.pictures.frame import Picture
from hasty_reel.pictures.sequence import read_pattern
from hasty_reel.pictures.writing import write_picture

FINE = Delivery(H264, output_named("sRGB"), film=FilmOptions(quality=8))


@pytest.fixture
def source(tmp_path):
    pattern = read_pattern(str(tmp_path / "in" / "sh010.####.exr"))
    for k in range(6):
        ramp = np.linspace(0, 1, 64, dtype=np.float32)[None, :, None] * np.array([1, 0.5, 0.25], np.float32)
        write_picture(pattern.path(1001 + k), Picture(np.ascontiguousarray(np.broadcast_to(ramp, (36, 64, 3)) * (k + 1) / 6)))
    return pattern


def decoded(path) -> tuple[list[np.ndarray], Fraction]:
    with av.open(str(path)) as container:
        frames = [f.reformat(format="rgb24", threads=1).to_ndarray() for f in container.decode(video=0)]
        return frames, container.streams.video[0].average_rate


def test_a_film_has_all_frames_its_rate_and_its_colours(tmp_path, source):
    target = tmp_path / "out" / "film.mp4"
    assert deliver(source, str(target), Fraction(24000, 1001), FINE).frames == list(range(1001, 1007))
    frames, rate = decoded(target)
    assert len(frames) == 6 and rate == Fraction(24000, 1001)
    ramp = np.linspace(0, 1, 64, dtype=np.float32)[None, :, None] * np.array([1, 0.5, 0.25], np.float32)
    expected = codes8(np.ascontiguousarray(np.broadcast_to(ramp, (36, 64, 3))))
    assert np.abs(frames[-1].astype(int) - expected).mean() < 4
    assert not list(target.parent.glob(".*.part"))


def test_odd_sizes_are_filled_up(tmp_path):
    pattern = read_pattern(str(tmp_path / "a.####.exr"))
    write_picture(pattern.path(1), Picture(np.full((35, 63, 3), 0.2, np.float32)))
    deliver(pattern, str(tmp_path / "a.mp4"), Fraction(25))
    assert decoded(tmp_path / "a.mp4")[0][0].shape == (36, 64, 3)


def test_png_pictures_carry_sixteen_bits(tmp_path, source):
    deliver(source, str(tmp_path / "png" / "p.####.png"), Fraction(24))
    image = oiio.ImageBuf(str(tmp_path / "png" / "p.1006.png"))
    assert str(image.spec().format) == "uint16"
    assert image.get_pixels(oiio.UINT16)[0, -1, 0] == 65535


def test_nothing_is_overwritten_without_being_asked(tmp_path, source):
    target = tmp_path / "film.mp4"
    target.write_text("mine")
    with pytest.raises(WrongInput, match="exists already"):
        deliver(source, str(target), Fraction(24))
    assert target.read_text() == "mine"
    deliver(source, str(target), Fraction(24), overwrite=True)
    assert len(decoded(target)[0]) == 6


def test_holes_broken_frames_and_other_sizes_are_told_and_leave_no_film(tmp_path, source):
    target = str(tmp_path / "film.mp4")
    source.path(1003).unlink()
    with pytest.raises(FramesMissing, match="frames 1003 are missing"):
        deliver(source, target, Fraction(24))
    write_picture(source.path(1003), Picture(np.zeros((10, 10, 3), np.float32)))
    with pytest.raises(PictureError, match="10x10; expected 64x36"):
        deliver(source, target, Fraction(24))
    source.path(1003).write_bytes(source.path(1004).read_bytes()[:200])
    with pytest.raises(PictureError, match=r"sh010\.1003\.exr"):
        deliver(source, target, Fraction(24))
    assert not [p for p in tmp_path.iterdir() if p.is_file()]


@pytest.mark.parametrize(
    "target, fps, more, words",
    [
        ("film.avi", Fraction(24), {}, "expected a film ending in .mp4"),
        ("film.mp4", Fraction(0), {}, "expected 1 to 1000 frames a second"),
        (
            "film.mp4",
            Fraction(24),
            {"how": replace(FINE, film=FilmOptions(quality=99))},
            "quality 99; expected 0 .best. to 51",
        ),
        ("film.mp4", Fraction(24), {"how": Delivery(H264, output_named("ACEScg"))}, "a film holds display codes"),
        ("film.png", Fraction(24), {}, "no place for the frame number"),
    ],
)
def test_wrong_orders_are_told(tmp_path, source, target, fps, more, words):
    with pytest.raises(WrongInput, match=words):
        deliver(source, str(tmp_path / target), fps, **more)


def spoil(pattern, frame: int, pixels: int) -> None:
    rgb = np.full((36, 64, 3), 0.25, np.float32)
    rgb.reshape(-1, 3)[:pixels] = np.nan
    buffer = oiio.ImageBuf(oiio.ImageSpec(64, 36, 3, "half"))
    buffer.set_pixels(oiio.ROI(0, 64, 0, 36, 0, 1, 0, 3), rgb)
    buffer.write(str(pattern.path(frame)))


@pytest.mark.parametrize("target", ["film.mp4", "p.####.png"])
def test_a_frame_that_is_no_picture_is_named_and_a_spot_is_mended_and_told(tmp_path, source, target):
    """Before, a film of nothing but NaN was delivered without a word."""
    spoil(source, 1003, 2)
    done = deliver(source, str(tmp_path / "good" / target), Fraction(24))
    assert done.replaced == {1003: 2} and len(done.frames) == 6
    if target.endswith(".png"):
        codes = oiio.ImageBuf(str(tmp_path / "good" / "p.1003.png")).get_pixels(oiio.UINT16)
        assert (codes == codes[20, 20]).all(), "the spot is like its neighbours"
    spoil(source, 1004, 36 * 64)
    with pytest.raises(PictureError, match=r"sh010\.1004\.exr: 2304 of 2304 pixels are not finite numbers"):
        deliver(source, str(tmp_path / "bad" / target), Fraction(24))
    assert not (tmp_path / "bad" / "film.mp4").exists() and not list((tmp_path / "bad").glob("p.1004*"))


def test_a_film_that_the_disk_has_no_room_for_leaves_nothing_and_says_why(tmp_path, source, monkeypatch):
    from hasty_reel.handover.video import WholeWrites

    real, room = WholeWrites.write, [2000]

    def small(self, data):
        room[0] -= len(data)
        if room[0] < 0:
            raise OSError(28, "No space left on device")
        return real(self, data)

    monkeypatch.setattr(WholeWrites, "write", small)
    with pytest.raises(WrongInput, match=r"film\.mp4: cannot be written"):
        deliver(source, str(tmp_path / "film.mp4"), Fraction(24))
    assert [p.name for p in tmp_path.iterdir()] == ["in"]


def test_a_film_whose_bytes_got_lost_is_found_out(tmp_path, source, monkeypatch):
    monkeypatch.setattr("hasty_reel.handover.video.frames_in", lambda path: 4)
    with pytest.raises(WrongInput, match="holds 4 of 6 frames"):
        deliver(source, str(tmp_path / "film.mp4"), Fraction(24))
    assert not (tmp_path / "film.mp4").exists()
