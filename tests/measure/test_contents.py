"""Seen flicker, information, sharpness, differences, sparks and noise of one picture, against published values."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter
from skimage.data import astronaut, camera

from hasty_reel.errors import WrongInput
from hasty_reel.image.lightness import lightness
from hasty_reel.image.srgb import srgb_decode
from hasty_reel.image.tiles import tile_rms
from hasty_reel.measure.content import (
    flicker_index,
    gradient_energy,
    percent_flicker,
    sharpness_kept,
    spatial_information,
    temporal_information,
)
from hasty_reel.measure.difference import absolute, flip, in_lightness, similarity
from hasty_reel.measure.flipprocess import flip_in_process
from hasty_reel.measure.noise import noise_of_one
from hasty_reel.measure.plane import seen_frame
from hasty_reel.measure.seen import Eyes, contrast_of, grain_weight, sensitivity
from hasty_reel.measure.sparks import find_sparks

HD = Eyes().pixels_per_degree(1080)


def rms(values: np.ndarray) -> float:
    return float(np.sqrt(np.mean(np.square(values))))


# -- seen flicker


@pytest.mark.parametrize(
    "f, v, expected", [(1, 1, 119.69085), (2, 2, 216.97464), (4, 1, 162.96031), (0.5, 16, 119.66074), (1, 12, 78.893928)]
)
def test_sensitivity_by_kelly(f, v, expected):
    """Kelly 1979 (J. Opt. Soc. Am. 69), formula from memory; computed a second time with mpmath."""
    assert sensitivity(np.array(f), f * v) == pytest.approx(expected, rel=1e-6)


def test_contrast_is_webers_above_mid_grey_and_asks_for_more_in_the_dark():
    for light, share in ((0.5, 1.0), (0.2, 1.0), (0.02, (0.02 / 0.18) ** (1 / 3))):
        step = lightness(np.array(light * 1.005)) - lightness(np.array(light * 0.995))
        assert contrast_of(step, lightness(np.array(light))) == pytest.approx(0.01 * share, rel=0.01)


def test_from_further_away_grain_is_seen_less():
    assert grain_weight(Eyes(6.0).pixels_per_degree(1080), 24) < grain_weight(Eyes(3.0).pixels_per_degree(1080), 24)
    assert Eyes(3.0).pixels_per_degree(1080, 50.0) == pytest.approx(0.5 * HD) and Eyes(3.0).pixels_per_degree(1080, 200.0) == HD


# -- information


def perceptual_luma(luma: np.ndarray) -> np.ndarray:
    """Luma 0..255 as P.910 takes it since 2022: BT.1886 on a screen of 0.1 to 300 cd/m2, then PQ (SMPTE ST 2084), 0..255."""
    y = (299.9 * (np.asarray(luma, np.float64) / 255.0) ** 2.4 + 0.1) / 10000.0
    m1, m2, c1, c2, c3 = 2610 / 16384, 2523 / 32, 3424 / 4096, 2413 / 128, 2392 / 128
    p = y**m1
    return 255.0 * ((c1 + c2 * p) / (1.0 + c3 * p)) ** m2


def clip() -> list[np.ndarray]:
    frames = []
    for t in range(5):
        luma = np.full((64, 64), 60.0)
        luma[16:48, 8 + 4 * t : 24 + 4 * t] = 180.0
        frames.append(luma)
    return frames


def test_spatial_and_temporal_information_as_the_reference_has_it():
    """ITU-T P.910, computed with siti-tools 0.6.0: the older form on luma, the newer on BT.1886 and PQ."""
    plain, newer = clip(), [perceptual_luma(f) for f in clip()]
    assert [spatial_information(f) for f in plain] == pytest.approx([102.94365] * 5, rel=1e-6)
    assert [temporal_information(b, a) for a, b in pairwise(plain)] == pytest.approx([30.0] * 4)
    assert spatial_information(newer[0]) == pytest.approx(52.458842, rel=1e-6)
    assert temporal_information(newer[1], newer[0]) == pytest.approx(15.287638, rel=1e-6)
    rng = np.random.RandomState(0)
    a, b = rng.normal(0, 10, (128, 128)), rng.normal(0, 10, (128, 128))
    assert (spatial_information(a), temporal_information(b, a)) == pytest.approx((22.448793, 14.082568), rel=1e-6)


def test_temporal_information_is_blind_to_a_flash_and_percent_flicker_is_not():
    assert temporal_information(np.full((8, 8), 90.0), np.full((8, 8), 50.0)) == 0.0
    levels = np.array([100, 101, 99, 102, 98, 100, 101, 99.0])
    assert percent_flicker(levels) == pytest.approx(2.0) and flicker_index(levels) == pytest.approx(0.005)
    t = np.linspace(0, 1, 4000, endpoint=False)
    sine = 1 + 0.2 * np.sin(2 * np.pi * t)  # IES definitions, from memory; closed forms m and m/pi
    assert percent_flicker(sine) == pytest.approx(20.0, rel=1e-3) and flicker_index(sine) == pytest.approx(0.2 / np.pi, rel=1e-3)
    assert percent_flicker(np.zeros(4)) == flicker_index(np.zeros(4)) == 0.0


# -- sharpness


def test_noise_does_not_count_as_sharpness_and_blur_costs_it():
    scene = lightness(camera() / 255.0)
    rng = np.random.RandomState(4)
    clean = gradient_energy(scene)
    noisy = gradient_energy(scene + rng.normal(0, 3, scene.shape), 3.0)
    assert noisy == pytest.approx(clean, rel=0.05)
    assert sharpness_kept(gradient_energy(gaussian_filter(scene, 2.0)), clean) < 0.3
    assert np.isnan(sharpness_kept(1.0, 0.0)) and gradient_energy(np.zeros((2, 9))) == 0.0


# -- differences


def light(codes: np.ndarray) -> np.ndarray:
    return srgb_decode(np.asarray(codes, np.float64)).astype(np.float32)


def test_flip_against_its_published_implementation():
    """flip-evaluator 1.7 on astronaut() with noise of 10/255, at 67 and 30 pixels a degree; black to white from the paper."""
    codes = astronaut() / 255.0
    noisy = np.clip(codes + np.random.RandomState(0).normal(0, 10 / 255, codes.shape), 0, 1)
    assert flip(light(codes), light(noisy), 67.0).mean() == pytest.approx(0.0850, abs=0.001)
    assert flip(light(codes), light(noisy), 30.0).mean() == pytest.approx(0.1528, abs=0.001)
    black, white = np.zeros((64, 64, 3), np.float32), np.ones((64, 64, 3), np.float32)
    assert flip(black, white, 67.0).mean() == pytest.approx(0.9673, abs=0.001)
    assert flip(white, white, 67.0).max() == 0.0


def test_flip_in_a_process_of_its_own_is_the_same():
    rng = np.random.RandomState(3)
    a, b = (rng.rand(40, 50, 3).astype(np.float32) for _ in range(2))
    assert flip_in_process(a, b, 40.0) == pytest.approx(flip(a, b, 40.0), abs=1e-6)


def test_structural_similarity_against_its_published_definition():
    """Wang et al. 2004 on camera(), data range 255: 0.600695 with noise of 10, 0.748698 blurred by 2 (scikit-image 0.26.0,
    Gaussian weights); two flat pictures of 100 and 150 by hand: 0.923092."""
    plain = camera().astype(float)
    noisy = plain + np.random.RandomState(0).normal(0, 10, plain.shape)
    assert similarity(plain, gaussian_filter(plain, 2.0), 255.0) == pytest.approx(0.748698, abs=1e-4)
    assert similarity(plain, noisy, 255.0) == pytest.approx(0.600695, abs=1e-4)
    assert similarity(np.full((32, 32), 100.0), np.full((32, 32), 150.0), 255.0) == pytest.approx(0.92309231, abs=1e-8)


def test_differences_in_light_and_lightness():
    a, b = np.full((4, 4, 3), 0.2, np.float32), np.full((4, 4, 3), 0.3, np.float32)
    assert absolute(a, b) == pytest.approx(np.full((4, 4), 0.1), abs=1e-6)
    assert in_lightness(a, b) == pytest.approx(np.full((4, 4), lightness(np.array(0.3)) - lightness(np.array(0.2))), abs=1e-3)
    with pytest.raises(WrongInput, match="expected the same size"):
        absolute(a, b[:2])


# -- noise of one picture


def test_noise_estimated_from_one_picture():
    """Noise of 10 on even grey within 2 %; on camera() 10 and 25 as near as Immerkaer's 11.3 and 25.6 (scipy, check values)."""
    rng = np.random.RandomState(0)
    assert rms(noise_of_one(128 + rng.normal(0, 10, (256, 256)))) == pytest.approx(10.0, rel=0.02)
    noise = np.random.RandomState(0).normal(0, 10, (512, 512))
    assert np.median(noise_of_one(camera() + noise)) == pytest.approx(10.0, rel=0.15)
    assert np.median(noise_of_one(camera() + 2.5 * noise)) == pytest.approx(25.0, rel=0.08)
    rows, columns = np.mgrid[0:64, 0:64]
    assert noise_of_one(3.0 * rows + 2.0 * columns).max() < 1e-3
    assert noise_of_one(np.zeros((2, 2))).max() == 0.0


# -- sparks


def test_sparks_are_counted_and_stars_that_stay_are_not():
    rng = np.random.RandomState(5)
    still = 20 + gaussian_filter(rng.normal(0, 20, (120, 160)), 6)
    frames = [(still + rng.normal(0, 0.5, still.shape)).astype(np.float32) for _ in range(3)]
    for frame in frames:
        frame[40, 40] = frame[80, 100] = 90.0  # lights of the scene
    for r, c in ((20, 30), (60, 70), (100, 20)):
        frames[1][r, c] = 85.0
    found = find_sparks(frames[1], noise_of_one(frames[1]), frames[0], frames[2])
    assert sorted(zip(*np.nonzero(found))) == [(20, 30), (60, 70), (100, 20)]
    alone = find_sparks(frames[1], noise_of_one(frames[1]), None, None)
    assert np.count_nonzero(alone) == 5


def test_edges_lines_and_plain_noise_are_no_sparks():
    rng = np.random.RandomState(6)
    frame = np.full((100, 100), 30.0, np.float32)
    frame[:, 50:] = 80.0
    frame[20, :] = 95.0
    assert not find_sparks(frame, noise_of_one(frame), None, None).any()
    noisy = (50 + rng.normal(0, 6, (200, 200))).astype(np.float32)
    assert np.count_nonzero(find_sparks(noisy, noise_of_one(noisy), None, None)) == 0


# -- planes


def test_a_picture_as_it_is_seen():
    rng = np.random.RandomState(7)
    rgb = rng.uniform(-0.2, 1.4, (40, 50, 3)).astype(np.float32)
    expected = lightness(np.clip(rgb @ np.array([0.2126, 0.7152, 0.0722]), 0, 1))
    assert seen_frame(rgb).lightness == pytest.approx(expected, abs=2e-3)
    rgb[3, 4], rgb[5, 6, 1], rgb[7, 8, 2] = np.nan, np.inf, -np.inf
    seen = seen_frame(rgb)
    assert seen.bad == 3 and np.isfinite(seen.lightness).all() and seen.lightness[3, 4] == 0.0
    assert seen_frame(rgb, "ACES 2.0 - SDR 100 nits (Rec.709)").bad == 3


def test_tiles_leave_out_what_does_not_count():
    plane = np.zeros((40, 64), np.float32)
    plane[:32, :32], plane[:32, 32:] = 2.0, 4.0
    counts = np.ones(plane.shape, np.uint8)
    counts[:32, 32:60] = 0
    tiles = tile_rms(plane, counts, 32)
    assert tiles.shape == (2, 2) and tiles[0, 0] == 2.0 and np.isnan(tiles[0, 1]) and tiles[1, 0] == 0.0
