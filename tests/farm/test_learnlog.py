"""Patterns learnt from what renderers print: twenty made-up styles, each read on another frame with other numbers."""

from __future__ import annotations

import pytest

from hasty_reel.farm.renderers.command import seconds_by_part
from hasty_reel.farm.renderers.learnlog import PROGRESS, patterns_of, times_in
from hasty_reel.farm.renderers.links import Link, checked_link
from hasty_reel.farm.renderers.statistics import read_seconds

# what is printed for the frame that is learnt from, for another frame, and the seconds of that one
STYLES = [
    (
        "took 3.2 seconds",
        "took 14.75 seconds",
        {"total": 14.75},
    ),
    (
        ("load 0.8 s\nsampling 12.5 s\n"),
        ("load 1.1 s\nsampling 9.0 s\n"),
        {"load": 1.1, "sample": 9.0},
    ),
    (
        ("Scene read in 1.25s\nRendered in 00:01:02.50\nSaved a.exr in 0.3s"),
        ("Scene read in 2.5s\nRendered in 01:00:00.25\nSaved b.exr in 0.1s"),
        {"load": 2.5, "sample": 3600.25, "write": 0.1},
    ),
    (
        ("[12:03:44] tide: BVH built (0.41 sec)\n[12:03:59] tide: tracing paths done (14.90 sec)"),
        ("[12:05:01] tide: BVH built (0.52 sec)\n[12:05:31] tide: tracing paths done (29.10 sec)"),
        {"load": 0.52, "sample": 29.1},
    ),
    (
        "2026-01-03 10:00:01,250 INFO total render time: 1m 23.5s",
        "2026-01-03 10:05:09,001 INFO total render time: 2m 3.25s",
        {"total": 123.25},
    ),
    (
        ("render_time=12.5\nload_time=0.5\nspp=64"),
        ("render_time=2.25\nload_time=0.75\nspp=128"),
        {"sample": 2.25, "load": 0.75},
    ),
    (
        ("Elapsed: 0:12.34 | Remaining: 1:00.00\nElapsed: 0:24.68 | Remaining: 0:00.00"),
        ("Elapsed: 0:05.00 | Remaining: 0:05.00\nElapsed: 0:10.50 | Remaining: 0:00.00"),
        {"total": 10.5},
    ),
    (
        "Frame 12: 250 ms",
        "Frame 13: 375 ms",
        {"total": 0.375},
    ),
    (
        ("Preparing geometry ... 1,5 s\nShading ... 20,25 s"),
        ("Preparing geometry ... 2,5 s\nShading ... 10,75 s"),
        {"load": 2.5, "sample": 10.75},
    ),
    (
        ("photon pass: 4.0s\nintegrating: 31.0s\ntotal: 36.5s"),
        ("photon pass: 5.0s\nintegrating: 41.0s\ntotal: 47.5s"),
        {"cache": 5.0, "sample": 41.0, "total": 47.5},
    ),
    (
        ("10 %\n50 %\n100 %\ndone in 8.25 s"),
        ("10 %\n50 %\n100 %\ndone in 4.5 s"),
        {"total": 4.5},
    ),
    (
        ("Progress: 45.5% (ETA 00:00:31)\nRender finished, 57.0 seconds elapsed"),
        ("Progress: 99.5% (ETA 00:00:01)\nRender finished, 61.5 seconds elapsed"),
        {"total": 61.5},
    ),
    (
        ("| loading textures | 3.20 s |\n| sampling 64 spp | 44.10 s |\n| writing image | 0.90 s |"),
        ("| loading textures | 3.40 s |\n| sampling 96 spp | 66.30 s |\n| writing image | 0.80 s |"),
        {"load": 3.4, "sample": 66.3, "write": 0.8},
    ),
    (
        ('{"phase": "load", "seconds": 1.5}\n{"phase": "sample", "seconds": 22.0}'),
        ('{"phase": "load", "seconds": 1.75}\n{"phase": "sample", "seconds": 11.0}'),
        {"load": 1.75, "sample": 11.0},
    ),
    (
        "real\t0m14.2s wall\n",
        "real\t1m4.5s wall\n",
        {"total": 64.5},
    ),
    (
        ("Compiled kernels in 2.0 sec.\nTraced 4194304 rays in 17.25 sec."),
        ("Compiled kernels in 0.5 sec.\nTraced 8388608 rays in 30.5 sec."),
        {"load": 0.5, "sample": 30.5},
    ),
    (
        "Time for frame 1001 = 1h02m03s",
        "Time for frame 1002 = 0h10m30s",
        {"total": 630.0},
    ),
    (
        "<stat name='render' seconds='12.75'/>",
        "<stat name='render' seconds='13.25'/>",
        {"sample": 13.25},
    ),
    (
        ("Irradiance cache filled after 6.5 seconds, 512 points\nPixels: 640x360\nRendering took 19.5 seconds"),
        ("Irradiance cache filled after 7.5 seconds, 1024 points\nPixels: 960x540\nRendering took 29.25 seconds"),
        {"cache": 7.5, "sample": 29.25},
    ),
    (
        ("tile 1/4 12.0s\ntile 4/4 48.0s\nOverall 48.5s, 1.2 GB"),
        ("tile 1/4 10.0s\ntile 4/4 40.0s\nOverall 40.5s, 1.4 GB"),
        {"total": 40.5},
    ),
]


@pytest.mark.parametrize("example, other, seconds", STYLES)
def test_what_is_learnt_from_one_frame_reads_the_next(example, other, seconds):
    patterns = patterns_of(times_in(example))
    progress = patterns.pop(PROGRESS, "")
    link = checked_link(Link(name="x", command=("r", "{frame}", "{output}"), seconds=patterns, progress=progress))
    assert seconds_by_part(link, other) == pytest.approx(seconds)
    assert bool(progress) == ("%" in example)


def test_numbers_that_are_no_times_are_left_alone():
    found = times_in("version 4.2\n640x360, 64 spp, seed 17\nrenders/a.1001.exr\n2 lamps\nmemory 1.5 GB\nresolution 0.5\nin 3 passes")
    assert patterns_of(found) == {}
    assert patterns_of(times_in("")) == {} and patterns_of(times_in("\n" * 1000)) == {}


def test_a_number_says_where_it_stands():
    found = times_in("frame 7\nsampling took 1m 2.5s.")
    (taken,) = [f for f in found if f.part]
    assert (taken.line, taken.text, taken.seconds, taken.part) == (1, "1m 2.5s", 62.5, "sample")
    assert "sampling took 1m 2.5s."[taken.begin : taken.end] == "1m 2.5s"


@pytest.mark.parametrize("text, seconds", [("1m 2.5s", 62.5), ("250 ms", 0.25), ("1h02m03s", 3723), ("2 min", 120), ("3 parsecs", None)])
def test_times_with_units_are_read(text, seconds):
    assert read_seconds(text) == (seconds if seconds is None else pytest.approx(seconds))
