"""The reel as a document: what it takes, what it refuses, saving, undo."""

from __future__ import annotations

import json
import os
from pathlib import Path

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from reels import reels

from hasty_reel.demo.make import demo_reel as made_reel
from hasty_reel.errors import HastyReelError, ReelError, WrongInput
from hasty_reel.reel.checked import checked_reel
from hasty_reel.reel.document import Reel
from hasty_reel.reel.file import read_reel, reel_text, save_reel
from hasty_reel.reel.frames import proof_frames_text, read_frames, read_proof_frames, write_frames
from hasty_reel.reel.history import History
from hasty_reel.settings.recipe import Recipe, differences


def test_frame_sets_are_read_and_written():
    assert read_frames("1001-1004, 1010,1020-1030x5") == (1001, 1002, 1003, 1004, 1010, 1020, 1025, 1030)
    assert write_frames((1001, 1002, 1003, 1010)) == "1001-1003,1010"
    assert read_frames("-3--1") == (-3, -2, -1)


def test_single_frames_of_a_proof_may_lie_between_two():
    assert read_proof_frames("1001.5, 1001-1003,1002.25") == (1001, 1001.5, 1002, 1002.25, 1003)
    assert proof_frames_text((1001, 1002, 1001.5)) == "1001-1002,1001.5"
    assert read_proof_frames("1001.0,1001") == (1001,)
    with pytest.raises(WrongInput):
        read_proof_frames("1001.5-1003.5")


@given(st.sets(st.integers(0, 5000), min_size=1, max_size=60))
def test_any_frame_set_survives_writing_and_reading(frames):
    assert set(read_frames(write_frames(frames))) == frames


@pytest.mark.parametrize(
    "text, words",
    [
        ("1010-1001", "runs backwards"),
        ("1001-1010x0", "the step"),
        ("abc", "is not a frame"),
        ("", "is not a frame"),
        ("1-99999999", "more than 1,000,000"),
        ("1001-1010:3", "is not a frame"),
        ("5,5," + "7" * 36, "is not a frame"),
        ("١٠٠١", "is not a frame"),
    ],
)
def test_frame_sets_that_make_no_sense_are_told(text, words):
    with pytest.raises(WrongInput, match=words):
        read_frames(text)


def test_the_demo_reel_that_ships_is_the_one_that_is_made(demo_reel):
    assert msgspec.structs.replace(demo_reel, due="") == msgspec.structs.replace(made_reel(), due="")


@given(reels())
def test_any_reel_survives_saving_and_reading_byte_for_byte(tmp_path_factory, reel):
    path = tmp_path_factory.mktemp("r") / "a.reel"
    save_reel(path, reel)
    first = path.read_bytes()
    save_reel(path, read_reel(path))
    assert path.read_bytes() == first
    assert read_reel(path) == reel


def broken(change) -> str:
    document = json.loads(reel_text(made_reel()))
    change(document)
    return json.dumps(document)


@pytest.mark.parametrize(
    "change, words",
    [
        (lambda d: d.update(colour="red"), "unknown field `colour`"),
        (lambda d: d["shots"][1].update(first="soon"), "$.shots[1].first"),
        (lambda d: d["shots"][0].update(last=900), "$.shots[0].last: 900; expected the first frame 1001"),
        (lambda d: d.update(machines=[]), "$.machines: empty; expected at least one machine"),
        (lambda d: d["machines"][0].update(workers=0), "$.machines[0].workers: 0; expected 1 to 1024"),
        (lambda d: d["shots"][0].update(recipe="Best"), "$.shots[0].recipe: 'Best'; expected a recipe of this reel"),
        (lambda d: d["recipes"][0].update(denoise_window=4), "window is 4; expected an odd whole number from 1 to 11"),
        (lambda d: d["recipes"][0].update(samples_floor=3000), "ceiling 2048 lies below the floor 3000"),
        (lambda d: d.update(due="tomorrow"), "$.due: 'tomorrow'; expected a time with its zone"),
        (lambda d: d.update(due="2026-11-25T09:00:00"), "expected a time with its zone"),
        (lambda d: d.update(proofs="../../etc"), "expected a folder beside the reel file"),
        (lambda d: d.update(rate=[0, 1]), "$.rate"),
        (lambda d: d["shots"][0].update(id="a/b"), "$.shots[0].id"),
        (lambda d: d["shots"][0].update(departures={"magic": 1}), "$.shots[0].departures: 'magic'"),
        (lambda d: d["shots"][0]["hold"].update(value=-1), "$.shots[0].hold.value"),
        (lambda d: d.update(reel_format=3), "of a newer Hasty Reel; expected at most 2"),
        (lambda d: d.update(reel_format=0), "$.reel_format: 0; expected 2"),
        (lambda d: d.update(width=8), "$.width: 8; expected 16 to 16384 pixels"),
        (lambda d: d.update(timecode_start="25:00:00:00"), "$.timecode_start"),
        (lambda d: d.update(panorama={"width": 0}), "$.panorama.width: 0.0; expected 1 to 360 degrees"),
        (lambda d: d["machines"][0].update(zone="Mars"), "$.machines[0].zone: Time zone 'Mars'"),
        (lambda d: d["machines"][0]["free"][0].update(start="25:00"), "$.machines[0].free[0].start: '25:00'"),
        (lambda d: d["machines"][0]["free"][0].update(kind="monthly"), "$.machines[0].free[0]"),
        (lambda d: d["machines"][1].update(name="Harbour desk"), "$.machines: two of one name"),
        (lambda d: d["machines"][0].update(price_per_hour=-1), "$.machines[0].price_per_hour"),
        (lambda d: d["shots"][0].update(step=0), "$.shots[0].step: 0; expected 1 to 10000"),
        (lambda d: d["shots"][0].update(handle_in=2000), "$.shots[0].first: 1001; expected 2000 or more"),
        (lambda d: d["shots"][4].update(last=1100), "$.shots[4].last: 1100; expected 1096, since its move has 96 frames"),
        (lambda d: d["shots"][2]["move"]["views"].pop(), "$.shots[2].move.views: 1; expected 2 to 1000"),
        (lambda d: d["shots"][0].update(name=" "), "$.shots[0].name"),
        (
            lambda d: d["shots"][0].update(layers=[{"id": "a", "scene": "x", "held": 5}]),
            "$.shots[0].layers[0].held: 5; expected a frame of sh010",
        ),
        (lambda d: d["shots"][0].update(layers=[{"id": "a", "scene": "x", "first": 1001}]), "expected both first and last, or neither"),
        (lambda d: d["shots"][0].update(layers=[{"id": "a", "scene": "x"}] * 2), "$.shots[0].layers: two of one id"),
        (lambda d: d["shots"][0].update(layers=[{"id": "a", "scene": "x", "recipe": "Best"}]), "$.shots[0].layers[0].recipe"),
    ],
)
def test_a_reel_that_contradicts_itself_is_refused_with_the_place(tmp_path, change, words):
    path = tmp_path / "bad.reel"
    path.write_text(broken(change))
    with pytest.raises(ReelError) as error:
        read_reel(path)
    assert words in str(error.value)
    assert str(path) in str(error.value) and "\n" not in str(error.value)


@given(st.binary(max_size=300))
@settings(max_examples=60)
def test_rubbish_is_refused_without_a_crash(tmp_path_factory, raw):
    path = tmp_path_factory.mktemp("r") / "x.reel"
    path.write_bytes(raw)
    with pytest.raises(HastyReelError):
        read_reel(path)


def test_a_reel_that_cannot_be_saved_leaves_the_old_one(tmp_path, monkeypatch):
    path = tmp_path / "a.reel"
    save_reel(path, made_reel())
    before = path.read_bytes()

    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "replace", full)
    with pytest.raises(ReelError, match="No space left on device"):
        save_reel(path, msgspec.structs.replace(made_reel(), name="Other"))
    assert path.read_bytes() == before
    assert list(tmp_path.iterdir()) == [path]


def test_missing_files_are_told(tmp_path):
    with pytest.raises(ReelError, match="No such file"):
        read_reel(Path(tmp_path / "none.reel"))


def test_what_changed_is_said_in_words():
    base = Recipe(name="a")
    changed = msgspec.structs.replace(base, bounces=2, brightness_ceiling=None)
    assert differences(changed, base) == ["bounces 6 → 2", "brightness ceiling 10 → none"]


def test_an_edit_that_says_the_same_is_none():
    history = History(made_reel())
    assert not history.edit("Nothing", checked_reel(made_reel()))
    assert history.undo_name is None
    assert isinstance(history.reel, Reel)
