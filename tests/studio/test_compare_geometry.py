"""Where pictures, the wipe line and the time slice lie, and pictures made ready for the display; without a window."""

from __future__ import annotations

import numpy as np
import pytest

from hasty_reel.pictures.frame import Picture
from hasty_reel.studio.compare.geometry import Sight, SliceLine, Wipe, panned, placed, zoomed
from hasty_reel.studio.look import Look, developed


def test_zooming_holds_the_place_under_the_pointer():
    area = (0.0, 0.0, 680.0, 400.0)
    at = placed(Sight(), (192, 108), area)
    assert at.scale == 3.0 and at.left == 52 and at.top == 38
    near = zoomed(Sight(), at, 2.0, 200.0, 150.0, area)
    there = placed(near, (192, 108), area)
    assert there.scale == 6.0
    assert there.to_picture(200.0, 150.0) == pytest.approx(at.to_picture(200.0, 150.0), abs=0.002)
    moved = placed(panned(near, there, 24.0, -12.0), (192, 108), area)
    assert (moved.left - there.left, moved.top - there.top) == (24, -12)
    small = placed(Sight(), (1920, 1080), area)
    assert small.scale == pytest.approx(0.342, abs=0.01) and zoomed(Sight(), small, 100.0, 0, 0, area).zoom == 32.0


def test_the_wipe_line_turns_and_snaps_and_the_slice_line_stays_inside():
    wipe = Wipe().turned(44.0)
    assert wipe.angle == 44.0 and wipe.turned(89.0).angle == 90.0 and wipe.turned(190.0).angle == -170.0
    assert Wipe().moved(1.4, -2.0) == Wipe(1.0, 0.0)
    line = SliceLine().moved(0.3, 0.9)
    assert (line.x0, line.y0, line.y1) == (0.0, 1.0, 1.0)
    upright = SliceLine(0.2, 0.5, 0.8, 0.5).turned(90.0, 16 / 9)
    assert upright.x0 == pytest.approx(0.5) and upright.x1 == pytest.approx(0.5) and upright.y1 - upright.y0 == pytest.approx(0.6 * 16 / 9)


def test_channels_exposure_and_pixels_that_are_no_numbers():
    rgb = np.full((4, 6, 3), 0.18, np.float32)
    rgb[1, 2] = np.nan
    picture = Picture(rgb, {"Z": np.full((4, 6), 3.0, np.float32), "A": np.full((4, 6), 0.5, np.float32)})
    plain = developed(picture, Look())
    assert plain.bad == 1 and abs(int(plain.codes[3, 3, 0]) - 118) <= 1 and plain.codes[1, 2].tolist() in ([0] * 3, [255] * 3)
    assert abs(int(developed(picture, Look(exposure=1.0)).codes[3, 3, 0]) - 162) <= 1  # sRGB of 0.36
    assert developed(picture, Look(channel="Alpha")).codes[0, 0, 0] == 128
    assert developed(picture, Look(channel="Depth")).codes[0, 0, 0] == 255
    assert developed(picture, Look(channel="Normal")).words == "has no normal"
    assert developed(picture, Look(view="ACES 2.0 - SDR 100 nits (Rec.709)")).codes[3, 3, 0] in (88, 89, 90)
