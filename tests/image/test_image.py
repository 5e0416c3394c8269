"""Formulas of pixels against general-purpose libraries and published values."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.ndimage import map_coordinates
from skimage.color import rgb2lab
from skimage.measure import block_reduce

from hasty_reel.image.lightness import lightness, lightness_slope, lightness_slope_at, luminance_of_lightness
from hasty_reel.image.luminance import luminance
from hasty_reel.image.plaincodes import plain_codes
from hasty_reel.image.sampling import cubic_variance, remap_bicubic, remap_bilinear
from hasty_reel.image.srgb import light_of_codes8, srgb_decode, srgb_encode
from hasty_reel.image.tiles import tile_means, whole_tile_means
from hasty_reel.image.warp import places_in_next, places_in_previous
from hasty_reel.pictures.colour import codes8, dither_of
from hasty_reel.scaledsize import scaled_size

RNG = np.random.default_rng(3)


def test_lightness_is_that_of_the_international_commission():
    """scikit-image's rgb2lab (CIE 1976, D65) of greys; the slope against a difference quotient."""
    grey = np.linspace(0.0, 1.0, 33)
    codes = srgb_encode(grey)
    expected = rgb2lab(np.repeat(codes[:, None, None], 3, axis=2))[:, 0, 0]
    assert lightness(grey) == pytest.approx(expected, abs=2e-3)
    assert luminance_of_lightness(lightness(grey)) == pytest.approx(grey, abs=1e-6)
    at = np.array([0.02, 0.3, 0.9])
    quotient = (lightness(at * 1.0001) - lightness(at / 1.0001)) / (2.0 * np.log(1.0001))
    assert lightness_slope(at) == pytest.approx(quotient, rel=1e-5)
    assert lightness_slope_at(lightness(at)) == pytest.approx(quotient, rel=1e-5)


def test_codes_and_light_lead_back():
    """IEC 61966-2-1: code 0.5 is 0.2140 in light; 8-bit codes come back whole."""
    assert float(srgb_decode(np.array(0.5))) == pytest.approx(0.21404, abs=1e-5)
    codes = np.arange(256, dtype=np.uint8)
    assert np.round(srgb_encode(light_of_codes8(codes)) * 255).astype(int).tolist() == list(range(256))


def test_luminance_has_the_weights_of_recommendation_709():
    assert luminance(np.eye(3)) == pytest.approx([0.2126, 0.7152, 0.0722], abs=1e-4)


def test_tile_means_are_those_of_blocks():
    plane = RNG.random((64, 96))
    assert tile_means(plane, 16) == pytest.approx(block_reduce(plane, (16, 16), np.mean))
    odd = RNG.random((70, 100))
    assert whole_tile_means(odd, 16).shape == (4, 6)


@pytest.mark.parametrize(("remap", "order"), [(remap_bilinear, 1)])
def test_bilinear_sampling_is_that_of_scipy(remap, order):
    plane = RNG.random((40, 50)).astype(np.float32)
    x, y = RNG.uniform(2, 46, (30, 30)), RNG.uniform(2, 36, (30, 30))
    got = remap(plane, np.stack([x, y], axis=-1).astype(np.float32))
    assert got == pytest.approx(map_coordinates(plane, [y, x], order=order), abs=2e-2)


def test_cubic_sampling_keeps_the_noise_it_says():
    """White noise fetched at half a pixel keeps the sum of the squared weights of its variance."""
    noise = RNG.normal(size=(400, 400)).astype(np.float32)
    y, x = np.mgrid[4:396, 4:396].astype(np.float32)
    got = remap_bicubic(noise, np.stack([x + 0.5, y], axis=-1))
    assert got.var() == pytest.approx(float(cubic_variance(np.array([0.5]))[0]), rel=0.03)


def test_motion_leads_there_and_back():
    field = np.zeros((8, 8, 2), np.float32)
    field[..., 0] = 2.0
    assert places_in_next(field)[3, 3].tolist() == [5.0, 3.0]
    assert places_in_previous(field)[3, 3].tolist() == [1.0, 3.0]


def test_sizes_are_whole_and_never_too_small():
    assert scaled_size((1920, 1080), 50) == (960, 540) and scaled_size((1920, 1080), 0.01) == (8, 8)


def test_plain_codes_are_those_of_the_plain_view():
    """Against OpenColorIO's sRGB display (IEC 61966-2-1) with the same dither: where they differ, by one code in a pixel of a thousand."""
    rgb = np.random.default_rng(5).uniform(-0.1, 1.3, (90, 120, 3)).astype(np.float32) ** 3
    rgb[0, :40] = np.linspace(0.0, 0.004, 40)[:, None]
    ours, theirs = plain_codes(rgb, dither_of(90, 120)).astype(int), codes8(rgb).astype(int)
    assert np.abs(ours - theirs).max() <= 1 and (ours != theirs).mean() < 0.003
