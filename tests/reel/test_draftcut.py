"""Draft cuts: they lie over what is rendered as a proof, and no path leads further."""

from __future__ import annotations

import ast
from pathlib import Path

import msgspec
import pytest

import hasty_reel
from hasty_reel.demo.make import demo_reel as made_reel
from hasty_reel.errors import ReelError
from hasty_reel.farm.order import ProofOrder
from hasty_reel.own.chosenlist import ChosenList
from hasty_reel.own.draftcuts import DRAFT_CUTS, SHIPPED
from hasty_reel.reel.document import Reel
from hasty_reel.reel.draftcut import DraftCut, drafted
from hasty_reel.reel.file import reel_text

SOURCE = Path(hasty_reel.__file__).parent
CUT = DraftCut(name="Look", size=10.0, samples=4, bounces=1, shutter_steps=2, fog_step=400.0, guides=False, seeds=1)
MAY_KNOW = {"reel/draftcut.py", "own/draftcuts.py", "farm/order.py", "studio/draftcuts.py", "studio/ownsettings.py"}
"""Who may know of draft cuts: where they are kept, where a proof is ordered, and where they are switched."""


def test_a_cut_reduces_and_never_raises():
    reel = made_reel()
    final = reel.recipe("Final")
    under = drafted(final, CUT)
    assert (under.bounces, under.shutter_steps, under.fog_step) == (1, 2, 400.0)
    low = msgspec.structs.replace(final, bounces=0, shutter_steps=1, fog_step=1000.0)
    assert msgspec.structs.replace(drafted(low, CUT), name="Final") == low
    assert drafted(msgspec.structs.replace(final, shutter_steps=0), CUT).shutter_steps == 2, "random times count as the most steps"
    order = ProofOrder(reel.shot("sh010"), final, (1001,), 64, 50.0).under(CUT)
    assert (order.samples, order.scale, order.seeds, order.guides, order.draft) == (4, 10.0, 1, False, "Look")
    small = ProofOrder(reel.shot("sh010"), final, (1001,), 2, 5.0).under(CUT)
    assert (small.samples, small.scale) == (2, 5.0)


def test_no_other_module_knows_of_draft_cuts():
    """What cannot import a cut cannot let it through: finals, plans, exports and the reel file are not among those that may."""
    for path in sorted(SOURCE.rglob("*.py")):
        place = path.relative_to(SOURCE).as_posix()
        imported = [n.module for n in ast.walk(ast.parse(path.read_text())) if isinstance(n, ast.ImportFrom)]
        assert "hasty_reel.reel.draftcut" not in imported or place in MAY_KNOW, place
    # of those that may know, only the order of a proof lays one over a recipe
    callers = [p.relative_to(SOURCE).as_posix() for p in SOURCE.rglob("*.py") if "drafted(" in p.read_text()]
    assert sorted(callers) == ["farm/order.py", "reel/draftcut.py"]


def test_the_reel_document_has_no_place_for_a_cut():
    assert "draft" not in reel_text(made_reel()).lower()
    names = {f.name for f in msgspec.structs.fields(Reel)}
    assert not any("draft" in n or "cut" in n for n in names)


def test_cuts_are_kept_for_the_artist_and_go_from_reel_to_reel(tmp_path):
    path = tmp_path / "config" / "draft-cuts.json"
    assert DRAFT_CUTS.read(path) == SHIPPED
    cuts = ChosenList((*SHIPPED.items, CUT), chosen="Look")
    DRAFT_CUTS.save(cuts, path)
    assert DRAFT_CUTS.read(path) == cuts and DRAFT_CUTS.read(path).current == CUT
    assert ChosenList(SHIPPED.items, chosen="gone").current == SHIPPED.items[0]


@pytest.mark.parametrize(
    "cuts, words",
    [
        (ChosenList((), chosen=""), "expected 1 to 100"),
        (ChosenList((CUT, CUT), chosen=""), "two of one name"),
        (ChosenList((DraftCut(name=" "),), chosen=""), "expected a name"),
        (ChosenList((DraftCut(name="a", size=500.0),), chosen=""), "size 500; expected 1 to 200"),
        (ChosenList((DraftCut(name="a", seeds=3),), chosen=""), "seeds 3; expected 1 to 2"),
        (ChosenList((DraftCut(name="a", size=float("nan")),), chosen=""), "size nan"),
    ],
)
def test_cuts_that_make_no_sense_are_told(tmp_path, cuts, words):
    with pytest.raises(ReelError, match=words):
        DRAFT_CUTS.save(cuts, tmp_path / "c.json")


@pytest.mark.parametrize("raw", [b"", b"{", b"[]", b'{"cuts": [], "chosen": 1}', b"[" * 100_000, b"\xff"])
def test_broken_cuts_are_told_with_their_file(tmp_path, raw):
    path = tmp_path / "c.json"
    path.write_bytes(raw)
    with pytest.raises(ReelError) as error:
        DRAFT_CUTS.read(path)
    assert str(path) in str(error.value)
