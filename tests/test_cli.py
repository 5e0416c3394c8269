"""The command line: answers, exit statuses, one-line errors."""

from __future__ import annotations

import csv
import json
import shutil
import sys
from datetime import datetime, timedelta
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

import av
import msgspec
import numpy as np
import pytest

from hasty_reel.bench.cli import bench
from hasty_reel.commands import run as run_group
from hasty_reel.errors import WrongInput
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.pictures.writing import write_picture
from hasty_reel.reel.file import read_reel, save_reel
from hasty_reel.reel.rate import read_rate


@pytest.fixture
def frames_csv(tmp_path):
    path = tmp_path / "frames.csv"
    with open(path, "w", newline="") as stream:
        table = csv.writer(stream)
        table.writerow(["note", "seconds_per_sample", "frame", "variance", "fixed_seconds"])
        for k in range(10):
            table.writerow(["x", 0.1 + 0.05 * k, 1001 + k, 0.5 * (k + 1), 2.0])
    return path


def test_estimate_gives_the_whole_plan(call, demo_path):
    status, out, _ = call("estimate", demo_path, "--json")
    document = json.loads(out)
    assert status == 0 and [s["id"] for s in document["shots"]] == ["sh010", "sh020", "sh030", "sh040", "sh050"]
    shot = document["shots"][0]
    assert len(shot["frames"]) == 96 and shot["not_proven"] == []
    assert sum(f["seconds"] for f in shot["frames"]) == pytest.approx(shot["total_seconds"])
    assert document["total"]["sure9_seconds"] > document["total"]["sure5_seconds"]
    status, out, _ = call("estimate", demo_path, "--shot", "sh020")
    assert status == 0 and "sh020 Comet pass: 72 frames at 960x540" in out and "9 in 10 sure" in out


def test_estimate_says_no_when_the_deadline_is_missed_and_it_matters(call, demo_path):
    save_reel(demo_path, msgspec.structs.replace(read_reel(demo_path), due="2020-01-01T00:00:00+00:00"))
    assert call("estimate", demo_path)[0] == 0
    assert call("estimate", demo_path, "--strict")[0] == 1


def test_estimate_tells_hours_price_and_timecode_of_all_of_it(call, demo_path):
    _, out, _ = call("estimate", demo_path, "--json")
    document = json.loads(out)
    assert document["frames"] == 412 and document["film_timecode"] == "00:00:17:04"
    assert [m["name"] for m in document["machines"]] == ["Harbour desk", "Lamp room"]
    assert document["machines"][0]["free"] == "weeknights 19:00-08:00, weekends"
    total = document["total"]
    work = sum(m["hours"] * speed for m, speed in zip(document["machines"], (1.0, 0.6))) * 3600
    assert work == pytest.approx(total["seconds"], rel=1e-3) and total["cost"] == pytest.approx(0.4 * document["machines"][1]["hours"])
    fog = document["shots"][3]["frames"]
    assert len(fog) == 84 and fog[0]["timecode"] == "00:00:09:20" and fog[4]["timecode"] == "00:00:10:00"


def test_layers_handles_and_steps_are_estimated(call, demo_path):
    document = json.loads(demo_path.read_text())
    document["shots"][0]["layers"] = [{"id": "plate", "scene": "lamp_wakes", "held": 1001}, {"id": "lamp", "scene": "lamp_wakes"}]
    document["shots"][1]["step"] = 2
    demo_path.write_text(json.dumps(document))
    status, out, err = call("estimate", demo_path, "--json")
    answer = json.loads(out)
    assert status == 1 and answer["total"]["without_plan"] == ["sh010.plate", "sh010.lamp"] and "Shot sh010.plate: No proof" in err
    assert len(answer["shots"][0]["frames"]) == 36
    status, out, _ = call("proof", demo_path, "--shot", "sh010.plate", "--frames", "1001", "--samples", "8", "--scale", "5")
    assert status == 0 and "proof p001 of sh010.plate" in out
    status, out, _ = call("estimate", demo_path, "--shot", "sh010.plate", "--json")
    assert status == 0 and [f["frame"] for f in json.loads(out)["shots"][0]["frames"]] == [1001]


@pytest.mark.parametrize("form", ["otio", "csv"])
def test_export_and_bring_in_are_each_others_opposite(call, demo_path, tmp_path, form):
    target = tmp_path / f"shots.{form}"
    status, out, _ = call("export", demo_path, "--to", form, "--out", target)
    assert status == 0 and "5 shots written" in out
    status, _, err = call("export", demo_path, "--to", form, "--out", target)
    assert status == 2 and "exists already" in err
    fresh = tmp_path / "fresh.reel"
    status, out, _ = call("bring-in", demo_path, target, "--out", fresh)
    assert status == 0 and "5 shots brought in" in out
    old, new = read_reel(demo_path).shots, read_reel(fresh).shots
    assert new[:5] == old and [s.id for s in new[5:]] == [f"{s.id}b" for s in old]
    assert [(s.name, s.frames, s.move) for s in new[5:]] == [(s.name, s.frames, s.move) for s in old]
    assert "planned_seconds" in target.read_text()


def test_a_proof_under_the_draft_cut_says_so(call, small_path):
    status, out, _ = call(
        "proof", small_path, "--shot", "sh010", "--frames", "1001", "--samples", "64", "--scale", "50", "--draft", "--json"
    )
    answer = json.loads(out)
    assert status == 0 and answer["draft"] == "First look" and answer["samples"] == 4 and answer["frames"][0]["noise"] is None
    assert "draft" not in small_path.read_text().lower()


def test_a_sweep_on_the_command_line_says_what_it_found(call, small_path):
    status, out, _ = call(
        "proof",
        small_path,
        "--shot",
        "sh010",
        "--frames",
        "1001",
        "--samples",
        "8",
        "--scale",
        "100",
        "--sweep",
        "bounces",
        "--values",
        "2,0",
        "--json",
    )
    answer = json.loads(out)
    assert status == 0 and answer["sweep"] == "bounces 2" and [p["value"] for p in answer["points"]] == [0, 2]
    assert answer["finding"].startswith("Bounces") and answer["points"][1]["off_L"] == pytest.approx(0.0, abs=1e-6)


def test_a_capped_proof_and_one_that_stops_at_noise(call, small_path):
    for option in (("--cap", "0.001"), ("--stop-noise", "0.5")):
        status, out, _ = call(
            "proof", small_path, "--shot", "sh010", "--frames", "1001", "--samples", "256", "--floor", "4", *option, "--json"
        )
        assert status == 0 and json.loads(out)["frames"][0]["noise"] is not None
    reader = EvidenceReader().read(small_path.parent / "proofs", read_reel(small_path).shot("sh010"))
    assert all(r.samples < 32 for r in reader.frames if r.proof in ("p023", "p024"))


def test_frames_from_elsewhere_are_brought_in(call, small_path, tmp_path, capsys):
    for seed in (1, 2):
        for frame in (1001, 1002):
            bench_out = tmp_path / f"x_s{seed}_{frame}.exr"
            run_group(
                bench,
                f"render --scene lamp_wakes --frame {frame} --size 32x18 --samples 4 --seed {seed} --out {bench_out}".split(),
                "hasty-bench",
            )
    log = tmp_path / "night.log"
    log.write_text("frame 1001: 3.5 s\nframe 1002: 4.5 s\n")
    arguments = ("bring-proof", small_path, tmp_path / "x_s1_####.exr", "--shot", "sh010", "--json", "--log", log)
    capsys.readouterr()  # what the renderer printed is no part of the answer
    status, out, _ = call(*arguments, "--log-pattern", r"frame (?P<frame>\d+): (?P<seconds>[\d.]+) s")
    answer = json.loads(out)
    assert status == 0 and answer["frames"] == "1001-1002" and answer["samples"] == 4 and answer["missing"] == []
    for frame in (1001, 1002):
        words = f"render --scene lamp_wakes --frame {frame} --size 16x9 --samples 4 --seed 1 --out {tmp_path / f'half_{frame}.exr'}"
        run_group(bench, words.split(), "hasty-bench")
    capsys.readouterr()
    second = ("--second", tmp_path / "half_####.exr")
    status, out, _ = call(*arguments, *second, "--log-pattern", r"frame (?P<frame>\d+): (?P<seconds>[\d.]+) s")
    answer = json.loads(out)
    assert status == 0 and (answer["size"], answer["second"]["size"]) == ([32, 18], [16, 9]) and answer["second"]["frames"] == "1001-1002"
    status, _, err = call(*arguments)
    assert status == 2 and "--log without --log-pattern" in err
    status, _, err = call(*arguments[:-2], "--file-dates")
    assert status == 2 and "2 files; expected at least 3" in err
    status, _, err = call(*arguments, "--log-pattern", "x", "--file-dates")
    assert status == 2 and "all tell seconds; expected one of them" in err


def test_budget_by_noise_by_seconds_and_by_cap(call, frames_csv):
    status, out, _ = call("budget", frames_csv, "--noise", "0.1", "--steps", "8", "--json")
    document = json.loads(out)
    assert status == 0 and document["solved"] and document["worst_noise"] <= 0.1
    assert all(f["samples"] % 8 == 0 for f in document["frames"])
    status, out, _ = call("budget", frames_csv, "--seconds", "500", "--goal", "total", "--json")
    assert status == 0 and json.loads(out)["total_seconds"] <= 500
    status, out, _ = call("budget", frames_csv, "--cap", "3", "--floor", "16", "--json")
    assert status == 1 and not json.loads(out)["solved"]
    status, out, _ = call("budget", frames_csv, "--seconds", "10", "--json")
    assert status == 1 and "more than the 10 s given" in json.loads(out)["why"]


@pytest.mark.parametrize(
    "arguments, words",
    [
        ((), "expected --seconds, --noise, --clean or --cap"),
        (("--noise", "0.1", "--seconds", "5"), "expected one of them"),
        (("--noise", "-1"), "expected a number above 0"),
        (("--noise", "nan"), "expected a number above 0"),
        (("--noise", "0.1", "--floor", "9", "--ceiling", "3"), "expected 1 <= floor <= ceiling"),
        (("--noise", "0.1", "--ratio", "0.5"), "expected a number above 1"),
        (("--noise", "much"), "'much' is not a valid float"),
        (("--colour", "red"), "No such option"),
    ],
)
def test_wrong_use_of_budget_is_one_line_and_status_two(call, frames_csv, arguments, words):
    status, out, err = call("budget", frames_csv, *arguments)
    assert status == 2 and out == "" and words in err and err.count("\n") == 1


@pytest.mark.parametrize(
    "text, words",
    [
        ("frame,variance\n1,2\n", "no column 'seconds_per_sample'"),
        ("frame,variance,seconds_per_sample,fixed_seconds\n1,x,1,1\n", "line 2: variance is 'x'"),
        ("frame,variance,seconds_per_sample,fixed_seconds\n1,-2,1,1\n", "line 2: variance is '-2'"),
        ("frame,variance,seconds_per_sample,fixed_seconds\n", "no rows"),
        ("", "no column 'frame'"),
    ],
)
def test_broken_tables_are_told_with_their_line(call, tmp_path, text, words):
    path = tmp_path / "bad.csv"
    path.write_text(text)
    status, _, err = call("budget", path, "--noise", "0.1")
    assert status == 2 and words in err and str(path) in err


def test_from_proof_to_film(call, small_path, tmp_path):
    status, out, _ = call("proof", small_path, "--shot", "sh010", "--frames", "1001,1005", "--samples", "8", "--scale", "100", "--json")
    document = json.loads(out)
    assert status == 0 and document["proof"] == "p023" and document["size"] == [96, 54]
    assert all(f["noise"] > 0 and f["seconds"] > 0 for f in document["frames"])
    frames = tmp_path / "frames"
    order = ("run", small_path, "--shot", "sh010", "--frames", "1001-1003", "--out", frames)
    status, out, err = call(*order)
    assert status == 0 and "3 of 3 frames finished" in out
    status, _, err = call(*order)
    assert status == 2 and "holds 3 frames of sh010 already" in err
    status, out, _ = call(*order, "--resume", "--json")
    assert status == 0 and json.loads(out)["shots"][0]["finished"] == "1001-1003"
    status, out, _ = call("handover", frames / "sh010" / "sh010.####.exr", "--out", tmp_path / "a.mp4", "--fps", "23.976")
    assert status == 0
    with av.open(str(tmp_path / "a.mp4")) as film:
        assert sum(1 for _ in film.decode(video=0)) == 3
        assert film.streams.video[0].average_rate == Fraction(24000, 1001)
    rendered = frames / "sh010" / "rendered" / "sh010.####.exr"
    order = ("finish", rendered, "--out", tmp_path / "f" / "x.%04d.exr", "--window", "3", "--size", "48x27")
    assert call(*order)[0] == 0
    assert read_picture(tmp_path / "f" / "x.1002.exr").width == 48
    status, _, err = call(*order)
    assert status == 2 and "1001-1003 exist already" in err


def test_missing_frames_are_a_no(call, tmp_path):
    for order in (("finish", tmp_path / "a.####.exr", "--out", tmp_path / "b.####.exr"),):
        status, _, err = call(*order)
        assert status == 1 and "no frames there" in err
    status, _, err = call("handover", tmp_path / "a.####.exr", "--out", tmp_path / "b.mp4", "--fps", "24")
    assert status == 1 and "no frames there" in err


@pytest.mark.parametrize(
    "arguments, words",
    [
        (("estimate", "{tmp}/none.reel"), "cannot be read (No such file or directory)"),
        (("estimate", "{reel}", "--shot", "sh999"), "no shot 'sh999'; expected one of sh010, sh020"),
        (("proof", "{reel}", "--shot", "sh010", "--frames", "1010-1001"), "runs backwards"),
        (("proof", "{reel}", "--shot", "sh010", "--frames", "5"), "frame 5 is not in the shot"),
        (("proof", "{reel}", "--shot", "sh010", "--frames", "1001", "--recipe", "Best"), "no recipe 'Best'"),
        (("run", "{reel}", "--frames", "1001", "--out", "{tmp}/o"), "--frames goes with --shot"),
        (("run", "{reel}", "--shot", "sh010", "--out", "{reel}/o"), "frames cannot be written there"),
        (("run", "{reel}", "--shot", "sh010", "--out", "{tmp}/o", "--workers", "0"), "0 workers"),
        (("finish", "still.exr", "--out", "b.####.exr"), "no place for the frame number"),
        (("handover", "a.####.exr", "--out", "b.mp4", "--fps", "fast"), "expected frames a second such as 24"),
        (("{tmp}/none.reel",), "none.reel: cannot be read"),
        (("export", "{reel}", "--to", "edl", "--out", "{tmp}/a.edl"), "is not one of 'otio', 'csv'"),
        (("bring-in", "{reel}", "{tmp}/none.otio", "--out", "{tmp}/b.reel"), "none.otio: cannot be read"),
        (("bring-in", "{reel}", "{reel}", "--out", "{tmp}/b.reel"), "expected a file ending in .otio or .csv"),
        (
            ("proof", "{reel}", "--shot", "sh010", "--frames", "1001", "--sweep", "mood", "--values", "1,2"),
            "expected samples, scale or a line",
        ),
        (("proof", "{reel}", "--shot", "sh010", "--frames", "1001", "--sweep", "bounces", "--values", "1,x"), "--values 'x'"),
        (("proof", "{reel}", "--shot", "sh010", "--frames", "1001", "--sweep", "bounces", "--values", "1,nan"), "--values 'nan'"),
        (("proof", "{reel}", "--shot", "sh010", "--frames", "1001", "--renderer", "Other"), "expected one of 'Bench renderer'"),
        (("proof", "{reel}", "--shot", "sh010", "--frames", "1001", "--cap", "-1"), "time cap -1"),
        (("bring-proof", "{reel}", "still.exr", "--shot", "sh010"), "no place for the frame number"),
        (("bring-proof", "{reel}", "{tmp}/a.####.exr", "--shot", "sh010"), "no frames of sh010"),
        (("bring-proof", "{reel}", "{tmp}/a.####.exr", "--shot", "sh010", "--channels", "mood=a"), "Channels 'mood=a'"),
        (("levitate",), "levitate: cannot be read"),
    ],
)
def test_bad_input_is_one_line_and_status_two(call, demo_path, tmp_path, monkeypatch, arguments, words):
    monkeypatch.setenv("QT_QPA_PLATFORM", "offscreen")
    places = {"tmp": tmp_path, "reel": demo_path}
    status, out, err = call(*(a.format(**places) for a in arguments))
    assert status == 2 and out == "" and words in err
    assert err.strip().count("\n") == 0 and "Traceback" not in err


def test_a_reel_with_an_unknown_field_is_told(call, demo_path):
    demo_path.write_text(demo_path.read_text().replace('"name": "Final"', '"name": "Final", "magic": 1'))
    status, _, err = call("estimate", demo_path)
    assert status == 2 and "unknown field `magic`" in err and "$.recipes[0]" in err.replace("[...]", "[0]")


def test_a_missing_proof_picture_is_said_and_the_estimate_goes_on(call, demo_path):
    next((demo_path.parent / "proofs" / "sh010" / "p001").glob("*.1048.s1.exr")).unlink()
    status, out, err = call("estimate", demo_path, "--json")
    assert status == 0 and json.loads(out)["shots"]
    assert "Proof p001 of sh010, frame 1048" in err and "no such picture" in err


def test_rates_as_they_are_written():
    """SMPTE ST 12: 23.976 stands for 24000/1001, 29.97 for 30000/1001, 59.94 for 60000/1001."""
    assert read_rate("23.976") == Fraction(24000, 1001) and read_rate("29.97") == Fraction(30000, 1001)
    assert read_rate("59.94") == Fraction(60000, 1001) and read_rate("24") == 24 and read_rate("12.5") == Fraction(25, 2)
    for text in ("0", "x", "1/0", "5000"):
        with pytest.raises(WrongInput):
            read_rate(text)


def bench_call(capsys, *arguments: object) -> tuple[int, str, str]:
    status = run_group(bench, [str(a) for a in arguments], "hasty-bench")
    out, err = capsys.readouterr()
    return status, out, err


def test_the_bench_renderer_by_itself(capsys, tmp_path):
    status, out, _ = bench_call(capsys, "scenes")
    assert status == 0 and {"lamp_wakes", "comet_pass"} <= set(out.split())
    path = tmp_path / "a.exr"
    order = ("render", "--scene", "comet_pass", "--frame", "1030", "--size", "64x36", "--samples", "4", "--out", path)
    status, out, _ = bench_call(capsys, *order, "--scale", "50", "--guides", "--seed", "7", "--json")
    assert status == 0 and json.loads(out)["width"] == 32
    picture = read_picture(path)
    assert {"albedo.R", "normal.X", "Z", "motion.X", "samples"} <= set(picture.guides)
    for key in ("hr:seconds", "hr:samples", "hr:seed", "hr:steps", "hr:recipe"):
        assert key in picture.attributes
    assert picture.attributes["hr:samples"] == 4 and picture.attributes["hr:seed"] == "7"


@pytest.mark.parametrize(
    "change, words",
    [
        (("--scene", "attic"), "no scene 'attic'"),
        (("--size", "big"), "--size 'big'"),
        (("--crop", "0,0,900,1"), "does not lie in"),
        (("--samples", "0"), "samples is 0"),
        (("--scale", "0"), "expected 1 to 400 percent"),
        (("--out", "/proc/none/a.exr"), "Cannot write"),
    ],
)
def test_wrong_use_of_the_bench_renderer(capsys, tmp_path, change, words):
    order = {"--scene": "furnace", "--frame": "1", "--size": "8x8", "--samples": "1", "--out": str(tmp_path / "a.exr")}
    order |= dict([change])
    status, _, err = bench_call(capsys, "render", *(w for pair in order.items() for w in pair))
    assert status == 2 and words in err and err.count("\n") == 1


@pytest.fixture
def noisy_frames(tmp_path):
    """Six grey frames of grain of 2 L* over L* 50, one of them missing."""
    rng = np.random.RandomState(1)
    for k in (1001, 1002, 1003, 1004, 1006):
        light = ((50 + rng.normal(0, 2, (96, 128)) + 16) / 116) ** 3
        write_picture(tmp_path / f"grain.{k}.exr", Picture(np.repeat(light[..., None], 3, axis=-1).astype(np.float32)))
    return tmp_path / "grain.####.exr"


def test_measure_gives_frames_and_sequence(call, noisy_frames):
    status, out, err = call("measure", noisy_frames, "--json")
    document = json.loads(out)
    assert status == 0 and "Frame 1005 missing" in err
    assert [f["frame"] for f in document["frames"]] == [1001, 1002, 1003, 1004, 1006]
    assert set(document["frames"][0]) == {"frame", "mean_L", "noise_L", "flicker_L", "seen_flicker", "seen_noise", "sparks", "sharpness"}
    assert {"noise_L", "flicker_L", "seen_flicker", "sparks_per_megapixel"} <= set(document["sequence"])
    assert document["frames"][1]["flicker_L"] == pytest.approx(2.0, rel=0.05) and document["frames"][4]["flicker_L"] is None
    assert document["sequence"]["noise_from"] == "one picture, estimated" and document["eyes"] == {"heights": 3.0, "limit": 1.0}
    status, out, _ = call("measure", noisy_frames, "--pair", noisy_frames, "--information")
    assert status == 0 and "SI" in out and "noise 0.00 L*," in out  # the same seed twice: no noise between them


def test_measure_of_the_demo_with_a_pair(call, demo_path):
    folder = demo_path.parent / "proofs" / "sh010" / "p002"
    one, two = folder / "sh010.####.s1.exr", folder / "sh010.####.s2.exr"
    status, out, _ = call("measure", one, "--pair", two, "--frames", "1046-1048", "--heights", "6", "--json")
    near = json.loads(call("measure", one, "--pair", two, "--frames", "1046-1048", "--heights", "3", "--json")[1])
    far = json.loads(out)
    assert status == 0 and far["sequence"]["noise_from"] == "two seeds" and far["sequence"]["motion_from"] == "vectors"
    assert far["sequence"]["noise_L"] == pytest.approx(near["sequence"]["noise_L"])
    assert far["sequence"]["seen_flicker"] < near["sequence"]["seen_flicker"]
    same = json.loads(call("measure", one, "--frames", "1046-1048", "--pair", two, "--distance", "180", "--screen", "30", "--json")[1])
    assert same["eyes"]["heights"] == 6.0 and same["sequence"]["seen_flicker"] == pytest.approx(far["sequence"]["seen_flicker"])


def test_causes_are_listed_with_frames_region_and_what_helps(call, noisy_frames):
    status, out, _ = call("causes", noisy_frames, "--json")
    causes = json.loads(out)["causes"]
    names = "grain blotches sparks pinned_pattern shimmer strobing pumping settling lens_noise"
    assert status == 0 and sorted(c["cause"] for c in causes) == sorted(names.split())
    top = causes[0]
    assert top["cause"] == "grain" and 0.5 < top["score"] <= 1 and len(top["region"]) == 4 and top["helps"][0] == "samples"
    assert all(a["score"] >= b["score"] for a, b in pairwise(causes))
    status, out, _ = call("causes", noisy_frames)
    assert status == 0 and "grain" in out and "Helps: samples, denoise over time." in out


@pytest.mark.parametrize(
    "arguments, words",
    [
        (("measure", "nowhere.####.exr"), "no frames there"),
        (("measure", "plain.exr"), "no place for the frame number"),
        (("measure", "{}", "--view", "Rosy"), "No view 'Rosy'; expected one of"),
        (("measure", "{}", "--frames", "1-5"), "none of the frames 1-5 is there; it has 1001-1004,1006"),
        (("measure", "{}", "--heights", "0"), "expected 0.5 to 50 picture heights"),
        (("measure", "{}", "--distance", "60"), "--distance and --screen go together"),
        (("measure", "{}", "--distance", "60", "--screen", "0"), "expected numbers above 0"),
        (("measure", "{}", "--distance", "60", "--screen", "30", "--heights", "2"), "expected one of them"),
        (("causes", "{}", "--frames", "1006"), "expected two frames in a row"),
        (("measure", "{}", "--pair", "nowhere.####.exr"), "no frames there"),
    ],
)
def test_what_cannot_be_measured_is_one_line(call, noisy_frames, arguments, words):
    status, out, err = call(*(a.format(noisy_frames) for a in arguments))
    assert status == 2 and out == "" and words in err and err.count("\n") == 1


def test_frames_that_were_asked_for_and_are_missing_make_it_a_no(call, noisy_frames):
    status, _, err = call("measure", noisy_frames, "--frames", "1001-1006")
    assert status == 1 and "frames 1005 are not there" in err


def test_the_yardstick_measures_this_machine_and_keeps_it_in_the_reel(call, demo_path, monkeypatch):
    from hasty_reel.cli import machines

    monkeypatch.setattr(machines, "yardstick_seconds", lambda: 0.5)
    monkeypatch.setattr(machines, "together", lambda workers: 1.25)
    was = read_reel(demo_path)
    first = msgspec.structs.replace(was.machines[0], workers=2)
    save_reel(demo_path, msgspec.structs.replace(was, machines=(first, *was.machines[1:])))
    status, out, _ = call("yardstick", demo_path, "--machine", "Harbour desk", "--json")
    answer = json.loads(out)
    assert status == 0 and answer["seconds"] == 0.5 and answer["together"] == 1.25
    kept = read_reel(demo_path).machines[0]
    assert kept.together == 1.25 and kept.speed == pytest.approx(answer["speed"] or 1.0, rel=0.01)
    status, _, err = call("yardstick", demo_path, "--machine", "Nobody")
    assert status != 0 and "expected one of 'Harbour desk'" in err


def test_finish_denoises_in_stretches_goes_on_and_says_what_a_still_filter_does(call, tmp_path):
    rng = np.random.default_rng(2)
    for k in range(8):
        light = np.repeat(0.3 + rng.normal(0, 0.02, (32, 48, 1)), 3, axis=2).astype(np.float32)
        write_picture(tmp_path / "in" / f"a.{k + 1:04d}.exr", Picture(light))
    source, out = tmp_path / "in" / "a.####.exr", tmp_path / "out" / "b.####.exr"
    status, printed, _ = call("finish", source, "--out", out, "--window", "3", "--workers", "2", "--sharpen", "0.1", "--json")
    assert status == 0 and json.loads(printed)["frames"] == "1-8"
    first = {k: read_picture(tmp_path / "out" / f"b.{k:04d}.exr").rgb for k in range(1, 9)}
    assert first[4].std() < 0.01
    (tmp_path / "out" / "b.0004.exr").unlink()
    (tmp_path / "out" / "b.0005.exr").write_bytes(b"cut short")
    assert call("finish", source, "--out", out, "--window", "3", "--sharpen", "0.1")[0] != 0
    status, printed, _ = call("finish", source, "--out", out, "--window", "3", "--sharpen", "0.1", "--resume", "--json")
    assert status == 0 and json.loads(printed)["frames"] == "4-5"
    for k in (4, 5):
        assert np.array_equal(read_picture(tmp_path / "out" / f"b.{k:04d}.exr").rgb, first[k]), "as if it had never stopped"
    still = tmp_path / "still" / "b.####.exr"
    status, _, told = call("finish", source, "--out", still, "--denoise", "frame", "--quick")
    assert status == 0 and "boils in motion" in told
    status, _, told = call("finish", source, "--out", tmp_path / "c" / "b.####.exr", "--strength", "120")
    assert status != 0 and "expected 0 to 100 %" in told


def test_own_steps_are_kept_by_name_and_taken_in_the_order_that_is_asked_for(call, tmp_path, demo_path):
    script = Path(__file__).parent / "own_step.py"
    for k in range(3):
        write_picture(tmp_path / "in" / f"a.{k + 1:04d}.exr", Picture(np.full((18, 32, 3), 0.1 * (k + 1), np.float32)))
    source, out = tmp_path / "in" / "a.####.exr", tmp_path / "out" / "b.####.exr"
    status, _, err = call("finish", source, "--out", out, "--steps", "Glow,denoise")
    assert status != 0 and "'Glow' is not kept on this machine" in err
    command = (sys.executable, script, "{input}", "{output}", "enlarge")
    assert call("own-step", "Larger", "--", *command)[0] == 0
    status, printed, _ = call("own-step", "--json")
    assert [s["name"] for s in json.loads(printed)["steps"]] == ["Larger"]
    assert call("finish", source, "--out", out, "--window", "3", "--steps", "denoise,Larger")[0] == 0
    made = read_picture(tmp_path / "out" / "b.0002.exr")
    assert made.rgb.shape == (36, 64, 3) and made.rgb.mean() == pytest.approx(0.2, rel=0.01)
    assert str(made.attributes["hr:finish"]).startswith("denoise 3 100 % > Larger (")
    status, _, err = call("finish", source, "--out", tmp_path / "c" / "b.####.exr", "--steps", "denoise,despike")
    assert status != 0 and "despike after denoise" in err
    status, _, err = call("try-finish", demo_path, "--shot", "sh010")
    assert status != 0 and "is the usual one" in err
    was = read_reel(demo_path)
    recipes = tuple(msgspec.structs.replace(r, render_scale=50.0, finish_order=("despike", "Larger", "denoise", "resize", "sharpen"))
                    for r in was.recipes)  # fmt: skip
    save_reel(demo_path, msgspec.structs.replace(was, recipes=recipes))
    shutil.rmtree(demo_path.parent / "proofs" / "sh010" / "p015")  # one run is enough to try it on
    told = json.loads(call("estimate", demo_path, "--shot", "sh010", "--json")[1])
    assert "denoise_window" in json.dumps(told)
    status, printed, err = call("try-finish", demo_path, "--shot", "sh010", "--json")
    assert status == 0, err
    tried = json.loads(printed)
    assert tried["chain"] == "despike > Larger > denoise 5 100 % > resize from 50 %"
    effect = next(iter(tried["tried"].values()))
    assert 0 < effect["seen_ratio"] < 1 and effect["seconds_per_frame"] > 0.02 and "Larger" in effect["own"]
    after = json.loads(call("estimate", demo_path, "--shot", "sh010", "--json")[1])
    assert "denoise_window" not in json.dumps(after)
    assert call("own-step", "Larger", "--remove")[0] == 0
    assert "No steps of your own" in call("own-step")[1]


def test_budget_holds_clean_by_what_falls_and_what_does_not(call, tmp_path):
    table = tmp_path / "frames.csv"
    table.write_text(
        "frame,variance,seconds_per_sample,fixed_seconds,seen_body,seen_rest\n1,1,0.1,1,20,0\n2,1,0.1,1,10,0.6\n3,1,0.1,1,5,1.5\n"
    )
    status, out, _ = call("budget", table, "--clean", "1", "--json")
    answer = json.loads(out)
    assert status == 1 and not answer["solved"] and "1 frame stays with any samples" in answer["why"]
    assert [f["samples"] for f in answer["frames"]][:2] == [400, 157], "by hand: 20^2, and 10^2 / (1 - 0.6^2), rounded up"
    status, out, _ = call("budget", table, "--clean", "2", "--json")
    assert status == 0 and [f["samples"] for f in json.loads(out)["frames"]] == [100, 28, 15]
    status, _, err = call("budget", table, "--clean", "1", "--noise", "1")
    assert status != 0 and "--noise and --clean together" in err
    table.write_text("frame,variance,seconds_per_sample,fixed_seconds\n1,1,0.1,1\n")
    status, _, err = call("budget", table, "--clean", "1")
    assert status != 0 and "column seen_body is missing" in err


def test_fit_tells_parts_and_predicts_frames_with_their_band(call, tmp_path):
    times, plan = tmp_path / "times.csv", tmp_path / "plan.csv"
    times.write_text("frame,width,height,samples,seconds,machine\n1,1920,1080,64,20,a\n1,1440,810,64,13.5,a\n")
    plan.write_text("frame,width,height,samples\n1,1920,1080,128\n2,1920,1080,128\n")
    status, out, _ = call("fit", times, "--predict", plan, "--json")
    answer = json.loads(out)
    assert status == 0 and answer["model"]["fixed_seconds"] == pytest.approx(5.143, abs=0.001)
    assert [f["seconds"] for f in answer["frames"]] == pytest.approx([5.143 + 2 * 14.857] * 2, rel=1e-3)
    assert answer["frames"][0]["low"] < 34.8 < answer["frames"][0]["high"]
    assert answer["total"]["low"] < answer["total"]["sure5"] < answer["total"]["sure9"] < answer["total"]["high"]
    times.write_text("frame,width,height,samples,seconds\n1,1920,1080,64,0\n")
    status, _, err = call("fit", times)
    assert status != 0 and "row 1: seconds is 0; expected a number above 0" in err


def test_schedule_counts_whole_frames_and_free_hours(call, tmp_path):
    frames, machines = tmp_path / "frames.csv", tmp_path / "machines.json"
    frames.write_text("frame,seconds\n" + "".join(f"{k},1200\n" for k in range(1, 41)))
    machines.write_text(json.dumps([{"name": f"m{k}", "speed": 1.0} for k in range(12)]))
    order = ("schedule", frames, "--machines", machines, "--start", "2027-01-08T00:00:00+00:00", "--due", "2027-01-08T01:30:00+00:00")
    answer = json.loads(call(*order, "--json")[1])
    assert answer["sure5"] == answer["sure9"] == answer["finish"] == "2027-01-08T01:20:00+00:00" and answer["chance"] == 1.0
    assert sum(m["frames"] for m in answer["machines"]) == 40
    shut = [["2027-01-08T02:00:00+00:00", "2027-01-08T03:00:00+00:00"]]
    machines.write_text(json.dumps([{"name": "night", "free": shut, "fail_per_frame": 0.1}]))
    status, out, _ = call(*order, "--json")
    assert status == 0 and json.loads(out)["sure9"] is None and json.loads(out)["chance"] == 0.0
    machines.write_text(json.dumps([{"name": "a", "speed": 0}]))
    status, _, err = call(*order)
    assert status != 0 and "machine 'a': speed 0; expected a number above 0" in err
    status, _, err = call(*order[:-1], "tomorrow")
    assert status != 0 and "--due 'tomorrow'; expected a time as" in err
    machines.write_text(json.dumps([{"name": "a"}]))
    status, _, err = call(*order, "--chunk", "many")
    assert status != 0 and "expected a number of frames, or best" in err


def test_estimate_offers_bundles_that_play_clean(call, demo_path):
    due = (datetime.now().astimezone() + timedelta(days=60)).isoformat(timespec="seconds")  # in time at any hour of the day
    save_reel(demo_path, msgspec.structs.replace(read_reel(demo_path), due=due))
    status, out, _ = call("estimate", demo_path, "--shot", "sh010", "--alternatives", "--json")
    shot = json.loads(out)["shots"][0]
    bundles = {b["name"]: b for b in shot["alternatives"]["bundles"]}
    assert status == 0 and set(bundles) == {"sharpest", "calmest", "fastest"}
    assert bundles["fastest"]["seconds"] < bundles["sharpest"]["seconds"] and bundles["fastest"]["loss_L"] > bundles["sharpest"]["loss_L"]
    assert all(b["viewers"] < 0.25 and b["in_time"] for b in bundles.values())
    assert shot["alternatives"]["missing"] == "" and shot["answer"].startswith("Calm for all but 1 in 4: ")
    assert (shot["shutter"]["steps"], [r["scale"] for r in shot["sizes"]]) == (8, [50, 67, 75, 90, 100, 110, 120, 125, 150])
    bought = {s["words"]: s for s in shot["savings"]}
    wider = bought["denoise window 5 → 7"]
    assert wider["changes"]["denoise_window"] == 7 and wider["low"] <= wider["seconds"] <= wider["high"] and abs(wider["look_L"]) < 0.2
    table = call("estimate", demo_path, "--shot", "sh010", "--alternatives")[1]
    assert "sh010: denoise window 5 → 7: " in table and " less at equal seen flicker (" in table
    assert "sh010: fastest: " in table and "sh010: longest motion blur " in table and "sh010: 120 % at " in table


def test_the_plan_goes_out_as_a_job_template(call, demo_path, tmp_path):
    out = tmp_path / "night.json"
    status, text, _ = call("export", demo_path, "--to", "openjd", "--shot", "sh020", "--out", out)
    template = json.loads(out.read_text())
    assert status == 0 and text.startswith(f"{len(template['steps'])} chunks of 1 shots written")
    assert template["specificationVersion"] == "jobtemplate-2023-09"
    assert call("export", demo_path, "--to", "otio", "--shot", "sh020", "--out", tmp_path / "a.otio")[0] == 2
    assert "expected one of" in call("export", demo_path, "--to", "openjd", "--renderer", "none", "--out", tmp_path / "b.json")[2]


def test_the_account_of_a_run_is_told_by_its_journal(call, small_path, tmp_path, monkeypatch):
    monkeypatch.setattr("hasty_reel.run.cluster.CONNECT_SECONDS", 0.5)
    out = tmp_path / "out"
    assert "no run has left its journal there" in call("account", tmp_path)[2]
    status, _, _ = call("run", small_path, "--shot", "sh010", "--frames", "1001-1003", "--out", out, "--trouble-first")
    assert status == 0
    status, text, _ = call("account", out, "--json")
    shot = json.loads(text)["shots"][0]
    assert status == 0 and (shot["shot"], shot["finished"], shot["render_again"]) == ("sh010", 3, "")
    assert (
        shot["pace"] > 0 and shot["machines"][0]["name"] == "this machine" and shot["words"][0].startswith("3 frames rendered, 3 finished")
    )
    assert "no scheduler answers there" in call("run", small_path, "--out", tmp_path / "far", "--scheduler", "127.0.0.1:1")[2]
    assert call("run", small_path, "--out", tmp_path / "far", "--scheduler", "127.0.0.1:1", "--workers", "2")[0] == 2


def test_how_calm_a_reel_is_to_be_is_set_and_told(call, demo_path):
    assert call("set", demo_path, "calm=strict", "sh020.calm=1 in 2", "viewing=cinema")[0] == 0
    reel = read_reel(demo_path)
    assert (reel.calm, reel.shot("sh020").calm, reel.viewing) == (10.0, 50.0, "cinema")
    assert call("set", demo_path, "sh020.calm=follow", "viewing=laptop", "calm=usual")[0] == 0
    told = json.loads(call("estimate", demo_path, "--shot", "sh020", "--json")[1])["shots"][0]
    assert told["calm_percent"] == pytest.approx(25.0) and 0.0 < told["frames"][0]["viewers"] <= 0.25
    assert "Calm for all but 1 in 4" in call("estimate", demo_path, "--shot", "sh020")[1]
    status, _, err = call("set", demo_path, "calm=very")
    assert status != 0 and "calm 'very'; expected strict, usual, relaxed, eyes, or viewers" in err
    status, _, err = call("set", demo_path, "sh010.hold=clean 80 %")
    assert status != 0 and "expected clean alone" in err
    assert read_reel(demo_path).calm == 25.0
