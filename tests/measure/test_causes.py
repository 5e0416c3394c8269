"""Causes of unrest: planted one at a time, by hand and by the bench renderer in scenes the finder was not tuned on."""

from __future__ import annotations

import numpy as np
import pytest
from planted import COUNT, HELD_BACK, planted, reader
from scipy.ndimage import fourier_shift, gaussian_filter
from test_sequence import grey, noisy, of

from hasty_reel.errors import WrongInput
from hasty_reel.measure.causes import CAUSES, find_causes
from hasty_reel.measure.causes.copies import Copies
from hasty_reel.pictures.frame import Picture

SHAPE = (128, 160)


def ranked(pictures: list[Picture]) -> dict[str, float]:
    return {c.name: c.score for c in find_causes(range(len(pictures)), of(pictures)).causes}


def first(scores: dict[str, float]) -> str:
    return max(scores, key=lambda n: scores[n])


def test_all_nine_are_named_with_what_helps():
    scores = ranked(noisy(2.0, 5, SHAPE))
    assert set(scores) == set(CAUSES) and len(CAUSES) == 9
    assert all(0 <= s <= 1 for s in scores.values())


@pytest.mark.parametrize("spread", [2.0, 4.0, 8.0])
def test_white_noise_is_grain(spread):
    scores = ranked(noisy(spread, 6, SHAPE))
    assert first(scores) == "grain" and scores["grain"] > 0.5 and scores["blotches"] < 0.2


@pytest.mark.parametrize("spread", [0.6, 1.2, 3.0])
def test_coarse_noise_that_is_new_each_frame_is_blotches(spread):
    rng = np.random.RandomState(1)
    fields = [gaussian_filter(rng.normal(0, 1, SHAPE), 4) for _ in range(6)]
    scores = ranked([grey(50 + spread * f / f.std()) for f in fields])
    assert first(scores) == "blotches" and scores["blotches"] > 0.5 and scores["grain"] < 0.3


def test_grain_and_blotches_together_are_told_apart():
    rng = np.random.RandomState(2)
    fields = [gaussian_filter(rng.normal(0, 1, SHAPE), 4) for _ in range(6)]
    both = ranked([grey(50 + 1.5 * f / f.std() + rng.normal(0, 3, SHAPE)) for f in fields])
    assert both["grain"] > 0.5 and both["blotches"] > 0.5


def test_single_bright_pixels_are_sparks():
    rng = np.random.RandomState(3)
    frames = []
    for _ in range(6):
        plane = np.full(SHAPE, 30.0) + rng.normal(0, 0.3, SHAPE)
        plane[rng.randint(4, SHAPE[0] - 4, 12), rng.randint(4, SHAPE[1] - 4, 12)] = 90.0
        frames.append(grey(plane))
    found = find_causes(range(6), of(frames)).causes
    assert found[0].name == "sparks" and found[0].score > 0.9 and found[1].score < 0.3


def _moving(count: int = 6, step: float = 3.0) -> tuple[list[np.ndarray], np.ndarray]:
    """A smooth scene that moves sideways, and its vectors."""
    rng = np.random.RandomState(4)
    scene = gaussian_filter(rng.normal(0, 1, (SHAPE[0], 320)), 8)
    scene = 50 + 12 * scene / scene.std()
    spectrum = np.fft.fftn(scene)
    frames = [np.fft.ifftn(fourier_shift(spectrum, (0, step * k))).real[:, 60 : 60 + SHAPE[1]] for k in range(count)]
    return frames, np.full((*SHAPE, 2), (step, 0.0), np.float32)


def _told(planes: list[np.ndarray], vectors: np.ndarray) -> list[Picture]:
    return [Picture(grey(p).rgb, {"motion.X": vectors[..., 0], "motion.Y": vectors[..., 1]}) for p in planes]


def test_a_pattern_that_stays_while_the_scene_moves_is_pinned():
    frames, vectors = _moving()
    rng = np.random.RandomState(5)
    held = rng.normal(0, 2.0, SHAPE)
    pinned = ranked(_told([f + held for f in frames], vectors))
    free = ranked(_told([f + rng.normal(0, 2.0, SHAPE) for f in frames], vectors))
    assert first(pinned) == "pinned_pattern" and pinned["pinned_pattern"] > 0.5 and pinned["grain"] < 0.3
    assert first(free) == "grain" and free["pinned_pattern"] < 0.1
    assert max(ranked(_told(frames, vectors)).values()) < 0.3


def test_steps_of_light_and_of_noise_are_pumping():
    rng = np.random.RandomState(6)
    pattern = gaussian_filter(rng.normal(50, 30, SHAPE), 3)
    light = ranked([grey(pattern + (1.5 if k == 3 else 0.0)) for k in range(8)])
    assert first(light) == "pumping" and light["pumping"] > 0.5
    levels = [0.3, 0.3, 0.3, 3.0, 3.0, 3.0, 0.3, 0.3]
    found = find_causes(range(8), of([grey(50 + rng.normal(0, s, SHAPE)) for s in levels]))
    assert found.causes[0].name == "pumping" and "Noise steps from" in found.causes[0].trace.note


def test_a_change_that_dies_away_from_the_first_frame_on_is_settling():
    rng = np.random.RandomState(7)
    place = gaussian_filter(rng.normal(0, 1, SHAPE), 10)
    place /= place.std()
    frames = [grey(50 + 6 * place * np.exp(-k / 3.0)) for k in range(12)]
    found = find_causes(range(12), of(frames)).causes
    assert found[0].name == "settling" and found[0].score > 0.7
    steady = [grey(50 + 0.8 * place * k) for k in range(12)]
    assert ranked(steady)["settling"] < 0.2


def test_copies_come_back_at_their_spacing_whatever_the_speed():
    """A box of 4 copies at half the way of a frame, 180 degrees: they come back at an eighth of it."""
    copies = Copies()
    for speed in (24.0, 32.0, 40.0):
        x = np.arange(400.0)
        row = np.mean([np.where((x > 150 + speed * 0.5 * k / 4) & (x < 250 + speed * 0.5 * k / 4), 80.0, 30.0) for k in range(4)], axis=0)
        plane = np.repeat(row[None], 64, axis=0).astype(np.float32)
        motion = np.zeros((*plane.shape, 2), np.float32)
        motion[:, 120:280, 0] = speed
        copies.take(plane, motion, motion[..., 0])
    clear, at, step = copies.comb()
    assert clear > 0.2 and at == pytest.approx(0.125, abs=0.02) and step > 5
    smooth = Copies()
    ramp = np.clip((np.arange(400.0) - 150) / 12, 0, 1) * np.clip((262 - np.arange(400.0)) / 12, 0, 1) * 50 + 30
    smooth.take(np.repeat(ramp[None], 64, axis=0).astype(np.float32), motion, motion[..., 0])
    assert smooth.comb()[0] < 0.05


def test_nothing_is_found_in_what_is_calm():
    frames, vectors = _moving()
    assert max(ranked(_told(frames, vectors)).values()) < 0.3
    pattern = gaussian_filter(np.random.RandomState(8).normal(50, 40, SHAPE), 1.5)
    assert max(ranked([grey(pattern)] * 5).values()) < 0.3
    assert max(ranked([grey(np.zeros(SHAPE))] * 4).values()) == 0.0


def test_where_and_when_are_told():
    rng = np.random.RandomState(9)
    frames = []
    for _ in range(6):
        plane = np.full(SHAPE, 50.0)
        plane[64:128, 80:160] += rng.normal(0, 4, (64, 80))
        frames.append(grey(plane))
    cause = find_causes(range(1001, 1007), lambda f, w: frames[f - 1001]).causes[0]
    assert cause.name == "grain" and cause.region == (80, 64, 80, 64) and set(cause.frames) <= set(range(1001, 1007))


def test_causes_need_two_frames_in_a_row():
    with pytest.raises(WrongInput, match="expected two frames in a row or more"):
        find_causes([3], of(noisy(1.0, 4)))
    sizes = [noisy(1.0, 1)[0], noisy(1.0, 1, (40, 40))[0]]
    with pytest.raises(WrongInput, match="of the same size"):
        find_causes(range(2), of(sizes))


@pytest.mark.parametrize(
    "cause, strength",
    [("grain", 1), ("blotches", 1), ("pinned_pattern", 1), ("shimmer", 2), ("strobing", 1), ("lens_noise", 1)],
)
def test_one_cause_planted_by_the_renderer_comes_first(cause, strength):
    """Scenes the finder was not tuned on; all strengths and clean references: benchmarks/causes.py."""
    found = find_causes(range(COUNT), reader(planted(cause, HELD_BACK, strength))).causes
    assert found[0].name == cause and found[0].score > 0.3, {c.name: c.score for c in found[:4]}
