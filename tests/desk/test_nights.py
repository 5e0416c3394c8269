"""What the night band shows and holds, without a window."""

from __future__ import annotations

from datetime import datetime
from types import SimpleNamespace
from zoneinfo import ZoneInfo

import msgspec
import pytest

from hasty_reel.demo.make import demo_reel as made_reel
from hasty_reel.reel.hours import DAYS, Once, Weekly
from hasty_reel.reel.machine import Machine
from hasty_reel.studio.brief.nights import DAY, HEAD, HOUR, LANE, LEFT, SNAP, Band, Held, snapped

OSLO = "Europe/Oslo"
NIGHTS = Weekly(days=tuple(DAYS), start="20:00", end="06:00")


def at(text: str, zone: str = OSLO) -> float:
    return datetime.fromisoformat(text).replace(tzinfo=ZoneInfo(zone)).timestamp()


def band(begin: str = "2026-11-02T00:00", due: str = "2026-11-04T09:00+01:00", **more) -> Band:
    reel = msgspec.structs.replace(
        made_reel(), due=due, machines=(Machine(name="Desk", free=(NIGHTS,), zone=OSLO), Machine(name="Tower", zone=OSLO))
    )
    return Band(SimpleNamespace(reel=reel), at(begin), **more)  # type: ignore[arg-type]


def test_places_and_times_lead_back_to_each_other():
    one = band(width=1000.0)
    for hours in (0, 7.25, 71):
        assert one.instant_at(one.x_of(one.begin + hours * HOUR)) == pytest.approx(one.begin + hours * HOUR, abs=1e-3)
    assert one.x_of(one.begin) == LEFT and one.x_of(one.begin + one.span) == one.right


@pytest.mark.parametrize("factor, span", [(0.8, 2.4 * DAY), (0.01, 8 * HOUR), (99.0, 28 * DAY)])
def test_zooming_keeps_the_time_under_the_pointer(factor, span):
    one = band(width=1000.0)
    before = one.instant_at(600.0)
    one.zoom(600.0, factor)
    assert one.span == pytest.approx(span) and one.instant_at(600.0) == pytest.approx(before, abs=1e-3)


def test_windows_in_view_last_truly_when_the_clocks_change():
    """The night of 25 October 2026 has 25 hours in Oslo, that of 29 March 23 (IANA time zone database)."""
    for begin, hours in (("2026-10-24T12:00", 11), ("2026-03-28T12:00", 9), ("2026-11-02T12:00", 10)):
        first = band(begin).spans(0)[0]
        assert (first.end - first.begin) / HOUR == hours
    assert band().spans(1) == [], "a machine that is always free has no window to drag"


def test_what_lies_under_the_pointer():
    one = band(width=1000.0)
    evening, y = one.spans(0)[1], HEAD + LANE / 2
    for x, part in (
        (one.x_of(evening.begin) + 2, "start"),
        (one.x_of(evening.end) - 2, "end"),
        (one.x_of((evening.begin + evening.end) / 2), "body"),
        (one.x_of(evening.end + 3 * HOUR), "lane"),
        (one.x_of(one.due) + 3, "due"),
        (20.0, "name"),
    ):
        assert one.under(x, y).part == part
    assert one.under(one.x_of(evening.end), one.bottom + 20).part == "axis"
    assert one.under(20.0, one.bottom + 20).part == "none"
    assert one.under(one.x_of(evening.begin), y + LANE).part == "lane", "the other machine's lane"


def test_a_drag_ends_on_the_quarter_and_never_inside_out():
    one = band(width=1000.0)
    span = one.spans(0)[1]
    start = Held("start", 0, 0, span.begin, span.end)
    one.origin, one.to = span.begin, span.begin + 3700.0
    assert one.dragged(start) == msgspec.structs.replace(NIGHTS, start="21:00")
    one.to = span.end + 60.0
    assert one.dragged(start) is None
    one.to = span.begin + 2 * HOUR
    assert one.dragged(span) == msgspec.structs.replace(NIGHTS, start="22:00", end="08:00")
    lane = Held("lane", 0)
    one.origin, one.to = span.end + HOUR, span.end + HOUR + SNAP / 3
    assert one.dragged(lane) is None, "less than a quarter of an hour is no window"
    one.to = span.end + 4 * HOUR
    drawn = one.dragged(lane)
    assert isinstance(drawn, Once) and drawn.start.startswith("2026-11-03T07:00") and drawn.end.startswith("2026-11-03T10:00")
    assert snapped(one.to) % SNAP == 0


def test_nothing_is_dragged_until_it_moved():
    one = band()
    assert not one.dragging
    one.held = Held("due")
    assert not one.dragging
    one.to = one.origin + HOUR
    assert one.dragging
