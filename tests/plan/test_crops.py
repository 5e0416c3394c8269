"""Shots of which only a part moves are offered a crop."""

from __future__ import annotations

import os
from dataclasses import replace
from types import SimpleNamespace

import msgspec
import numpy as np
import pytest

from hasty_reel.budget.samples import Problem
from hasty_reel.evidence import pictureparts
from hasty_reel.evidence.moving import moving_of
from hasty_reel.evidence.relight import relights_of
from hasty_reel.pictures.frame import read_picture
from hasty_reel.plan.frames.crops import moving_crop
from hasty_reel.plan.frames.rendered import rendered_pixels, with_calm_around
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.shot import Hold
from hasty_reel.settings.recipe import Recipe
from planted_proofs import planted_evidence, planted_proof

FRAMES = (1001, 1025, 1049, 1073, 1096)
GROUND = np.random.default_rng(8).uniform(0.1, 0.5, (54, 96))


def plan_of(noise_reel, **lines):
    shot = noise_reel.shot("sh010")
    return SimpleNamespace(frames=np.array(shot.frames), shot=shot, recipe=Recipe(name="Final", **lines))


def lamp(change, first: int = 48, width: int = 12) -> dict[int, np.ndarray]:
    """A part of the picture, 12 rows from row 24 on, that is `change` of the frame's place in the shot times as bright."""
    out = {}
    for k, frame in enumerate(FRAMES):
        out[frame] = GROUND.copy()
        out[frame][24:36, first : first + width] *= change(k)
    return out


def test_what_changes_is_found_within_one_part_of_the_picture(noise_reel, tmp_path):
    """96 x 54 pixels in 16 x 9 parts of 6: the lamp takes columns 8 and 9 and rows 4 and 5, and one part more is kept around it."""
    proof = planted_proof(tmp_path, "p001", lamp(lambda k: 1.0 + 0.03 * k), 0.02, np.random.default_rng(3))
    evidence = planted_evidence(tmp_path, proof)
    found = moving_of(evidence, 1048)
    assert found.box == pytest.approx((7 / 16, 3 / 9, 11 / 16, 7 / 9)) and found.outside < 0.1, "noise is no change"
    lines, loss = moving_crop(plan_of(noise_reel), evidence)
    assert lines == {"crop_left": 43, "crop_top": 33, "crop_right": 31, "crop_bottom": 22} and loss == found.outside
    assert moving_crop(plan_of(noise_reel, crop_left=10), evidence) is None, "what is cropped already is left as it is"


def test_what_moves_is_followed_to_the_proofs_beside(noise_reel, tmp_path):
    """Vectors on a block alone, half a pixel a frame to the right, proofs 24 frames apart: 6 pixels on both sides, half of the way."""
    proof = planted_proof(
        tmp_path, "p001", dict.fromkeys(FRAMES, GROUND), 0.0, np.random.default_rng(3), across=0.5, moving=(24, 36, 48, 60)
    )
    found = moving_of(planted_evidence(tmp_path, proof), 1048)
    low, high = (48 - 6) / 96 - 1 / 16, (60 + 6) / 96 + 1 / 16
    assert found.box == pytest.approx((low, 24 / 54 - 1 / 9, high, 36 / 54 + 1 / 9), abs=1 / 96)


def test_each_picture_is_read_once_until_it_changes(tmp_path, monkeypatch):
    proof = planted_proof(tmp_path, "p001", lamp(lambda k: 1.0 + 0.03 * k), 0.02, np.random.default_rng(3))
    evidence, reads = planted_evidence(tmp_path, proof), []
    monkeypatch.setattr(pictureparts, "read_picture", lambda path, *more: (reads.append(path), read_picture(path, *more))[1])
    found, light = moving_of(evidence, 1048), relights_of(evidence)
    assert len(reads) == 3 * len(FRAMES), "two seeds, and the vectors of one"
    assert moving_of(evidence, 1048) == found and relights_of(evidence) == light and len(reads) == 3 * len(FRAMES)
    one = evidence.folders["p001"] / proof.pictures[0].file
    os.utime(one, ns=(1, 1))
    assert moving_of(evidence, 1048) == found and reads[3 * len(FRAMES) :] == [one, one]
    one.unlink()
    assert len(relights_of(evidence)) == len(light) - 1, "told where the evidence is read"


def test_no_crop_where_it_would_be_missed_or_is_not_known(noise_reel, tmp_path):
    rng, plan = np.random.default_rng(3), plan_of(noise_reel)

    def offered(name: str, pictures, **more):
        return moving_crop(plan, planted_evidence(tmp_path, planted_proof(tmp_path, name, pictures, 0.0, rng, **more)))

    assert offered("p001", dict.fromkeys(FRAMES, GROUND)) is None, "nothing moves"
    assert offered("p002", dict.fromkeys(FRAMES, GROUND), across=1.0) is None, "everything moves"
    assert offered("p003", lamp(lambda k: 1.0 + k, first=0, width=90)) is None, "most of it changes"
    assert offered("p004", {f: p for f, p in lamp(lambda k: 1.0 + k).items() if f < 1050}) is None, "half of the shot was not looked at"
    drifting = {f: p * (1.0 + 0.012 * k) for k, (f, p) in enumerate(lamp(lambda k: 1.0 + k).items())}
    kept = offered("p005", drifting)
    assert kept is None or kept[1] > 0.1, "what drifts around it is told"


def around(noise_reel, demo_evidence, hold: Hold, **lines):
    """The plan of a shot of which a quarter is rendered, and the place of the frame around."""
    shot = msgspec.structs.replace(noise_reel.shot("sh010"), hold=hold, pins=lines.pop("pins", {}))
    recipe = msgspec.structs.replace(noise_reel.recipe_of(shot), crop_left=25, crop_right=25, crop_top=50, **lines)
    plan = plan_shot(noise_reel, shot, ShotModel(demo_evidence["sh010"], shot.frames), recipe)
    return plan, shot.index(shot.middle)


def test_the_frame_around_is_as_calm_as_denoising_makes_the_others(noise_reel):
    """A quarter of the noise takes sixteen times the samples, a frame half as noisy by nature half of them."""
    shot = noise_reel.shot("sh010")
    recipe = Recipe(name="Final", crop_left=50)
    samples, denoised, k = np.full(96, 32), np.full(96, 0.25), shot.index(shot.middle)
    problem = Problem(np.full(96, 0.04), np.ones(96), np.zeros(96), ceiling=4096)
    found = with_calm_around(shot, recipe, problem, samples, denoised)
    assert found[k] == 512 and set(np.delete(found, k)) == {32}
    assert np.array_equal(with_calm_around(shot, msgspec.structs.replace(recipe, crop_left=0), problem, samples, denoised), samples)
    quiet = np.where(np.arange(96) == k, 0.02, 0.04)
    assert with_calm_around(shot, recipe, replace(problem, variance=quiet), samples, denoised)[k] == 256
    pixels = rendered_pixels(shot, recipe, 100, 50)
    assert pixels[k] == 5000 and set(np.delete(pixels, k)) == {2500.0}


@pytest.mark.parametrize("kind", ["clean", "noise"])
def test_bounds_hold_for_the_frame_around_and_what_they_leave_is_told(noise_reel, demo_evidence, kind):
    """Its ceiling, its pin and the cap count; noise that stays there is said, and is a noise that is not held."""
    hold = Hold(kind=kind, value=0.006 if kind == "noise" else 90.0)
    free, k = around(noise_reel, demo_evidence, hold, samples_ceiling=65536)
    others = np.delete(free.noise, k)
    assert free.noise[k] / free.denoised[k] <= np.median(others) * 1.001
    assert free.samples[k] > 2 * free.samples[k - 1] and not free.budget.why
    ceiling = int(free.samples[k]) // 2 // 16 * 16
    low, _ = around(noise_reel, demo_evidence, hold, samples_ceiling=ceiling)
    assert low.samples.max() == low.samples[k] == ceiling
    assert (
        f"frame 1048 stays 1.4 times as noisy around the crops as the others are within, at {ceiling} samples, the most it may get"
        in low.budget.why
    )
    assert low.budget.solved == (kind == "clean"), "nothing flickers around the crops"
    pinned, _ = around(noise_reel, demo_evidence, hold, samples_ceiling=65536, pins={1048: ceiling})
    assert pinned.samples[k] == ceiling and "1048 stays 1.4 times" in pinned.budget.why
    cap = float(free.seconds[k]) * 0.6
    capped, _ = around(noise_reel, demo_evidence, hold, samples_ceiling=65536, time_cap=cap)
    assert capped.seconds.max() <= cap and "1048 stays" in capped.budget.why
