"""Patterns of links and logs: no pattern holds the program up, no printed time spoils a proof."""

from __future__ import annotations

import sys
import time

import pytest

from hasty_reel.errors import RendererFault, WrongInput
from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.renderers.command import render_by_command, seconds_by_part
from hasty_reel.farm.renderers.links import Link, checked_link
from hasty_reel.farm.times import read_log
from hasty_reel.programs.expressions import compiled, last_group
from hasty_reel.settings.recipe import Recipe


def link(**changes) -> Link:
    return Link(**{"name": "Own", "command": ("a", "{frame}", "{output}"), **changes})


def test_a_pattern_that_backtracks_for_ever_does_not():
    began = time.monotonic()
    assert seconds_by_part(link(seconds={"load": "(a+)+b"}), "a" * 20_000) == {}
    assert last_group(compiled(r"((x+x+)+y)", "here"), "x" * 20_000) is None
    # the standard library's engine would take longer than there is time; this bound is for a busy machine
    assert time.monotonic() - began < 20


def test_a_log_is_read_line_by_line_whatever_the_pattern(tmp_path):
    path = tmp_path / "render.log"
    path.write_text("frame 1001 took 12.5 s\n" + "a" * 5000 + "\nframe 1002 took 2 s\n")
    times = read_log(path, r"frame (?P<frame>\d+) (?:(?:a|t)+ook) (?P<seconds>[\d.]+)")
    assert times.seconds == {1001: 12.5, 1002: 2.0}


@pytest.mark.parametrize("pattern", ["(", "(?:a{65535}){65535}", r"(a)\1", "(?<=a)(b)", "x" * 501])
def test_patterns_that_are_none_are_told(pattern):
    with pytest.raises(WrongInput, match="Renderer link 'Own'"):
        checked_link(link(progress=pattern))


@pytest.mark.parametrize("told", ["inf", "nan", "1e400", "-3", "1e12", "many"])
def test_a_time_that_is_none_is_left_out(told):
    found = seconds_by_part(link(seconds={"load": r"load (\S+)", "sample": r"took ([0-9.]+)"}), f"load {told} took 2.5")
    assert found == {"sample": 2.5}


WRITES = """
import sys
import numpy as np
from pathlib import Path
from hasty_reel.pictures.frame import Picture
from hasty_reel.pictures.writing import write_picture
w, h = int(sys.argv[2]), int(sys.argv[3])
write_picture(Path(sys.argv[1]), Picture(np.zeros((h, w, 3), np.float32)))
print("load inf s, sampling nan s")
"""


def by(*size: str) -> Link:
    command = (sys.executable, "-c", WRITES, "{output}", *size, "{frame}")
    return Link(name="Own", command=command, seconds={"load": r"load (\S+) s", "sample": r"sampling (\S+) s"})


def test_a_renderer_that_prints_inf_gives_a_proof_with_finite_times():
    made = render_by_command(by("{width}", "{height}"), FrameJob("s", 1001, 16, 9, 2, Recipe(name="a", bounces=1)))
    assert 0 <= made.sample_seconds < 1e6 and made.load_seconds == 0.0


def test_a_picture_of_another_size_is_refused_before_it_is_decoded(monkeypatch):
    def never(*args):
        raise AssertionError("its pixels were read")

    monkeypatch.setattr("hasty_reel.farm.renderers.takenpicture.read_planes", never)
    with pytest.raises(RendererFault, match="the picture is 3000x2000; expected 16x9"):
        render_by_command(by("3000", "2000"), FrameJob("s", 1001, 16, 9, 2, Recipe(name="a", bounces=1)))
