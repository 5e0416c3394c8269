"""Timelines of strangers: whatever they hold, the answer is shots or one sentence, and the program lives."""

from __future__ import annotations

import json
import random
from fractions import Fraction

import opentimelineio as otio
import pytest

from hasty_reel.demo.make import demo_reel as made_reel
from hasty_reel.errors import WrongInput
from hasty_reel.reel.clips import clips_in
from hasty_reel.reel.timeline import need_plain_json, read_timeline, timeline_of, write_timeline


def read(path):
    return read_timeline(path, Fraction(24), "scene", "Final")


def test_a_key_that_is_there_twice_is_told(tmp_path):
    """The library ends its process on this one."""
    path = tmp_path / "a.otio"
    path.write_text('{"OTIO_SCHEMA": "Timeline.1", "name": "a", "name": "b"}')
    with pytest.raises(WrongInput, match="'name' twice in one object; expected each key once"):
        read(path)


@pytest.mark.parametrize(
    "text",
    [
        '{"OTIO_SCHEMA": "Timeline.1"}',
        '{"OTIO_SCHEMA": "Timeline.1", "tracks": null}',
        '{"OTIO_SCHEMA": "Timeline.1", "tracks": {"OTIO_SCHEMA": "Stack.1"}}',
        '{"OTIO_SCHEMA": "Timeline.1", "tracks": {"OTIO_SCHEMA": "Stack.1", "children": [{"OTIO_SCHEMA": "Track.1", "kind": "Video"}]}}',
        '{"OTIO_SCHEMA": "Clip.1"}',
        '{"OTIO_SCHEMA": "Nothing.1"}',
        '{"a": 1}',
        "[]",
        "null",
        "[" * 50_000,
        '{"a":' * 5000 + "1" + "}" * 5000,
        "",
        '{"OTIO_SCHEMA": "Timeline.999"}',
    ],
)
def test_timelines_without_their_parts_are_told_in_one_sentence(tmp_path, text):
    path = tmp_path / "a.otio"
    path.write_text(text)
    with pytest.raises(WrongInput, match=r"a\.otio: "):
        read(path)


def test_a_library_that_dies_is_one_sentence(tmp_path, monkeypatch):
    path = tmp_path / "a.otio"
    write_timeline(path, made_reel())
    monkeypatch.setattr("hasty_reel.ownprocess.sys.executable", "/bin/false")
    with pytest.raises(WrongInput, match="does not survive this file"):
        read(path)


def test_a_timeline_changed_at_random_never_brings_the_program_down(tmp_path):
    """Twenty changed files through the process of its own, two hundred through our own check."""
    raw = otio.adapters.write_to_string(timeline_of(made_reel()), "otio_json").encode()
    rng = random.Random(5)
    for k in range(200):
        changed = bytearray(raw)
        for _ in range(rng.randrange(1, 6)):
            at = rng.randrange(len(changed))
            changed[at : at + rng.randrange(0, 3)] = bytes(rng.choice(b'{}[]",:0123456789eE-.nulltrue') for _ in range(rng.randrange(0, 3)))
        path = tmp_path / "m.otio"
        path.write_bytes(bytes(changed))
        try:
            need_plain_json(bytes(changed), path)
            if k % 10 == 0:
                assert read(path)
        except WrongInput as error:
            assert str(error).startswith(str(path))


def test_a_clip_without_a_range_names_itself():
    timeline = otio.schema.Timeline("t")
    track = otio.schema.Track("V", kind="Video")
    track.append(otio.schema.Clip("bare"))
    timeline.tracks.append(track)
    found = clips_in(otio.adapters.write_to_string(timeline, "otio_json").encode())
    assert [c.name for c in found.clips] == ["bare"] and found.clips[0].fault


def test_metadata_that_are_not_ours_are_told(tmp_path):
    document = json.loads(otio.adapters.write_to_string(timeline_of(made_reel()), "otio_json"))
    for clip in document["tracks"]["children"][0]["children"]:
        clip["metadata"]["hasty_reel"] = {"shot": 5}
    path = tmp_path / "a.otio"
    path.write_text(json.dumps(document))
    with pytest.raises(WrongInput, match="its 'hasty_reel' metadata do not hold a shot"):
        read(path)
