"""One list with a chosen one for everything that is kept for a person."""

from __future__ import annotations

import msgspec
import pytest

from hasty_reel.errors import WrongInput
from hasty_reel.own.chosenlist import LONGEST_NAME, MOST_ITEMS, ChosenList
from hasty_reel.own.draftcuts import DRAFT_CUTS
from hasty_reel.reel.draftcut import DraftCut

CUT = DRAFT_CUTS.read().items[0]


def named(name: str) -> DraftCut:
    return msgspec.structs.replace(CUT, name=name)


def test_one_is_chosen_always_or_none_where_that_may_be():
    a, b = named("a"), named("b")
    assert ChosenList((a, b), "b").choice is b and ChosenList((a, b), "gone").choice is a
    assert ChosenList((a, b), "", optional=True).choice is None
    found = ChosenList((a, b), "a")
    assert found.without(a).current is b and found.choosing("b").current is b
    assert found.added(named("b")).items[1] is not b, "one of the same name gives way"
    assert found.changed(a, named("c")).chosen == "c"
    assert found.free_name("a") == "a 2"


def test_what_ships_counts_while_nothing_is_kept_and_what_is_kept_reads_back(tmp_path):
    shipped = DRAFT_CUTS.read(tmp_path / "cuts.json")
    assert shipped.items
    changed = shipped.added(named("mine"))
    DRAFT_CUTS.save(changed, tmp_path / "cuts.json")
    assert DRAFT_CUTS.read(tmp_path / "cuts.json") == changed


@pytest.mark.parametrize(
    ("names", "words"),
    [(["a", "a"], "two of one name"), ([""], "expected a name"), (["x" * (LONGEST_NAME + 1)], "expected a name"),
     ([str(k) for k in range(MOST_ITEMS + 1)], f"expected 1 to {MOST_ITEMS}")],
)  # fmt: skip
def test_lists_that_make_no_sense_are_refused(names, words, tmp_path):
    with pytest.raises(WrongInput, match=words):
        DRAFT_CUTS.save(ChosenList(tuple(named(n) for n in names), names[0]), tmp_path / "cuts.json")
    assert not (tmp_path / "cuts.json").exists()


def test_a_damaged_file_is_told_and_stays(tmp_path):
    path = tmp_path / "cuts.json"
    path.write_text('{"cuts": [')
    with pytest.raises(WrongInput, match=r"cuts\.json"):
        DRAFT_CUTS.read(path)
    assert path.read_text() == '{"cuts": ['
