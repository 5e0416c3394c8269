"""What denoising leaves differs over a shot: runs in several places tell it of the frames between, one run of its own frames."""

from __future__ import annotations

import msgspec
import numpy as np
import pytest
from msgspec.structs import replace

from hasty_reel.evidence.proof import DenoiseEffect
from hasty_reel.farm.nextproof import next_proof
from hasty_reel.farm.usual import DENOISED_RUN
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.effectplaces import UNTOLD_PLACE, RatiosByPlace
from hasty_reel.predict.effects import Effects
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.shot import CLEAN

FRAMES = range(1001, 1097)


def effect(frame: float | None, samples: float, ratio: float) -> DenoiseEffect:
    return DenoiseEffect(
        window=5,
        thorough=True,
        noise_ratio=ratio,
        flicker_ratio=ratio,
        seen_ratio=ratio,
        samples=samples,
        frame=frame,
        seconds_per_pixel=1e-6,
    )


def test_frames_between_runs_are_told_and_the_band_holds():
    """300 shots whose ratio wanders as a smooth curve of its own scale and length: nine in ten frames that had no run lie in the band."""
    rng, inside, off = np.random.default_rng(3), [], []
    at = np.array(FRAMES, float)
    for _ in range(300):
        scale, length = rng.uniform(0.05, 0.35), rng.uniform(15.0, 60.0)
        covariance = scale**2 * np.exp(-0.5 * (np.subtract.outer(at, at) / length) ** 2) + 1e-9 * np.eye(len(at))
        curve = rng.uniform(-2.0, -0.7) + np.linalg.cholesky(covariance) @ rng.standard_normal(len(at))
        places = np.array([5, 30, 62, 90])
        told = curve[places] + rng.normal(0.0, 0.04, 4)
        ratios = RatiosByPlace(at[places], np.full(4, np.log(16.0)), told)
        mean, spread = ratios.at(np.log(16.0)) + ratios.by_frame(at), ratios.spread(at, np.log(16.0))
        hidden = np.abs(np.subtract.outer(np.arange(len(at)), places)).min(axis=1) > 4
        away = (mean - curve)[hidden]
        inside.append(np.mean(np.abs(away) < 1.645 * spread[hidden]))
        off.append(np.sqrt(np.mean(away**2)))
    assert 0.88 < np.mean(inside) < 0.995 and np.median(off) < 0.06


def test_places_and_samples_are_told_apart():
    """One place has two sample counts, the other a third: what counts do is learnt at the first, what the place does at the second."""
    slope = 0.25
    rows = [(1010.0, 4, 0.3), (1010.0, 16, 0.3 * 4**slope), (1080.0, 40, 0.15 * 10**slope)]
    effects = Effects(tuple(effect(*row) for row in rows))
    over = effects.over(5, 40.0, True, 1.0, FRAMES)
    here = effects.at(5, 40.0).seen * over.seen
    assert here[9] == pytest.approx(0.3 * 10**slope, rel=0.12) and here[79] == pytest.approx(0.15 * 10**slope, rel=0.08)
    assert np.all(np.diff(here[15:75]) < 0) and np.ptp(here[44:46]) < 0.01
    spread = effects.seen_spreads(5, True, FRAMES, np.array([40.0]))[0]
    assert spread[45] > 1.3 * spread[9]
    half = effects.over(5, 40.0, True, 0.5, FRAMES)
    assert np.all(np.abs(half.seen - 1.0) <= np.abs(over.seen - 1.0) + 1e-9), "half the strength differs less"


def test_one_run_tells_of_its_own_frames_and_less_of_far_ones():
    effects = Effects((effect(1010.0, 16, 0.3),))
    over = effects.over(5, 16.0, True, 1.0, FRAMES)
    assert np.all(over.seen == 1.0) and np.all(over.noise == 1.0)
    spread = effects.seen_spreads(5, True, FRAMES, np.array([16.0]))[0]
    assert spread[9] < 0.08 < 0.12 < spread[90]
    unknown = Effects((effect(None, 16, 0.3),))
    assert np.all(unknown.over(5, 16.0, True, 1.0, FRAMES).seen == 1.0)
    assert np.all(unknown.seen_spreads(5, True, FRAMES, np.array([16.0])) == UNTOLD_PLACE)


def test_a_run_far_from_the_others_is_the_next_proof_where_it_saves_caution(demo_reel, demo_evidence):
    shot = msgspec.structs.replace(demo_reel.shot("sh010"), hold=msgspec.structs.replace(CLEAN, value=600.0))
    model = ShotModel(demo_evidence["sh010"], shot.frames)
    plan = plan_shot(demo_reel, shot, model)
    assert plan.budget.solved
    found = next_proof(demo_reel, plan, model)
    assert found is not None and found.what.startswith("a run of frames") and found.narrows > found.seconds > 0
    frames = found.orders[0].frames
    known = [e.frame for e in model.effects.found if e.frame is not None]
    assert len(frames) == DENOISED_RUN and min(abs(frames[len(frames) // 2] - f) for f in known) > 12


def test_a_large_run_sets_the_level_and_small_ones_keep_what_they_told_of_samples():
    """Small runs leave 0.5 and 0.7 at 16 and 64 samples; a large one at 32 leaves 0.6 of what they would: their slope stays, 0.6 lower."""
    small = [replace(effect(1048.0, n, r), width=144, detail=0.8, bias_L=2.0) for n, r in ((16, 0.5), (64, 0.7))]
    between = float(np.sqrt(0.5 * 0.7))
    large = replace(effect(1048.0, 32, 0.6 * between), width=480, detail=0.98, bias_L=1.0)
    effects = Effects((*small, large))
    for samples, ratio in ((16.0, 0.5), (32.0, between), (64.0, 0.7)):
        assert effects.at(5, samples).seen == pytest.approx(0.6 * ratio, rel=1e-6)
    assert effects.at(5, 32.0).detail == pytest.approx(0.98) and effects.at(5, 32.0).bias_L == pytest.approx(1.0)
    alike = Effects((*small, replace(large, width=160)))
    assert alike.at(5, 16.0).seen == pytest.approx(0.5), "pictures of about the same size count alike"
    other = replace(effect(1048.0, 16, 0.4), width=144, window=7)
    assert Effects((*small, large, other)).at(7, 16.0).seen == pytest.approx(0.24), "what no large run tried moves as the others"
