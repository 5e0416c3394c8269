"""What helps against a cause, with its price; and the artist's own eyes in the plan."""

from __future__ import annotations

import msgspec
import numpy as np
import pytest

from hasty_reel.measure.causes import CAUSES
from hasty_reel.measure.seen import Eyes
from hasty_reel.plan.compare.baseline import baseline
from hasty_reel.plan.compare.levers import levers
from hasty_reel.plan.compare.prices import flicker_effect, plan_seen_alike, price_tags
from hasty_reel.plan.compare.remedies import REMEDIES
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.shot import Hold
from hasty_reel.settings.recipe import SETTINGS, checked_recipe


@pytest.fixture(scope="module")
def shot_and_model(noise_reel, demo_evidence):
    shot = noise_reel.shot("sh010")
    return shot, ShotModel(demo_evidence["sh010"], shot.frames)


def test_prices_are_those_of_the_plan_itself(noise_reel, shot_and_model):
    shot, model = shot_and_model
    plan = plan_shot(noise_reel, shot, model)
    found = {lever.helps: lever for lever in levers(noise_reel, model, plan, REMEDIES["sparks"])}
    lever = found["brightness ceiling"]
    assert lever.words == "brightness ceiling 5 → 2.5" and lever.recipe.brightness_ceiling == 2.5
    assert lever.seconds == pytest.approx(
        plan_seen_alike(noise_reel, shot, model, plan_shot(noise_reel, shot, model, lever.recipe, samples=plan.samples), plan).total_seconds
        - plan.total_seconds
    )
    assert found["light paths"].words == "" and found["light paths"].why_not == "lamp sampling is on already"


def test_less_noise_costs_time_and_calms(noise_reel, shot_and_model):
    shot, model = shot_and_model
    plan = plan_shot(noise_reel, shot, model)
    samples, denoise = levers(noise_reel, model, plan, REMEDIES["grain"])
    assert samples.hold.kind == "noise" and samples.hold.value < shot.hold.value and samples.seconds > 0
    assert samples.flicker < np.percentile(plan.seen_flicker, 95)
    assert denoise.words == "denoise window 5 → 7" and denoise.recipe.denoise_window == 7


def test_what_no_proof_has_varied_has_no_price(noise_reel, shot_and_model):
    shot, model = shot_and_model
    plan = plan_shot(noise_reel, shot, model)
    cache = next(lever for lever in levers(noise_reel, model, plan, REMEDIES["blotches"]) if lever.helps == "shared light cache")
    assert cache.seconds is None and "not proven yet" in cache.why_not
    for helps in REMEDIES.values():
        for lever in levers(noise_reel, model, plan, helps):
            assert bool(lever.words) == (lever.recipe is not None or lever.hold is not None)
            assert lever.words or len(lever.why_not) > 10


def test_each_cause_has_remedies_and_each_of_them_is_offered(noise_reel, shot_and_model):
    """What no recipe holds is told too, with where it is done."""
    shot, model = shot_and_model
    plan = plan_shot(noise_reel, shot, model)
    assert set(REMEDIES) == set(CAUSES) and all(REMEDIES.values())
    for remedies in REMEDIES.values():
        assert [lever.helps for lever in levers(noise_reel, model, plan, remedies)] == [r.words for r in remedies]
    softer = levers(noise_reel, model, plan, REMEDIES["shimmer"])[1]
    assert softer.helps == "softer pixel filter" and "in the renderer" in softer.why_not and softer.recipe is None


def test_a_held_total_is_priced_at_the_noise_it_buys(noise_reel, shot_and_model):
    shot, model = shot_and_model
    capped = msgspec.structs.replace(shot, hold=Hold(kind="cap", value=5.0))
    plan = plan_shot(noise_reel, capped, model)
    assert levers(noise_reel, model, plan, REMEDIES["grain"])[0].hold.kind == "noise"


def test_whose_eyes_count_changes_what_is_visible_and_nothing_else(noise_reel, shot_and_model):
    shot, model = shot_and_model
    standard = plan_shot(noise_reel, shot, model)
    patient = plan_shot(noise_reel, shot, model, eyes=Eyes(limit=100.0))
    assert standard.visible.any() and not patient.visible.any() and not patient.at_risk.any()
    assert np.array_equal(standard.samples, patient.samples) and np.array_equal(standard.seen_flicker, patient.seen_flicker)
    far = plan_shot(noise_reel, shot, model, eyes=Eyes(heights=9.0))
    assert (far.seen_flicker < standard.seen_flicker).all()


def test_every_lever_can_be_applied_or_says_that_it_is_at_its_end(noise_reel, shot_and_model):
    """At the end of a line there is no button whose edit the recipe would refuse."""
    shot, model = shot_and_model
    ends = {line.field: line.nearest(float("inf")) for line in SETTINGS if line.field in ("denoise_window", "shutter_steps", "preroll")}
    recipe = checked_recipe(msgspec.structs.replace(noise_reel.recipe_of(shot), samples_ceiling=65536, brightness_ceiling=0.01, **ends))
    plan = plan_shot(noise_reel, shot, model, recipe)
    seen = {}
    for helps in REMEDIES.values():
        for lever in levers(noise_reel, model, plan, helps):
            seen[lever.helps] = lever
            if lever.recipe is not None:
                checked_recipe(lever.recipe)
                assert lever.recipe != recipe and lever.words
    assert seen["denoise over time"].why_not == "denoise window is 11 already, the most there is"
    assert seen["shutter steps"].recipe is None and "1024 already" in seen["shutter steps"].why_not
    assert seen["brightness ceiling"].recipe is None


def test_preroll_is_paid_once_a_chunk_with_a_sample_a_frame(noise_reel, shot_and_model):
    """Two machines are two chunks: the first frame and the one in the middle pay, by hand."""
    shot, model = shot_and_model
    plan = plan_shot(noise_reel, shot, model)
    lever = next(x for x in levers(noise_reel, model, plan, REMEDIES["settling"]) if x.helps == "pre-roll")
    assert lever.recipe is not None and lever.recipe.preroll == 8
    with_it = plan_shot(noise_reel, shot, model, lever.recipe)
    paid = with_it.load - plan.load
    each = plan.frame_model.load_seconds + plan.frame_model.cost * plan.width * plan.height
    assert set(np.flatnonzero(paid)) == {0, len(paid) // 2} and paid[[0, 48]] == pytest.approx(8 * each[[0, 48]])
    assert lever.seconds == pytest.approx(paid.sum(), rel=0.02) and "preroll" not in with_it.unproven
    assert price_tags(noise_reel, model, with_it)["preroll"].seconds == pytest.approx(paid.sum(), rel=0.02)


def test_what_a_lever_does_to_flicker_is_judged_at_what_prices_hold(noise_reel, shot_and_model):
    """Under a time hold the plan as it stands has another flicker than the levers are compared at."""
    shot, model = shot_and_model
    capped = msgspec.structs.replace(shot, hold=Hold(kind="total", value=600.0))
    plan = plan_shot(noise_reel, capped, model)
    held = baseline(noise_reel, plan, model)
    for lever in levers(noise_reel, model, plan, REMEDIES["grain"]):
        assert lever.base == pytest.approx(held.worst_flicker)
        assert lever.effect == flicker_effect(None if lever.flicker is None else lever.flicker - held.worst_flicker, held.worst_flicker)


@pytest.mark.parametrize(
    "change, base, word",
    [(None, 1.0, "unproven"), (0.05, 1.0, "same"), (-0.05, 1.0, "same"), (-0.06, 1.0, "calmer"), (0.06, 1.0, "more"), (0.0, 0.0, "same")],
)
def test_a_change_of_flicker_in_a_word(change, base, word):
    assert flicker_effect(change, base) == word
