"""The trial of a link, guides of any naming, the sense of motion vectors, and the adapter that the documentation prints."""

from __future__ import annotations

import json
import re
import sys
from itertools import product
from pathlib import Path

import msgspec
import numpy as np
import pytest

from hasty_reel.errors import WrongInput
from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.renderers import close_sessions, renderer_of, try_link
from hasty_reel.farm.renderers.exampleadapter import EXAMPLE
from hasty_reel.farm.renderers.links import LINKS, Link, checked_link
from hasty_reel.farm.renderers.takenpicture import in_our_names
from hasty_reel.measure.vectorsense import vector_sense
from hasty_reel.pictures.bycontent import guides_by_content
from hasty_reel.settings.recipe import SETTINGS, Recipe
from hasty_reel.work import silent
from open_link import OPEN, open_renderer  # noqa: F401  a fixture
from second_link import PROGRAM, SECOND

DOCS = Path(__file__).resolve().parents[2] / "docs"
RECIPE = Recipe(name="T", shutter_steps=1, bounces=1, shutter_angle=0.0)


@pytest.fixture(scope="module")
def crossing():
    """Two frames of the second renderer: glass and mirror pass in front of each other."""
    jobs = (FrameJob("crossing", frame, 192, 108, 16, RECIPE) for frame in (12, 13))
    now, after = (renderer_of(SECOND)(job, silent, None, None).picture for job in jobs)
    return now.rgb, after.rgb, now.vectors


@pytest.mark.parametrize("across, down, of_size", list(product((1, -1), (1, -1), (False, True))))
def test_vectors_in_any_sense_are_read_by_what_carries_one_frame_onto_the_next(crossing, across, down, of_size):
    now, after, vectors = crossing
    written = vectors * (across, down) / ((192, 108) if of_size else (1, 1))
    sense = vector_sense(now, after, written)
    assert sense is not None and sense.clear
    assert (sense.across, sense.of_size) == (across, of_size)
    if np.abs(vectors[..., 1]).max() > 0.5:
        assert sense.down == down


def test_what_does_not_move_or_means_nothing_is_not_read(crossing):
    now, after, vectors = crossing
    assert vector_sense(now, after, 0.1 * vectors / np.abs(vectors).max()) is None
    random = np.random.default_rng(3).normal(0.0, 6.0, vectors.shape)
    found = vector_sense(now, after, random)
    assert found is not None and not found.clear


@pytest.mark.parametrize(
    "names",
    [
        "R G B DiffuseFilter.R DiffuseFilter.G DiffuseFilter.B N.X N.Y N.Z Depth.Z Velocity.X Velocity.Y",
        "beauty.red beauty.green beauty.blue albedo.R albedo.G albedo.B normal.X normal.Y normal.Z Z mv.x mv.y",
        "R G B albedo.R albedo.G albedo.B normal.X normal.Y normal.Z Z motion.X motion.Y",
    ],
)
def test_guides_of_any_naming_have_our_names(names):
    names = names.split()
    planes = np.arange(len(names), dtype=np.float32) * np.ones((2, 3, 1), np.float32)
    ours = in_our_names(planes, names)
    assert [float(ours[n].max()) for n in ("albedo.R", "albedo.B", "normal.Y", "Z", "motion.X", "motion.Y")] == [3, 5, 7, 9, 10, 11]
    assert [float(ours[n].max()) for n in "RGB"] == [0, 1, 2]


def test_a_channel_of_our_name_is_never_taken_for_another_and_others_stay():
    planes = np.arange(5, dtype=np.float32) * np.ones((2, 3, 1), np.float32)
    ours = in_our_names(planes, ["R", "G", "B", "Z", "depth_of_fog"])
    assert float(ours["Z"].max()) == 3 and float(ours["depth_of_fog"].max()) == 4


def test_guides_whose_names_say_nothing_are_told_by_what_is_in_them_and_asked_about(crossing, tmp_path):
    job = FrameJob("crossing", 12, 96, 54, 16, RECIPE)
    picture = renderer_of(SECOND)(job, silent, None, None).picture
    guides = picture.guides
    normal, depth = {"P.x": guides["normal.X"], "P.y": guides["normal.Y"], "P.z": guides["normal.Z"]}, {"aux1": guides["Z"]}
    motion = {"q.a": guides["motion.X"], "q.b": guides["motion.Y"]}
    light = {"spec.R": picture.rgb[..., 0], "spec.G": picture.rgb[..., 1], "spec.B": picture.rgb[..., 2]}
    found = guides_by_content({**light, **normal, **depth, **motion, "mask": np.ones((54, 96), np.float32)})
    assert found == {"normal": ("P.x", "P.y", "P.z"), "depth": ("aux1",), "motion": ("q.a", "q.b")}
    assert guides_by_content(light) == {} and guides_by_content({"n": np.full((5, 5), np.nan)}) == {}
    planes = np.arange(6, dtype=np.float32) * np.ones((2, 3, 1), np.float32)
    said = in_our_names(planes, ["R", "G", "B", "Z", "aux1", "m"], {"depth": ("aux1",), "motion": ()})
    assert float(said["Z"].max()) == 4, "what is said by hand goes before names"


def test_channels_are_said_by_hand(call):
    assert call("link", "add", "Mine", "--", "r", "{frame}", "{output}")[0] == 0
    status, out, _ = call("link", "channels", "Mine", "normal=P.x,P.y,P.z", "depth=none")
    assert status == 0 and "normal    P.x, P.y, P.z" in out and "depth     left out" in out
    status, _, err = call("link", "channels", "Mine", "normal=P.x")
    assert status == 2 and "1 names; expected 3 for normal" in err
    assert call("link", "channels", "Mine")[0] == 0 and LINKS.read().current.channels == {}
    with pytest.raises(WrongInput, match="channels of 'weather'"):
        checked_link(Link(name="x", channels={"weather": ("a",)}))


def test_a_good_renderer_has_nothing_to_mend(open_renderer):  # noqa: F811
    trial = try_link(OPEN, "tide", 1001)
    assert trial.answer.startswith("'Open stand-in' answers: 64x36 in") and "with guides" in trial.answer
    assert set(trial.guides) == {"albedo", "normal", "depth", "motion"} and trial.greeting is not None
    assert "It does not say that it stops after a time: what needs that is grey in the ledger." in trial.found
    taken = trial.taken_by(OPEN)
    assert taken.can == tuple(trial.greeting.can) and taken.vectors == (1, 1)


def test_what_is_wrong_is_a_sentence_with_what_to_change(tmp_path):
    program = tmp_path / "poor.py"
    program.write_text(
        "import sys, numpy as np, OpenImageIO as oiio\n"
        "w, h, frame, out = int(sys.argv[1]), int(sys.argv[2]), int(sys.argv[3]), sys.argv[4]\n"
        "x, y = np.meshgrid(np.arange(w), np.arange(h))\n"
        "at = (x - 4 * frame) % w\n"
        "rgb = np.round(127 + 100 * np.sin(at / w * 12.6)[..., None] * np.cos(y / 5.0)[..., None] * np.ones(3)) / 255\n"
        "n = 0.5 * np.ones((h, w, 3))\n"
        "mv = np.stack([np.full((h, w), -4.0 / w), np.zeros((h, w))], -1)\n"
        "data = np.concatenate([rgb, n, mv], -1).astype(np.float32)\n"
        "spec = oiio.ImageSpec(w, h, 8, oiio.FLOAT)\n"
        "spec.channelnames = ['R', 'G', 'B', 'N.X', 'N.Y', 'N.Z', 'flow.x', 'flow.y']\n"
        "o = oiio.ImageOutput.create(out); o.open(out, spec); o.write_image(np.ascontiguousarray(data)); o.close()\n"
    )
    link = Link(name="poor", command=(sys.executable, str(program), "{width}", "{height}", "{frame}", "{output}"))
    trial = try_link(link, "tide", 5)
    told = "\n".join(trial.remarks)
    for words in (
        "Two seeds gave the same picture: expected {seed} in its command",
        "look like display codes of 8 bits",
        "No albedo: expected channels",
        "No depth: expected channels Z",
        "normals are not of length 1",
        "Motion vectors are shares of the picture, left and down",
        "It tells one number of seconds",
    ):
        assert words in told, words
    taken = trial.taken_by(link)
    assert (taken.vectors, taken.vectors_of_size) == ((-1, 1), True)
    made = renderer_of(taken)(FrameJob("tide", 5, 80, 40, 4, RECIPE), silent, None, None)
    assert np.allclose(made.picture.vectors[..., 0], 4.0, rtol=1e-3), "pixels to the next frame, to the right"
    again = try_link(taken, "tide", 5)
    assert any("Motion vectors are pixels, right and down" in words for words in again.found) and again.taken_by(taken) == taken


def test_what_a_link_cannot_is_told_by_setting():
    line = {s.field: s for s in SETTINGS}
    plain = checked_link(Link(name="x", command=("r", "{frame}", "{output}", "{bounces}", "{crop}")))
    assert plain.lacks(line["bounces"]) == "" and plain.lacks(line["tiles"]) == "" and plain.lacks(line["render_scale"]) == ""
    assert (
        plain.lacks(line["fog_step"]) == "its command has no {fog_step}" and plain.lacks(line["stop_noise"]) == "its command has no {stop}"
    )
    assert plain.lacks(line["keep_scene"]) == "it is started anew for each frame"
    assert plain.lacks(line["denoise_window"]) == "" and plain.lacks(line["samples_floor"]) == "", "these are ours"
    assert Link(name="b").lacks(line["keep_scene"]) == ""
    asked = msgspec.structs.replace(OPEN, can=("crop",), knows=("bounces",))
    assert asked.lacks(line["keep_scene"]) == "it does not say that it keeps a scene loaded from frame to frame"
    assert (
        asked.lacks(line["angle" if "angle" in line else "shutter_angle"]) == "it does not know 'angle'"
        and asked.lacks(line["bounces"]) == ""
    )
    assert OPEN.lacks(line["keep_scene"]) == "", "not asked yet"
    assert msgspec.structs.replace(plain, command=("r", "{job}")).lacks(line["fog_step"]) == ""


def test_the_adapter_in_the_docs_is_the_one_that_ships_and_works_as_printed(call, tmp_path, monkeypatch):
    printed = re.search(r"```python\n(.*?)```", (DOCS / "renderers.md").read_text(), re.DOTALL)
    assert printed is not None and printed[1] == EXAMPLE and len(EXAMPLE.splitlines()) <= 42
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    status, out, _ = call("link", "adapter", tmp_path / "my-link")
    assert status == 0 and (tmp_path / "my-link" / "link.py").is_file()
    assert call("link", "adapter", tmp_path / "my-link")[0] == 2
    program = [sys.executable, str(tmp_path / "my-link" / "adapter.py"), sys.executable, str(PROGRAM)]
    status, out, err = call("link", "add", "My renderer", "--stays", "--", *program)
    assert status == 0 and "stays open" in out, err
    status, out, err = call("link", "try", "--scene", "crossing", "--frame", "12", "--take", "--picture", tmp_path / "came.exr", "--json")
    told = json.loads(out)
    assert status == 0 and told["can"] == ["crop", "guides"] and (tmp_path / "came.exr").is_file(), err
    assert set(told["guides"]) == {"albedo", "normal", "depth", "motion"} and told["seconds"]["sampling"] > 0
    assert [w for w in told["remarks"] if "seeds" in w or "codes" in w] == []
    close_sessions()
