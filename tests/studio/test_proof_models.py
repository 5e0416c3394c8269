"""What is asked for as a proof, the sheet of cards, the proof on view, the verdicts of the stages; without a window."""

from __future__ import annotations

from dataclasses import replace

import msgspec
import pytest

from hasty_reel.evidence.rows import Evidence
from hasty_reel.reel.shot import Hold
from hasty_reel.studio.proofs.cardtext import figures_of, tip_of
from hasty_reel.studio.proofs.request import order_words
from hasty_reel.studio.verdicts import brief_verdict, budget_verdict, compare_verdict, finish_verdict, proofs_verdict


def test_a_single_frame_follows_the_playhead_and_a_list_does_not(session):
    request = session.request
    session.playhead.show_frame(1030)
    assert request.asked.frames == "1030"
    request.pick("First, middle, last")
    session.playhead.show_frame(1031)
    assert request.asked.frames == "1001,1048,1096"


def test_a_selection_becomes_the_frames(session):
    session.playhead.select((1040, 1044))
    assert session.request.asked.frames == "1040-1044"


@pytest.mark.parametrize(
    ("name", "text"), [("samples", "many"), ("samples", "none"), ("samples", "0"), ("scale", "-3"), ("cap", "0"), ("stop", "-1")]
)
def test_numbers_that_make_no_sense_are_said_and_change_nothing(session, name, text):
    request = session.request
    before = request.asked
    request.type_number(name, text)
    assert request.asked == before and len(session.heard) == 1 and "expected" in session.heard[0]


def test_a_sweep_is_an_order_for_each_value(session):
    request = session.request
    request.pick("This frame")
    request.set_sweep("bounces")
    request.change(values="0, 2, 4")
    orders = request.asked.orders(session)
    assert [o.recipe.bounces for o in orders] == [0, 2, 4] and len({o.sweep for o in orders}) == 1
    assert order_words(orders, session).startswith("3 values of 1 frame")


def test_a_draft_cut_reduces_what_is_ordered_and_says_so(session):
    session.request.pick("This frame")
    full = session.request.asked.order(session)
    session.own.switch_draft(True)
    cut = session.request.asked.order(session)
    assert cut.draft and (cut.samples, cut.scale) != (full.samples, full.scale)
    assert f"under '{cut.draft}'" in session.request.note


def test_cards_are_filtered_starred_hidden_and_noted_as_edits(session):
    cards = session.cards
    first = cards.all[0]
    cards.note(first, "  the cheap one ")
    cards.list_by(text="cheap")
    assert [c.proof.id for c in cards.listed] == [first.proof.id]
    cards.list_by(text="", starred=True)
    assert cards.listed == []
    cards.star(cards.all[0])
    assert [c.proof.id for c in cards.listed] == [first.proof.id]
    assert session.history.undo_name == f"Star {first.proof.id}"
    cards.list_by(starred=False)
    cards.hide(cards.all[0])
    assert first.proof.id not in [c.proof.id for c in cards.listed]
    cards.list_by(hidden=True)
    assert [c.proof.id for c in cards.listed] == [first.proof.id]
    session.undo()
    assert cards.listed == []


def test_a_card_says_what_was_measured(session):
    card = session.cards.all[0]
    assert f"{card.proof.samples} samples" in tip_of(card) and " s" in figures_of(card)[0]


def test_a_shot_is_first_shown_by_its_largest_picture_and_by_the_playhead_as_soon_as_that_moves(session):
    view, evidence = session.on_view, session.evidence
    whole = {p.id for p in evidence.proofs if p.whole}
    assert view.row.pixels == max(r.pixels for r in evidence.frames if r.proof in whole) and view.row.frame != session.playhead.frame
    assert "the playhead is at 1001" in view.words(view.row, session.playhead.frame)[0]
    session.playhead.show_frame(1002)
    assert view.row.frame == min((r.frame for r in evidence.frames if r.proof in whole), key=lambda f: abs(f - 1002))
    session.playhead.show_shot("sh020")
    assert view.row.pixels == max(
        r.pixels for r in session.evidence.frames if r.proof in {p.id for p in session.evidence.proofs if p.whole}
    )


def test_the_proof_on_view_is_the_nearest_frame_of_the_one_picked(session):
    view = session.on_view
    frames = sorted({r.frame for r in session.evidence.frames if r.proof == "p001"})
    session.playhead.show_frame(1050)
    view.pick("p001")
    assert view.row.proof == "p001" and view.row.frame == min(frames, key=lambda f: abs(f - 1050)) == session.playhead.frame
    session.playhead.show_frame(frames[0])
    assert view.row.frame == frames[0]
    view.pick("p001")
    assert view.picked == ""
    session.playhead.show_shot("sh020")
    assert view.row is None or view.row.proof


def test_stages_say_how_they_stand(session):
    evidence, plan, when = session.evidence, session.plan, session.planner.outlook.deadline
    assert proofs_verdict(Evidence(), None).standing == "untouched"
    assert proofs_verdict(replace(evidence, faults=("proof p001 is damaged",)), plan).reason == "proof p001 is damaged"
    assert proofs_verdict(evidence, plan).standing == "done"
    assert brief_verdict(None).standing == "untouched" and compare_verdict([], "A", True).standing == "done"
    assert budget_verdict(None, None).standing == "untouched"
    late = replace(when, seconds9=(when.due - when.start).total_seconds() + 1.0)
    assert "not be ready" in budget_verdict(plan, late).reason
    marked = replace(plan, seen_flicker=plan.seen_flicker * 0.0 + 1e3)
    assert budget_verdict(marked, when).standing == "look" and budget_verdict(marked, when) == replace(
        finish_verdict(marked), stage="Budget"
    )


def test_a_promise_that_cannot_be_held_shows_in_the_stage_line(session, loop):
    session.set_hold(Hold(kind="total", value=10.0))
    loop.until(lambda: not session.planner.stale)
    budget = next(v for v in session.verdicts if v.stage == "Budget")
    assert budget.standing == "look" and budget.reason


def test_findings_are_looked_up_once_they_are_watched(session, loop):
    findings = session.findings
    findings.watch(True)
    loop.until(lambda: findings.findings.sweeps)
    assert any("Bounces beyond" in s.finding for s in findings.findings.sweeps)


def test_what_the_queue_makes_is_on_view_and_told_once(open_session, loop, small_path):
    session = open_session(small_path)
    session.read_evidence()
    loop.until(lambda: session.planner.evidence)
    request = session.request
    request.change(frames="1001", samples=4, scale=25.0)
    before = len(session.evidence.proofs)
    session.proofs.enqueue(request.asked.orders(session))
    assert session.proofs.busy and session.proofs.left == 1
    loop.until(lambda: not session.proofs.busy and len(session.evidence.proofs) == before + 1, 120.0)
    session.proofs.clear_ended()
    assert not session.proofs.queue.entries and session.heard == []


def test_the_same_recipe_reads_back(session):
    assert msgspec.json.decode(msgspec.json.encode(session.recipe), type=type(session.recipe)) == session.recipe
