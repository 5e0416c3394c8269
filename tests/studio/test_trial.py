"""Settings that are only tried: nothing of them is saved until they are kept, and dropping them leaves nothing behind."""

from __future__ import annotations

from hasty_reel.reel.edits import with_hold
from hasty_reel.reel.file import read_reel
from hasty_reel.reel.shot import Hold
from hasty_reel.studio.budget.motionsize import MotionSizeModel


def test_what_is_tried_is_planned_beside_what_stands_and_dropped_whole(session, loop):
    before, stood = session.reel, session.plan
    session.begin_trial()
    assert session.trial.trying and session.trial.words.startswith("Trying settings")
    session.set_line("bounces", 1)
    session.set_line("render_scale", 75.0)
    loop.until(lambda: not session.planner.stale)
    assert session.trial.stands is stood and session.plan.recipe.bounces == 1
    words = session.trial.words
    assert words.startswith("Trying bounces 6 → 1, render scale 100 → 75: ") and " instead of " in words
    assert not session.changed, "there is nothing to save"
    session.drop_trial()
    assert session.reel == before and not session.trial.trying and session.trial.words == ""
    assert session.history.undo_name is None and session.trial.stands is None


def test_what_is_kept_is_one_edit_and_undo_does_not_reach_behind_a_trial(session, loop):
    session.set_line("bounces", 5)
    session.begin_trial()
    session.undo()
    assert session.recipe.bounces == 5, "a trial begins with nothing to undo"
    session.set_line("bounces", 2)
    session.set_line("brightness_ceiling", 3.0)
    session.undo()
    session.set_line("brightness_ceiling", 2.0)
    session.keep_trial()
    assert (session.recipe.bounces, session.recipe.brightness_ceiling) == (2, 2.0)
    assert session.history.undo_name == "Keep what was tried"
    session.undo()
    assert session.recipe.bounces == 5 and session.history.undo_name == "Set bounces"


def test_a_save_while_trying_keeps_the_file_as_it_stood(session, loop):
    session.set_line("bounces", 5)
    session.begin_trial()
    session.set_line("bounces", 1)
    assert session.save()
    assert read_reel(session.path).recipe("Final").bounces == 5
    assert session.recipe.bounces == 1 and session.trial.trying and not session.changed
    session.keep_trial()
    assert session.changed and session.save() and read_reel(session.path).recipe("Final").bounces == 1


def test_finals_wait_until_what_is_tried_is_kept_or_dropped(session, loop):
    final = session.final
    loop.until(lambda: final.may_go)
    session.begin_trial()
    assert not final.may_go and final.note.startswith("Settings are only tried")
    session.drop_trial()
    loop.until(lambda: final.may_go)


def test_another_hold_is_tried_as_well(session, loop):
    session.begin_trial()
    session.do("Hold noise", lambda reel: with_hold(reel, session.playhead.shot_id, Hold(kind="noise", value=0.01)))
    loop.until(lambda: not session.planner.stale)
    assert session.trial.words.startswith("Trying another hold: ")
    session.drop_trial()


def test_steps_and_size_are_found_while_somebody_looks(session, loop):
    model = MotionSizeModel(session)
    loop.turn()
    assert model.found is None
    model.watch(True)
    loop.until(lambda: model.found is not None and not model.stale)
    assert model.words.startswith("The longest blur is ") and "which do not show" in model.words
    assert model.trade.startswith("120 % at ")
    model.type_gap("0.05 px")
    assert session.heard[-1] == "Gap: '0.05 px'; expected a number of pixels from 0.1 to 64." and model.gap == 1.0
    model.type_gap("0.1 px")
    assert model.gap == 0.1 and "which show" in model.words
    model.take_steps()
    assert session.recipe.shutter_steps == model.needed > 8
    loop.until(lambda: not session.planner.stale and not model.stale)
    assert model.found.shutter.gap <= 0.1
    model.take_random()
    loop.until(lambda: not session.planner.stale and not model.stale)
    assert "random times leave no gaps" in model.words and "each at a time of its own" in model.found.shutter.product
    assert model.pair_words(125.0).startswith("125 % against 100 %, 3 frames: ") and model.pair_words(100.0) == "100 %"
    model.prove_pair(100.0)
    assert session.heard[-1] == "Sizes of sh010: 100 % is the delivered size; expected another."
    session.proofs.toggle()  # held: what is asked for waits
    model.prove_pair(125.0)
    assert [(e.order.scale, e.order.frames) for e in session.proofs.queue.entries] == [(s, (1001, 1002, 1003)) for s in (100.0, 125.0)]
    session.proofs.cancel_all()
    model.take_size(next(r for r in model.found.sizes if r.scale == 75.0))
    assert session.recipe.render_scale == 75.0
    model.watch(False)
