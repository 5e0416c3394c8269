"""Documents of every kind, for hypothesis: anything the reel can say."""

from __future__ import annotations

from hypothesis import strategies as st

from hasty_reel.errors import HastyReelError
from hasty_reel.reel.checked import checked_reel
from hasty_reel.reel.document import Reel
from hasty_reel.reel.hours import DAYS, Once, Weekly
from hasty_reel.reel.machine import Machine
from hasty_reel.reel.moves import Loop, Turntable, Viewpoint, Viewpoints
from hasty_reel.reel.shot import Hold, Layer, Shot
from hasty_reel.reel.size import Panorama
from hasty_reel.settings.recipe import Recipe

names = st.text(st.characters(categories=["L", "N", "P", "S"]), min_size=1, max_size=20)
ids = st.from_regex(r"[A-Za-z0-9][A-Za-z0-9_-]{0,10}", fullmatch=True)
rates = st.sampled_from([(24, 1), (25, 1), (30, 1), (24000, 1001), (30000, 1001), (60000, 1001), (25, 2), (48, 1), (7919, 331)])
clocks = st.builds("{:02d}:{:02d}".format, st.integers(0, 23), st.integers(0, 59))
recipes = st.builds(
    Recipe,
    name=names,
    samples_floor=st.integers(1, 64),
    samples_ceiling=st.integers(64, 4096),
    bounces=st.integers(0, 64),
    brightness_ceiling=st.none() | st.floats(0.01, 1000),
    shutter_angle=st.floats(0, 360),
    shutter_steps=st.integers(0, 64),
    fog_step=st.floats(1, 10000),
    render_scale=st.floats(10, 200),
    denoise_window=st.sampled_from([1, 3, 5, 7]),
)
seconds = st.floats(0.5, 20)
moves = st.one_of(
    st.none(),
    st.builds(Loop, seconds=seconds),
    st.builds(
        Turntable,
        start=st.floats(-720, 0),
        end=st.floats(1, 720),
        seconds=seconds,
        direction=st.sampled_from(["clockwise", "anticlockwise"]),
        loop=st.booleans(),
    ),
    st.builds(
        Viewpoints,
        views=st.lists(st.builds(Viewpoint, name=names, hold=seconds, move=seconds), min_size=2, max_size=4).map(tuple),
        loop=st.booleans(),
    ),
)
free = st.lists(
    st.builds(
        Weekly, days=st.sets(st.sampled_from(DAYS), min_size=1).map(lambda d: tuple(sorted(d, key=DAYS.index))), start=clocks, end=clocks
    )
    | st.just(Once(start="2026-11-25T19:00", end="2026-11-26T08:00+00:00".removesuffix("+00:00"))),
    max_size=3,
).map(tuple)
zones = st.sampled_from(["UTC", "Europe/Oslo", "America/New_York", "Asia/Kathmandu", "Pacific/Chatham"])
machines = st.builds(
    Machine,
    name=names,
    speed=st.floats(0.01, 100),
    workers=st.integers(1, 64),
    zone=zones,
    free=free,
    price_per_hour=st.floats(0, 1000),
)
holds = st.builds(Hold, kind=st.sampled_from(["noise", "total", "cap"]), value=st.floats(0.01, 100.0))


@st.composite
def shots(draw: st.DrawFn, rate: tuple[int, int], recipe_names: list[str], shot_id: str) -> Shot:
    """A shot of a reel with these recipes, at this rate."""
    from fractions import Fraction

    move = draw(moves)
    handle = draw(st.integers(0, 8))
    first = draw(st.integers(handle, 5000))
    length = move.count(Fraction(*rate)) if move is not None else draw(st.integers(1, 300))
    length = max(1, length)
    frame = st.integers(first, first + length - 1)
    layers = draw(
        st.lists(
            st.builds(Layer, id=ids, scene=names, recipe=st.none() | st.sampled_from(recipe_names), held=st.none() | frame), max_size=2
        )
    )
    layers = list({y.id: y for y in layers}.values())
    return Shot(
        id=shot_id,
        name=draw(names),
        scene=draw(names),
        recipe=draw(st.sampled_from(recipe_names)),
        first=first,
        last=first + length - 1,
        step=draw(st.integers(1, 4)),
        offset=draw(st.integers(-2000, 2000)),
        handle_in=handle,
        handle_out=draw(st.integers(0, 8)),
        move=move,
        enabled=draw(st.booleans()),
        note=draw(st.text(st.characters(exclude_categories=["Cs"]), max_size=40)),
        departures=draw(st.just({}) | st.just({"bounces": 2}) | st.just({"brightness_ceiling": None, "shutter_angle": 90.0})),
        hold=draw(holds),
        pins=draw(st.just({}) | st.just({first - handle: 8})),
        caches=draw(st.just(()) | st.just((first - handle,))),
        evidence=draw(st.just("") | ids),
        layers=tuple(layers),
    )


@st.composite
def reels(draw: st.DrawFn) -> Reel:
    """A reel that does not contradict itself, with anything in it that a reel can have."""
    rate = draw(rates)
    found = {r.name: r for r in draw(st.lists(recipes, min_size=1, max_size=3))}
    lanes = {m.name: m for m in draw(st.lists(machines, min_size=1, max_size=3))}
    shot_ids = draw(st.lists(ids, min_size=1, max_size=4, unique=True))
    reel = Reel(
        name=draw(names),
        rate=rate,
        timecode_start=draw(st.sampled_from(["00:00:00:00", "01:00:00:00", "09:59:59:12"]))
        if rate not in ((25, 2), (7919, 331))
        else "00:00:00:00",
        drop_frame=draw(st.booleans()),
        width=draw(st.integers(16, 8192)),
        height=draw(st.integers(16, 8192)),
        pixel_aspect=draw(st.sampled_from([(1, 1), (2, 1), (64, 45)])),
        camera_aspect=draw(st.none() | st.just((16, 9))),
        panorama=draw(st.none() | st.builds(Panorama, width=st.floats(1, 360), height=st.floats(1, 180))),
        due=draw(st.sampled_from(["2026-11-25T09:00:00+00:00", "2027-03-28T02:30:00+02:00", "2030-01-01T00:00:00-05:00"])),
        shots=tuple(draw(shots(rate, list(found), i)) for i in shot_ids),
        recipes=tuple(found.values()),
        machines=tuple(lanes.values()),
    )
    try:
        return checked_reel(reel)
    except HastyReelError as error:
        raise AssertionError(f"the strategy made a reel that is refused: {error}") from error
