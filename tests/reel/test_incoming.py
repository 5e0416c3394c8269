"""Shots from OpenTimelineIO and CSV, and back out to both."""

from __future__ import annotations

from fractions import Fraction

import msgspec
import opentimelineio as otio
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from opentimelineio.opentime import RationalTime, TimeRange
from reels import reels

from hasty_reel.demo.make import demo_reel as made_reel
from hasty_reel.errors import HastyReelError, WrongInput
from hasty_reel.reel.edits import brought_in
from hasty_reel.reel.incoming import read_shots
from hasty_reel.reel.shottable import table_text, write_table
from hasty_reel.reel.timeline import timeline_of, write_timeline


def written(tmp_path, form: str, reel):
    path = tmp_path / f"a.{form}"
    (write_timeline if form == "otio" else write_table)(path, reel, {reel.shots[0].id: 12.5})
    return path


@pytest.mark.parametrize("form", ["otio", "csv"])
@given(reel=reels())
@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_shots_written_and_read_again_are_equal(tmp_path_factory, form, reel):
    path = written(tmp_path_factory.mktemp("x"), form, reel)
    assert tuple(read_shots(path, reel)) == reel.shots


def test_the_library_reads_what_is_written(tmp_path):
    """OpenTimelineIO reads it back equal, and sees frames, handles and place as we do."""
    reel = made_reel()
    path = written(tmp_path, "otio", reel)
    timeline = otio.adapters.read_from_file(str(path))
    assert timeline.is_equivalent_to(timeline_of(reel, {"sh010": 12.5}))
    clips = list(timeline.find_clips())
    assert [c.name for c in clips] == [s.name for s in reel.shots]
    fog = clips[3]
    assert fog.source_range == TimeRange(RationalTime(1005, 24), RationalTime(76, 24))
    assert fog.media_reference.available_range == TimeRange(RationalTime(1001, 24), RationalTime(84, 24))
    assert fog.range_in_parent().start_time.to_frames() == reel.places["sh040"] == 240
    assert timeline.duration().to_frames() == reel.length
    assert clips[0].metadata["hasty_reel"]["planned_seconds"] == 12.5


def foreign(rate: float = 24.0) -> otio.schema.Timeline:
    timeline = otio.schema.Timeline("cut")
    track = otio.schema.Track("V1", kind=otio.schema.TrackKind.Video)
    timeline.tracks.append(track)
    timeline.tracks.append(otio.schema.Track("A1", kind=otio.schema.TrackKind.Audio))
    for name, first, length in (("Bay, wide", 1001, 48), ("Lamp/close", 1009, 24), ("", 0, 12)):
        clip = otio.schema.Clip(name, source_range=TimeRange(RationalTime(first, rate), RationalTime(length, rate)))
        track.append(clip)
        track.append(otio.schema.Gap(source_range=TimeRange(RationalTime(0, rate), RationalTime(10, rate))))
    timeline.tracks[1].append(otio.schema.Clip("sound", source_range=TimeRange(RationalTime(0, rate), RationalTime(99, rate))))
    return timeline


def test_a_timeline_from_elsewhere_gives_its_clips(tmp_path):
    path = tmp_path / "cut.otio"
    otio.adapters.write_to_file(foreign(), str(path))
    reel = made_reel()
    shots = read_shots(path, reel, "bay_fog")
    assert [(s.name, s.first, s.last) for s in shots] == [("Bay, wide", 1001, 1048), ("Lamp/close", 1009, 1032), ("Clip 3", 0, 11)]
    assert [s.id for s in shots] == ["Bay_wide", "Lamp_close", "sh030"]
    grown = brought_in(reel, shots)
    assert [s.id for s in grown.shots][-3:] == ["Bay_wide", "Lamp_close", "sh030b"], "an id that is taken gets a letter"
    assert grown.shots[-1].scene == "bay_fog" and grown.shots[-1].recipe == "Final"
    again = brought_in(grown, shots)
    assert len({s.id for s in again.shots}) == len(again.shots)


def test_clips_counted_at_another_rate_keep_their_time(tmp_path):
    path = tmp_path / "cut.otio"
    otio.adapters.write_to_file(foreign(48.0), str(path))
    assert [s.length for s in read_shots(path, made_reel())] == [24, 12, 6]


def test_a_clip_of_ours_cut_elsewhere_is_a_range_from_then_on(tmp_path):
    timeline = timeline_of(made_reel())
    dial = list(timeline.find_clips())[4]
    dial.source_range = TimeRange(RationalTime(1001, 24), RationalTime(48, 24))
    path = tmp_path / "cut.otio"
    otio.adapters.write_to_file(timeline, str(path))
    shot = read_shots(path, made_reel())[4]
    assert shot.length == 48 and shot.move is None and shot.note == "Plays as a loop beside the showcase."


def test_a_plain_table_does(tmp_path):
    path = tmp_path / "shots.csv"
    path.write_text("\ufeffName, First,Frames,Director\nBay,1001,48,nobody\nLamp,1001,24,\n")
    shots = read_shots(path, made_reel())
    assert [(s.id, s.name, s.first, s.last, s.scene) for s in shots] == [
        ("Bay", "Bay", 1001, 1048, "lamp_wakes"),
        ("Lamp", "Lamp", 1001, 1024, "lamp_wakes"),
    ]
    text = table_text(made_reel(), {"sh010": 3600.0})
    assert "film_timecode,planned_seconds" in text and ",00:00:10:00," in text and "3600.000" in text


@pytest.mark.parametrize(
    "text, words",
    [
        ("", "line 1: no column 'name'"),
        ("name,first\nA,1001\n", "neither a column 'last' nor 'frames'"),
        ("name,first,last\n", "no rows"),
        ("name,first,last\nA,soon,1002\n", "line 2: first is 'soon'; expected a whole number"),
        ("name,first,last\nA,,1002\n", "line 2: first is empty"),
        ("name,first,last\nA,1001,\n", "line 2: neither last nor frames"),
        ("name,first,last,enabled\nA,1001,1002,maybe\n", "line 2: enabled is 'maybe'; expected yes or no"),
        ("name,first,last,move\nA,1001,1002,{spin}\n", "line 2: move: JSON is malformed"),
        ('name,first,last,layers\nA,1001,1002,"[{""id"": 7}]"\n', "line 2: layers: Expected `str`, got `int`"),
    ],
)
def test_tables_that_do_not_do_are_told_with_their_line(tmp_path, text, words):
    path = tmp_path / "bad.csv"
    path.write_text(text)
    with pytest.raises(WrongInput) as error:
        read_shots(path, made_reel())
    assert words in str(error.value) and str(path) in str(error.value) and "\n" not in str(error.value)


def test_a_table_that_contradicts_itself_is_refused_when_it_is_brought_in(tmp_path):
    path = tmp_path / "bad.csv"
    path.write_text("name,first,last\nA,1010,1001\n")
    with pytest.raises(WrongInput, match=r"last: 1001; expected the first frame 1010 or a later one"):
        brought_in(made_reel(), read_shots(path, made_reel()))


@pytest.mark.parametrize(
    "raw, words",
    [
        (b"", "not an OpenTimelineIO file"),
        (b"{", "not an OpenTimelineIO file"),
        (b"\xff\xfe", "not an OpenTimelineIO file"),
        (b'{"a": 1}', "holds no timeline"),
        (b"[" * 200_000, "nested too deep"),
        (b'{"OTIO_SCHEMA":"Timeline.1","metadata":' + b'{"a":' * 100_000, "nested too deep"),
        (b'{"OTIO_SCHEMA":"Timeline.999","name":"x"}', "not an OpenTimelineIO file"),
        (b'{"OTIO_SCHEMA":"Timeline.1","name":"x","tracks":{"OTIO_SCHEMA":"Stack.1","children":[]}}', "no clip in a video track"),
    ],
)
def test_hostile_timelines_are_one_sentence(tmp_path, raw, words):
    path = tmp_path / "bad.otio"
    path.write_bytes(raw)
    with pytest.raises(WrongInput) as error:
        read_shots(path, made_reel())
    assert words in str(error.value) and str(path) in str(error.value) and "\n" not in str(error.value)


@pytest.mark.parametrize("length, first", [(0, 1001), (-5, 1001), (5, -40), (1e12, 0)])
def test_clips_out_of_bounds_are_told_with_their_place(tmp_path, length, first):
    timeline = foreign()
    next(iter(timeline.find_clips())).source_range = TimeRange(RationalTime(first, 24), RationalTime(length, 24))
    path = tmp_path / "cut.otio"
    otio.adapters.write_to_file(timeline, str(path))
    with pytest.raises(WrongInput, match="track 'V1', clip 1 'Bay, wide'"):
        read_shots(path, made_reel())


def test_metadata_that_only_look_like_ours_are_told(tmp_path):
    timeline = foreign()
    list(timeline.find_clips())[1].metadata["hasty_reel"] = {"shot": {"id": 5}}
    path = tmp_path / "cut.otio"
    otio.adapters.write_to_file(timeline, str(path))
    with pytest.raises(WrongInput, match="clip 2 'Lamp/close': its 'hasty_reel' metadata do not hold a shot"):
        read_shots(path, made_reel())


@given(
    st.sampled_from([".otio", ".csv"]),
    st.binary(max_size=400) | st.text(max_size=300).map(lambda t: ("name,first,last\n" + t).encode("utf-8", "replace")),
)
@settings(max_examples=80)
def test_rubbish_is_refused_or_read_but_never_a_crash(tmp_path_factory, ending, raw):
    path = tmp_path_factory.mktemp("r") / f"x{ending}"
    path.write_bytes(raw)
    reel = made_reel()
    try:
        brought_in(reel, read_shots(path, reel))
    except HastyReelError as error:
        assert "\n" not in str(error)


def test_other_endings_and_missing_files_are_told(tmp_path):
    with pytest.raises(WrongInput, match=r"expected a file ending in .otio or .csv"):
        read_shots(tmp_path / "a.xyz", made_reel())
    for ending in (".otio", ".csv"):
        with pytest.raises(WrongInput, match="No such file"):
            read_shots(tmp_path / f"none{ending}", made_reel())


def test_a_reel_at_another_rate_gives_times_of_its_own():
    reel = msgspec.structs.replace(made_reel(), rate=(30000, 1001), shots=made_reel().shots[:1])
    clip = next(iter(timeline_of(reel).find_clips()))
    assert Fraction(clip.source_range.duration.rate).limit_denominator(1001) == Fraction(30000, 1001)
