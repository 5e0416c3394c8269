"""Bundles against brute force; hold clean over a shot; what settings change in the picture."""

from __future__ import annotations

import itertools
from dataclasses import replace
from types import SimpleNamespace

import msgspec
import numpy as np
import pytest

from hasty_reel.evidence.looks import Looks, looks_of
from hasty_reel.evidence.moving import Moving
from hasty_reel.measure.seen import Eyes
from hasty_reel.plan.answer import sentence
from hasty_reel.plan.compare.baseline import baseline
from hasty_reel.plan.compare.bundles import MOST_LOSS, Bundle, alternatives
from hasty_reel.plan.compare.reelbundle import reel_bundle
from hasty_reel.plan.compare.savings import savings
from hasty_reel.plan.frames import crops
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.edits import with_hold, with_line
from hasty_reel.reel.shot import CLEAN

EASY = Eyes(limit=1.5)
"""Eyes that see little, so that few samples are enough."""


@pytest.fixture(scope="module")
def model(noise_reel, demo_evidence):
    return ShotModel(demo_evidence["sh010"], noise_reel.shot("sh010").frames)


@pytest.fixture(scope="module")
def looks(demo_evidence) -> Looks:
    return looks_of(demo_evidence["sh010"])


@pytest.fixture
def clean_reel(noise_reel):
    return with_line(with_hold(noise_reel, "sh010", CLEAN), "sh010", "samples_ceiling", 65536)


def test_a_clean_plan_is_just_clean_in_every_frame(clean_reel, model):
    """With the margin for what proofs do not tell no frame is above the limit, and one step less would put each above it."""
    plan = plan_shot(clean_reel, clean_reel.shot("sh010"), model, eyes=EASY)
    assert plan.budget.solved and not plan.visible.any()
    _, high = plan.seen_band
    assert high.max() <= EASY.limit * 1.0001
    less = plan_shot(clean_reel, clean_reel.shot("sh010"), model, eyes=EASY, samples=plan.samples - plan.recipe.shutter_steps)
    assert np.mean(less.seen_band[1] > EASY.limit) > 0.9, "as few as can be"
    assert sentence(plan, 1.0).startswith("Calm for all but 1 in 4: ") and "denoised over 5 frames" in sentence(plan, 1.0)


def test_half_the_limit_takes_four_times_the_samples_or_more(clean_reel, model):
    """Noise falls by the root of the samples, and denoising takes less of what is cleaner."""
    whole, calmer = (plan_shot(clean_reel, clean_reel.shot("sh010"), model, eyes=Eyes(limit=n)) for n in (1.6, 0.8))
    assert np.median(calmer.samples / whole.samples) > 3.9 and calmer.worst_flicker < 0.52 * whole.worst_flicker


def test_where_samples_do_not_reach_it_is_said(clean_reel, model):
    recipe = msgspec.structs.replace(clean_reel.recipe("Final"), samples_ceiling=64)
    plan = plan_shot(clean_reel, clean_reel.shot("sh010"), model, recipe)
    assert not plan.budget.solved and "frames stay less calm than 1 in 9: seen by up to " in plan.budget.why
    assert sentence(plan, 1.0).startswith("Not calm for all but 1 in 9: all frames seen by up to ")


def test_what_a_setting_changes_is_told_from_noise(looks, demo_evidence):
    """No bounces at all is another picture; twice as many as are needed is the same one; both are told at 16 noisy samples."""
    assert looks.between("bounces", 6, 0) > 4.0 > 1.0 > looks.between("bounces", 6, 2) > 0.1
    assert looks.between("bounces", 6, 12) < 0.3 and looks.between("bounces", 6, 6) == 0.0
    assert looks.between("bounces", 6, 5) is None, "nobody tried it"
    assert looks.between("brightness_ceiling", 5.0, 1.5) > looks.between("brightness_ceiling", 5.0, None) > 0.3


def test_bundles_are_as_good_as_trying_everything(clean_reel, model, looks):
    """Every value that proofs tried with every other, without leaving any out: none is faster, none loses less."""
    shot = clean_reel.shot("sh010")
    plan = plan_shot(clean_reel, shot, model, eyes=EASY)
    found = {b.name: b for b in alternatives(clean_reel, plan, model, looks, 1e9).bundles}
    assert set(found) == {"sharpest", "calmest", "fastest"} and all(b.clean and b.in_time for b in found.values())
    ways = [(w, c) for w in (3, 5, 7) for c in (0, 1) if model.effects.at(w, None, bool(c)) is not None]
    seconds, losses = [], []
    for bounces, ceiling, (window, care) in itertools.product((1, 2, 4, 6, 12), (None, 5.0, 1.5), ways):
        change = [looks.between("bounces", 6, bounces), looks.between("brightness_ceiling", 5.0, ceiling)]
        if max(change) > MOST_LOSS:
            continue
        recipe = msgspec.structs.replace(
            plan.recipe, bounces=bounces, brightness_ceiling=ceiling, denoise_window=window, denoise_thorough=care, samples_ceiling=65536
        )
        made = plan_shot(clean_reel, shot, model, recipe, EASY)
        effect = model.effects.at(window, made.typical_samples, bool(care))
        seconds.append(made.total_seconds)
        losses.append(float(np.sqrt(np.sum(np.square(change)) + effect.bias_L**2)))
    assert found["fastest"].seconds <= 1.02 * min(seconds)
    assert found["sharpest"].loss <= min(losses) + 0.25
    assert found["sharpest"].loss < found["fastest"].loss and found["calmest"].plan.worst_flicker < 0.6 * EASY.limit


def test_without_time_the_fastest_is_offered_and_said_to_be_late(clean_reel, model, looks):
    plan = plan_shot(clean_reel, clean_reel.shot("sh010"), model, eyes=EASY)
    found = alternatives(clean_reel, plan, model, looks, 10.0)
    assert [b.name for b in found.bundles] == ["sharpest", "fastest"] and not any(b.in_time for b in found.bundles)
    assert found.why == "no bundle that is calm enough is ready when due"


def test_what_is_unproven_is_in_no_bundle(clean_reel, demo_evidence):
    evidence = demo_evidence["sh010"]
    bare = ShotModel(evidence.without({p.id for p in evidence.proofs if p.id not in ("p001", "p017")}), clean_reel.shot("sh010").frames)
    plan = plan_shot(clean_reel, clean_reel.shot("sh010"), bare, eyes=EASY)
    found = alternatives(clean_reel, plan, bare, Looks(), 1e9)
    assert not any("denoise" in w or "bounces" in w for b in found.bundles for w in b.words)
    assert found.missing == "a run of five frames or more, for denoising"


def test_a_smaller_render_scale_is_no_free_lunch(clean_reel, model, looks):
    """Half the size loses detail that is told, and buys no time at equal seen flicker: its pixels are four times as large."""
    assert looks.between("render_scale", 100.0, 50.0) > looks.between("render_scale", 100.0, 75.0) > 0.2
    plan = plan_shot(clean_reel, clean_reel.shot("sh010"), model, eyes=EASY)
    found = savings(clean_reel, plan, model, looks)
    assert found and not any("render scale" in s.words for s in found)
    first = found[0]
    other = plan_shot(clean_reel, clean_reel.shot("sh010"), model, msgspec.structs.replace(plan.recipe, **first.changes), EASY)
    assert plan.total_seconds - other.total_seconds == pytest.approx(first.seconds, rel=0.02)
    # samples come in multiples of the shutter steps: of some fifty half a step is a twelfth
    assert other.worst_flicker == pytest.approx(plan.worst_flicker, rel=0.1)


@pytest.mark.parametrize("seed", range(12))
def test_the_bundles_of_a_reel_are_those_of_brute_force(seed):
    """Up to three shots with up to six bundles each: none within the room loses less."""
    rng = np.random.default_rng(seed)
    bundles = {}
    for shot in range(int(rng.integers(1, 4))):
        frames = np.arange(int(rng.integers(10, 100)))
        of = []
        for _ in range(int(rng.integers(1, 7))):
            plan = SimpleNamespace(frames=frames, total_seconds=float(rng.uniform(10, 100)))
            of.append(Bundle("", None, CLEAN, plan, (), round(float(rng.uniform(0, 3)), 2), True, True))
        bundles[f"s{shot}"] = of
    frames = sum(len(of[0].plan.frames) for of in bundles.values())
    every = [
        (sum(b.seconds for b in c), sum(b.loss * len(b.plan.frames) for b in c) / frames) for c in itertools.product(*bundles.values())
    ]
    for share in (0.0, 0.3, 0.6, 1.0):
        fastest, slowest = min(e[0] for e in every), max(e[0] for e in every)
        room = fastest + share * (slowest - fastest)
        found = reel_bundle(bundles, room)
        best = min(loss for seconds, loss in every if seconds <= room + 1e-9)
        assert found.in_time and found.seconds <= room + 1e-9 and found.loss == pytest.approx(best, abs=1e-6)
    late = reel_bundle(bundles, 0.0)
    assert not late.in_time and late.seconds == pytest.approx(min(e[0] for e in every))
    assert reel_bundle({"a": []}, 1.0) is None


def test_looks_are_told_at_frames_of_the_scene_however_the_shot_was_numbered(demo_evidence, looks):
    """The richest proof, made when the shot began a hundred frames later: it is compared at the same moment of the scene."""
    evidence = demo_evidence["sh010"]

    def later(proof):
        if proof.id != "p008":
            return proof
        return msgspec.structs.replace(
            proof, offset=proof.offset + 100, pictures=tuple(msgspec.structs.replace(p, frame=p.frame + 100) for p in proof.pictures)
        )

    other = looks_of(replace(evidence, proofs=tuple(later(p) for p in evidence.proofs)))
    assert other.changes == looks.changes


def test_the_calmest_spends_the_time_there_is_where_all_of_it_is_more_than_helps(noise_reel, demo_evidence):
    """Days of time: as much as could be spent asks for less flicker than any samples leave; how calm they make it is looked for."""
    shot = msgspec.structs.replace(noise_reel.shot("sh010"), hold=CLEAN)
    reel = msgspec.structs.replace(noise_reel, shots=(shot,))
    own = ShotModel(demo_evidence["sh010"], shot.frames)
    found = {b.name: b for b in alternatives(reel, plan_shot(reel, shot, own, eyes=Eyes(limit=4.0)), own, Looks(), 3e5).bundles}
    assert found["calmest"].clean and found["calmest"].in_time
    assert found["calmest"].plan.worst_flicker < 0.27 * found["fastest"].plan.worst_flicker


def test_stopping_at_noise_is_among_what_buys_time(noise_reel, demo_evidence):
    """As calm as before, with half of the picture ended by its noise."""
    shot = noise_reel.shot("sh050")
    own = ShotModel(demo_evidence["sh050"], shot.frames)
    plan = plan_shot(noise_reel, shot, own)
    stop = next(s for s in savings(noise_reel, plan, own, Looks()) if "stop_noise" in s.changes)
    assert stop.words.startswith("stop at noise none → ") and stop.loss == 0.0 and 0 < stop.low < stop.seconds < stop.high
    assert stop.plan.worst_flicker == pytest.approx(baseline(noise_reel, plan, own).worst_flicker, rel=0.06)


def test_a_crop_of_what_moves_is_among_what_buys_time(noise_reel, demo_evidence, monkeypatch):
    """A quarter of the picture moves: three quarters of the samples' seconds are bought, less where what moves costs twice its share."""
    shot = noise_reel.shot("sh010")
    own = ShotModel(demo_evidence["sh010"], shot.frames)
    plan = plan_shot(noise_reel, shot, own)
    found = savings(noise_reel, plan, own, Looks())
    assert not any(s.own for s in found), "its camera moves"
    monkeypatch.setattr(crops, "moving_of", lambda *_: Moving((0.25, 0.5, 0.75, 1.0), 0.2, plan.frames[0], plan.frames[-1]))
    crop = next(s for s in savings(noise_reel, plan, own, Looks()) if s.own)
    assert crop.words == f"render the 25 % of the picture that move, frame {shot.middle} around them" and crop.loss == 0.2
    assert crop.changes == {"crop_left": 25, "crop_top": 50, "crop_right": 25}
    base = baseline(noise_reel, plan, own)
    k = plan.index(shot.middle)
    others = np.delete(base.sample, k).sum()
    assert crop.seconds == pytest.approx(0.75 * others - (crop.plan.sample[k] - base.sample[k]), rel=0.01)
    assert 0 < crop.low < 0.75 * crop.seconds < crop.high
