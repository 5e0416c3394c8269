"""Proofs within a time: what is chosen first, that it keeps to the time, and the same by the command line; a rough pass likewise."""

from __future__ import annotations

import json
import shutil
import time

import msgspec
import numpy as np
import pytest

from hasty_reel.errors import WrongInput
from hasty_reel.evidence.rows import Evidence
from hasty_reel.farm.forecast import measuring_seconds, order_seconds
from hasty_reel.farm.nextproof import candidates
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.provewithin import ProveWithin
from hasty_reel.farm.roughpass import rough_order
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.durations import read_duration


@pytest.fixture(scope="module")
def untried(demo_reel, demo_evidence):
    """A shot of which only the first frame of the demo's proofs is known, its model and its plan."""
    shot = msgspec.structs.replace(demo_reel.shot("sh020"), departures={"denoise_window": 5})
    known = demo_evidence["sh020"]
    one = Evidence(known.frames[:1], (), known.proofs[:1], (), known.folders)
    model = ShotModel(one, shot.frames)
    return shot, model, plan_shot(demo_reel, shot, model)


def test_the_first_look_is_one_small_frame_with_two_seeds(demo_reel, untried):
    work = ProveWithin(demo_reel, untried[0], 60.0)
    step = work.next(None, None)
    (order,) = step.orders
    assert len(order.frames) == 1 and order.seeds == 2 and order.scale < 30 and step.seconds is None and "a first look" in step.words
    assert order.frames[0] in untried[0].frames
    assert work.next(None, None) is None, "where nothing came of it, nothing more is rendered"


def test_every_step_fits_into_what_is_left_and_kinds_take_turns(demo_reel, untried):
    shot, model, plan = untried
    for given in (20.0, 120.0, 1800.0):
        work = ProveWithin(demo_reel, shot, given)
        work.next(None, None)
        work.took(1.0)
        kinds, total = [], 1.0
        while (step := work.next(plan, model)) is not None:
            assert step.seconds <= work.left and len(kinds) < 40
            kinds.append(step.words.split(":")[0].rstrip("0123456789 "))
            work.took(step.seconds)
            total += step.seconds
        assert total <= given and kinds
        if given >= 120.0:
            assert any("a run" in k for k in kinds) and len(set(kinds)) >= 3, kinds


def test_what_took_longer_than_told_makes_the_rest_shorter(demo_reel, untried):
    shot, model, plan = untried
    quick, slow = (ProveWithin(demo_reel, shot, 600.0) for _ in range(2))
    told = []
    for work, times in ((quick, 1.0), (slow, 4.0)):
        work.next(None, None)
        work.took(1.0)
        step = work.next(plan, model)
        work.took(times * step.seconds)
        told.append(work.next(plan, model).seconds / sum(len(o.frames) for o in step.orders))
    assert slow.left < quick.left and told[1] > told[0], "seconds are told by the pace so far"


def test_each_candidate_has_a_kind_of_its_own_and_measuring_counts(demo_reel, untried):
    shot, model, plan = untried
    found = candidates(demo_reel, plan, model, crops=True)
    kinds = [c.kind for c in found]
    assert len(kinds) == len(set(kinds)) and {"scan", "run", "frame"} <= set(kinds)
    run = next(c for c in found if c.kind == "run")
    size = demo_reel.picture_size
    pixels = sum(2 * len(o.frames) * o.pixels(size) for o in run.orders)
    assert measuring_seconds(run.orders, size) == pytest.approx(25e-6 * pixels)
    assert measuring_seconds([ProofOrder(shot, plan.recipe, (1001,))], size) == 0.0
    assert run.narrows >= 0.7 * plan.sample.sum(), "what denoising saves where nothing tried it is most of the samples"


@pytest.mark.parametrize("seconds", [1.0, 1e9, float("nan")])
def test_a_time_that_makes_no_sense_is_refused(demo_reel, untried, seconds):
    with pytest.raises(WrongInput, match="expected 10 s to 24 h"):
        ProveWithin(demo_reel, untried[0], seconds)


def test_durations_are_read_as_they_are_typed():
    assert [read_duration(t, "x") for t in ("90 s", "2min", "1.5 h", "40")] == [90.0, 120.0, 5400.0, 40.0]
    with pytest.raises(WrongInput):
        read_duration("soon", "--within")


def test_a_rough_pass_is_the_best_that_fits(demo_reel, untried):
    shot, _, plan = untried
    size = demo_reel.picture_size
    passes = [rough_order(shot, plan.recipe, size, seconds, plan) for seconds in (5.0, 60.0, 600.0, 1e6)]
    work = [len(p.frames) * p.scale**2 * p.samples for p in passes]
    assert work == sorted(work) and work[0] < work[-1]
    for seconds, order in zip((60.0, 600.0), passes[1:3]):
        assert order_seconds([order], plan, size) <= seconds and order.seeds == 1 and not order.scan
    assert passes[-1].frames == tuple(shot.frames), "all frames, where there is time"
    unknown = rough_order(shot, plan.recipe, size, 72.0)
    assert unknown.cap == pytest.approx(72.0 / len(shot.frames)) and unknown.floor == 1


def test_by_the_command_line(small_path, call, monkeypatch):
    monkeypatch.setattr("hasty_reel.farm.usual.CROP", (48, 27))
    shutil.rmtree(small_path.parent / "proofs" / "sh050")
    began = time.monotonic()
    code, out, err = call("proof", small_path, "--shot", "sh050", "--within", "20s", "--json")
    told = json.loads(out)
    assert code == 0 and told["planned"] and len(told["proofs"]) >= 3
    assert "a first look" in err and " left" in err
    assert time.monotonic() - began < 60.0 and np.isfinite(told["seconds"])
    for wrong, words in (("2 s", "expected 10 s to 24 h"), ("soon", "--within")):
        code, _, err = call("proof", small_path, "--shot", "sh050", "--within", wrong)
        assert code == 2 and words in err
    code, _, err = call("proof", small_path, "--shot", "sh050", "--within", "1min", "--scan")
    assert code == 2 and "--within" in err
