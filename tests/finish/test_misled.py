"""Light that does not follow the vectors: moving glass, a mirror, a caustic over a floor that stands still, by the second renderer.

The bounds of `misled` were chosen on the scenes crossing, lens and gallery; embers and the bench renderer's are none of them."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import pytest
from skimage.metrics import peak_signal_noise_ratio

from hasty_reel.finish.denoise import Denoiser, Denoising
from hasty_reel.finish.misled import MisledPlaces
from hasty_reel.pictures.frame import Picture
from second_renderer import GUIDES, render

SIZE, SAMPLES, FRAMES, MIDDLE = (96, 54), 32, 7, 3
BLOCKS = (6, 8)
"""Down and across, forty-eight in all."""
WORSE = 1.10
"""How much worse than without guides the error of a block may be with them ..."""
SMALL = 3e-4
"""... unless it is this small: errors of a quiet block are chance."""


@lru_cache(maxsize=8)
def run_of(scene: str, first: int) -> tuple[tuple[Picture, ...], np.ndarray]:
    """A run as rendered, and the middle frame nearly clean, both displayed 0 to 1."""
    run = []
    for k in range(FRAMES):
        rgb, guides, _ = render(scene, first + k, *SIZE, SAMPLES, seed=first + k, ceiling=10.0)
        run.append(Picture(rgb, {name: np.ascontiguousarray(guides[c]) for c, name in enumerate(GUIDES)}))
    clean, _, _ = render(scene, first + MIDDLE, *SIZE, 600, seed=9999, ceiling=10.0)
    return tuple(run), shown(clean)


def shown(rgb: np.ndarray) -> np.ndarray:
    """The displayed picture by the sRGB curve (IEC 61966-2-1)."""
    light = np.clip(rgb, 0.0, 1.0)
    return np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055).astype(np.float32)


def blocks_of(error: np.ndarray) -> np.ndarray:
    rows, columns = (np.array_split(np.arange(n), k) for n, k in zip(error.shape, BLOCKS))
    return np.array([[error[np.ix_(r, c)].mean() for c in columns] for r in rows])


@pytest.mark.parametrize("thorough", [False, True])
@pytest.mark.parametrize("scene, first", [("crossing", 8), ("lens", 8), ("gallery", 20), ("embers", 5)])
def test_no_block_gets_worse_by_guides(scene, first, thorough):
    run, clean = run_of(scene, first)
    bare = [Picture(p.rgb) for p in run]
    made = [shown(Denoiser(Denoising(2, thorough), p.__getitem__).denoise(MIDDLE, range(FRAMES))) for p in (run, bare)]
    errors = [blocks_of(((m - clean) ** 2).mean(axis=2)) for m in made]
    assert np.all(errors[0] <= WORSE * errors[1] + SMALL), f"{scene}: {np.round(1e4 * errors[0], 1)} {np.round(1e4 * errors[1], 1)}"
    with_guides, without = (peak_signal_noise_ratio(clean, m, data_range=1.0) for m in made)
    assert with_guides > without - 0.1 and with_guides > peak_signal_noise_ratio(clean, shown(run[MIDDLE].rgb), data_range=1.0) + 2.0


def test_glass_and_its_caustic_are_found_and_boards_are_not():
    run, _ = run_of("lens", 8)
    share = MisledPlaces(run.__getitem__, Denoiser._unevenness, 4.0).share(MIDDLE, range(FRAMES))
    assert share is not None
    glass = run[MIDDLE].guides["albedo.R"] == np.float32(0.98)
    assert share[glass].mean() > 0.5
    far = np.zeros(glass.shape, bool)
    far[: SIZE[1] // 2, -SIZE[0] // 6 :] = True  # a wall far from all that moves
    assert share[far].mean() < 0.1


def test_where_all_light_follows_the_vectors_none_is_misled():
    """A pattern that moves as its vectors say, with grain on it."""
    rng = np.random.default_rng(5)
    wall = np.kron(rng.random((12, 40)), np.ones((6, 6))).astype(np.float32)
    run = []
    for k in range(5):
        plane = wall[:60, 3 * k : 3 * k + 100] * 0.6 + 0.1
        rgb = np.clip(plane[..., None] + 0.03 * rng.standard_normal((60, 100, 3)), 0, None).astype(np.float32)
        motion = {"motion.X": np.full((60, 100), -3.0, np.float32), "motion.Y": np.zeros((60, 100), np.float32)}
        run.append(Picture(rgb, motion))
    share = MisledPlaces(run.__getitem__, Denoiser._unevenness, 4.0).share(2, range(5))
    assert share is None or share[:, 8:-8].mean() < 0.02
