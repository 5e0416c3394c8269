"""The held-back check and the next best proof in the open reel, usual proofs, and how a promise is meant."""

from __future__ import annotations

import msgspec

from hasty_reel.studio.hold import HoldModel
from hasty_reel.studio.proofs.cardtext import figures_of, tip_of


def test_the_check_is_made_when_somebody_looks(session, loop):
    trust = session.trust
    assert trust.found.held.frames == () and trust.words.startswith("Nothing can be held back yet")
    trust.watch(True)
    loop.until(lambda: trust.found.held.frames)
    assert trust.words.startswith("Seconds within ") and "held-back frames" in trust.words
    trust.watch(False)


def test_the_next_best_proof_goes_into_the_queue_in_one_step(session, loop):
    session.do("Hide", lambda reel: _without(reel, "sh010", ("p016", "p017", "p018", "p015", "p002")))
    loop.until(lambda: not session.planner.stale and session.plan.at.unseen > 0)
    session.trust.watch(True)
    loop.until(lambda: session.trust.found.next is not None)
    assert "not scanned: up to " in session.trust.words
    session.proofs.queue.pause()
    session.trust.order_next()
    assert [e.order for e in session.proofs.queue.entries] == [session.trust.found.next.order]
    session.proofs.queue.cancel_all()
    session.proofs.queue.resume()


def _without(reel, shot_id, ids):
    from hasty_reel.reel.edits import with_mark

    for proof in ids:
        reel = with_mark(reel, shot_id, proof, away=True)
    return reel


def test_a_scan_is_asked_for_in_one_step_and_any_change_makes_an_ordinary_proof_of_it(session):
    request = session.request
    request.take_usual("Scan")
    order = request.asked.order(session)
    assert order.scan and order.seeds == 1 and len(order.frames) == 96 and "a scan of 96 frames" in request.note
    request.type_number("samples", "4")
    assert not request.asked.scan
    request.take_usual("Noise")
    assert request.asked.order(session).small and request.asked.scale == 100.0


def test_a_promise_can_be_meant_for_the_worst_places_or_for_the_least_noise_in_all(session, loop):
    hold = HoldModel(session)
    assert hold.variant("noise") == "over the frame" and hold.variant("cap") == ""
    before = session.plan.samples.sum()
    hold.vary("noise", "worst")
    loop.until(lambda: session.plan.shot.hold.of == "worst")
    assert session.plan.samples.sum() > before
    session.set_hold(msgspec.structs.replace(session.shot.hold, kind="total", value=2000.0))
    loop.until(lambda: session.plan.shot.hold.kind == "total")
    even = session.plan
    hold.vary("total", "total")
    loop.until(lambda: session.plan.shot.hold.goal == "total")
    assert (session.plan.noise**2).sum() <= (even.noise**2).sum() * 1.001


def test_cards_say_what_scans_and_noise_proofs_are(session):
    cards = {c.proof.id: c for c in session.cards.all}
    assert figures_of(cards["p016"]).startswith("scan, ") and "A scan:" in tip_of(cards["p016"])
    assert figures_of(cards["p017"]).startswith("full size, ") and "kept small" in tip_of(cards["p017"])
