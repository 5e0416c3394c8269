"""Rates, time and timecode."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hasty_reel.errors import WrongInput
from hasty_reel.reel.rate import (
    can_drop,
    frames_in,
    labels_a_second,
    place_text,
    rate_text,
    read_rate,
    read_timecode,
    seconds_text,
    timecode,
)

NTSC = Fraction(30000, 1001)
# SMPTE ST 12-1, as OpenTimelineIO 0.18.1 writes them
DROP_2997 = {
    0: "00:00:00;00", 1799: "00:00:59;29", 1800: "00:01:00;02", 1801: "00:01:00;03", 3597: "00:01:59;29", 3598: "00:02:00;02",
    17981: "00:09:59;29", 17982: "00:10:00;00", 17983: "00:10:00;01", 19781: "00:10:59;29", 19782: "00:11:00;02",
    53946: "00:30:00;00", 107891: "00:59:59;29", 107892: "01:00:00;00", 2589407: "23:59:59;29",
}  # fmt: skip
# SMPTE ST 12-3
DROP_5994 = {
    0: "00:00:00;00", 3599: "00:00:59;59", 3600: "00:01:00;04", 3601: "00:01:00;05", 35963: "00:09:59;59", 35964: "00:10:00;00",
    215784: "01:00:00;00",
}  # fmt: skip


def test_drop_frame_timecode_is_as_published():
    for frame, text in DROP_2997.items():
        assert timecode(frame, NTSC) == text and read_timecode(text, NTSC) == frame
    for frame, text in DROP_5994.items():
        assert timecode(frame, 2 * NTSC) == text and read_timecode(text, 2 * NTSC) == frame


@pytest.mark.parametrize(
    "frame, rate, text",
    [
        (0, 24, "00:00:00:00"),
        (23, 24, "00:00:00:23"),
        (86399, 24, "00:59:59:23"),
        (90000, 25, "01:00:00:00"),
        (108000, 30, "01:00:00:00"),
        (86400, Fraction(24000, 1001), "01:00:00:00"),
    ],
)
def test_timecode_that_drops_nothing_is_plain_division(frame, rate, text):
    """SMPTE ST 12-1; at 23.976 the labels run on although 86,400 frames last 3,603.6 s."""
    assert timecode(frame, Fraction(rate)) == text
    assert read_timecode(text, Fraction(rate)) == frame


def test_an_outside_library_writes_the_same_timecode():
    """OpenTimelineIO over three hours at each rate it knows."""
    from opentimelineio.opentime import RationalTime, to_timecode

    for rate, drop in (
        (Fraction(24), False),
        (Fraction(25), False),
        (NTSC, True),
        (NTSC, False),
        (2 * NTSC, True),
        (Fraction(24000, 1001), False),
    ):
        exact = rate.numerator / rate.denominator
        for frame in range(0, 700_000, 6_997):
            assert timecode(frame, rate, drop) == to_timecode(RationalTime(frame, exact), exact, drop), (frame, rate)


@given(
    st.integers(0, 24 * 3600 * 23),
    st.sampled_from(["23.976", "24", "25", "29.97", "30", "48", "50", "59.94", "60", "119.88", "120"]),
    st.booleans(),
)
def test_any_frame_of_a_day_survives_its_timecode(frame, text, drop):
    rate = read_rate(text)
    assert read_timecode(timecode(frame, rate, drop), rate, drop) == frame


@pytest.mark.parametrize(
    "text, rate, words",
    [
        ("00:01:00;00", NTSC, "leaves this label out"),
        ("00:00:00:24", Fraction(24), "frames 0 to 23"),
        ("24:00:00:00", Fraction(24), "at most 23:59:59"),
        ("soon", Fraction(24), "expected hours:minutes:seconds:frames"),
        ("00:00:00:00", Fraction(25, 2), "there is none at 12.5"),
    ],
)
def test_timecode_that_is_none_is_told(text, rate, words):
    with pytest.raises(WrongInput, match=words):
        read_timecode(text, rate)


def test_rates_are_read_and_written_as_is_customary():
    """SMPTE ST 12: 23.976 stands for 24000/1001, 29.97 for 30000/1001, 59.94 for 60000/1001."""
    pairs = {
        "23.976": (24000, 1001),
        "23.98": (24000, 1001),
        "29.97": (30000, 1001),
        "59.94": (60000, 1001),
        "12.5": (25, 2),
        "24": (24, 1),
    }
    for text, (a, b) in pairs.items():
        assert read_rate(text) == Fraction(a, b)
        assert read_rate(rate_text(read_rate(text))) == read_rate(text)
    assert read_rate(" 25 fps ") == 25 and read_rate("7919/331") == Fraction(7919, 331) and rate_text(Fraction(7919, 331)) == "7919/331"
    assert rate_text(NTSC) == "29.97" and rate_text(Fraction(24)) == "24"
    assert can_drop(NTSC) and can_drop(2 * NTSC) and not can_drop(Fraction(30)) and not can_drop(Fraction(24000, 1001))
    assert labels_a_second(Fraction(24000, 1001)) == 24 and labels_a_second(Fraction(25, 2)) is None
    for text in ("0", "x", "1/0", "5000", "", "-24", "1e9", "nan"):
        with pytest.raises(WrongInput):
            read_rate(text)


def test_a_frame_is_shown_with_its_time_and_timecode():
    assert place_text(1048, 47, Fraction(24)) == "1048 · 1.958 s · 00:00:01:23"
    assert seconds_text(96, Fraction(24)) == "4 s" and seconds_text(1, Fraction(24)) == "0.042 s"
    assert timecode(30, Fraction(25, 2)) == "00:00:02.400", "a rate without timecode: hours, minutes, seconds, thousandths"


@given(st.floats(0, 10_000), st.sampled_from([24, 25, 30, 60]))
def test_frames_in_some_seconds_are_the_nearest(seconds, rate):
    assert abs(frames_in(seconds, Fraction(rate)) - seconds * rate) <= 0.5 + 1e-6
