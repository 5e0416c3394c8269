"""Sequences measured frame by frame: closed forms, bad input in words, three frames in memory."""

from __future__ import annotations

import weakref

import numpy as np
import pytest

from hasty_reel.errors import PictureError, Stopped, WrongInput
from hasty_reel.measure.neighbours import MOST_PIXELS, SequenceReport, frames_with_neighbours
from hasty_reel.measure.sequence import measure_sequence
from hasty_reel.pictures.frame import Picture
from hasty_reel.work import CancelToken


def grey(lightness_plane: np.ndarray) -> Picture:
    """A grey picture of a plane of L*."""
    light = np.where(lightness_plane > 8, ((lightness_plane + 16) / 116) ** 3, lightness_plane * 27 / 24389)
    return Picture(np.repeat(light[..., None], 3, axis=-1).astype(np.float32))


def noisy(spread: float, count: int = 5, shape=(96, 128), level: float = 50.0) -> list[Picture]:
    rng = np.random.RandomState(1)
    return [grey(level + rng.normal(0, spread, shape)) for _ in range(count)]


def of(pictures: list[Picture]):
    return lambda frame, wanted: pictures[frame]


def test_white_noise_flickers_by_its_spread_and_its_noise_is_known():
    frames = noisy(2.0)
    found = measure_sequence(range(5), of(frames))
    assert [f.flicker_L for f in found.frames] == pytest.approx([2.0] * 5, rel=0.04)
    assert found.flicker_L == pytest.approx(2.0, rel=0.08)  # the worst tiles of a few
    assert found.noise_L == pytest.approx(2.0, rel=0.05) and not found.two_seeds
    assert found.frames[0].mean_L == pytest.approx(50.0, abs=0.1)
    assert found.sparks_per_megapixel == 0.0 and found.words() == []


def test_a_fade_and_a_held_pattern_are_calm():
    pattern = np.random.RandomState(2).normal(50, 4, (96, 128))
    fade = measure_sequence(range(5), of([grey(pattern + 1.5 * k) for k in range(5)]))
    assert [f.flicker_L for f in fade.frames[1:4]] == pytest.approx([0.0] * 3, abs=0.01)
    assert fade.frames[0].flicker_L == pytest.approx(1.5 / np.sqrt(2), rel=0.02)  # one-sided at the ends
    held = measure_sequence(range(4), of([grey(pattern)] * 4))
    assert held.flicker_L == pytest.approx(0.0, abs=1e-4) and held.seen_flicker == pytest.approx(0.0, abs=1e-4)
    assert fade.percent_flicker > 5.0 and held.percent_flicker == 0.0


def test_noise_from_two_seeds_is_measured():
    rng = np.random.RandomState(3)
    base = rng.normal(50, 8, (96, 128))
    a, b = ([grey(base + rng.normal(0, 1.5, base.shape)) for _ in range(3)] for _ in range(2))
    found = measure_sequence(range(3), of(a), of(b))
    assert found.two_seeds and found.noise_L == pytest.approx(1.5, rel=0.03)


def test_vectors_of_the_frames_count_and_else_the_pictures_are_searched():
    from scipy.ndimage import gaussian_filter

    rng = np.random.RandomState(4)
    wide = 50 + 60 * gaussian_filter(rng.normal(0, 1, (128, 260)), 3)
    cut = [wide[:, 100 - 3 * k : 228 - 3 * k] for k in range(4)]
    plain = [grey(p) for p in cut]
    ones = np.ones(cut[0].shape, np.float32)
    told = [Picture(p.rgb, {"motion.X": 3 * ones, "motion.Y": 0 * ones}) for p in plain]
    by_vectors, by_flow = (measure_sequence(range(4), of(p)) for p in (told, plain))
    assert by_vectors.report.with_vectors and not by_flow.report.with_vectors
    assert by_vectors.flicker_L < 0.02 and by_flow.flicker_L < 1.0  # at the border nothing can be found
    wrong = [Picture(p.rgb, {"motion.X": 0 * ones, "motion.Y": 0 * ones}) for p in plain]
    assert measure_sequence(range(4), of(wrong)).flicker_L > 3.0


def test_faults_are_told_and_the_rest_is_measured():
    frames = {k: p for k, p in enumerate(noisy(1.0, 9))}
    frames[3] = Picture(np.zeros((50, 60, 3), np.float32))
    spoilt = frames[7].rgb.copy()
    spoilt[2:4, 5] = np.nan
    frames[7] = Picture(spoilt)

    def read(frame, wanted):
        if frame == 5:
            raise PictureError("shot.0005.exr: broken picture (cut short).")
        return frames[frame]

    found = measure_sequence([0, 1, 2, 3, 4, 5, 7, 8], read)
    assert [f.frame for f in found.frames] == [0, 1, 2, 4, 7, 8]
    words = " ".join(found.words())
    assert "Frame 6 missing" in words and "Frame 3 of 60x50 pixels left out; expected 128x96" in words
    assert "shot.0005.exr: broken picture (cut short). Left out." in words and "Frame 7: 2 pixels are not finite" in words
    assert np.isnan(found.frames[3].flicker_L)  # frame 4 stands alone between two holes
    assert found.frames[1].flicker_L == pytest.approx(1.0, rel=0.06)


def test_one_frame_all_black_and_nothing_at_all():
    alone = measure_sequence([7], lambda f, w: noisy(1.0, 1)[0])
    assert np.isnan(alone.flicker_L) and alone.noise_L == pytest.approx(1.0, rel=0.1) and "no flicker" in alone.words()[0]
    black = measure_sequence([1, 2], lambda f, w: Picture(np.zeros((40, 40, 3), np.float32)))
    assert black.flicker_L == 0.0 and black.frames[0].mean_L == 0.0 and any("all black" in w for w in black.words())
    nothing = measure_sequence([1, 2], lambda f, w: Picture(np.full((40, 40, 3), np.nan, np.float32)))
    assert nothing.frames[0].mean_L == 0.0 and "1600 pixels are not finite" in nothing.words()[0]

    def broken(frame, wanted):
        raise PictureError(f"a.{frame}.exr: not a picture.")

    with pytest.raises(WrongInput, match=r"No frame could be measured: a\.1\.exr"):
        measure_sequence([1, 2], broken)
    with pytest.raises(WrongInput, match="there are none"):
        measure_sequence([], broken)


def test_a_picture_beyond_all_bounds_is_refused_in_words():
    huge = np.broadcast_to(np.zeros(3, np.float32), (1 << 15, 1 << 14, 3))
    with pytest.raises(WrongInput, match="16384x32768 pixels; expected at most 256 million"):
        measure_sequence([1], lambda f, w: Picture(huge))
    assert MOST_PIXELS == 16384 * 16384


def test_a_missing_other_seed_is_told():
    frames = noisy(1.0, 3)

    def pair(frame, wanted):
        if frame == 1:
            raise PictureError("other.1.exr: no such picture.")
        return frames[(frame + 1) % 3]

    found = measure_sequence(range(3), of(frames), pair)
    assert found.words() == ["Frame 1: other.1.exr: no such picture. Its noise is estimated from the one picture."]


def test_steps_between_frames_are_no_holes():
    found = SequenceReport()
    steps = list(frames_with_neighbours([10, 12, 14], lambda f, w: noisy(1.0, 1)[0], found))
    assert found.missing == [] and steps[1].before is not None and steps[1].after is not None


def test_memory_does_not_grow_with_the_number_of_frames():
    alive: list[weakref.ref] = []
    most = 0

    def read(frame, wanted):
        nonlocal most
        picture = Picture(np.random.RandomState(frame).rand(64, 64, 3).astype(np.float32))
        alive.append(weakref.ref(picture))
        most = max(most, sum(ref() is not None for ref in alive))
        return picture

    measure_sequence(range(60), read)
    assert len(alive) == 60 and most <= 5


def test_it_stops_when_asked():
    token = CancelToken()

    def read(frame, wanted):
        if frame == 3:
            token.cancel()
        return noisy(1.0, 1)[0]

    with pytest.raises(Stopped):
        measure_sequence(range(100), read, cancel=token)


def test_information_only_where_it_is_asked_for():
    frames = noisy(2.0, 3)
    assert np.isnan(measure_sequence(range(3), of(frames)).frames[1].spatial)
    told = measure_sequence(range(3), of(frames), information=True).frames
    assert told[1].spatial > 10 and told[1].temporal > 5 and np.isnan(told[0].temporal)
