"""The bench renderer against closed forms of light transport."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest

from hasty_reel.bench import library
from hasty_reel.bench.render import Settings, render
from hasty_reel.bench.scene import CameraPose, Scene, glowing, matte, metal, plane, sphere
from hasty_reel.image.luminance import luminance


def light_of(scene: Scene, samples: int, size: int = 24, **more) -> np.ndarray:
    return luminance(render(scene, 1, Settings(size, size, samples, guides=False, **more)).rgb.astype(np.float64))


@pytest.mark.parametrize("albedo", [1.0, 0.8, 0.5])
def test_white_furnace_a_matte_ball_in_uniform_light_shows_its_albedo(albedo):
    """Closed form: a convex matte object in a field of radiance 1 shows its albedo."""
    picture = light_of(library.furnace(albedo), 64)
    ball = picture[8:16, 8:16]
    assert ball.mean() == pytest.approx(albedo, abs=1e-6)


def test_white_furnace_rough_metal_gives_back_what_it_can():
    """A white metal loses only what single scattering on facets cannot carry: little when it is smooth."""
    ball = sphere((0, 0, 0), 1.0, metal((1, 1, 1), 0.2))
    scene = replace(library.furnace(), shapes=(ball,))
    assert 0.97 < light_of(scene, 256)[10:14, 10:14].mean() <= 1.0 + 1e-6


def test_irradiance_under_a_uniform_sky_is_pi():
    """E = pi L; a white plane then shows radiance E/pi = 1."""
    assert light_of(library.open_sky(1.0), 32).mean() == pytest.approx(1.0, abs=1e-6)


@pytest.mark.parametrize("radius, height", [(0.5, 2.0), (1.0, 3.0), (0.2, 1.0)])
def test_sphere_light_gives_its_form_factor(radius, height):
    """E = pi L (r/h)^2 under a sphere (Howell, catalogue of configuration factors; from memory)."""
    got = light_of(library.ball_light(radius, height), 1024, size=8)
    error = got.std() / math.sqrt(got.size)
    assert got.mean() == pytest.approx((radius / height) ** 2, abs=max(4 * error, 2e-4 * got.mean()) + 4e-3 * got.mean())


@pytest.mark.parametrize("radius, height", [(1.0, 2.0), (0.5, 2.0)])
def test_disc_light_gives_its_form_factor(radius, height):
    """E = pi L r^2/(r^2 + h^2) on the axis of a disc (Howell; from memory)."""
    got = light_of(library.disc_light(radius, height), 4096, size=8)
    assert got.mean() == pytest.approx(radius**2 / (radius**2 + height**2), rel=0.01)


def test_light_sampling_and_surface_sampling_agree():
    """A lamp that is not in the list of lights is found by chance alone, and sums to the same light."""
    scene = library.ball_light(1.0, 2.0)
    chosen = light_of(scene, 2048, size=8).mean()
    glow = sphere((0, 2.0, 0), 1.0, glowing((1, 1, 1)))
    # as a capsule of no length it glows the same, but is not sampled as a light
    hidden = replace(glow, kind=4, numbers=(0, 2.0, 0, 0, 2.0 + 1e-9, 0, 1.0))
    by_chance = light_of(replace(scene, shapes=(scene.shapes[0], hidden)), 8192, size=8).mean()
    assert by_chance == pytest.approx(chosen, rel=0.01)


def test_glass_reflects_four_percent_head_on():
    """Fresnel at normal incidence, n = 1.5: ((n - 1)/(n + 1))^2 = 0.04."""
    got = light_of(library.glass_wall(), 4096, size=16)
    assert got.mean() == pytest.approx(0.04, abs=4 * math.sqrt(0.04 * 0.96 / (4096 * 256)))


def test_error_falls_with_the_root_of_the_samples():
    """Slope of log error over log samples is -0.5 in linear light, from 4 to 1024 samples."""
    scene = library.soft_corner()
    counts = [4, 16, 64, 256, 1024]
    errors = []
    for n in counts:
        renders = np.array([light_of(scene, n, size=24, seed=seed) for seed in range(1, 9)])
        errors.append(math.sqrt(renders.var(axis=0, ddof=1).mean()))
    slope = np.polyfit(np.log(counts), np.log(errors), 1)[0]
    assert slope == pytest.approx(-0.5, abs=0.05)


def test_motion_blur_of_an_edge_is_its_box_integral():
    """An edge moving v pixels a frame at angle 180 is a ramp v/2 pixels wide (box exposure)."""
    pixels, speed = 64, 0.1
    scene = library.moving_edge(speed)
    # 0.1 half width at distance 1, ten away: two units are 64 pixels
    per_frame = speed * pixels / 2.0
    row = light_of(scene, 2048, size=pixels, angle=180.0).mean(axis=0)
    edges = np.arange(pixels + 1) - pixels / 2
    half = per_frame * 0.5 / 2
    # the mean over a pixel of the share of the exposure in which the dark sheet has not reached x
    fine = np.linspace(0, 1, 401)
    x = edges[:-1, None] + fine[None, :]
    expected = np.clip((x + half) / (2 * half), 0, 1).mean(axis=1)
    assert np.abs(row - expected).max() < 0.02


def test_shutter_steps_make_copies_and_random_times_do_not():
    """k steps of a blur b leave copies b/k apart: the ramp becomes k stairs."""
    scene = library.moving_edge(0.5)
    stairs = light_of(scene, 512, size=64, steps=4).mean(axis=0)
    smooth = light_of(scene, 512, size=64, steps=0).mean(axis=0)
    ramp = slice(29, 36)
    assert np.abs(np.diff(stairs[ramp])).max() == pytest.approx(0.25, abs=0.01)
    assert np.abs(np.diff(smooth[ramp])).max() < 0.15
    levels = {round(float(v) * 4) for v in stairs}
    assert levels == {0, 1, 2, 3, 4}


@pytest.mark.parametrize("focus, distance", [(5.0, 8.0), (5.0, 3.5)])
def test_circle_of_confusion(focus, distance):
    """Thin lens of radius a: a point at d is a disc of diameter 2 a |d - s|/(d s) at distance 1 (Ray; from memory)."""
    radius, size = 0.05, 128
    scene = library.focus_dot(radius, focus, distance)
    picture = light_of(scene, 1024, size=size)
    diameter = 2 * radius * abs(distance - focus) / (distance * focus) / (2 * 0.02) * size
    lit = picture > 0.5 * np.median(picture[picture > 0.3 * picture.max()])
    assert 2 * math.sqrt(lit.sum() / math.pi) == pytest.approx(diameter, rel=0.06)


def test_zero_bounces_is_direct_light_and_more_bounces_add():
    scene = library.soft_corner()
    means = [light_of(scene, 64, size=32, bounces=b).mean() for b in (0, 1, 4)]
    assert means[0] < means[1] < means[2]


def test_the_brightness_ceiling_bounds_what_one_path_adds():
    scene = replace(library.ball_light(), shapes=(sphere((0, 0, 0), 1.0, glowing((50, 20, 5))), *library.ball_light().shapes[:0]))
    scene = replace(scene, camera=lambda f: CameraPose((0, 0, 4), (0, 0, 0), 1.0))
    rgb = render(scene, 1, Settings(4, 4, 4, ceiling=2.0, guides=False)).rgb
    assert rgb.max() == pytest.approx(2.0)
    assert rgb[0, 0, 1] / rgb[0, 0, 0] == pytest.approx(0.4, rel=1e-5)


def test_a_flat_light_shines_on_one_side_only():
    scene = library.disc_light()
    above = (plane((0, 3, 0), (0, -1, 0), matte((1, 1, 1))), *scene.shapes[1:])
    looking_up = replace(scene, shapes=above, camera=lambda f: CameraPose((2.0, 2.2, 0), (2.0, 3.0, 0.01), 1.0))
    assert light_of(looking_up, 64, size=4).mean() == 0.0
