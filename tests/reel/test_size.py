"""Delivered sizes."""

from __future__ import annotations

from fractions import Fraction

import msgspec
import pytest

from hasty_reel.demo.make import demo_reel as made_reel
from hasty_reel.errors import WrongInput
from hasty_reel.reel.edits import keeping_aspect, swapped, with_fields, with_size
from hasty_reel.reel.size import PRESETS, Panorama, kept_aspect, preset_name, read_aspect, read_size


def test_presets_have_the_published_pixels():
    """SMPTE ST 274 and ST 296 (HD), ST 2036-1 (UHD), DCI Digital Cinema System Specification 1.4 (2K, 4K)."""
    known = dict((name, (w, h)) for name, w, h in PRESETS)
    assert known["HD"] == (1920, 1080) and known["HD 720"] == (1280, 720) and known["UHD"] == (3840, 2160)
    assert known["DCI 2K flat"] == (1998, 1080) and known["DCI 2K scope"] == (2048, 858)
    assert known["DCI 4K flat"] == (3996, 2160) and known["DCI 4K scope"] == (4096, 1716)
    assert pytest.approx(1.85, rel=1e-3) == 1998 / 1080 and pytest.approx(2.39, rel=2e-3) == 2048 / 858
    assert preset_name(3840, 2160) == "UHD" and preset_name(960, 540) == ""
    assert read_size("uhd") == (3840, 2160) and read_size("1920 × 1080") == (1920, 1080)


def test_the_forward_part_of_an_all_round_picture():
    """Common practice, no source: 90 x 90 degrees of 360 x 180 are 12.5 % of the pixels."""
    assert Panorama(width=90, height=90).share == 0.125
    reel = msgspec.structs.replace(made_reel(), width=4096, height=2048, camera_aspect=None, panorama=Panorama(width=90, height=90))
    w, h = reel.picture_size
    assert w * h / (4096 * 2048) == 0.125


def test_one_side_set_keeps_what_the_camera_sees():
    reel = with_size(made_reel(), 1280, None)
    assert (reel.width, reel.height) == (1280, 720)
    assert (with_size(reel, None, 1080).width, reel.camera_aspect) == (1920, (16, 9))
    upright = swapped(reel)
    assert (upright.width, upright.height) == (720, 1280) and with_size(upright, 1080, None).height == 1920
    free = keeping_aspect(reel, False)
    assert with_size(free, 2048, None).height == 720
    wide = with_size(reel, 2048, 858)
    assert with_size(wide, 4096, None).height == 1716, "a size of another shape is what the camera sees from then on"


def test_pixels_that_are_not_square_count():
    """ITU-R BT.601 with 64/45 pixels: 720 x 576 shows 16:9."""
    assert kept_aspect(720, None, Fraction(16, 9), Fraction(64, 45)) == (720, 576)
    assert read_aspect("64/45") == Fraction(64, 45) and read_aspect("2") == 2 and read_aspect("1,5") == Fraction(3, 2)


@pytest.mark.parametrize("text", ["0x0", "99999x100", "huge", "", "12x", "1920x1080x3"])
def test_sizes_out_of_bounds_are_refused(text):
    with pytest.raises(WrongInput):
        read_size(text)


@pytest.mark.parametrize("text", ["0", "9", "x", "1/0", "-1", "1" * 40])
def test_pixel_aspects_out_of_bounds_are_refused(text):
    with pytest.raises(WrongInput, match="Pixel aspect"):
        read_aspect(text)


def test_a_forward_part_out_of_bounds_is_refused():
    with pytest.raises(WrongInput, match=r"panorama.width: 400"):
        with_fields(made_reel(), panorama=Panorama(width=400))
