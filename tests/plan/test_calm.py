"""What denoising is worth, and how much of it is enough."""

from __future__ import annotations

import msgspec
import numpy as np
import pytest

from hasty_reel.measure.seen import Eyes
from hasty_reel.plan.compare.calm import enough_strength, worth_of
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel


@pytest.fixture(scope="module")
def model(noise_reel, demo_evidence):
    return ShotModel(demo_evidence["sh010"], noise_reel.shot("sh010").frames)


def test_the_samples_denoising_stands_for_show_as_little_without_it(noise_reel, model):
    """By the plan itself: a plan of so many samples without denoising has the seen flicker of the denoised frame."""
    shot = noise_reel.shot("sh010")
    plan = plan_shot(noise_reel, shot, model)
    worth = worth_of(plan, model)
    assert worth.alike > 2 * worth.samples and worth.seen < 0.8 * worth.raw
    assert f"As calm as {worth.alike:.0f} samples instead of {worth.samples:.0f}" in worth.words
    off = msgspec.structs.replace(plan.recipe, denoise_window=1, despike=0)
    k = int(np.argmin(np.abs(plan.seen_flicker - worth.seen)))
    bare = plan_shot(noise_reel, shot, model, off, samples=np.full(len(plan.frames), worth.alike))
    assert bare.seen_flicker[k] == pytest.approx(worth.seen, rel=0.05)
    assert worth_of(plan, model, off).words == "Denoising is off: frames are as rendered."


def test_no_more_strength_than_plays_clean(noise_reel, model):
    shot = noise_reel.shot("sh010")
    plan = plan_shot(noise_reel, shot, model)
    bare = plan_shot(noise_reel, shot, model, msgspec.structs.replace(plan.recipe, denoise_strength=0.0), samples=plan.samples)
    between = Eyes(limit=float(np.sqrt(plan.worst_flicker * bare.worst_flicker)))
    plan = plan_shot(noise_reel, shot, model, eyes=between)
    plan = plan_shot(noise_reel, shot, model, eyes=between, samples=plan.samples)
    strength = enough_strength(plan, model)
    assert strength is not None and 0 < strength < 100

    def worst(percent: float) -> float:
        recipe = msgspec.structs.replace(plan.recipe, denoise_strength=percent)
        return plan_shot(noise_reel, shot, model, recipe, between, plan.samples).worst_flicker

    assert worst(strength) < between.limit <= worst(strength - 1.0)
    hopeless = plan_shot(noise_reel, shot, model, eyes=Eyes(limit=1e-3))
    assert enough_strength(hopeless, model) is None
