"""The held-back check and the next best proof in the open reel, usual proofs, and how a promise is meant."""

from __future__ import annotations

import msgspec

from hasty_reel.reel.edits import with_machine
from hasty_reel.reel.shot import Hold
from hasty_reel.studio.budget.hold import HoldModel
from hasty_reel.studio.proofs.cardtext import figures_of, tip_of


def test_the_check_is_made_when_somebody_looks(session, loop):
    trust = session.trust
    assert trust.known.held.frames == () and trust.words.startswith("Nothing can be held back yet")
    trust.watch(True)
    loop.until(lambda: trust.known.held.frames)
    assert trust.words.startswith("Seconds within ") and "held-back frames" in trust.words
    trust.watch(False)


def test_the_next_best_proof_goes_into_the_queue_in_one_step(session, loop):
    session.do("Hide", lambda reel: _without(reel, "sh010", ("p016", "p017", "p018", "p015", "p002")))
    loop.until(lambda: not session.planner.stale and session.plan.frame_model.unseen > 0)
    session.trust.watch(True)
    loop.until(lambda: session.trust.known.next is not None)
    assert "not scanned: up to " in session.trust.words
    session.proofs.queue.pause()
    session.trust.order_next()
    assert [e.order for e in session.proofs.queue.entries] == list(session.trust.known.next.orders)
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


def test_runs_for_denoising_are_asked_for_in_one_step_as_two_parts(session, loop):
    request = session.request
    request.take_usual("Denoising")
    one, two = request.asked.orders(session)
    assert one.crop[2:] == two.crop[2:] == (192, 108) and one.crop != two.crop and len(one.frames) == 13 and one.scale == 100.0
    assert "2 parts of 13 frames, 192 × 108 pixels: what denoising does" in request.note
    session.proofs.queue.pause()
    request.order_now()
    assert [e.order.crop for e in session.proofs.queue.entries] == [one.crop, two.crop]
    session.proofs.queue.cancel_all()
    session.proofs.queue.resume()
    request.type_number("samples", "8")
    assert request.asked.crops and request.asked.order(session).samples == 8
    request.type_number("scale", "50")
    assert request.asked.crops == () and request.asked.order(session).crop is None, "of another size it is an ordinary proof"
    request.type_number("scale", "25")


def test_a_promise_can_be_meant_for_the_worst_places_or_for_the_least_noise_in_all(session, loop):
    hold = HoldModel(session)
    assert hold.variant("noise") == "over the frame" and hold.variant("cap") == ""
    session.set_hold(Hold(kind="noise", value=0.0075))
    loop.until(lambda: session.plan.shot.hold.kind == "noise")
    before = session.plan.samples.sum()
    hold.vary("noise", "worst")
    loop.until(lambda: session.plan.shot.hold.of == "worst")
    assert session.plan.samples.sum() > before
    session.set_hold(msgspec.structs.replace(session.shot.hold, kind="total", value=2000.0))
    loop.until(lambda: session.plan.shot.hold.kind == "total")
    even = session.plan
    hold.vary("total", "total")
    loop.until(lambda: session.plan.shot.hold.goal == "total")
    assert (session.plan.noise**2).sum() <= (even.noise**2).sum() * 1.005


def test_cards_say_what_scans_and_noise_proofs_are(session):
    cards = {c.proof.id: c for c in session.cards.all}
    assert ", ".join(figures_of(cards["p016"])).startswith("scan, ") and "A scan:" in tip_of(cards["p016"])
    assert ", ".join(figures_of(cards["p017"])).startswith("full size, ") and "kept small" in tip_of(cards["p017"])


def test_this_machine_is_measured_and_kept_in_the_reel(session, loop, monkeypatch):
    from hasty_reel.farm import yardstick

    monkeypatch.setattr(yardstick, "yardstick_seconds", lambda cancel=None: 0.8)
    monkeypatch.setattr(yardstick, "together", lambda workers, cancel=None: 0.71 * workers)
    speed = session.machine_speed
    evidence = session.planner.evidence["sh010"]
    made = tuple(msgspec.structs.replace(p, yardstick=0.5, made="2026-01-01T00:00:00+00:00") for p in evidence.proofs)
    session.planner.evidence = {**session.planner.evidence, "sh010": type(evidence)(**{**evidence.__dict__, "proofs": made})}
    session.planner.replan()
    loop.until(lambda: speed.quiet > 0 and not session.planner.stale)
    slower = speed.quiet / 0.8
    assert speed.words == "" and speed.now == 0.0, "the yardsticks of the proofs are long past"
    speed.measure()
    loop.until(lambda: not speed.measuring)
    assert "this machine is 1.5 times slower than when the proofs were made" in session.trust.words, "0.8 s against 0.5, less chance"
    session.do("Two workers", lambda reel: with_machine(reel, 0, workers=2))
    speed.measure_machine(0)
    loop.until(lambda: not speed.measuring)
    machine = session.reel.machines[0]
    assert machine.together == 1.42 and machine.speed == float(f"{slower:.3g}") and machine.frame_speed < 1.42


def test_frames_weigh_more_where_the_least_noise_in_all_is_sought(session, loop):
    hold = HoldModel(session)
    session.set_hold(msgspec.structs.replace(session.shot.hold, kind="total", goal="total", value=1500.0))
    loop.until(lambda: session.plan.shot.hold.kind == "total" and not session.planner.stale)
    assert hold.weighs and hold.weight_text == "1"
    before = session.plan.samples.astype(float)
    session.playhead.select((1030, 1050))
    hold.type_weight("4")
    loop.until(lambda: session.plan.shot.weights and not session.planner.stale)
    gained = session.plan.samples / before
    assert gained[35:45].min() > 1.1 * gained[70:].max() and session.plan.total_seconds <= 1500.0 * (1 + 1e-9)
    assert hold.weight_text == "4" and session.shot.weights == dict.fromkeys(range(1030, 1051), 4.0)
    said = []
    session.said.connect(said.append)
    hold.type_weight("0")
    hold.type_weight("much")
    assert "expected a number above 0" in said[0] and "'much' is no number" in said[1]
    session.playhead.select((1001, 1096))
    assert hold.weight_text == "1–4"
    hold.type_weight("1")
    assert session.shot.weights == {}
