"""Settings of the artist's own, from their declaration to frames that a linked renderer makes with them; recipes that travel."""

from __future__ import annotations

import json
import sys

import pytest

from hasty_reel.errors import ReelError
from hasty_reel.evidence.attribution import attribute
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.farm.renderers.links import LINKS, Link
from hasty_reel.pictures.frame import read_picture
from hasty_reel.plan.compare.prices import price_tags
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.draftcut import DraftCut, drafted
from hasty_reel.reel.file import read_reel
from hasty_reel.settings.own import OwnSetting, OwnValue, checked_own_setting
from hasty_reel.settings.recipe import Recipe
from second_link import PROGRAM

COMMAND = (
    sys.executable, str(PROGRAM), "--scene", "{scene}", "--frame", "{frame}", "--size", "{width}x{height}", "--samples", "{samples}",
    "--seed", "{seed}", "--bounces", "{own.depth}", "--start", "{own.patience}", "--out", "{output}",
)  # fmt: skip
LINKED = Link(name="Mine", command=COMMAND, timeout=120.0)


@pytest.fixture
def own_reel(call, tmp_path):
    """A reel of the second stand-in's scene with two own settings, and the link that takes them."""
    path = tmp_path / "mine.reel"
    status, _, err = call("begin", "--out", path, "--scene", "crossing", "--size", "48x28", "--range", "1-4", "--hold", "noise 0.05")
    assert status == 0, err
    depth = ("--label", "Ray depth", "--low", 1, "--high", 12, "--whole", "--default", 6)
    assert call("setting", "add", path, "depth", *depth, "--keep")[0] == 0
    status, said, _ = call("setting", "add", path, "patience", "--high", 5, "--acts-on", "time", "--unit", "s")
    assert status == 0 and "changes the time alone; {own.patience}" in said
    LINKS.save(LINKS.read().added(LINKED))
    return path


def test_two_own_settings_are_proven_priced_swept_told_apart_and_rendered(call, own_reel, tmp_path):
    name = read_reel(own_reel).shots[0].id
    assert call("set", own_reel, f"{name}.own.depth=4", "recipe.Final.own.patience=0.1", "recipe.Final.shutter_steps=1")[0] == 0

    def prices() -> dict:
        reel = read_reel(own_reel)
        shot = reel.shots[0]
        model = ShotModel(EvidenceReader().read(own_reel.parent / reel.proofs, shot), shot.frames)
        return price_tags(reel, model, plan_shot(reel, shot, model))

    proven = ("proof", own_reel, "--shot", name, "--samples", 16, "--scale", 100)
    assert call(*proven, "--frames", "1,4")[0] == 0
    assert prices()["own.depth"].seconds is None and prices()["own.patience"].seconds is None
    status, said, err = call(*proven, "--frames", "2", "--sweep", "own.depth", "--values", "4,6", "--json")
    assert status == 0, err
    assert json.loads(said)["sweep"] == "own.depth 1" and json.loads(said)["finding"].startswith("Ray depth")
    assert prices()["own.depth"].seconds is not None and prices()["own.patience"].seconds is None
    reel = read_reel(own_reel)
    rows = EvidenceReader().read(own_reel.parent / reel.proofs, reel.shots[0]).frames
    told = {s.words for s in attribute(rows).effects}
    assert told == {"ray depth 4 → 6"}

    out = tmp_path / "out"
    status, _, err = call("run", own_reel, "--shot", name, "--frames", "1-2", "--out", out)
    assert status == 0, err
    (rendered,) = out.rglob("rendered/*.0001.exr")
    head = read_picture(rendered).attributes
    assert head["hr:own:depth"] == 4.0 and head["hr:own:patience"] == pytest.approx(0.1)

    def states() -> str:
        return call("run", own_reel, "--shot", name, "--frames", "1-2", "--out", out, "--json")[2]

    assert call("set", own_reel, "recipe.Final.own.patience=0")[0] == 0
    assert "rendered with other settings" not in states()
    assert call("set", own_reel, f"{name}.own.depth=3")[0] == 0
    status, _, err = call("run", own_reel, "--shot", name, "--frames", "1-2", "--out", out)
    assert status != 0 and "other settings" in err


def test_a_link_with_an_own_setting_that_the_reel_has_not_says_so(call, own_reel):
    assert call("setting", "remove", own_reel, "depth")[0] == 0
    name = read_reel(own_reel).shots[0].id
    status, _, err = call("proof", own_reel, "--shot", name, "--frames", "1", "--scale", 100)
    assert status == 1 and "it takes {own.depth}; expected a reel with that own setting" in err


def test_a_declaration_that_changes_carries_its_values_along(call, own_reel):
    name = read_reel(own_reel).shots[0].id
    assert call("set", own_reel, f"{name}.own.depth=9", "recipe.Final.own.depth=5")[0] == 0
    assert call("setting", "change", own_reel, "depth", "--rename", "bounces_most", "--high", 6)[0] == 0
    reel = read_reel(own_reel)
    assert [(v.name, v.value) for v in reel.recipe("Final").own] == [("bounces_most", 5.0)]
    assert reel.shots[0].departures == {}  # 9 is out of its bounds now
    assert reel.recipe_of(reel.shots[0]).value("own.bounces_most") == 5
    status, said, _ = call("setting", "list", own_reel)
    assert status == 0 and "bounces_most: Ray depth, a whole number from 1 to 6, 6 unless said otherwise" in said


def test_a_recipe_travels_with_its_own_settings_and_says_what_is_lacking(call, own_reel, tmp_path):
    assert call("set", own_reel, "recipe.Final.own.depth=3")[0] == 0
    saved, other = tmp_path / "final.recipe", tmp_path / "other.reel"
    assert call("recipe", "save", own_reel, "Final", "--out", saved, "--keep")[0] == 0
    assert call("begin", "--out", other, "--scene", "crossing", "--size", "48x28", "--range", "1-4")[0] == 0
    status, said, _ = call("recipe", "load", other, saved)
    assert status == 0 and "Own setting 'Ray depth' came along with it." in said and "this one is called 'Final 2'" in said
    reel = read_reel(other)
    assert reel.declared(reel.recipe("Final 2")).value("own.depth") == 3 and reel.declared(reel.recipe("Final")).value("own.depth") == 6
    assert call("recipe", "load", other, "Final", "--kept")[0] == 0
    assert [r.name for r in read_reel(other).recipes] == [*(r.name for r in reel.recipes), "Final 3"]
    status, _, err = call("recipe", "load", other, "Nobody", "--kept")
    assert status == 2 and "expected one of 'Final'" in err
    saved.write_text(saved.read_text().replace('"own_settings": [', '"own_settings": [{"name": "X y", "label": "x"}, '))
    status, _, err = call("recipe", "load", other, saved)
    assert status == 2 and "own setting 'X y': expected a name of small letters" in err


@pytest.mark.parametrize(
    "changes, words",
    [
        ({"name": "Frame; rm"}, "expected a name of small letters"),
        ({"label": " "}, "no label"),
        ({"label": "a" * 41}, "up to 40 characters"),
        ({"low": 5.0, "high": 5.0}, "expected a lower and an upper bound"),
        ({"default": 200.0}, "expected a number from 0 to 100"),
        ({"step": 0.0}, "and a step between"),
        ({"high": float("inf")}, "expected numbers up to"),
        ({"kind": "choice", "choices": ("one",)}, "expected 2 to 24 different ones"),
        ({"kind": "choice", "choices": ("a,b", "c")}, "without commas"),
        ({"kind": "choice", "choices": ("none", "some")}, "would read as no value"),
        ({"choices": ("a", "b")}, "expected them with kind 'choice' alone"),
        ({"kind": "switch", "default": 2.0}, "expected off or on"),
    ],
)
def test_a_declaration_that_makes_no_sense_is_told_in_a_sentence(changes, words):
    with pytest.raises(ReelError, match=words):
        checked_own_setting(OwnSetting(**{"name": "a", "label": "A", **changes}), "Here")


def test_a_draft_cut_lowers_an_own_setting_where_the_reel_has_it():
    depth = OwnSetting(name="depth", label="Depth", low=1, high=12, whole=True, default=6)
    cut = DraftCut(name="Quick", own=(OwnValue("depth", 2.0), OwnValue("unknown", 1.0)))
    assert drafted(Recipe(name="Final").declared((depth,)), cut).value("own.depth") == 2
    assert drafted(Recipe(name="Final"), cut).own == ()
