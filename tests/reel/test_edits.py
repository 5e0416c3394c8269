"""Edits: each gives a new reel, checked; the old one stays."""

from __future__ import annotations

from datetime import UTC, datetime
from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from reels import reels

from hasty_reel.demo.make import demo_reel as made_reel
from hasty_reel.errors import HastyReelError, WrongInput
from hasty_reel.reel import edits as ed
from hasty_reel.reel.document import Reel
from hasty_reel.reel.fresh import fresh_reel
from hasty_reel.reel.history import History
from hasty_reel.reel.hours import Weekly
from hasty_reel.reel.moves import Loop, Turntable, Viewpoints
from hasty_reel.reel.shot import Hold, Layer
from hasty_reel.reel.shottable import read_table, write_table
from hasty_reel.settings.recipe import SETTINGS


def ids(reel: Reel) -> list[str]:
    return [s.id for s in reel.shots]


def test_a_line_is_set_for_all_shots_of_the_recipe_or_for_the_departure():
    reel = ed.with_line(made_reel(), "sh010", "bounces", 3)
    assert reel.recipe_of(reel.shot("sh050")).bounces == 3
    reel = ed.with_line(reel, "sh020", "shutter_steps", 32)
    assert reel.recipe_of(reel.shot("sh020")).shutter_steps == 32
    assert reel.recipe_of(reel.shot("sh010")).shutter_steps == 8
    apart = ed.departed(reel, "sh010", "bounces", 9)
    assert apart.recipe("Final").bounces == 3 and apart.recipe_of(apart.shot("sh010")).bounces == 9
    assert ed.rejoined(apart, "sh010", "bounces") == reel


def test_shots_are_moved_duplicated_split_and_removed():
    reel = made_reel()
    assert ids(ed.moved(reel, "sh040", 0)) == ["sh040", "sh010", "sh020", "sh030", "sh050"]
    assert ids(ed.moved(reel, "sh010", 99))[-1] == "sh010"
    copied, copy = ed.duplicated(reel, "sh020")
    assert ids(copied)[:4] == ["sh010", "sh020", "sh020b", "sh030"] and copied.shot(copy).proofs == "sh020"
    cut, tail = ed.split(reel, "sh010", 1040)
    assert (cut.shot("sh010").last, cut.shot(tail).first, cut.shot(tail).last) == (1039, 1040, 1096)
    assert cut.length == reel.length and cut.shot(tail).proofs == "sh010"
    assert ids(ed.removed(reel, "sh030")) == ["sh010", "sh020", "sh040", "sh050"]
    more, new = ed.added(reel, "sh010")
    assert ids(more)[1] == new == "sh060" and more.shot(new).length == 24
    for frame in (1001, 1097, 0):
        with pytest.raises(WrongInput, match="cannot be split at frame"):
            ed.split(reel, "sh010", frame)


def test_the_last_of_anything_stays():
    reel = fresh_reel("One", "lamp_wakes", datetime(2026, 11, 24, 20, tzinfo=UTC))
    assert reel.due.startswith("2026-11-25T09:00")
    for act in (lambda: ed.removed(reel, "sh010"), lambda: ed.removed_recipe(reel, "Final"), lambda: ed.removed_machine(reel, 0)):
        with pytest.raises(WrongInput, match=r"the only one|is used by"):
            act()


def test_renumbered_frames_show_what_they_showed():
    reel = ed.with_shot_fields(made_reel(), "sh010", pins={1010: 64})
    shot = ed.with_first(reel, "sh010", 1).shot("sh010")
    assert (shot.first, shot.last, shot.offset, shot.pins) == (1, 96, -1000, {10: 64})
    assert shot.scene_frame(1) == 1001 and shot.scene_frame(96) == 1096


def test_frames_told_as_a_move_follow_the_rate():
    reel = ed.with_rate(made_reel(), Fraction(25))
    assert reel.shot("sh050").length == 100 and reel.shot("sh030").length == 75
    assert reel.shot("sh010").length == 96, "a range keeps its frames"
    turned = ed.with_move(reel, "sh010", Turntable(seconds=2.0))
    assert turned.shot("sh010").length == 50
    assert ed.with_move(turned, "sh010", None).shot("sh010").length == 50
    with pytest.raises(HastyReelError, match="has no frame"):
        ed.with_move(reel, "sh010", Loop(seconds=0.001))
    assert isinstance(reel.shot("sh030").move, Viewpoints)


def test_layers_are_shots_of_their_own():
    reel = ed.with_layers(
        made_reel(), "sh040", (Layer(id="plate", scene="bay", held=1005), Layer(id="fog", scene="bay_fog", recipe="Preview"))
    )
    plate, fog = reel.shot("sh040.plate"), reel.shot("sh040.fog")
    assert list(plate.frames) == [1005] and len(fog.frames) == 84 and fog.recipe == "Preview"
    assert [t.id for t in reel.tasks] == ["sh010", "sh020", "sh030", "sh040.plate", "sh040.fog", "sh050"]
    held = ed.with_hold(reel, "sh040.fog", Hold(kind="cap", value=9.0))
    assert held.shot("sh040.fog").hold.value == 9.0 and held.shot("sh040").hold == reel.shot("sh040").hold
    assert ed.with_line(reel, "sh040.fog", "bounces", 1).recipe("Preview").bounces == 1
    shorter = ed.with_frames(reel, "sh040", 1010, 1030)
    assert shorter.shot("sh040.plate").first == 1006, "a held frame stays within the shot, handles counted"


def test_a_renamed_shot_keeps_its_proofs():
    reel = ed.renamed_shot(made_reel(), "sh010", "lamp")
    assert reel.shot("lamp").proofs == "sh010"
    assert ed.renamed_shot(reel, "lamp", "sh010") == made_reel()
    with pytest.raises(HastyReelError, match="twice"):
        ed.renamed_shot(reel, "lamp", "sh020")
    with pytest.raises(HastyReelError, match="expected letters, digits"):
        ed.renamed_shot(reel, "lamp", "a/b")


def test_recipes_are_renamed_everywhere_at_once():
    reel = ed.with_layers(made_reel(), "sh040", (Layer(id="fog", scene="bay_fog", recipe="Final"),))
    reel = ed.renamed_recipe(reel, "Final", "Night")
    assert {s.recipe for s in reel.shots} == {"Night"} and reel.shot("sh040").layers[0].recipe == "Night"
    two, name = ed.duplicated_recipe(reel, "Night")
    assert name == "Night 2" and two.recipe(name).bounces == 6
    assert ed.removed_recipe(two, name) == reel
    with pytest.raises(WrongInput, match="is used by sh010"):
        ed.removed_recipe(reel, "Night")
    with pytest.raises(HastyReelError, match="two of one name"):
        ed.renamed_recipe(reel, "Night", "Preview")


def test_a_shot_that_is_off_counts_neither_in_the_film_nor_in_the_plan():
    reel = ed.with_shot_fields(made_reel(), "sh020", enabled=False)
    assert reel.length == made_reel().length - 72 and "sh020" not in [t.id for t in reel.tasks]
    assert reel.places["sh030"] == 96 and reel.film_place(reel.shot("sh020"), 1001) is None


def test_machines_are_added_changed_and_removed():
    reel = ed.added_machine(made_reel())
    assert reel.machines[2].name == "Machine 3" and reel.machines[2].free == reel.machines[1].free
    reel = ed.with_machine(reel, 2, free=(Weekly(days=("sun",)),), speed=2.0)
    assert reel.machines[2].frame_speed == 2.0
    assert ed.removed_machine(reel, 2) == made_reel()
    with pytest.raises(HastyReelError, match=r"Machine 'Machine 3'.speed: 0.0; expected 0.001 to 1000"):
        ed.with_machine(ed.added_machine(made_reel()), 2, speed=0.0)


acts = st.sampled_from(
    [
        lambda r, s, n: ed.with_line(r, s, SETTINGS[n % len(SETTINGS)].field, n),
        lambda r, s, n: ed.with_hold(r, s, Hold(kind="noise", value=(n + 1) / 1000)),
        lambda r, s, n: ed.moved(r, s, n % 5),
        lambda r, s, n: ed.duplicated(r, s)[0],
        lambda r, s, n: ed.split(r, s, r.shot(s).first + n)[0],
        lambda r, s, n: ed.removed(r, s),
        lambda r, s, n: ed.added(r, s)[0],
        lambda r, s, n: ed.with_frames(r, s, 1001, 1001 + n, 1 + n % 3),
        lambda r, s, n: ed.with_first(r, s, n),
        lambda r, s, n: ed.with_move(r, s, Turntable(seconds=n / 10)),
        lambda r, s, n: ed.with_rate(r, Fraction(n + 1, 2)),
        lambda r, s, n: ed.with_size(r, n, None),
        lambda r, s, n: ed.swapped(r),
        lambda r, s, n: ed.renamed_recipe(r, "Final", f"Final {n}"),
        lambda r, s, n: ed.with_layers(r, s, (Layer(id="a", scene="x", held=n),)),
        lambda r, s, n: ed.with_shot_fields(r, s, enabled=bool(n % 2), handle_in=n % 9),
        lambda r, s, n: ed.with_machine(r, 0, workers=n),
        lambda r, s, n: ed.added_machine(r),
    ]
)


@given(reels(), st.lists(st.tuples(acts, st.integers(0, 3), st.integers(0, 120)), max_size=12))
@settings(max_examples=60)
def test_any_sequence_of_edits_undone_gives_the_first_document_and_redone_the_last(first, steps):
    history = History(first)
    for act, which, number in steps:
        shots = history.reel.shots
        try:
            new = act(history.reel, shots[which % len(shots)].id, number)
        except HastyReelError:
            continue
        history.edit("Edit", new)
    last = history.reel
    while history.undo_name:
        history.undo()
    assert history.reel == first
    while history.redo_name:
        history.redo()
    assert history.reel == last


def test_weights_go_along_with_their_frames_and_are_let_go_outside(tmp_path):
    reel = ed.with_weight(made_reel(), "sh010", 1010, 1012, 3.0)
    assert reel.shot("sh010").weights == {1010: 3.0, 1011: 3.0, 1012: 3.0}
    moved = ed.with_first(reel, "sh010", 2001)
    assert moved.shot("sh010").weights == {2010: 3.0, 2011: 3.0, 2012: 3.0}
    assert ed.with_frames(reel, "sh010", 1012, 1020).shot("sh010").weights == {1012: 3.0}
    assert ed.with_weight(reel, "sh010", 1001, 1096, 1.0).shot("sh010").weights == {}
    write_table(tmp_path / "shots.csv", reel)
    assert read_table(tmp_path / "shots.csv", "x", "Final")[0].weights == {1010: 3.0, 1011: 3.0, 1012: 3.0}
    with pytest.raises(HastyReelError, match=r"shots\[0\].weights: 5; expected a frame of the shot"):
        ed.with_shot_fields(made_reel(), "sh010", weights={5: 2.0})
    with pytest.raises(HastyReelError, match="Shot sh010: weight -1; expected a number above 0"):
        ed.with_weight(reel, "sh010", 1001, 1002, -1.0)
