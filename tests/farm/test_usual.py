"""Scans, proofs of noise, and the next best proof."""

from __future__ import annotations

from dataclasses import replace

import msgspec
import numpy as np
import pytest

from hasty_reel.errors import WrongInput
from hasty_reel.evidence.measured import MEASURED
from hasty_reel.evidence.rows import Evidence, EvidenceReader
from hasty_reel.farm.nextproof import candidates, next_proof
from hasty_reel.farm.proofs import make_proof
from hasty_reel.farm.usual import noise_order, scan_order
from hasty_reel.pictures.frame import read_picture
from hasty_reel.plan.heldback import held_back
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel


def test_a_scan_is_tiny_and_of_every_frame(demo_reel):
    shot = demo_reel.shot("sh010")
    order = scan_order(shot, demo_reel.recipe_of(shot), (1920, 1080)).checked()
    assert order.frames == tuple(shot.frames) and order.seeds == 1 and order.scan and order.scale == 5.0 and order.samples == 1
    small = scan_order(shot, demo_reel.recipe_of(shot), (96, 54))
    assert small.scale == 10.0 and small.samples == 4
    long = msgspec.structs.replace(shot, first=1, last=400)
    assert scan_order(long, demo_reel.recipe_of(shot), (1920, 1080)).frames[:3] == (1, 3, 5)


def test_noise_is_proven_at_full_size_and_its_pictures_kept_small(demo_reel, tmp_path):
    small_reel = msgspec.structs.replace(demo_reel, width=240, height=136)
    shot = small_reel.shots[0]
    order = noise_order(shot, small_reel.recipe_of(shot), small_reel.picture_size)
    assert order.scale == 100.0 and order.samples == 1 and order.seeds == 2
    order = replace(order, frames=order.frames[:2])
    (tmp_path / "proofs").mkdir()
    proof = make_proof(small_reel, tmp_path / "proofs", order)
    folder = tmp_path / "proofs" / shot.id / proof.id
    assert proof.small == 4
    picture = read_picture(folder / proof.pictures[0].file)
    assert picture.width == proof.width // 4
    evidence = EvidenceReader().read(tmp_path / "proofs", shot)
    assert evidence.faults == () and all(np.isfinite(r.variance) and r.variance > 0 for r in evidence.frames)
    assert all(r.pixels == proof.width * proof.height for r in evidence.frames)
    (folder / MEASURED).unlink()
    lost = EvidenceReader().read(tmp_path / "proofs", shot)
    assert lost.frames == () and "kept small" in lost.faults[0]
    with pytest.raises(WrongInput, match="too few"):
        noise_order(shot, small_reel.recipe_of(shot), (16, 9))


def test_the_next_best_proof_is_what_is_missing(demo_reel, demo_evidence):
    shot = demo_reel.shot("sh020")
    whole = demo_evidence["sh020"]
    spread = tuple(r for r in whole.frames if r.proof == "p001")[::4]
    model = ShotModel(Evidence(spread), shot.frames)
    plan = plan_shot(demo_reel, shot, model)
    assert plan.unseen_words.startswith("not scanned: up to ")
    found = next_proof(demo_reel, plan, model)
    assert found is not None and found.narrows > 0 and found.seconds < 0.2 * plan.total_seconds
    assert found.kind == "run", "denoising that is planned and was never tried is worth most"
    others = [c for c in candidates(demo_reel, plan, model, True) if c.kind != "run"]
    best = max(others, key=lambda c: c.narrows / (c.seconds + 0.01 * plan.total_seconds))
    assert best.orders[0].small or best.orders[0].scan
    known = ShotModel(whole, shot.frames)
    all_told = plan_shot(demo_reel, shot, known)
    assert all_told.unseen_words == ""
    better = next_proof(demo_reel, all_told, known)
    assert better is None or not (better.orders[0].scan or better.orders[0].small)


def test_each_proof_is_held_back_and_predicted_from_the_rest(demo_reel, demo_evidence):
    shot = demo_reel.shot("sh010")
    found = held_back(demo_evidence["sh010"], shot.frames)
    assert len(found.frames) >= 8 and any(f.run for f in found.frames)
    assert found.error("noise") < 0.35 and found.error("seconds") < 0.5
    assert "held-back frames" in found.words and 0.0 <= found.coverage <= 1.0
    assert held_back(Evidence(), shot.frames).words == ""
    first = [r for r in demo_evidence["sh010"].frames if r.proof == "p001"][:1]
    assert held_back(Evidence(tuple(first)), shot.frames).frames == ()
