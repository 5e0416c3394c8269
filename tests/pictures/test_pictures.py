"""Frames on disk, colour, resizing: against published values and the file formats' own limits."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from skimage.data import camera

from hasty_reel.errors import PictureError, WrongInput
from hasty_reel.image.lightness import lightness
from hasty_reel.image.luminance import luminance
from hasty_reel.image.resize import resize
from hasty_reel.image.srgb import srgb_decode
from hasty_reel.measure.seen import grain_weight
from hasty_reel.measure.spectrum import seen_white
from hasty_reel.pictures.colour import as_codes16, codes8, seen_luminance, through_view, views
from hasty_reel.pictures.frame import Picture, read_header, read_picture
from hasty_reel.pictures.sequence import read_pattern
from hasty_reel.pictures.writing import write_picture


def grey(value: float) -> np.ndarray:
    return np.full((2, 2, 3), value, np.float32)


def test_srgb_view_gives_the_published_codes():
    """IEC 61966-2-1:1999; OpenColorIO works in float32 (allow 3e-5)."""
    for light, code in ((0.001, 0.01292), (0.01, 0.099852823), (0.18, 0.46135613), (0.5, 0.73535698), (1.0, 1.0)):
        assert through_view(grey(light))[0, 0, 0] == pytest.approx(code, abs=3e-5)
    assert srgb_decode(np.array([0.1, 0.5])) == pytest.approx([0.0100228256, 0.21404114], abs=1e-8)
    assert abs(int(codes8(grey(0.18))[0, 0, 0]) - 118) <= 1
    assert as_codes16(grey(1.0)).max() == 65535


def test_lightness_is_cie_1976():
    """CIE 15:2004, Y/Yn in 0..1."""
    y = np.array([0.0, 0.005, 0.0088564517, 0.01, 0.18, 0.18418652, 0.5, 1.0])
    expected = [0, 4.5164815, 8, 8.9914424, 49.496108, 50, 76.069261, 100]
    assert lightness(y) == pytest.approx(expected, abs=1e-5)


def test_luminance_weights_are_those_of_rec_709():
    """ITU-R BT.709-6."""
    assert luminance(np.eye(3, dtype=np.float32)).tolist() == pytest.approx([0.2126, 0.7152, 0.0722])
    assert seen_luminance(grey(2.0)).max() == 1.0


def test_a_named_view_is_applied_and_an_unknown_one_told():
    tone_mapped = next(v for v in views() if "SDR" in v)
    assert seen_luminance(grey(0.18), tone_mapped)[0, 0] < 0.18
    with pytest.raises(WrongInput, match="No view 'Sepia'"):
        through_view(grey(0.5), "Sepia")


def test_a_picture_keeps_channels_and_attributes(tmp_path):
    rng = np.random.RandomState(0)
    guides = {n: rng.rand(20, 30).astype(np.float32) for n in ("albedo.R", "Z", "motion.X", "samples")}
    picture = Picture(rng.rand(20, 30, 3).astype(np.float32), guides, {"hr:seconds": 1.25, "hr:samples": 16, "hr:seed": "7"})
    path = tmp_path / "new" / "a.exr"
    write_picture(path, picture)
    back = read_picture(path)
    assert back.rgb == pytest.approx(picture.rgb, abs=5e-4)
    assert np.array_equal(back.guides["Z"], guides["Z"])
    assert back.attributes["hr:seconds"] == 1.25 and back.attributes["hr:samples"] == 16 and back.attributes["hr:seed"] == "7"
    assert read_header(path, whole=True).width == 30
    assert [p.name for p in path.parent.iterdir()] == ["a.exr"]


def test_very_bright_light_does_not_turn_infinite(tmp_path):
    write_picture(tmp_path / "a.exr", Picture(grey(1e9)))
    assert np.isfinite(read_picture(tmp_path / "a.exr").rgb).all()


def test_missing_cut_short_and_foreign_files_are_told(tmp_path):
    path = tmp_path / "a.exr"
    write_picture(path, Picture(np.random.RandomState(0).rand(64, 64, 3).astype(np.float32)))
    raw = path.read_bytes()
    short, foreign, empty = tmp_path / "s.exr", tmp_path / "f.exr", tmp_path / "e.exr"
    short.write_bytes(raw[: len(raw) // 2])
    foreign.write_text("not a picture")
    empty.touch()
    for bad, words in ((short, "broken"), (foreign, "not a picture"), (empty, "empty"), (tmp_path / "none.exr", "No such file")):
        with pytest.raises(PictureError, match=words):
            read_picture(bad)
    with pytest.raises(PictureError, match="cut short"):
        read_header(short, whole=True)


def test_a_folder_that_takes_no_files_is_told(tmp_path):
    blocker = tmp_path / "file"
    blocker.touch()
    with pytest.raises(PictureError, match="Cannot write"):
        write_picture(blocker / "a.exr", Picture(grey(0.5)))


@given(st.binary(min_size=4, max_size=400))
@settings(max_examples=40)
def test_hostile_bytes_never_crash_the_reader(tmp_path_factory, raw):
    path = tmp_path_factory.mktemp("p") / "x.exr"
    path.write_bytes(b"\x76\x2f\x31\x01" + raw)
    with pytest.raises(PictureError):
        read_picture(path)


def test_patterns_name_frames_and_find_them(tmp_path):
    pattern = read_pattern(str(tmp_path / "sh010.####.exr"))
    for frame in (1001, 1003, 999):
        pattern.path(frame).touch()
    (tmp_path / "sh010.1002.exr.part").touch()
    assert pattern.path(7).name == "sh010.0007.exr"
    assert pattern.frames() == [999, 1001, 1003]
    assert read_pattern("a/b.%05d.png").path(3).name == "b.00003.png"
    assert read_pattern(str(tmp_path / "none" / "x.##.exr")).frames() == []
    with pytest.raises(WrongInput, match="no place for the frame number"):
        read_pattern("still.exr")


def test_resizing_keeps_flat_light_and_detail():
    flat = np.full((40, 60, 3), 0.3, np.float32)
    assert resize(flat, 90, 60) == pytest.approx(0.3, abs=1e-5)
    picture = np.repeat((camera()[::2, ::2] / 255.0).astype(np.float32)[..., None], 3, axis=-1)
    back = resize(resize(picture, 512, 512), 256, 256)
    assert np.sqrt(np.mean((back - picture) ** 2)) < 0.02
    assert resize(picture, 256, 256) is picture


def test_a_bright_point_does_not_ring_below_black():
    dot = np.zeros((33, 33, 3), np.float32)
    dot[16, 16] = 1000.0
    assert resize(dot, 66, 66).min() >= 0.0


def test_a_lamp_before_a_grey_wall_gets_no_dark_ring():
    lamp = np.full((40, 40, 3), 0.2, np.float32)
    lamp[15:25, 15:25] = 6.0
    for size in (80, 60, 30):
        assert resize(lamp, size, size).min() >= 0.2 - 1e-6


@pytest.mark.parametrize("scale", [0.5, 0.75, 1.25, 2.0])
def test_resizing_makes_noise_seen_less_only_where_it_shrinks(scale):
    """Seeded white noise through OpenImageIO's Lanczos, seen: 1/scale of it where pixels are taken together; enlarged, it is
    seen as the coarser grain that it is."""
    n, density = 256, 28.0
    noise = np.random.RandomState(1).normal(0.5, 0.05, (round(n * scale), round(n * scale), 3)).astype(np.float32)
    left = resize(noise, n, n)[..., 0]
    expected = 0.05 * grain_weight(density * min(1.0, scale), 24.0) / max(1.0, scale)
    assert seen_white(left - left.mean(), density, 24.0) == pytest.approx(expected, rel=0.03)
