"""Free hours: windows of the week and single ones, over changes of the clocks."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from itertools import pairwise
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st
from reels import clocks, zones

from hasty_reel.errors import WrongInput
from hasty_reel.reel.hours import (
    DAYS,
    Once,
    Weekly,
    checked_hours,
    hours_text,
    local_zone,
    read_hours,
    shifted,
    single,
    windows,
    with_edge,
    zone_of,
)

OSLO = ZoneInfo("Europe/Oslo")
NIGHTS = read_hours("weeknights 19:00-08:00, weekends")


def at(text: str, zone: ZoneInfo = OSLO) -> float:
    return datetime.fromisoformat(text).replace(tzinfo=zone).timestamp()


def hours(found) -> list[float]:
    return [(b - a) / 3600 for a, b in found]


def test_weeknights_and_weekends_make_one_long_weekend():
    week = windows(NIGHTS, "Europe/Oslo", at("2026-11-23T12:00"), at("2026-11-30T12:00"))
    assert hours(week) == [13, 13, 13, 13, 5 + 48, 8] or hours(week) == [13, 13, 13, 13, 5 + 48]
    starts = [datetime.fromtimestamp(a, OSLO).strftime("%a %H:%M") for a, _ in week]
    assert starts[:5] == ["Mon 19:00", "Tue 19:00", "Wed 19:00", "Thu 19:00", "Fri 19:00"]


def test_the_night_of_the_change_has_an_hour_more_or_less():
    """Directive 2000/84/EC: the clocks change at 01:00 UTC on the last Sundays of March and October."""
    night = (Weekly(days=("sat",), start="19:00", end="08:00"),)
    assert hours(windows(night, "Europe/Oslo", at("2026-10-24T12:00"), at("2026-10-26T12:00"))) == [14]
    assert hours(windows(night, "Europe/Oslo", at("2027-03-27T12:00"), at("2027-03-29T12:00"))) == [12]
    assert hours(windows(night, "Europe/Oslo", at("2026-11-07T12:00"), at("2026-11-09T12:00"))) == [13]
    sunday = (Weekly(days=("sun",)),)
    assert hours(windows(sunday, "Europe/Oslo", at("2026-10-24T12:00"), at("2026-10-26T12:00"))) == [25]
    assert hours(windows(sunday, "Europe/Oslo", at("2027-03-27T12:00"), at("2027-03-29T12:00"))) == [23]


def test_a_machine_keeps_its_own_clock():
    free = (Weekly(days=DAYS, start="22:00", end="06:00"),)
    begin = datetime(2026, 11, 24, tzinfo=UTC).timestamp()
    here = windows(free, "UTC", begin, begin + 86400)
    there = windows(free, "Asia/Kathmandu", begin, begin + 86400)
    assert there != here and sum(hours(there)) == 8
    assert datetime.fromtimestamp(there[1][0], ZoneInfo("Asia/Kathmandu")).strftime("%H:%M") == "22:00"


def test_none_told_means_always_and_overlaps_count_once():
    assert windows((), "UTC", 0, 100) == [(0, 100)]
    free = (*NIGHTS, Once(start="2026-11-24T10:00", end="2026-11-24T20:00"), Once(start="2026-11-24T12:00", end="2026-11-24T13:00"))
    found = windows(free, "Europe/Oslo", at("2026-11-24T09:00"), at("2026-11-25T09:00"))
    assert hours(found) == [22], "10:00 to 20:00 runs into 19:00 to 08:00"


weekly = st.builds(
    Weekly, days=st.sets(st.sampled_from(DAYS), min_size=1).map(lambda d: tuple(sorted(d, key=DAYS.index))), start=clocks, end=clocks
)


@given(st.lists(weekly, min_size=1, max_size=4), zones, st.integers(0, 400))
def test_windows_are_ordered_apart_and_where_the_clock_says(free, zone, day):
    begin = (datetime(2026, 1, 1, tzinfo=UTC) + timedelta(days=day)).timestamp()
    found = windows(free, zone, begin, begin + 9 * 86400)
    assert all(a < b for a, b in found) and all(b < c for (_, b), (c, _) in pairwise(found))
    place = ZoneInfo(zone)
    for moment in range(0, 9 * 86400, 7211):
        t = begin + moment
        wall = datetime.fromtimestamp(t, place)
        clock, today, before = wall.strftime("%H:%M:%S"), DAYS[wall.weekday()], DAYS[(wall.weekday() - 1) % 7]
        inside = any(
            (today in w.days and w.start <= clock < w.end)
            if w.start < w.end
            else ((today in w.days and clock >= w.start) or (before in w.days and clock < w.end))
            for w in free
        )
        near = any(abs(t - edge) < 3 * 3600 for w in found for edge in w)  # around an edge a change of the clocks may decide
        assert inside == any(a <= t < b for a, b in found) or near


@given(st.lists(weekly, max_size=4))
def test_free_hours_survive_their_text(free):
    assert read_hours(hours_text(free)) == tuple(free)


def test_free_hours_as_they_are_written():
    assert hours_text(NIGHTS) == "weeknights 19:00-08:00, weekends"
    assert read_hours("always") == () and hours_text(()) == "always"
    assert read_hours("mon+wed 9:30-12:00") == (Weekly(days=("mon", "wed"), start="09:30", end="12:00"),)
    assert read_hours("2026-11-25T19:00/2026-11-26T08:00") == (Once(start="2026-11-25T19:00", end="2026-11-26T08:00"),)


@pytest.mark.parametrize(
    "text", ["someday", "mon 25:00-26:00", "mon 9-10", "2026-11-25/yesterday", "2026-11-26T08:00/2026-11-25T19:00", "mon+xyz 09:00-10:00"]
)
def test_free_hours_that_make_no_sense_are_told(text):
    with pytest.raises(WrongInput, match=r"[Ff]ree hours|expected"):
        read_hours(text)


def test_time_zones_are_names_of_the_tz_database():
    assert zone_of("Europe/Oslo").key == "Europe/Oslo"
    assert zone_of(local_zone())
    for name in ("Mars/Olympus", "../../etc/passwd", "", "x" * 99):
        with pytest.raises(WrongInput, match="tz database"):
            zone_of(name)
    with pytest.raises(WrongInput):
        checked_hours(Weekly(days=(), start="08:00", end="09:00"), "x")


def test_a_dragged_window_of_the_week_moves_on_all_its_days():
    night = Weekly(days=("mon", "fri"), start="19:00", end="08:00")
    assert with_edge(night, "UTC", "end", at("2026-11-25T09:15", ZoneInfo("UTC"))).end == "09:15"
    assert with_edge(night, "UTC", "end", at("2026-11-25T00:00", ZoneInfo("UTC"))).end == "24:00"
    later = shifted(night, "UTC", 6 * 3600)
    assert later == Weekly(days=("tue", "sat"), start="01:00", end="14:00"), "past midnight it begins a day later"
    assert shifted(later, "UTC", -6 * 3600) == night
    with pytest.raises(WrongInput, match="expected a window that lasts"):
        with_edge(night, "UTC", "start", at("2026-11-25T08:00", ZoneInfo("UTC")))


@given(weekly, st.integers(-96, 96))
def test_dragging_there_and_back_changes_nothing(window, quarters):
    there = shifted(window, "UTC", quarters * 900)
    plain = Weekly(days=window.days, start=window.start, end="24:00" if window.end == "00:00" else window.end)
    assert shifted(there, "UTC", -quarters * 900) == plain


def test_a_single_window_is_told_in_the_zone_of_its_machine():
    window = single(at("2026-11-25T20:00"), at("2026-11-25T10:00"), "Europe/Oslo")
    assert window == Once(start="2026-11-25T10:00+01:00", end="2026-11-25T20:00+01:00")
    moved = shifted(window, "Europe/Oslo", 3600)
    assert moved.start == "2026-11-25T11:00+01:00"
