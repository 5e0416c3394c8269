"""The plan: promises seen from above, prices, the deadline."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import msgspec
import numpy as np
import pytest

from hasty_reel.plan.answer import sentence
from hasty_reel.plan.compare.flat import even_saves
from hasty_reel.plan.compare.prices import plan_seen_alike, price_tags
from hasty_reel.plan.shot import PARTS, plan_shot
from hasty_reel.plan.time.deadline import allowed_seconds, deadline
from hasty_reel.plan.time.spread import day_factors, frame_band, total_draws
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.durations import spoken
from hasty_reel.reel.edits import with_hold, with_line
from hasty_reel.reel.machine import Machine
from hasty_reel.reel.shot import Hold

NOW = datetime(2026, 11, 24, 20, 0, tzinfo=UTC)


@pytest.fixture(scope="module")
def model(noise_reel, demo_evidence):
    return ShotModel(demo_evidence["sh010"], noise_reel.shot("sh010").frames)


def plan_of(reel, model):
    return plan_shot(reel, reel.shot("sh010"), model)


def test_noise_held_is_noise_reached(noise_reel, model):
    plan = plan_of(noise_reel, model)
    assert plan.budget.solved and plan.noise.max() <= 0.0075 * (1 + 1e-9)
    assert (plan.samples % 8 == 0).all()
    assert plan.seconds == pytest.approx(sum(getattr(plan, p) for p in PARTS))
    assert plan.unproven == ()


def test_total_held_is_total_reached(noise_reel, model):
    plan = plan_of(with_hold(noise_reel, "sh010", Hold(kind="total", value=3000.0)), model)
    assert plan.budget.solved and plan.total_seconds <= 3000.0
    tight = plan_of(with_hold(noise_reel, "sh010", Hold(kind="total", value=100.0)), model)
    assert not tight.budget.solved and "Cannot hold this: even at the floor" in sentence(tight, 1.0)


def test_raising_the_floor_costs_and_never_saves(noise_reel, model):
    totals = [plan_of(with_line(noise_reel, "sh010", "samples_floor", n), model).total_seconds for n in (16, 128, 256, 384)]
    assert totals == sorted(totals) and totals[-1] > totals[0]


def test_pins_are_kept(noise_reel, model):
    shot = msgspec.structs.replace(noise_reel.shot("sh010"), pins={1010: 400})
    reel = msgspec.structs.replace(noise_reel, shots=(shot,))
    assert plan_of(reel, model).samples[9] == 400


def test_render_scale_scales_sampling_by_its_square(noise_reel, model):
    """75 %: 0.5625 of the pixels, at the same samples."""
    reel = with_line(noise_reel, "sh010", "samples_floor", 512)
    full, small = plan_of(reel, model), plan_of(with_line(reel, "sh010", "render_scale", 75.0), model)
    assert small.sample.sum() / full.sample.sum() == pytest.approx(0.5625, rel=0.02)
    assert small.denoise.sum() != full.denoise.sum()


def test_one_percent_less_or_more_of_the_size_costs_and_shows_what_all_of_it_does(noise_reel, model):
    """No free lunch: what a resize filter blurs is not noise removed."""
    whole = plan_of(noise_reel, model)
    for scale in (99.0, 101.0):
        other = plan_of(with_line(noise_reel, "sh010", "render_scale", scale), model)
        # the worst frames by themselves step with the samples, which come in multiples of the shutter steps
        assert np.mean(other.seen_flicker) == pytest.approx(np.mean(whole.seen_flicker), rel=0.02)
        assert other.total_seconds == pytest.approx(whole.total_seconds, rel=0.03)


def test_prices_say_what_a_line_costs_against_leaving_it_out(noise_reel, model):
    reel = with_line(noise_reel, "sh010", "render_scale", 50.0)
    plan = plan_of(reel, model)
    prices = price_tags(reel, model, plan)
    whole = reel.recipe_of(reel.shot("sh010"))
    without = plan_seen_alike(
        reel, reel.shot("sh010"), model,
        plan_shot(reel, reel.shot("sh010"), model, msgspec.structs.replace(whole, render_scale=100.0), samples=plan.samples), plan,
    )  # fmt: skip
    seen_alike = without.worst_flicker == pytest.approx(plan.worst_flicker, rel=0.04)
    assert seen_alike or without.samples.min() == 16, "seconds are compared at equal seen flicker, or at the floor"
    assert prices["render_scale"].seconds == pytest.approx(plan.total_seconds - without.total_seconds)
    assert prices["render_scale"].effect == "more", "at equal samples"
    assert prices["denoise_window"].seconds < 0 and prices["denoise_window"].effect == "calmer"
    assert prices["bounces"].seconds > 0
    assert prices.pop("fog_step").seconds is None, "no proof of this shot has another step through fog"
    assert all(p.seconds is not None for p in prices.values())


def test_a_price_nobody_has_proven_is_not_invented(noise_reel, demo_evidence):
    evidence = demo_evidence["sh010"]
    alike = tuple(r for r in evidence.frames if r.proof in ("p001", "p002"))
    model = ShotModel(msgspec_evidence(evidence, alike), noise_reel.shot("sh010").frames)
    plan = plan_of(noise_reel, model)
    prices = price_tags(noise_reel, model, plan)
    assert prices["bounces"].seconds is None and prices["bounces"].effect == "unproven"
    assert prices["brightness_ceiling"].seconds is None
    assert prices["denoise_window"].seconds is None, "no effect of denoising was kept in this evidence"
    assert plan.unproven == ("denoise_window",)


def msgspec_evidence(evidence, frames):
    from dataclasses import replace

    return replace(evidence, frames=frames, effects=())


def test_with_the_time_held_prices_hold_the_noise_it_buys(noise_reel, model):
    reel = with_hold(noise_reel, "sh010", Hold(kind="total", value=3000.0))
    prices = price_tags(reel, model, plan_of(reel, model))
    assert prices["denoise_window"].seconds < -60


def test_the_deadline_counts_machines_and_spread(noise_reel, demo_evidence):
    noise_reel = msgspec.structs.replace(noise_reel, shots=noise_reel.shots[:2])
    plans = {s.id: plan_shot(noise_reel, s, ShotModel(demo_evidence[s.id], s.frames)) for s in noise_reel.shots}
    total = sum(p.total_seconds for p in plans.values())
    reel = msgspec.structs.replace(noise_reel, machines=(Machine(name="a"),), due=(NOW + timedelta(seconds=total)).isoformat())
    one = deadline(reel, plans, NOW)
    assert one.seconds5 == pytest.approx(total, rel=0.03) and one.seconds9 > one.seconds5
    assert one.chance == pytest.approx(0.5, abs=0.15) and one.spare_seconds < 0
    two = msgspec.structs.replace(reel, machines=(Machine(name="a", speed=2.0), Machine(name="b", workers=2, together=2.0)))
    both = deadline(two, plans, NOW)
    assert one.seconds5 / 4 <= both.seconds5 <= one.seconds5 / 4 * 1.02, "the last frame of the slower one is waited for"
    assert both.spare_seconds > 0 and both.chance > 0.999
    assert allowed_seconds(two, NOW) == pytest.approx(4 * total / 168)
    missing = deadline(reel, {"sh010": plans["sh010"]}, NOW)
    assert missing.missing == ("sh020",)


def test_what_frames_have_of_their_own_averages_out_and_what_a_day_brings_does_not(noise_reel, model):
    """The spread of a total is at least that of the day, and less than that of its frames by themselves."""
    plan = plan_of(noise_reel, model)
    total = total_draws(plan)
    assert np.mean(total) == pytest.approx(plan.total_seconds, rel=0.03)
    low, high = frame_band(plan)
    frame = np.log(high / low) / (2 * 1.645)
    with_day = np.log(total * day_factors())
    apart = np.diff(np.quantile(with_day, (0.05, 0.95)))[0] / (2 * 1.645)
    assert 0.05 < apart < np.median(frame) and (low < plan.seconds).all() and (plan.seconds < high).all()


@pytest.mark.parametrize("seconds, words", [(0.84, "0.8 s"), (45, "45 s"), (720, "12 min"), (6734.2, "1 h 52"), (3590, "1 h 00")])
def test_durations_are_said_in_sensible_digits(seconds, words):
    assert spoken(seconds) == words


def test_the_same_samples_in_every_frame_and_what_even_noise_saves(noise_reel, model):
    shot = msgspec.structs.replace(noise_reel.shot("sh010"), hold=Hold(kind="flat", value=100.0))
    flat = plan_shot(noise_reel, shot, model)
    step = flat.recipe.sample_step
    assert set(flat.samples.tolist()) == {-(-100 // step) * step}
    held = msgspec.structs.replace(shot, hold=Hold(kind="noise", value=float(flat.noise.max()) * 1.001))
    saved = even_saves(flat)
    # by hand: variance falls with the samples, so each frame needs its share of the worst variance
    by_hand = float(np.sum(flat.sample * (1.0 - (flat.noise / flat.noise.max()) ** 2)))
    assert 0 <= by_hand - saved <= float(np.sum(flat.sample / flat.samples)) * step, "a step a frame at most is lost by rounding up"
    assert 0 < saved < flat.total_seconds
    assert plan_shot(noise_reel, held, model).total_seconds < flat.total_seconds * 1.3, "with its margin"
    words = sentence(flat, noise_reel.frame_speed)
    assert words.startswith(f"{int(flat.samples[0])} samples in every frame: ") and "even noise would save " in words
    even = msgspec.structs.replace(shot, pins={int(f): int(flat.samples[0]) for f in flat.frames})
    assert even_saves(plan_shot(noise_reel, even, model)) == 0.0, "what is pinned is not saved"
