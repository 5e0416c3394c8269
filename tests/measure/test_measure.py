"""Noise, motion, flicker and what is seen of it, against closed forms and published values."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.ndimage import map_coordinates
from skimage.data import camera

from hasty_reel.bench.library import find_scene
from hasty_reel.bench.render import Settings, render
from hasty_reel.image.lightness import lightness
from hasty_reel.image.warp import motion_path
from hasty_reel.measure.bodysparks import body_and_sparks
from hasty_reel.measure.flicker import flicker
from hasty_reel.measure.noise import noise_lightness, noise_linear
from hasty_reel.measure.seen import grain_weight, pixels_per_degree, sensitivity
from hasty_reel.measure.worst import worst


def three(plane: np.ndarray) -> np.ndarray:
    return np.repeat(np.asarray(plane, np.float32)[..., None], 3, axis=-1)


def test_variance_from_two_seeds():
    """Var(a - b) = 2 Var(a), by hand on four pixels: 0.05."""
    a, b = three(np.array([[0.1, 0.2, 0.3, 0.4]])), three(np.array([[0.12, 0.18, 0.34, 0.36]]))
    assert noise_linear(a, b) == pytest.approx(np.sqrt(0.05) / 10, rel=1e-4)


def test_two_noisy_pictures_of_one_scene():
    """camera() + RandomState(1).normal(0, 8) twice: sigma 7.98393 (scikit-image data, NumPy)."""
    rs = np.random.RandomState(1)
    base = camera() / 1000.0  # well below display white, so that every pixel counts
    a, b = (three(base + rs.normal(0, 8, base.shape) / 1000.0) for _ in range(2))
    assert noise_linear(a, b) * 1000 == pytest.approx(7.98393407, rel=1e-4)


def test_light_above_display_white_shows_no_noise():
    a, b = three(np.full((16, 16), 3.0)), three(np.full((16, 16), 5.0))
    assert noise_linear(a, b) == 0.0 and noise_lightness(a, b) == 0.0


def test_tiles_predict_display_noise_of_a_normal_spread():
    """Plain grain on mid grey: first order |dL*/dY| sigma holds."""
    rs = np.random.RandomState(2)
    a, b = (three(0.3 + rs.normal(0, 0.04, (160, 160))) for _ in range(2))
    found = body_and_sparks(a, b, 4)
    assert found.variance.mean() == pytest.approx(4 * 0.04**2, rel=0.03)
    slope = 116 / 3 * 0.3 ** (-2 / 3)
    assert found.seen(np.array([64.0]))[0][0] == pytest.approx(slope * 0.01, rel=0.05)


@pytest.mark.parametrize("ceiling", [None, 20.0])
def test_rare_bright_light_paths_keep_their_noise(ceiling):
    """A compound Poisson process: energy 100 at 1e-4 a sample on a grey of 0.2, body 0.3 a sample. Linear noise in closed form
    (Campbell's theorem: rate times squared energy), and what the display makes of it at 16 times the samples, simulated."""
    energy, rate, body, side = (100.0 if ceiling is None else ceiling), 1e-4, 0.3, 600
    rng = np.random.default_rng(7)

    def picture(samples: int) -> np.ndarray:
        light = 0.2 + rng.normal(0, body / np.sqrt(samples), (side, side))
        return three(light + rng.poisson(rate * samples, (side, side)) * energy / samples)

    found = body_and_sparks(picture(8), picture(8), 8)
    assert found.variance.mean() == pytest.approx(body**2 + rate * energy**2, rel=0.15)
    a, b = picture(128), picture(128)
    assert np.sqrt(found.variance.mean() / 128) == pytest.approx(noise_linear(a, b), rel=0.10)
    in_l, contrast, sparks = found.seen(np.array([128.0]))
    assert in_l[0] == pytest.approx(noise_lightness(a, b), rel=0.10)
    again = body_and_sparks(a, b, 128).seen(np.array([128.0]))
    assert contrast[0] == pytest.approx(again[1][0], rel=0.15) and sparks[0] > 0.2 * contrast[0]


@pytest.mark.parametrize("scene, frames", [("lamp_wakes", (1001, 1060)), ("comet_pass", (1036,))])
def test_noise_at_eight_samples_predicts_noise_at_sixty_four(scene, frames):
    """Three proof frames at 8 samples: the noise at 64 within 10 %."""
    made = find_scene(scene)
    for frame in frames:

        def shot(samples: int, seed: int, frame=frame) -> np.ndarray:
            settings = Settings(192, 108, samples, steps=8, ceiling=5.0, seed=seed << 24 | frame, guides=False)
            return render(made, frame, settings).rgb

        proof = noise_linear(shot(8, 1), shot(8, 2)) / np.sqrt(8)
        assert proof == pytest.approx(noise_linear(shot(64, 3), shot(64, 4)), rel=0.10)


def test_white_noise_flickers_by_its_own_spread():
    """Closed form: d of white noise over three frames, divided by sqrt(1.5), is sigma."""
    rs = np.random.RandomState(3)
    frames = [rs.normal(50, 2, (200, 200)).astype(np.float32) for _ in range(3)]
    assert flicker(frames, [None] * 3, 1) == pytest.approx(2.0, rel=0.02)
    assert flicker(frames[:2], [None] * 2, 0) == pytest.approx(2.0, rel=0.02)


def test_a_linear_fade_and_a_held_pattern_do_not_flicker():
    pattern = np.random.RandomState(4).normal(50, 5, (80, 80)).astype(np.float32)
    fade = [pattern + 3 * k for k in range(3)]
    assert flicker(fade, [None] * 3, 1) == pytest.approx(0.0, abs=1e-5)
    assert flicker([pattern] * 3, [None] * 3, 1) == 0.0


@pytest.mark.parametrize("window, share", [(1, 1.0), (2, 0.408), (3, 0.272), (5, 0.163), (7, 0.117)])
def test_box_windows_calm_white_noise_as_published_for_them(window, share):
    """||h * (-1/2, 1, -1/2)||/sqrt(1.5) for box windows."""
    rs = np.random.RandomState(5)
    raw = rs.normal(0, 1, (window + 2, 300, 300))
    frames = [raw[k : k + window].mean(axis=0).astype(np.float32) for k in range(3)]
    assert flicker(frames, [None] * 3, 1) == pytest.approx(share, rel=0.03)


def test_a_moving_picture_does_not_flicker_along_its_motion():
    base = lightness(camera() / 255.0).astype(np.float32)
    frames = [np.ascontiguousarray(base[100:300, 100 - 3 * k : 300 - 3 * k]) for k in range(3)]
    vectors = [np.full((200, 200, 2), (3.0, 0.0), np.float32)] * 3
    assert flicker(frames, vectors, 1) < 1e-4
    assert flicker(frames, [None] * 3, 1) > 0.5


def test_places_follow_vectors_on_and_back():
    """A field that differs from place to place: going on and back again leads home."""
    y, x = np.mgrid[0:60, 0:80].astype(np.float32)
    field = np.stack([2 + 0.3 * np.sin(y / 9), -1 + 0.2 * np.cos(x / 11)], axis=-1).astype(np.float32)
    on_x, on_y = motion_path([field, None], 0, 1, (60, 80))
    assert on_x == pytest.approx(x + field[..., 0], abs=1e-4)
    back_x, back_y = motion_path([field, None], 1, 0, (60, 80))
    home = map_coordinates(back_x, [on_y, on_x], order=1)
    assert home[5:-5, 5:-5] == pytest.approx(x[5:-5, 5:-5], abs=0.05)
    assert back_y[30, 40] == pytest.approx(30 + 1 - 0.2 * np.cos(38 / 11), abs=0.1)


def test_sensitivity_peaks_where_it_should():
    """Kelly 1979, formula from memory: shape only. Peak between 1 and 8 cycles/degree, falling to high frequencies."""
    fs = np.geomspace(0.1, 60, 400)
    s = sensitivity(fs, 8.0)
    assert 0.5 < fs[s.argmax()] < 8 and s[-1] < 1e-2 * s.max()


def test_one_percent_of_one_pixel_grain_at_three_picture_heights_scores_about_a_quarter():
    """The trade's experience: fine grain is hardly seen, coarse blotches are (common practice, no source)."""
    density = pixels_per_degree(1080)
    assert density == pytest.approx(56.5, abs=0.1)
    fine, coarse = grain_weight(density, 24) * 0.01, grain_weight(density / 4, 24) * 0.01
    assert fine == pytest.approx(0.28, abs=0.02)
    assert coarse > 3 * fine


@pytest.mark.parametrize("count", [1, 2, 3, 20, 21, 96, 1000])
def test_what_is_nearly_the_worst_is_numpys_percentile(count):
    values = np.random.default_rng(count).normal(size=count)
    assert worst(np.append(values, np.nan)) == pytest.approx(np.percentile(values, 95), rel=1e-12)
