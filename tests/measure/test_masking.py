"""What a picture hides of noise, and how many viewers see what is left."""

from __future__ import annotations

import json

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter

from hasty_reel.measure.masking import CENTRES, band_weights, elevation, integrated_contrast, left_in_sight, mask_of
from hasty_reel.measure.seen import contrast_of
from hasty_reel.measure.seennoise import seen_noise_blocks
from hasty_reel.measure.sequence import measure_sequence
from hasty_reel.measure.viewers import impairment, loss_of, share_of_viewers, viewers_words
from hasty_reel.pictures.frame import Picture
from hasty_reel.pictures.writing import write_picture

DENSITY, SHAPE = 28.0, (128, 160)


def noise(seed: int, count: int = 8, contrast: float = 0.02) -> np.ndarray:
    return contrast * np.random.default_rng(seed).standard_normal((count, *SHAPE)).astype(np.float32)


def texture(strength: float) -> np.ndarray:
    """L* of a picture with so much contrast around two cycles a degree, as a share of 50."""
    plane = gaussian_filter(np.random.default_rng(7).standard_normal(SHAPE), DENSITY / 2.0 / 6.0)
    return 50.0 * (1.0 + strength * plane / plane.std())


def seen(planes: np.ndarray) -> float:
    return float(np.sqrt(np.mean(seen_noise_blocks(planes, DENSITY, 24.0) ** 2)))


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


def test_on_an_even_grey_nothing_is_hidden_and_noise_does_not_mask_itself():
    planes = noise(1)
    flat = np.full(SHAPE, 50.0)
    np.testing.assert_allclose(left_in_sight(planes, mask_of(flat, flat, DENSITY), DENSITY), planes, atol=1e-6)
    one, two = (50.0 + 40.0 * noise(k, 1)[0] for k in (2, 3))
    alone = seen(left_in_sight(planes, mask_of(one, two, DENSITY), DENSITY))
    assert alone == pytest.approx(seen(planes), rel=0.05)
    itself = seen(left_in_sight(planes, mask_of(one, one, DENSITY), DENSITY))
    assert itself < 0.96 * seen(planes), "as it would by one seed alone"


def test_the_more_texture_the_less_of_the_noise_is_seen():
    planes = noise(4)
    left = [seen(left_in_sight(planes, mask_of(texture(s), texture(s), DENSITY), DENSITY)) for s in (0.0, 0.05, 0.15, 0.4)]
    assert left[0] == pytest.approx(seen(planes), rel=1e-3)
    assert left == sorted(left, reverse=True) and left[3] < 0.7 * left[0]
    twice = seen(left_in_sight(2.0 * planes, mask_of(texture(0.15), texture(0.15), DENSITY), DENSITY))
    assert twice == pytest.approx(2.0 * left[2], rel=1e-3)  # what masks is the picture alone


@pytest.mark.parametrize("masked, loss, share", [(1.03, 0.25, 0.13), (1.76, 0.5, 0.26), (3.05, 1.0, 0.50)])
def test_a_loss_in_jod_is_a_share_of_viewers(masked, loss, share):
    """One JOD: 75 of 100 choose the better film, half of them by chance (Perez-Ortiz and others 2020)."""
    assert share_of_viewers(loss) == pytest.approx(share, abs=0.006)
    assert loss_of(masked) == pytest.approx(loss, abs=0.005)


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
    found = measure_sequence(range(5), lambda f, w: frames["a"][f], lambda f, w: frames["b"][f], viewers=True)
    assert 0.3 * found.seen_noise < found.masked_noise < found.seen_noise
    assert np.isnan(measure_sequence(range(5), lambda f, w: frames["a"][f], viewers=True).masked_noise)
    for side, pictures in frames.items():
        for k, picture in enumerate(pictures):
            write_picture(tmp_path / f"{side}.{k + 1:04d}.exr", picture)
    status, said, _ = call("measure", tmp_path / "a.####.exr", "--pair", tmp_path / "b.####.exr", "--json")
    told = json.loads(said)["sequence"]
    assert status == 0 and told["masked_noise"] == pytest.approx(found.masked_noise, rel=0.05)
    assert told["viewers"] == pytest.approx(share_of_viewers(told["loss_jod"]))
    assert "side by side with a still version" in call("measure", tmp_path / "a.####.exr", "--pair", tmp_path / "b.####.exr")[1]
