"""What a picture hides of noise, and how many viewers see what is left."""

from __future__ import annotations

import json

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter

from hasty_reel.measure.masking import CENTRES, Sight, band_weights, elevation, integrated_contrast, mask_of
from hasty_reel.measure.seen import contrast_of
from hasty_reel.measure.seennoise import seen_noise_blocks
from hasty_reel.measure.sequence import measure_sequence
from hasty_reel.pictures.frame import Picture
from hasty_reel.pictures.writing import write_picture
from hasty_reel.viewers import impairment, limit_of, loss_of, share_of_viewers, viewers_words

DENSITY, SHAPE = 28.0, (128, 160)


def noise(seed: int, count: int = 8, contrast: float = 0.02) -> np.ndarray:
    return contrast * np.random.default_rng(seed).standard_normal((count, *SHAPE)).astype(np.float32)


def texture(strength: float) -> np.ndarray:
    """L* of a picture with so much contrast around two cycles a degree, as a share of 50."""
    plane = gaussian_filter(np.random.default_rng(7).standard_normal(SHAPE), DENSITY / 2.0 / 6.0)
    return 50.0 * (1.0 + strength * plane / plane.std())


def seen(planes: np.ndarray, sight: Sight | None = None) -> float:
    return float(np.sqrt(np.mean(seen_noise_blocks(planes, DENSITY, 24.0, sight=sight) ** 2)))


def test_bands_share_out_all_of_a_picture():
    weights = band_weights(*SHAPE, DENSITY)
    assert len(weights) == len(CENTRES)
    np.testing.assert_allclose((weights**2).sum(axis=0), 1.0, atol=1e-6)


def test_integrated_contrast_has_the_slope_of_contrast_against_its_surroundings():
    """A small step on it is the contrast that unrest of that step has."""
    for level in (20.0, 49.5, 60.0, 95.0):
        slope = float(integrated_contrast(np.array(level + 0.01)) - integrated_contrast(np.array(level))) / 0.01
        assert slope == pytest.approx(float(contrast_of(np.array(1.0), np.array(level))), rel=0.03)


def test_the_threshold_rises_with_the_mask_as_masking_data_have_it():
    """Legge and Foley 1980 (J. Opt. Soc. Am. 70, 1458, from memory): flat below the threshold of the mask, then a power of .6 or so."""
    assert elevation(np.array(0.0)) == 1.0
    assert elevation(np.array(1.0)) < 1.05
    strong = np.log(elevation(np.array(200.0)) / elevation(np.array(50.0))) / np.log(4.0)
    assert strong == pytest.approx(0.6, abs=0.06)


def recombined(planes: np.ndarray, mask: np.ndarray) -> np.ndarray:
    """Noise of which each band is divided by its elevation at each pixel and put together again: the same without blocks."""
    weights = band_weights(*SHAPE, DENSITY)
    raised = [1.0 / elevation(m) for m in mask]
    out = []
    for plane in planes:
        bands = [np.fft.irfft2(np.fft.rfft2(plane) * w, SHAPE) * r for w, r in zip(weights, raised)]
        out.append(np.fft.irfft2(sum(np.fft.rfft2(b) * w for b, w in zip(bands, weights)), SHAPE))
    return np.array(out, np.float32)


def test_on_an_even_grey_nothing_is_hidden_and_noise_does_not_mask_itself():
    planes = noise(1)
    flat = np.full(SHAPE, 50.0)
    np.testing.assert_allclose(Sight.of(flat, flat, DENSITY).share, 1.0, atol=1e-6)
    one, two = (50.0 + 40.0 * noise(k, 1)[0] for k in (2, 3))
    assert seen(planes, Sight.of(one, two, DENSITY)) == pytest.approx(seen(planes), rel=0.05)
    assert seen(planes, Sight.of(one, one, DENSITY)) < 0.96 * seen(planes), "as it would by one seed alone"


def test_the_more_texture_the_less_of_the_noise_is_seen():
    planes = noise(4)
    sights = [Sight.of(texture(s), texture(s), DENSITY) for s in (0.0, 0.05, 0.15, 0.4)]
    left = [seen(planes, s) for s in sights]
    assert left[0] == pytest.approx(seen(planes), rel=1e-3)
    assert left == sorted(left, reverse=True) and left[3] < 0.7 * left[0]
    assert seen(2.0 * planes, sights[2]) == pytest.approx(2.0 * left[2], rel=1e-3)  # what masks is the picture alone


@pytest.mark.parametrize("strength", [0.05, 0.4])
def test_blocks_tell_what_is_hidden_as_each_pixel_does(strength):
    """A picture that is half texture: of the mean over each block, and of each pixel, about as much is left."""
    planes, picture = noise(5), texture(strength)
    picture[:, : SHAPE[1] // 2] = 50.0
    mask = mask_of(picture, picture, DENSITY)
    assert seen(planes, Sight.of(picture, picture, DENSITY)) == pytest.approx(seen(recombined(planes, mask)), rel=0.04)
    where = np.where(mask.max(axis=0) > 5.0, 3.0, 1.0).astype(np.float32) * planes  # noise that is strong where it is hidden
    assert seen(where, Sight.of(picture, picture, DENSITY)) == pytest.approx(seen(recombined(where, mask)), rel=0.08)


@pytest.mark.parametrize("seen, loss, share", [(1.09, 0.25, 0.13), (1.62, 0.5, 0.26), (2.55, 1.0, 0.50)])
def test_a_loss_in_jod_is_a_share_of_viewers(seen, loss, share):
    """One JOD: 75 of 100 choose the better film, half of them by chance (Perez-Ortiz and others 2020)."""
    assert share_of_viewers(loss) == pytest.approx(share, abs=0.006)
    assert loss_of(seen) == pytest.approx(loss, abs=0.01) and limit_of(share_of_viewers(loss)) == pytest.approx(seen, rel=0.01)


def test_a_human_scale_in_words():
    assert [viewers_words(s) for s in (0.0, 0.1, 0.25, 0.5, 0.7, 0.99)] == [
        "nearly nobody",
        "1 in 10",
        "1 in 4",
        "1 in 2",
        "7 in 10",
        "nearly all",
    ]
    assert [impairment(loss) for loss in (0.05, 0.3, 1.0, 2.0, 5.0)] == [
        "imperceptible", "perceptible, not annoying", "slightly annoying", "annoying", "very annoying",
    ]  # fmt: skip
    assert np.isnan(loss_of(float("nan"))) and loss_of(0.0) == 0.0


def test_a_sequence_of_two_seeds_says_how_many_viewers_see_its_noise(tmp_path, call):
    rng = np.random.default_rng(0)
    light = 0.2 * (1.0 + 0.3 * gaussian_filter(rng.standard_normal((90, 160, 1)), (2, 2, 0)) * 6.0)
    frames = {s: [Picture((light + 0.01 * rng.standard_normal((90, 160, 3))).astype(np.float32)) for _ in range(5)] for s in "ab"}
    found = measure_sequence(range(5), lambda f, w: frames["a"][f], lambda f, w: frames["b"][f])
    even = {s: [Picture((0.2 + p.rgb - light).astype(np.float32)) for p in pictures] for s, pictures in frames.items()}
    on_grey = measure_sequence(range(5), lambda f, w: even["a"][f], lambda f, w: even["b"][f])
    assert 0.3 * on_grey.seen_noise < found.seen_noise < 0.9 * on_grey.seen_noise
    for side, pictures in frames.items():
        for k, picture in enumerate(pictures):
            write_picture(tmp_path / f"{side}.{k + 1:04d}.exr", picture)
    status, said, _ = call("measure", tmp_path / "a.####.exr", "--pair", tmp_path / "b.####.exr", "--json")
    told = json.loads(said)["sequence"]
    assert status == 0 and told["seen_noise"] == pytest.approx(found.seen_noise, rel=0.05)
    assert told["noise_viewers"] == pytest.approx(share_of_viewers(told["noise_loss_jod"])) and told["viewers"] > 0
    assert "seen by" in call("measure", tmp_path / "a.####.exr", "--pair", tmp_path / "b.####.exr")[1]
