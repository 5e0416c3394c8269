"""The command line takes nothing for granted: odd values, empty ones and ignored options are one line and status 2."""

from __future__ import annotations

import os
import subprocess
import sys

import click
import pytest

from hasty_reel.commands import StrictGroup, run, whole_numbers
from hasty_reel.errors import LONGEST_MESSAGE, HastyReelError, WrongInput
from hasty_reel.farm.sweeps import sweep_orders
from hasty_reel.pictures.sequence import read_pattern


@pytest.fixture
def call(demo_path, tmp_path, capsys):
    """Calls the command line in this process; gives status and what was said."""
    from hasty_reel.cli.answers import main

    table = tmp_path / "frames.csv"
    table.write_text("frame,variance,seconds_per_sample,fixed_seconds\n1001,0.01,0.1,1\n")

    def call_(*words: str) -> tuple[int, str]:
        with pytest.raises(SystemExit) as left:
            main([w.format(reel=demo_path, tmp=tmp_path, table=table) for w in words])
        return int(left.value.code or 0), capsys.readouterr().err

    return call_


ODD = ["1e308", "1e400", "nan", "inf", "-1", "0", "9" * 400, "²", "1e-300", ""]
REFUSED = [
    (("run", "{reel}", "--shot", "sh010", "--frames", "", "--out", "{tmp}/o"), "--frames is empty"),
    (("run", "{reel}", "--out", ""), "--out is empty"),
    (("run", "{reel}", "--out="), "--out is empty"),
    (("estimate", ""), "is empty"),
    (("proof", "{reel}", "--shot", "sh010", "--frames", "1001", "--values", "1,2"), "--values goes with --sweep"),
    (("proof", "{reel}", "--shot", "sh010", "--frames", "1001", "--floor", "2"), "--floor goes with --cap or --stop-noise"),
    (("proof", "{reel}", "--shot", "sh010", "--frames", "1001", "--sweep", "bounces", "--values", "0,-1"), "bounces is -1; expected"),
    (("proof", "{reel}", "--shot", "sh010", "--frames", "1001", "--sweep", "samples", "--values", "1.5,2"), "1.5; expected a whole number"),
    (("budget", "{table}", "--noise", "0.1", "--goal", "total"), "--goal goes with --seconds"),
    (("finish", "x.####.exr", "--out", "y.####.png"), "expected a pattern ending in .exr"),
    (("finish", "{tmp}/x.####.exr", "--out", "{tmp}/./x.####.exr", "--overwrite"), "the frames that are read; expected another name"),
    (("finish", "x.####.exr", "--out", "y.####.exr", "--denoise", "off", "--window", "3"), "--window goes with --denoise time"),
    (("handover", "x.####.exr", "--out", "y.####.png", "--fps", "24", "--gop", "3"), "--gop goes with a film"),
    (("finish", "x.####.exr", "--out", "y.####.exr", "--size", "--1x5"), "expected 2 whole numbers"),
    (("measure", "a%9999999999d.exr"), "expected 1 to 12"),
    (("demo", "--copy-only", "--picture", "{tmp}/a.png"), "--copy-only"),
    (("begin", "--out", "{tmp}/a.reel", "--frames", "{tmp}", "--scene", "x"), "--scene goes with"),
    (("window", "{reel}", "--picture", "{tmp}/none/a.png"), "there is no folder"),
]


@pytest.mark.parametrize("words, said", REFUSED)
def test_what_cannot_be_meant_is_refused_in_one_line(call, words, said):
    status, err = call(*words)
    assert status == 2 and said in err
    assert len(err.strip().splitlines()) == 1 and len(err.strip()) <= LONGEST_MESSAGE


@pytest.mark.parametrize("value", ODD)
def test_odd_numbers_never_show_a_traceback(call, value):
    for words in (
        ("budget", "{table}", "--noise", value),
        ("budget", "{table}", "--seconds", value),
        ("budget", "{table}", "--cap", value),
        ("budget", "{table}", "--noise", "0.1", "--floor", value),
        ("budget", "{table}", "--noise", "0.1", "--ceiling", value),
        ("budget", "{table}", "--noise", "0.1", "--ratio", value),
        ("finish", "x.####.exr", "--out", "y.####.exr", "--size", f"{value}x5"),
        ("run", "{reel}", "--shot", "sh010", "--frames", value, "--out", "{tmp}/o"),
        ("limits", "--channels", value),
    ):
        status, err = call(*words)
        assert status in (0, 1, 2) and "inside Hasty Reel" not in err and "Traceback" not in err
        assert all(len(line) <= LONGEST_MESSAGE for line in err.splitlines())


@pytest.mark.parametrize("frame", ["nan", "inf", "1e300", "-inf"])
def test_the_bench_renderer_takes_only_frames_that_are_numbers(frame, tmp_path, capsys):
    from hasty_reel.bench.cli import bench

    words = ["render", "--scene", "furnace", "--frame", frame, "--size", "8x8", "--samples", "1", "--out", str(tmp_path / "a.exr")]
    assert run(bench, words, "hasty-bench") == 2 and "--frame" in capsys.readouterr().err
    assert run(bench, [*words[:4], "1", *words[5:], "--floor", "1"], "hasty-bench") == 2
    assert "--floor goes with" in capsys.readouterr().err


def test_a_fault_of_the_program_itself_is_one_line_too(capsys, monkeypatch):
    @click.group(cls=StrictGroup)
    def group() -> None:
        pass

    @group.command()
    def fall() -> None:
        raise KeyError("x" * 1000)

    assert run(group, ["fall"], "hasty") == 2
    err = capsys.readouterr().err
    assert "went wrong inside Hasty Reel (KeyError" in err and len(err.strip()) <= LONGEST_MESSAGE
    monkeypatch.setenv("HASTY_REEL_TRACE", "1")
    assert run(group, ["fall"], "hasty") == 2 and "Traceback" in capsys.readouterr().err


@pytest.mark.parametrize("text", ["1x", "x1", "--1x5", "1xx2", "²x2", "1.5x2", "99999999999x2", "1x2x3"])
def test_sizes_that_are_none_are_told(text):
    with pytest.raises(WrongInput, match="--size"):
        whole_numbers(text, 2, "x", "--size")


def test_patterns_may_lie_in_folders_of_any_name(tmp_path):
    folder = tmp_path / "a#b @ 50%04d" / "c##"
    folder.mkdir(parents=True)
    for k in (7, 8, 12):
        (folder / f"x@1.{k:04d}.exr").touch()
    (folder / "x@1.0009.exr.part").touch()
    pattern = read_pattern(f"{folder}/x@1.####.exr")
    assert pattern.frames() == [7, 8, 12] and pattern.path(9).name == "x@1.0009.exr"
    assert read_pattern(f"{folder}/x@1.%04d.exr").frames() == [7, 8, 12]
    assert read_pattern(f"{folder}/x@1.7-9####.exr").frames() == [7, 8], "a range in the pattern picks its frames"
    assert read_pattern("sh010-020####.exr").before == "sh010-020", "a name that ends like a range is none"


def test_an_unreachable_screen_is_one_sentence_and_status_two(demo_path):
    environment = {k: v for k, v in os.environ.items() if k not in ("QT_QPA_PLATFORM", "WAYLAND_DISPLAY")}
    done = subprocess.run(
        [sys.executable, "-m", "hasty_reel", str(demo_path)],
        env={**environment, "DISPLAY": ":93"},
        capture_output=True,
        text=True,
        timeout=60,
    )
    assert done.returncode == 2 and done.stderr.startswith("hasty-reel: The screen ':93' does not answer")
    assert len(done.stderr.strip().splitlines()) == 1


def test_a_picture_that_cannot_be_saved_fails(demo_path, tmp_path):
    (tmp_path / "a.png").mkdir()
    done = subprocess.run(
        [sys.executable, "-m", "hasty_reel", "window", "--picture", str(tmp_path / "a.png")],
        env={**os.environ, "QT_QPA_PLATFORM": "offscreen"}, capture_output=True, text=True, timeout=60,
    )  # fmt: skip
    assert done.returncode == 2 and "the picture cannot be saved" in done.stderr


def test_limits_are_shown_and_set(call, capsys):
    assert call("limits", "--megapixels", "100")[0] == 0 and call("limits")[0] == 0
    assert call("limits", "--megapixels", "-1")[0] == 2
    assert call("limits", "--megapixels", "256")[0] == 0


def test_a_sweep_over_unknown_settings_is_told(demo_reel):
    from hasty_reel.farm.order import ProofOrder

    shot = demo_reel.shot("sh010")
    with pytest.raises(HastyReelError, match="expected samples, scale or a line"):
        sweep_orders(ProofOrder(shot, demo_reel.recipe_of(shot), (1001,)), "cat", [1, 2], "cat 1")
