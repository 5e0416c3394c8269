"""Links, values by path and new reels on the command line: what they say, keep and refuse."""

from __future__ import annotations

import json
from datetime import datetime

import pytest

from hasty_reel.errors import HastyReelError
from hasty_reel.farm.renderers.links import LINKS
from hasty_reel.reel.edits import with_value
from hasty_reel.reel.file import read_reel
from second_link import SECOND

ADD = ("link", "add", "Mine", "--seconds", "total=took ([0-9.]+)", "--", *SECOND.command)


def test_a_link_is_kept_chosen_listed_shown_and_taken_out(call):
    status, out, _ = call(*ADD)
    assert status == 0 and "Mine: kept and chosen" in out and "not used  {floor} {stop} {cap}" in out and "not told  {bounces_matte}" in out
    kept = LINKS.read()
    assert kept.current.command == SECOND.command and kept.current.seconds == {"total": "took ([0-9.]+)"}
    assert call("link", "choose", "Bench renderer")[0] == 0 and LINKS.read().current.name == "Bench renderer"
    status, out, _ = call("link", "list")
    assert status == 0 and "* Bench renderer" in out and "  Mine: " in out
    status, out, _ = call("link", "show", "Mine", "--json")
    assert json.loads(out)["command"] == list(SECOND.command)
    assert call("link", "remove", "Mine")[0] == 0 and "Mine" not in {x.name for x in LINKS.read().items}


def test_a_link_is_tried(call):
    call(*ADD)
    status, out, err = call("link", "try", "--scene", "lens", "--frame", "3")
    assert status == 0 and "'Mine' answers: 64x36" in out and "with guides" in out and "tiny frames of 'lens'" in err
    status, _, err = call("link", "try", "--scene", "attic")
    assert status == 1 and "Frame 1: the renderer ended with status 2" in err and err.count("\n") == 2


@pytest.mark.parametrize(
    "arguments, words",
    [
        (("link", "add", "Mine", "--", "prog", "{frame}"), "{output} is missing; expected the place of the picture that is written"),
        (("link", "add", "Mine", "--", "prog", "{frame}", "{output}", "{colour}"), "'{colour}'; expected one of {frame}"),
        (("link", "add", "Mine", "--seconds", "total", "--", "p", "{frame}", "{output}"), "--seconds 'total'; expected PART=PATTERN"),
        (
            ("link", "add", "Mine", "--seconds", "x=(a)", "--", "p", "{frame}", "{output}"),
            "seconds of 'x'; expected load, cache, sample, write",
        ),
        (("link", "add", "Bench renderer", "--overwrite", "--", "p", "{frame}", "{output}"), "ships with this program"),
        (("link", "choose", "Theirs"), "link 'Theirs'; expected one of"),
        (("link", "remove", "Theirs"), "link 'Theirs'; expected one of"),
    ],
)
def test_what_is_no_link_is_one_sentence(call, arguments, words):
    status, _, err = call(*arguments)
    assert status == 2 and words in err and err.count("\n") == 1


def test_a_new_reel_is_as_it_was_asked_for(call, tmp_path):
    path = tmp_path / "orrery.reel"
    status, _, _ = call(
        "begin", "--out", path, "--scene", "lens", "--size", "320x180", "--rate", "23.976", "--range", "1-40x2", "--hold", "worst 0.02",
        "--due", "2036-05-04T09:00+02:00",
    )  # fmt: skip
    reel = read_reel(path)
    shot = reel.shots[0]
    assert status == 0 and (reel.width, reel.height, reel.rate) == (320, 180, (24000, 1001))
    assert (shot.scene, shot.first, shot.last, shot.step, shot.hold.kind, shot.hold.of) == ("lens", 1, 39, 2, "noise", "worst")
    assert reel.due_time == datetime.fromisoformat("2036-05-04T09:00+02:00")


@pytest.mark.parametrize(
    "path, text, seen",
    [
        ("sh010.hold", "clean", lambda r: r.shot("sh010").hold.kind == "clean"),
        ("sh010.hold", "clean", lambda r: r.shot("sh010").hold.kind == "clean"),
        ("sh010.calm", "20 %", lambda r: r.shot("sh010").calm == 20.0),
        ("viewing", "phone", lambda r: r.viewing == "phone"),
        ("sh010.hold", "total 2 h", lambda r: r.shot("sh010").hold.value == 7200),
        ("sh010.hold", "cap 30 s", lambda r: r.shot("sh010").hold.value == 30),
        ("sh020.bounces", "4", lambda r: r.shot("sh020").departures["bounces"] == 4),
        ("sh010.range", "1001-1010", lambda r: r.shot("sh010").last == 1010),
        ("sh010.enabled", "off", lambda r: not r.shot("sh010").enabled),
        ("recipe.Final.brightness_ceiling", "none", lambda r: r.recipe("Final").brightness_ceiling is None),
        ("recipe.Final.finish_order", "resize,denoise", lambda r: r.recipe("Final").finish_order[1] == "resize"),
        ("rate", "25", lambda r: r.rate == (25, 1)),
        ("size", "480x270", lambda r: (r.width, r.height) == (480, 270)),
    ],
)
def test_values_are_set_by_path(demo_reel, path, text, seen):
    assert seen(with_value(demo_reel, path, text))


def test_a_shot_follows_its_recipe_again(demo_reel):
    reel = with_value(demo_reel, "sh020.bounces", "4")
    assert "bounces" not in with_value(reel, "sh020.bounces", "follow").shot("sh020").departures


@pytest.mark.parametrize(
    "path, text, words",
    [
        ("sh010.hold", "quiet", "hold 'quiet'; expected clean, noise 0.02"),
        ("sh010.hold", "noise 1e308", "expected a number from 1e-06 to 100 where it holds 'noise'"),
        ("sh010.hold", "noise", "hold 'noise'; expected clean"),
        ("sh010.bounces", "many", "sh010.bounces: 'many' is no number; expected a whole number from 0 to 64"),
        ("sh010.bounces", "400", "expected a whole number from 0 to 64"),
        ("sh010.colour", "red", "sh010.colour: no such field; expected hold, calm, range, name"),
        ("sh099.hold", "clean", "no shot 'sh099'; expected one of sh010"),
        ("recipe.Finale.bounces", "4", "no recipe 'Finale'"),
        ("machine.Attic.speed", "2", "machine.Attic.speed: no such machine; expected one of"),
        ("colour", "red", "'colour': expected name, size, rate, due"),
        ("due", "tomorrow", "due 'tomorrow'; expected a time such as"),
        ("sh010.range", "1,2,9", "range '1,2,9'; expected frames in a row"),
    ],
)
def test_what_cannot_be_set_is_one_sentence_and_changes_nothing(demo_reel, path, text, words):
    with pytest.raises(HastyReelError) as error:
        with_value(demo_reel, path, text)
    assert words in str(error.value)


def test_set_on_the_command_line_writes_all_or_nothing(call, demo_path):
    before = demo_path.read_bytes()
    status, _, err = call("set", demo_path, "sh010.hold=clean", "sh010.bounces=many")
    assert status == 2 and "'many' is no number" in err and demo_path.read_bytes() == before
    status, out, _ = call("set", demo_path, "sh010.hold=clean", "recipe.Final.bounces=4", "--json")
    assert status == 0 and json.loads(out)["changed"] and read_reel(demo_path).recipe("Final").bounces == 4
    assert call("set", demo_path, "sh010")[0] == 2


def test_a_film_of_a_partial_run_says_what_is_missing_and_can_leave_it_out(call, demo_path, tmp_path):
    import numpy as np

    from hasty_reel.pictures.frame import Picture
    from hasty_reel.pictures.writing import write_picture

    call("set", demo_path, "sh010.range=1001-1006")
    (tmp_path / "run" / "sh010").mkdir(parents=True)
    for frame in (1001, 1002, 1005):
        write_picture(tmp_path / "run" / "sh010" / f"sh010.{frame}.exr", Picture(np.full((18, 32, 3), 0.2, np.float32)))
    film = ("film", demo_path, "--run", tmp_path / "run", "--shot", "sh010", "--out", tmp_path / "a.mp4")
    status, _, err = call(*film)
    assert (
        status == 1 and "3 of 6 frames are missing (1003-1004,1006)" in err and "--leave-out" in err and not (tmp_path / "a.mp4").exists()
    )
    status, out, err = call(*film, "--leave-out")
    assert status == 0 and "3 frames of 1 shots" in out and "1003-1004,1006" in err and (tmp_path / "a.mp4").is_file()


def test_patterns_are_learnt_from_a_log_and_kept_with_the_link(call, tmp_path):
    log = tmp_path / "frame.log"
    log.write_text("BVH built (0.41 sec)\n57 %\ntracing paths done (14.90 sec)\n")
    assert call("link", "add", "Mine", "--", "my-renderer", "{frame}", "{output}")[0] == 0
    status, out, _ = call("link", "learn", log)
    assert status == 0 and "load      0.41 s  line 1" in out and "progress  57 %" in out and LINKS.read().current.seconds == {}
    status, out, _ = call("link", "learn", log, "Mine", "--take", "--json")
    assert status == 0 and [f["part"] for f in json.loads(out)["found"]] == ["load", "progress", "sample"]
    assert set(LINKS.read().current.seconds) == {"load", "sample"} and LINKS.read().current.progress
    log.write_text("nothing to see")
    status, _, err = call("link", "learn", log)
    assert status == 2 and "no number that may be a time" in err
    log.write_text("something 12.5 s")
    status, _, err = call("link", "learn", log, "--take")
    assert status == 2 and "nothing says which part" in err


def test_a_link_that_stays_open_is_shown_and_writes_no_job_template(call, demo_path, tmp_path):
    status, out, _ = call("link", "add", "Open one", "--stays", "--", "my-renderer", "--serve")
    assert status == 0 and "stays open" in out and "not asked yet" in out and "not told" not in out
    status, _, err = call("link", "add", "Other", "--stays", "--", "my-renderer", "{frame}")
    assert status == 2 and "expected none: what stays open is told of frames by messages" in err
    status, _, err = call("export", demo_path, "--to", "openjd", "--out", tmp_path / "job.json")
    assert status == 2 and "stays open; expected one that is started for each frame" in err
