"""Frames and times from elsewhere."""

from __future__ import annotations

import os
import re
import shutil
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bringing_frames import sequence, write
from hasty_reel.demo import SOURCE
from hasty_reel.errors import HastyReelError, PictureError, WrongInput
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.farm.bringin import Bringing, bring_in
from hasty_reel.farm.patternof import guess_pair, other_sizes, pattern_of, sequences_in
from hasty_reel.farm.times import Times, read_log, read_times, seconds_in, times_of_files
from hasty_reel.pictures.foreign import colour_layers, guess_channels, read_channels_text, read_foreign
from hasty_reel.pictures.frame import read_picture
from hasty_reel.pictures.sequence import read_pattern
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.file import read_reel


@pytest.fixture
def shot(demo_path):
    reel = read_reel(demo_path)
    return reel, reel.shot("sh010"), demo_path.parent / "proofs"


def test_a_sequence_with_two_seeds_and_a_table_of_times_becomes_a_proof_and_a_plan(shot, tmp_path):
    reel, sh010, root = shot
    shutil.rmtree(root / "sh010")
    sequence(tmp_path / "in", "bay.s{seed}.{frame}{ending}")
    table = tmp_path / "times.csv"
    table.write_text("frame,seconds,samples,load_seconds\n" + "".join(f"{f},{20 + f - 1001},64,2\n" for f in range(1001, 1006)))
    pattern = pattern_of(tmp_path / "in" / "bay.s1.1003.exr")
    pair = guess_pair(pattern)
    assert str(pair).endswith("bay.s2.####.exr")
    proof, words = bring_in(root, Bringing(sh010, reel.recipe_of(sh010), pattern, pair, times=read_times(table)))
    assert words == [] and proof.samples == 64 and len(proof.pictures) == 10
    evidence = EvidenceReader().read(root, sh010)
    assert [r.seconds for r in evidence.frames] == [20, 21, 22, 23, 24]
    assert evidence.frames[0].load_seconds == 2 and evidence.frames[0].noise_linear == pytest.approx(
        0.05 * np.sqrt(0.2126**2 + 0.7152**2 + 0.0722**2), rel=0.1
    )
    model = ShotModel(evidence, sh010.frames)
    assert model.at(reel.recipe_of(sh010)).cost[0] == pytest.approx(18 / (27 * 48 * 64), rel=0.05)


def test_frames_without_times_can_be_looked_at_but_not_planned_from(shot, tmp_path):
    reel, sh010, root = shot
    shutil.rmtree(root / "sh010")
    sequence(tmp_path / "in", "x.{frame}{ending}", seeds=(1,))
    proof, words = bring_in(root, Bringing(sh010, reel.recipe_of(sh010), pattern_of(tmp_path / "in" / "x.1001.exr"), samples=16))
    assert "Seconds of 1001-1005 are not known" in words[0] and "One seed" in words[1]
    evidence = EvidenceReader().read(root, sh010)
    assert len(evidence.frames) == 5 and evidence.faults == ()
    with pytest.raises(HastyReelError, match="No proof"):
        ShotModel(evidence, sh010.frames)
    assert proof.id == "p001"


@pytest.mark.parametrize("ending", [".png", ".tif", ".jpg", ".dpx"])
def test_pictures_of_display_codes_are_decoded_to_light(shot, tmp_path, ending):
    """IEC 61966-2-1: code 0.5 is 0.2140 of the light."""
    reel, sh010, root = shot
    folder = tmp_path / "in"
    folder.mkdir()
    for seed in (1, 2):
        write(folder / f"x_s{seed}_1001{ending}", np.full((16, 16, 3), 0.5), ("R", "G", "B"), "uint8")
    pattern = pattern_of(folder / f"x_s1_1001{ending}")
    proof, _ = bring_in(root, Bringing(sh010, reel.recipe_of(sh010), pattern, guess_pair(pattern), samples=8, times=Times({1001: 3.0})))
    rgb = read_picture(root / "sh010" / proof.id / proof.pictures[0].file).rgb
    assert rgb.mean() == pytest.approx(0.214, abs=0.006)
    plain, _ = bring_in(root, Bringing(sh010, reel.recipe_of(sh010), pattern, samples=8, coded=False))
    assert read_picture(root / "sh010" / plain.id / plain.pictures[0].file).rgb.mean() == pytest.approx(0.5, abs=0.01)


def test_our_own_frames_come_in_as_they_are(shot, tmp_path):
    reel, sh010, root = shot
    folder = tmp_path / "in"
    folder.mkdir()
    for path in (SOURCE / "proofs" / "sh010" / "p002").glob("*.exr"):
        shutil.copy(path, folder / path.name)
    pattern = sequences_in(sorted(folder.glob("*.exr")))[0]
    pair = guess_pair(pattern)
    assert pair is not None and pattern.after == ".s1.exr" and pair.after == ".s2.exr"
    proof, words = bring_in(root, Bringing(sh010, reel.recipe_of(sh010), pattern, pair))
    assert words == [] and proof.samples == 16 and len(proof.by_frame()) == 9
    rows = {r.frame: r for r in EvidenceReader().read(root, sh010).frames if r.proof == proof.id}
    old = {r.frame: r for r in EvidenceReader().read(SOURCE / "proofs", sh010).frames if r.proof == "p002"}
    assert rows[1048].noise_linear == pytest.approx(old[1048].noise_linear, rel=1e-3)
    assert (root / "sh010" / proof.id / "denoise.json").is_file(), "a run with guides also shows what denoising does"


def test_broken_missing_and_odd_frames_are_told_and_the_rest_comes_in(shot, tmp_path):
    reel, sh010, root = shot
    folder = tmp_path / "in"
    sequence(folder, "x.{frame}{ending}", seeds=(1,), frames=range(1001, 1007))
    (folder / "x.1002.exr").write_bytes((folder / "x.1002.exr").read_bytes()[:400])
    write(folder / "x.1004.exr", np.zeros((5, 5, 3)), ("R", "G", "B"))
    write(folder / "x.1005.exr", np.full((27, 48, 3), np.nan), ("R", "G", "B"))
    proof, words = bring_in(root, Bringing(sh010, reel.recipe_of(sh010), pattern_of(folder / "x.1001.exr"), samples=4))
    assert sorted(proof.by_frame()) == [1001, 1003, 1006]
    assert (
        any("x.1002.exr" in w for w in words) and any("5x5; expected 48x27" in w for w in words) and any("not finite" in w for w in words)
    )


@pytest.mark.parametrize(
    "names, expected",
    [
        (("R", "G", "B", "A"), {"colour": ("R", "G", "B")}),
        (
            ("B", "G", "R", "Z", "albedo.B", "albedo.G", "albedo.R"),
            {"colour": ("R", "G", "B"), "depth": ("Z",), "albedo": ("albedo.R", "albedo.G", "albedo.B")},
        ),
        (
            ("beauty.red", "beauty.green", "beauty.blue", "N.X", "N.Y", "N.Z"),
            {"colour": ("beauty.red", "beauty.green", "beauty.blue"), "normal": ("N.X", "N.Y", "N.Z")},
        ),
        (
            ("R", "G", "B", "velocity.x", "velocity.y", "Depth.Z"),
            {"colour": ("R", "G", "B"), "motion": ("velocity.x", "velocity.y"), "depth": ("Depth.Z",)},
        ),
        (("Y",), {"colour": ("Y", "Y", "Y")}),
    ],
)
def test_channels_are_guessed(names, expected):
    assert guess_channels(names) == expected


def test_a_guess_can_be_corrected(tmp_path):
    path = tmp_path / "a.exr"
    pixels = np.arange(6, dtype=np.float32)[None, None, :].repeat(4, 0).repeat(4, 1)
    write(path, pixels, ("R", "G", "B", "first.r", "first.g", "first.b"), "float")
    assert "albedo" not in guess_channels(("R", "G", "B", "first.r", "first.g", "first.b"))
    channels = {**guess_channels(("R", "G", "B")), **read_channels_text("albedo=first.r, first.g, first.b")}
    picture = read_foreign(path, channels, False)
    assert picture.guides["albedo.G"].mean() == 4.0
    with pytest.raises(PictureError, match=r"no channel 'second.r' for albedo; it has R, G, B"):
        read_foreign(path, {**channels, "albedo": ("second.r", "first.g", "first.b")}, False)
    assert read_channels_text("depth=none") == {"depth": ()}
    for text in ("albedo=a.R", "mood=a", "motion=x,y,z"):
        with pytest.raises(WrongInput):
            read_channels_text(text)


def test_times_are_read_from_heads_and_logs(tmp_path):
    assert seconds_in({"hr:seconds": 12.5}) == 12.5 and seconds_in({"RenderTime": "1:02:03.5"}) == 3723.5
    assert seconds_in({"render_time": "02:30"}) == 150.0 and seconds_in({"Mood": 5}) is None and seconds_in({"Mood": 5.0}, "mood") == 5.0
    log = tmp_path / "a.log"
    log.write_text("start\nframe 1001 took 0 min 24.5 s\nnoise\nframe 1002 took 1 min 2,25 s\n")
    times = read_log(log, r"frame (?P<frame>\d+) took (?P<minutes>\d+) min (?P<seconds>[\d.,]+) s")
    assert times.seconds == {1001: 24.5, 1002: 62.25}
    for pattern, words in (
        ("(", "expected a regular expression"),
        ("frame (\\d+)", "groups named"),
        ("x(?P<frame>1)(?P<seconds>2)", "nothing fits"),
    ):
        with pytest.raises(WrongInput, match=words):
            read_log(log, pattern)


@pytest.mark.parametrize(
    "text, words",
    [
        ("", "line 1: no column 'frame'"),
        ("frame,seconds\n", "no rows"),
        ("frame,seconds\n1001,fast\n", "line 2: seconds is 'fast'"),
        ("frame,seconds\n1001,-4\n", "line 2: seconds is '-4'"),
        ("frame,seconds,load_seconds\n1001,4,x\n", "line 2: load_seconds is 'x'"),
    ],
)
def test_tables_of_times_that_do_not_do_are_told(tmp_path, text, words):
    path = tmp_path / "t.csv"
    path.write_text(text)
    with pytest.raises(WrongInput, match=re.escape(words)):
        read_times(path)


def test_what_cannot_be_brought_in_is_told(shot, tmp_path):
    reel, sh010, root = shot
    sequence(tmp_path / "in", "x.{frame}{ending}", seeds=(1,), frames=range(1, 3))
    with pytest.raises(WrongInput, match=r"no frames of sh010; expected some of 1001 to 1096"):
        bring_in(root, Bringing(sh010, reel.recipe_of(sh010), read_pattern(str(tmp_path / "in" / "x.#.exr")), samples=4))
    sequence(tmp_path / "in", "y.{frame}{ending}", seeds=(1,))
    with pytest.raises(WrongInput, match="how many samples a pixel got is not told"):
        bring_in(root, Bringing(sh010, reel.recipe_of(sh010), pattern_of(tmp_path / "in" / "y.1001.exr")))
    for name, words in (("a.gif", "expected a picture ending in"), ("still.png", "no frame number in the name")):
        with pytest.raises(WrongInput, match=words):
            pattern_of(Path(name))


@given(
    st.dictionaries(st.text(max_size=12), st.text(max_size=20) | st.floats() | st.integers(), max_size=4),
    st.lists(st.text(max_size=12), max_size=6),
)
@settings(max_examples=60)
def test_heads_of_any_kind_do_no_harm(attributes, names):
    found = seconds_in(attributes)
    assert found is None or found >= 0 or np.isnan(found)
    guess_channels(names)


def test_file_dates_tell_what_frames_took_but_for_pauses(tmp_path):
    paths = {}
    moments = {1001: 100.0, 1002: 104.0, 1003: 108.5, 1005: 112.0, 1004: 200.0, 1006: 203.5}
    for frame, moment in moments.items():
        paths[frame] = tmp_path / f"a.{frame}.exr"
        paths[frame].write_bytes(b"x")
        os.utime(paths[frame], (moment, moment))
    times, pauses = times_of_files(paths)
    assert pauses == 1 and 1004 not in times.seconds, "it came after a pause"
    assert times.seconds == pytest.approx({1001: 4.0, 1002: 4.0, 1003: 4.5, 1005: 3.5, 1006: 3.5})
    for path in paths.values():
        os.utime(path, (500.0, 500.0))
    with pytest.raises(WrongInput, match=r"written within 0\.00 s of each other, as by copying"):
        times_of_files(paths)
    with pytest.raises(WrongInput, match="2 files; expected at least 3"):
        times_of_files({f: paths[f] for f in (1001, 1002)})


def test_the_same_frames_in_another_size_are_found_beside_a_sequence(tmp_path):
    sequence(tmp_path / "full", "bay.s{seed}.{frame}{ending}")
    sequence(tmp_path / "full", "sky.s{seed}.{frame}{ending}")
    (tmp_path / "half").mkdir()
    for frame in (1002, 1004):
        write(tmp_path / "half" / f"bay.{frame}.exr", np.full((14, 24, 3), 0.3), ("R", "G", "B"))
        write(tmp_path / "half" / f"later.{frame + 500}.exr", np.full((14, 24, 3), 0.3), ("R", "G", "B"))
    found = other_sizes(pattern_of(tmp_path / "full" / "bay.s1.1001.exr"))
    assert [(p.folder.name, p.before, size) for p, size in found] == [("half", "bay.", (24, 14))], "of its frames, and no seed or like size"
    assert other_sizes(read_pattern(str(tmp_path / "none" / "x.####.exr"))) == []


def test_layers_that_hold_colour_are_told_from_guides():
    names = ["R", "G", "B", "A", "glow.B", "glow.G", "glow.R", "normal.X", "normal.Y", "normal.Z", "albedo.R", "albedo.G", "albedo.B", "Z"]
    assert colour_layers(names) == {"": ("R", "G", "B"), "glow": ("glow.R", "glow.G", "glow.B")}
