"""Light that does not follow the vectors: moving glass, a mirror, a caustic over a floor that stands still, by the second renderer.

The bounds of `misled` were chosen on the scenes crossing, lens and gallery; embers and the bench renderer's are none of them."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import pytest

from hasty_reel.finish.chain import Chain
from hasty_reel.finish.denoise import Denoiser, Denoising
from hasty_reel.finish.finisher import Finisher
from hasty_reel.finish.misled import MisledPlaces
from hasty_reel.pictures.frame import Picture
from second_renderer import GUIDES, render

SIZE, SAMPLES, FRAMES, MIDDLE = (96, 54), 32, 9, (3, 4, 5)
BLOCKS = (6, 8)
"""Down and across, forty-eight in all."""
WORSE, MEAN = 1.3, 0.92
"""How much worse than without guides the error of a block may be with them, and how much better it must be in the mean ..."""
SMALL = 4e-4
"""... unless by less than this: a block of a hundred pixels in three frames errs by as much by chance."""


@lru_cache(maxsize=8)
def run_of(scene: str, first: int) -> tuple[tuple[Picture, ...], dict[int, np.ndarray]]:
    """A run as rendered, and its middle frames nearly clean, displayed 0 to 1."""
    run = []
    for k in range(FRAMES):
        rgb, guides, _ = render(scene, first + k, *SIZE, SAMPLES, seed=first + k, ceiling=10.0)
        run.append(Picture(rgb, {name: np.ascontiguousarray(guides[c]) for c, name in enumerate(GUIDES)}))
    return tuple(run), {k: shown(render(scene, first + k, *SIZE, 200, seed=9999 + k, ceiling=10.0)[0]) for k in MIDDLE}


def shown(rgb: np.ndarray) -> np.ndarray:
    """The displayed picture by the sRGB curve (IEC 61966-2-1)."""
    light = np.clip(rgb, 0.0, 1.0)
    return np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055).astype(np.float32)


def blocks_of(error: np.ndarray) -> np.ndarray:
    rows, columns = (np.array_split(np.arange(n), k) for n, k in zip(error.shape, BLOCKS))
    return np.array([[error[np.ix_(r, c)].mean() for c in columns] for r in rows])


@pytest.mark.parametrize("scene, first, thorough", [("crossing", 8, False), ("lens", 8, True), ("embers", 5, False), ("embers", 5, True)])
def test_no_block_gets_worse_by_guides(scene, first, thorough):
    run, clean = run_of(scene, first)
    bare = [Picture(p.rgb) for p in run]
    errors = []
    for pictures in (run, bare):
        denoiser = Denoiser(Denoising(2, thorough), pictures.__getitem__)
        made = {k: shown(denoiser.denoise(k, range(FRAMES))) for k in MIDDLE}
        errors.append(np.mean([((made[k] - clean[k]) ** 2).mean(axis=2) for k in MIDDLE], axis=0))
    guided, alone = (blocks_of(e) for e in errors)
    assert np.all(guided <= WORSE * alone + SMALL), f"{scene}: {np.round(1e4 * guided, 1)} {np.round(1e4 * alone, 1)}"
    raw = np.mean([((shown(run[k].rgb) - clean[k]) ** 2).mean() for k in MIDDLE])
    assert errors[0].mean() < MEAN * errors[1].mean() and errors[0].mean() < raw


def test_moving_glass_is_found_and_the_wall_is_not():
    run, _ = run_of("crossing", 8)
    moves, found = MisledPlaces(run.__getitem__).moves(4, range(FRAMES))
    assert found is not None
    glass = run[4].guides["albedo.R"] == np.float32(0.97)
    assert found[glass].mean() > 0.5
    assert found[: SIZE[1] // 3].mean() < 0.1, "a wall behind and above all that moves"
    assert np.array_equal(moves[~found], run[4].vectors[~found]), "elsewhere the renderer's vectors count"


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
    _, found = MisledPlaces(run.__getitem__).moves(2, range(5))
    assert found is None or found[:, 8:-8].mean() < 0.02


def test_a_frame_comes_out_the_same_wherever_a_run_goes_on(monkeypatch):
    """What is seen in a mirror that stands still: its light moves, its vectors do not. Frame 7 after those before it, and by itself."""
    rng = np.random.default_rng(8)
    wall = np.kron(rng.random((8, 40)), np.ones((6, 6))).astype(np.float32)
    still = {name: np.zeros((48, 80), np.float32) for name in ("motion.X", "motion.Y")}
    run = []
    for k in range(15):
        plane = wall[:, 2 * k : 2 * k + 80] * 0.6 + 0.1
        run.append(Picture(np.clip(plane[..., None] + 0.03 * rng.standard_normal((48, 80, 3)), 0, None).astype(np.float32), dict(still)))
    asked = []
    moves = MisledPlaces.moves
    monkeypatch.setattr(MisledPlaces, "moves", lambda self, k, frames: asked.append(k == 0 or k - 1 in frames) or moves(self, k, frames))
    chain = Chain(window=3)
    going_on, alone = Finisher(chain, run.__getitem__), Finisher(chain, run.__getitem__)
    for k in range(4, 8):
        made = going_on.finish(k, chain.needed(k, range(15))).rgb
    assert MisledPlaces(run.__getitem__).moves(7, range(15))[1] is not None
    assert np.array_equal(made, alone.finish(7, chain.needed(7, range(15))).rgb)
    assert asked and all(asked), "the frame by which found motion proves itself is among those that are asked for"
