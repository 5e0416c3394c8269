"""Numbers, names, links and left-overs that somebody else made: each is one sentence, and loses nothing."""

from __future__ import annotations

import json
import shutil
import subprocess
import sys
import time
from itertools import groupby
from pathlib import Path

import msgspec
import numpy as np
import pytest

from hasty_reel.errors import ReelError, WrongInput
from hasty_reel.evidence.proof import read_effects
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.farm.jobtemplate import job_template
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.patternof import guess_pair, pattern_of
from hasty_reel.farm.proofs import make_proof
from hasty_reel.farm.renderers import renderer_of
from hasty_reel.farm.renderers.command import placeholder_values
from hasty_reel.farm.renderers.links import Link
from hasty_reel.machinecode import prepare_saying
from hasty_reel.measure.sequence import measure_sequence
from hasty_reel.pictures.frame import Picture, read_header, read_picture
from hasty_reel.pictures.sequence import read_pattern
from hasty_reel.pictures.writing import write_picture
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.checked import checked_reel
from hasty_reel.reel.edits import with_fields, with_frames, with_hold
from hasty_reel.reel.file import read_reel
from hasty_reel.reel.shot import HOLD_BOUNDS, Hold
from hasty_reel.reel.writer import ReelWriter
from hasty_reel.run.journal import LOCK, NAME, Journal
from hasty_reel.settings.recipe import SETTINGS
from hasty_reel.temporary import clear_temporary, temporary_folder
from hasty_reel.wholefile import HOST
from second_link import ARGUMENTS, PROGRAM, SECOND

# -- numbers and names of a reel


@pytest.mark.parametrize("kind", list(HOLD_BOUNDS))
def test_what_a_shot_holds_is_bounded_and_plans_at_both_bounds(demo_reel, demo_evidence, kind):
    for value in HOLD_BOUNDS[kind]:
        reel = with_hold(demo_reel, "sh010", Hold(kind=kind, value=value))
        shot = reel.shot("sh010")
        plan = plan_shot(reel, shot, ShotModel(demo_evidence["sh010"], shot.frames))
        assert np.isfinite(plan.seconds).all() and np.all(plan.samples >= 1)
    for value in (1e308, 5.0 if kind == "clean" else 0.0, -1.0, float("nan"), float("inf")):
        with pytest.raises(ReelError, match=r"hold.value: .*; expected a number from"):
            with_hold(demo_reel, "sh010", Hold(kind=kind, value=value))


def test_a_hundred_thousand_shots_with_ids_twice_are_told_in_seconds(demo_reel):
    shots = tuple(msgspec.structs.replace(demo_reel.shots[0], id=f"s{k}") for k in range(99_999))
    began = time.monotonic()
    with pytest.raises(ReelError, match="'s99998' twice"):
        checked_reel(msgspec.structs.replace(demo_reel, shots=(*shots, shots[-1])))
    assert time.monotonic() - began < 60, "ids were counted one by one, which takes hours"


@pytest.mark.parametrize(
    "proofs, words",
    [
        ("p" * 300, "a name of 300 bytes; expected up to 255 in each name"), ("./.", "expected a folder beside the reel file"),
        ("a\nb", "expected a name without line breaks"), ("/etc", "expected a folder beside"), ("a/../..", "expected a folder beside"),
        ("a\ud800", "half a character"),
    ],
)  # fmt: skip
def test_folders_of_proofs_that_make_no_sense_are_refused_in_words(demo_reel, proofs, words):
    with pytest.raises(ReelError) as error:
        with_fields(demo_reel, proofs=proofs)
    assert words in str(error.value)


@pytest.mark.parametrize(
    "name, words",
    [
        ("", "at least one character"), ("x" * 201, "a name of 201 characters; expected up to 200"), ("a\tb", "without line breaks"),
        ("a\udfff", "half a character"),
    ],
)  # fmt: skip
def test_the_reason_given_for_a_name_is_the_true_one(demo_reel, name, words):
    with pytest.raises(ReelError) as error:
        with_fields(demo_reel, name=name)
    assert words in str(error.value)


def test_lines_of_one_group_stand_together():
    groups = [name for name, _ in groupby(line.group for line in SETTINGS)]
    assert len(groups) == len(set(groups))


# -- links and locks


@pytest.mark.parametrize("name", [NAME, LOCK])
def test_a_journal_that_is_a_link_to_elsewhere_is_refused(tmp_path, name):
    elsewhere = tmp_path / "elsewhere"
    elsewhere.write_text("mine")
    folder = tmp_path / "run"
    folder.mkdir()
    (folder / name).symlink_to(elsewhere)
    with pytest.raises(WrongInput, match="is a symbolic link; expected a file of this folder"), Journal(folder):
        pass
    assert elsewhere.read_text() == "mine"


@pytest.mark.parametrize("ending", ["lock", "writer"])
def test_a_lock_of_a_reel_that_is_a_link_is_refused(demo_path, tmp_path, ending):
    (tmp_path / "elsewhere").write_text("mine")
    demo_path.with_name(f".{demo_path.name}.{ending}").symlink_to(tmp_path / "elsewhere")
    with pytest.raises(ReelError, match="is a symbolic link"):
        ReelWriter(demo_path).take()
    assert (tmp_path / "elsewhere").read_text() == "mine"


# -- numbered files


def flat(path: Path, value: float = 0.3) -> None:
    write_picture(path, Picture(np.full((18, 32, 3), value, np.float32)))


def test_files_padded_otherwise_are_told_and_not_taken_for_frames(call, tmp_path):
    for name in ("x.0004.exr", "x.0005.exr", "x.00006.exr", "x.7.exr"):
        flat(tmp_path / name)
    pattern = read_pattern(str(tmp_path / "x.####.exr"))
    assert pattern.frames() == [4, 5] and pattern.padded_otherwise() == ["x.00006.exr", "x.7.exr"]
    status, _, err = call("measure", tmp_path / "x.####.exr")
    assert status == 0 and "x.00006.exr and 1 more are padded otherwise and not read; expected 4 digits" in err
    flat(tmp_path / "x.10005.exr")
    assert read_pattern(str(tmp_path / "x.####.exr")).frames() == [4, 5, 10005], "a longer number needs more digits"


@pytest.mark.parametrize("one, two", [("a.s101", "a.s102"), ("a.s1", "a.s2"), ("a.seed007", "a.seed008"), ("a_a", "a_b")])
def test_the_other_seed_is_found_by_the_next_number(tmp_path, one, two):
    for name in (one, two):
        flat(tmp_path / f"{name}.1001.exr")
    pair = guess_pair(pattern_of(tmp_path / f"{one}.1001.exr"))
    assert pair is not None and pair.before == f"{two}."


# -- finishing gone on with


def test_frames_are_kept_on_resume_only_where_chain_and_pictures_are_the_same(call, tmp_path):
    rng = np.random.default_rng(1)
    for k in range(1, 8):
        write_picture(tmp_path / f"a.{k:04d}.exr", Picture(rng.random((18, 32, 3), np.float32)))
    finish = ("finish", tmp_path / "a.####.exr", "--out", tmp_path / "out" / "b.####.exr", "--window", "3", "--quick", "--resume", "--json")
    (tmp_path / "out").mkdir()
    assert call(*finish)[0] == 0
    stamps = {p.name: p.stat().st_mtime_ns for p in (tmp_path / "out").glob("*.exr")}
    status, _, err = call(*finish)
    assert status == 0 and "made anew" not in err and stamps == {p.name: p.stat().st_mtime_ns for p in (tmp_path / "out").glob("*.exr")}
    flat(tmp_path / "a.0001.exr")
    _, _, err = call(*finish)
    changed = {n for n, t in stamps.items() if (tmp_path / "out" / n).stat().st_mtime_ns != t}
    assert "b.0001.exr" in changed and "b.0007.exr" not in changed, "those that looked at it, and no other"
    assert "made anew, since not whole, or made with other settings or from other pictures" in err
    stamps = {p.name: p.stat().st_mtime_ns for p in (tmp_path / "out").glob("*.exr")}
    _, _, err = call(*(*finish[:5], "5", *finish[6:]))
    assert "Frames 1-7: made anew" in err
    assert all((tmp_path / "out" / n).stat().st_mtime_ns != t for n, t in stamps.items())


def test_what_a_killed_program_left_is_cleared_at_the_next_start(tmp_path, monkeypatch):
    monkeypatch.setattr("tempfile.tempdir", str(tmp_path))
    dead = subprocess.Popen([sys.executable, "-c", ""])
    dead.wait()
    for name in (f".frame0.{HOST}-{dead.pid}.part", f".finish0.{HOST}-{dead.pid}.part"):
        (tmp_path / name / "inside").mkdir(parents=True)
    with temporary_folder("frame") as mine:
        (mine / "a").touch()
        clear_temporary()
        assert [p.name for p in tmp_path.iterdir()] == [mine.name] and (mine / "a").exists(), "what is in use stays"
        assert mine.stat().st_mode & 0o077 == 0
    assert not list(tmp_path.iterdir())


# -- job templates


def test_braces_in_names_are_escaped_and_steps_stay_distinct(small_path):
    reel = with_frames(read_reel(small_path), "sh010", 1001, 1030)
    shot = msgspec.structs.replace(reel.shot("sh010"), scene="lamp {{Param.OutFolder}} wakes")
    plan = plan_shot(reel, shot, ShotModel(EvidenceReader().read(small_path.parent / reel.proofs, shot), shot.frames))
    long = msgspec.structs.replace(shot, id="s" * 64)
    link = Link(name="own", command=("renderer", "--scene", "{scene}-{frame}", "--note={{x}}", "--out", "{output}"))
    template = job_template(msgspec.structs.replace(reel, name="{{ reel }}"), [plan, _of(plan, long), _of(plan, long)], link)
    names = [s["name"] for s in template["steps"]]
    assert len(set(names)) == len(names) and all(len(n) <= 64 for n in names) and "{{" not in template["name"]
    texts = {p["name"]: p["default"] for p in template["parameterDefinitions"] if p["type"] == "STRING"}
    action = template["steps"][0]["script"]["actions"]["onRun"]
    assert action["args"][1] == "{{Param.Text1}}{{Task.Param.Frame}}" and texts["Text1"] == "lamp {{Param.OutFolder}} wakes-"
    assert texts["Text2"] == "--note={{x}}"


def _of(plan, shot):
    from dataclasses import replace

    return replace(plan, shot=shot)


# -- figures of one name


def test_a_figure_of_a_frame_and_that_of_its_sequence_are_the_same_quantity():
    rng = np.random.default_rng(2)
    level = np.linspace(0.2, 0.6, 96, dtype=np.float32)[None, :, None] * np.ones((64, 1, 3), np.float32)
    sides = [[Picture(level + np.float32(0.05) * rng.standard_normal((64, 96, 3)).astype(np.float32)) for _ in range(6)] for _ in (0, 1)]
    found = measure_sequence(range(6), lambda f, w: sides[0][f], lambda f, w: sides[1][f])
    for name in ("seen_flicker", "seen_noise"):
        frames = [getattr(f, name) for f in found.frames]
        assert np.mean(frames) == pytest.approx(getattr(found, name), rel=0.2), name
    assert found.seen_noise == pytest.approx(found.seen_flicker, rel=0.2), "there is nothing but noise"


def test_the_scale_that_a_renderer_is_told_is_that_of_the_proof(small_path, tmp_path):
    reel = read_reel(small_path)
    shot, told = reel.shot("sh010"), []

    def renderer(job, *more):
        told.append(placeholder_values(job, Path("a.exr"))["scale"])
        return renderer_of(SECOND)(msgspec_job(job), *more)

    make_proof(reel, tmp_path, ProofOrder(shot, reel.recipe_of(shot), (1001,), 1, 50.0, seeds=1, guides=False), renderer)
    assert told == ["50"]


def msgspec_job(job):
    from dataclasses import replace

    return replace(job, scene="lens", frame=1)


def test_a_capped_proof_keeps_the_samples_that_were_rendered(small_path, tmp_path):
    """A renderer that stops at four samples, whatever it is asked for, and says so in its pictures."""
    reel = read_reel(small_path)
    shot = msgspec.structs.replace(reel.shot("sh010"), scene="lens", offset=1000)
    link = msgspec.structs.replace(SECOND, command=(sys.executable, str(PROGRAM), "--cap", "0.0001", *ARGUMENTS))
    order = ProofOrder(shot, reel.recipe_of(shot), tuple(range(1001, 1006)), 64, 50.0)
    proof = make_proof(reel, tmp_path, order, renderer_of(link))
    assert {p.samples for p in proof.pictures} == {4.0}
    effects = read_effects(tmp_path / "sh010" / proof.id)
    assert effects and {e.samples for e in effects} == {4.0}, "what denoising did, it did to four samples"


def test_kernels_are_prepared_aloud_once(monkeypatch):
    from hasty_reel import machinecode

    said: list[str] = []
    monkeypatch.setattr(machinecode, "is_prepared", lambda: False)
    monkeypatch.setattr(machinecode, "prepare", lambda progress: [progress(k / 20, "") for k in range(21)])
    prepare_saying(said.append)
    assert said[0].startswith("Preparing the renderer") and said[1].endswith(": 10 %") and len(said) == 11, "a line each ten percent"
    monkeypatch.setattr(machinecode, "is_prepared", lambda: True)
    prepare_saying(said.append)
    assert len(said) == 11


def test_a_picture_says_what_it_was_made_of(tmp_path, call):
    flat(tmp_path / "a.0001.exr")
    call("finish", tmp_path / "a.####.exr", "--out", tmp_path / "b.####.exr", "--denoise", "off", "--sharpen", "0.1")
    one = read_header(tmp_path / "b.0001.exr").attributes["hr:source"]
    shutil.copy(tmp_path / "a.0001.exr", tmp_path / "c.0001.exr")
    call("finish", tmp_path / "c.####.exr", "--out", tmp_path / "d.####.exr", "--denoise", "off", "--sharpen", "0.1")
    assert read_header(tmp_path / "d.0001.exr").attributes["hr:source"] == one, "by content, not by name"
    assert read_picture(tmp_path / "b.0001.exr").rgb.mean() == pytest.approx(0.3, rel=1e-2)


def test_finished_frames_are_measured_along_the_vectors_of_those_they_were_made_of(call, tmp_path):
    """Whatever folder they lie in: a wall of bricks passes by three pixels a frame, and nothing of it flickers."""
    wall = np.kron(np.random.default_rng(3).random((12, 60)), np.ones((6, 6)))
    motion = {"motion.X": np.full((72, 100), -3.0, np.float32), "motion.Y": np.zeros((72, 100), np.float32)}
    for k in range(6):
        rgb = np.repeat(wall[:, 3 * k : 3 * k + 100, None], 3, axis=2).astype(np.float32) * 0.5 + 0.1
        write_picture(tmp_path / f"a.{k + 1:04d}.exr", Picture(rgb, motion))
    (tmp_path / "out").mkdir()
    call("finish", tmp_path / "a.####.exr", "--out", tmp_path / "out" / "b.####.exr", "--denoise", "off", "--sharpen", "0.05")
    told = [call("measure", tmp_path / "out" / "b.####.exr", "--json", *more)[1] for more in ((), ("--guides", tmp_path / "a.####.exr"))]
    alone, guided = (json.loads(t)["sequence"] for t in told)
    assert (alone["motion_from"], guided["motion_from"]) == ("optical flow", "vectors") and guided["seen_flicker"] < 1.0
    assert guided["seen_flicker"] < 0.8 * alone["seen_flicker"]
