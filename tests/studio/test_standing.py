"""The first line of a stage: what stands, and what to do next."""

from __future__ import annotations

from dataclasses import replace

from hasty_reel.evidence.rows import Evidence
from hasty_reel.studio.standing import brief_words, compare_words, deadline_words, proofs_words


def test_the_brief_says_what_is_delivered_and_whether_it_is_in_time(session, loop):
    loop.until(lambda: session.planner.outlook.deadline is not None)
    words = brief_words(session)
    assert words.startswith("5 shots, 420 frames to render. Ready ") and " spare." in words and "What buys time" not in words
    outlook = session.planner.outlook
    late = replace(outlook.deadline, seconds9=(outlook.deadline.due - outlook.deadline.start).total_seconds() + 7200.0)
    assert deadline_words(replace(outlook, deadline=late)).endswith("2 h 00 late.")
    assert deadline_words(replace(outlook, plans={})) == "No plan yet."
    assert "being played through" in deadline_words(replace(outlook, deadline=None))


def test_proofs_say_what_is_worth_most_and_what_to_do_where_there_are_none(session, monkeypatch):
    assert proofs_words(session).startswith("22 proofs of this shot. ")
    kind = type(session)
    monkeypatch.setattr(kind, "evidence", property(lambda self: Evidence()))
    assert "nothing is promised. 'Prove it' renders" in proofs_words(session)
    monkeypatch.setattr(kind, "evidence", property(lambda self: Evidence(proofs=("one",), faults=("proof p001 is damaged",))))
    assert proofs_words(session) == "1 proof of this shot. proof p001 is damaged"


def test_compare_says_what_is_compared(session):
    assert compare_words(session).startswith("Nothing to compare yet")
    session.comparison.sides.list_sides()
    session.comparison.sides.settle()
    assert compare_words(session).startswith("A against B over 7 frames: Space plays them.")
