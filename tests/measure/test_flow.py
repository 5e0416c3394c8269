"""Motion found in the pictures themselves, against known shifts and a reference library."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.ndimage import fourier_shift, gaussian_filter
from skimage.data import camera
from skimage.registration import optical_flow_ilk

from hasty_reel.measure.flicker import unrest
from hasty_reel.measure.flow import optical_flow, searched_flow
from hasty_reel.measure.framepair import found_pair, frame_pair

INSIDE = (slice(30, -30), slice(30, -30))


def shifted(plane: np.ndarray, down: float, right: float) -> np.ndarray:
    return np.fft.ifftn(fourier_shift(np.fft.fftn(plane), (down, right))).real.astype(np.float32)


@pytest.fixture(scope="module")
def scene() -> np.ndarray:
    return gaussian_filter(camera().astype(np.float32) / 2.55, 0.8)


@pytest.mark.parametrize("down, right", [(0.0, 0.3), (0.4, 0.3), (1.0, 2.0), (-7.3, 11.6)])
def test_planted_shifts_are_found_to_a_tenth_of_a_pixel(scene, down, right):
    flow = optical_flow(scene, shifted(scene, down, right))
    off = np.hypot(flow[..., 0] - right, flow[..., 1] - down)[INSIDE]
    assert off.mean() < 0.1


def test_large_pictures_are_searched_small_and_set_right():
    """1536 x 1536, above the size at which the search goes on a small copy."""
    rng = np.random.RandomState(1)
    large = gaussian_filter(rng.normal(0, 1, (1536, 1536)), 4).astype(np.float32)
    large = 50 + 15 * large / large.std()
    flow = optical_flow(large, shifted(large, 1.4, -5.2))
    off = np.hypot(flow[..., 0] + 5.2, flow[..., 1] - 1.4)[INSIDE]
    assert off.mean() < 0.1


def test_a_translation_as_near_as_the_reference_libraries():
    """camera() moved by (3, 2): endpoint error below 0.25 px away from a border of 20 pixels; scikit-image's
    iterative Lucas-Kanade gets 5.8e-5, OpenCV's DIS 0.048 (check values computed with scikit-image 0.26, OpenCV 5.0)."""
    full = camera().astype(np.float32) / 2.55
    here, after = full[100:300, 150:400], full[97:297, 148:398]
    flow = optical_flow(np.ascontiguousarray(here), np.ascontiguousarray(after))
    theirs = optical_flow_ilk(here, after, radius=7)
    inner = (slice(20, -20), slice(20, -20))
    assert np.hypot(flow[..., 0] - 2, flow[..., 1] - 3)[inner].mean() < 0.25
    assert np.hypot(flow[..., 0] - theirs[1], flow[..., 1] - theirs[0])[inner].mean() < 0.25


@pytest.mark.parametrize("spread", [1.0, 4.0])
def test_noise_alone_does_not_move(spread):
    """A flow fitted to noise would explain the flicker away."""
    rng = np.random.RandomState(2)
    frames = [(50 + rng.normal(0, spread, (256, 320))).astype(np.float32) for _ in range(3)]
    vectors = [optical_flow(frames[0], frames[1]), optical_flow(frames[1], frames[2]), None]
    assert unrest(frames, vectors, 1).flicker == pytest.approx(spread, rel=0.03)


def test_grain_over_a_scene_that_moves_keeps_its_flicker(scene):
    """Carried along vectors between the pixels, grain loses variance; the measure makes up for it."""
    rng = np.random.RandomState(3)
    frames = [shifted(scene, 0.7 * k, 2.3 * k) + rng.normal(0, 3, scene.shape).astype(np.float32) for k in (-1, 0, 1)]
    exact = np.full((*scene.shape, 2), (2.3, 0.7), np.float32)
    assert unrest(frames, [exact, exact, None], 1).flicker == pytest.approx(3.0, rel=0.03)
    found = [optical_flow(frames[0], frames[1]), optical_flow(frames[1], frames[2]), None]
    assert unrest(frames, found, 1).flicker == pytest.approx(3.0, rel=0.12)


def test_tiny_and_equal_pictures_do_not_move():
    flat = np.full((8, 8), 40.0, np.float32)
    assert optical_flow(flat, flat + 1) is None
    assert optical_flow(np.eye(64, dtype=np.float32), np.eye(64, dtype=np.float32)) is None


def test_large_pictures_are_matched_small_as_they_would_be_whole():
    """A square that moves over a still ground: places and matches as from the whole picture, but for the borders."""
    rng = np.random.RandomState(4)
    ground, square = (gaussian_filter(rng.normal(0, 1, (900, 1200)), 4).astype(np.float32) for _ in range(2))
    frames = []
    for k in range(2):
        frame = 50 + 300 * ground
        frame[300:600, 400 + 6 * k : 800 + 6 * k] = 50 + 300 * square[300:600, 400:800]
        frames.append(np.ascontiguousarray(frame, np.float32))
    flow = searched_flow(*frames)
    assert flow.shape == (450, 600, 2)
    small, whole = found_pair(flow, 900, 1200), frame_pair(optical_flow(*frames), searched=True)
    for ours, theirs in ((small.found_there, whole.found_there), (small.found_back, whole.found_back)):
        assert ours.shape == theirs.shape == (900, 1200) and (ours == theirs).mean() > 0.95
    both = small.found_back & whole.found_back
    assert np.abs(small.back - whole.back)[both].mean() < 0.05
    inside = np.zeros((900, 1200), bool)
    inside[330:570, 440:770] = True
    assert np.abs(small.back[..., 0] - np.arange(1200) + 6.0)[inside].mean() < 0.2
