"""Motion blur in steps, sizes at equal flicker, and places that stop at noise."""

from __future__ import annotations

from dataclasses import replace

import msgspec
import numpy as np
import pytest
from scipy.ndimage import shift

from hasty_reel.evidence.looks import looks_of
from hasty_reel.evidence.motion import FrameSpeed, edge_speed, speeds_of
from hasty_reel.measure.seen import Eyes
from hasty_reel.plan.compare.sizes import size_rows, trade_words
from hasty_reel.plan.frames.shutter import shutter_of, steps_needed, strobed_line
from hasty_reel.plan.shot import plan_shot, stopping_of
from hasty_reel.predict.model import ShotModel


@pytest.fixture(scope="module")
def model(noise_reel, demo_evidence):
    return ShotModel(demo_evidence["sh020"], noise_reel.shot("sh020").frames)


@pytest.fixture(scope="module")
def plan(noise_reel, model):
    return plan_shot(noise_reel, noise_reel.shot("sh020"), model)


def test_steps_stay_under_a_gap_as_handbooks_count_them():
    """K = ceil(L / s): 50 pixels in steps of 1.5 take 34 (common practice, no source)."""
    assert steps_needed(50.0, 1.5) == 34 and steps_needed(0.0, 1.0) == 1 and steps_needed(8.0, 1.0) == 8
    assert steps_needed(1e9, 1.0) == 1024, "the most a recipe takes"


def test_a_line_keeps_its_light_and_shows_its_copies_only_through_wide_gaps():
    """Against the line shifted to each moment by linear interpolation (SciPy)."""
    blur, steps, pixels = 24.0, 6, 40
    line = np.zeros(pixels)
    line[20] = 1.0
    start = (pixels - 1) / 2.0 - blur / 2.0
    moved = [shift(line, start + blur * (k + 0.5) / steps - 20.0, order=1) for k in range(steps)]
    np.testing.assert_allclose(strobed_line(blur, steps, pixels), np.mean(moved, axis=0), atol=1e-9)
    few, many = strobed_line(blur, 6, pixels), strobed_line(blur, 24, pixels)
    assert few.sum() == pytest.approx(1.0) and many.sum() == pytest.approx(1.0)
    inside = slice(12, 28)
    assert few[inside].min() == 0.0 and many[inside].min() > 0.8 * many[inside].max()


def test_edges_count_and_what_stands_still_does_not():
    """A moving bar before a still, textured wall: the speed is that of its edges, weighted by their gradient."""
    lightness = np.full((64, 96), 20.0)
    lightness[20:44, 30:60] = 80.0
    speed = np.zeros((64, 96))
    speed[18:46, 28:62] = 7.5
    assert edge_speed(lightness, speed) == 7.5
    assert edge_speed(np.full((8, 8), 50.0), np.full((8, 8), 3.0)) == 0.0


def test_vectors_of_proofs_tell_the_blur_and_the_shutter_angle_scales_it(noise_reel, demo_evidence, plan):
    speeds = speeds_of(demo_evidence["sh020"])
    assert len(speeds) >= 7 and all(0.0 < s.share < 0.2 for s in speeds)
    shutter = shutter_of(plan, speeds, noise_reel.picture_size[0])
    assert shutter is not None and shutter.gap == pytest.approx(shutter.blur.max() / 16)
    assert shutter.needed(0.5) == int(np.ceil(shutter.blur.max() / 0.5 - 1e-9))
    assert shutter.product.endswith(f"× 16 steps = {plan.samples.min()} to {plan.samples.max()} samples")
    half = shutter_of(_with(plan, shutter_angle=plan.recipe.shutter_angle / 2.0), speeds, noise_reel.picture_size[0])
    np.testing.assert_allclose(half.blur, shutter.blur / 2.0)
    assert shutter_of(plan, [], 960) is None
    even = shutter_of(plan, [FrameSpeed(1001.0, 0.0), FrameSpeed(1011.0, 0.1)], 960)
    assert even.blur[5] == pytest.approx(0.05 * 960 * 0.5) and even.blur[-1] == pytest.approx(0.1 * 960 * 0.5)


def _with(plan, **changes):
    return replace(plan, resolved=replace(plan.resolved, recipe=msgspec.structs.replace(plan.recipe, **changes)))


def test_sizes_are_as_calm_as_the_plan_or_take_as_long(noise_reel, demo_evidence, model, plan):
    rows = {r.scale: r for r in size_rows(noise_reel, plan, model, looks_of(demo_evidence["sh020"]))}
    assert list(rows) == sorted(rows) and rows[100.0].now and rows[100.0].seconds == plan.total_seconds
    for row in rows.values():
        # samples come in multiples of sixteen, the shutter steps: of some thirty samples half a step is a fourth
        assert row.plan.worst_flicker == pytest.approx(plan.worst_flicker, rel=max(0.06, 0.5 * 16 / row.samples))
        timed = plan_shot(
            noise_reel, plan.shot, model, row.plan.recipe,
            samples=np.maximum(16, np.round(plan.samples * row.same_time / plan.typical_samples / 16) * 16).astype(int),
        )  # fmt: skip
        assert timed.total_seconds == pytest.approx(plan.total_seconds, rel=0.06)
    assert rows[50.0].loss > rows[75.0].loss > rows[100.0].loss == 0.0 and rows[125.0].loss is None
    assert trade_words(list(rows.values())).startswith("120 % at ")
    # the same time buys as many rays: nearly 1 / s^2 of the samples
    assert rows[125.0].same_time / plan.typical_samples == pytest.approx(1 / 1.25**2, rel=0.04)


def test_half_of_the_picture_stops_by_its_noise_in_balance(noise_reel, model):
    shot = noise_reel.shot("sh020")
    recipe = msgspec.structs.replace(noise_reel.recipe_of(shot), stop_noise=0.01, samples_floor=1, shutter_steps=1)
    plan = plan_shot(noise_reel, shot, model, recipe, eyes=Eyes())
    stopping = stopping_of(plan.recipe, plan.frame_model)
    samples = plan.samples.astype(float)
    balance = stopping.balance(samples)
    at = replace(stopping, stop=balance * 1.01).ended(samples).mean(), replace(stopping, stop=balance * 0.99).ended(samples).mean()
    assert at[0] >= 0.5 >= at[1] > 0.3
    assert replace(stopping, stop=1e-6).ended(samples).mean() == 0.0 and replace(stopping, stop=10.0).ended(samples).min() == 1.0
