"""Clips whose unrest was judged by ColorVideoVDP: even greys, photographs still and panning, edges; made by formula from a seed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import gaussian_filter
from skimage import data
from skimage.color import rgb2gray

from hasty_reel.image.lightness import luminance_of_lightness
from hasty_reel.measure.sequence import measure_sequence
from hasty_reel.pictures.frame import Picture

FRAMES, SIDE, FPS = 9, 144, 24.0
DENSITIES = (28.28, 56.55)
"""Pixels a degree."""
PHOTOGRAPHS = {"brick": data.brick, "coffee": data.coffee, "coins": data.coins, "grass": data.grass, "moon": data.moon, "page": data.page}


@dataclass(frozen=True)
class Clip:
    """Two seeds of a clip in L*, (frames, h, w) each; step : pixels it pans a frame."""

    name: str
    group: str
    one: np.ndarray
    two: np.ndarray
    step: int = 0


def noise_of(kind: str, seed: int, shape: tuple[int, ...]) -> np.ndarray:
    """Noise of standard deviation 1: 'white', 'soft' (two pixels), 'crawls' (soft, and averaged over five frames)."""
    rng = np.random.default_rng(seed)
    if kind == "white":
        return rng.standard_normal(shape).astype(np.float32)
    frames = shape[0] + 4 if kind == "crawls" else shape[0]
    planes = gaussian_filter(rng.standard_normal((frames, *shape[1:])).astype(np.float32), (0, 1.5, 1.5))
    if kind == "crawls":
        planes = np.stack([planes[k : k + 5].mean(axis=0) for k in range(shape[0])])
    return planes / planes.std()


def still(name: str, group: str, level: np.ndarray, kind: str, strength: float, seed: int) -> Clip:
    """A picture of L* with noise of a strength in L* on it."""
    sides = [level[None] + strength * noise_of(kind, 2 * seed + s, (FRAMES, *level.shape)) for s in (0, 1)]
    return Clip(name, group, *(np.clip(s, 1.0, 99.0).astype(np.float32) for s in sides))


def photograph(name: str) -> np.ndarray:
    """In L*, of as many pixels as a pan needs."""
    picture = PHOTOGRAPHS[name]()
    grey = rgb2gray(picture) if picture.ndim == 3 else picture / 255.0
    grey = grey[:SIDE, : SIDE + 2 * FRAMES + 40] if name != "moon" else grey[200 : 200 + SIDE, 200 : 200 + SIDE + 2 * FRAMES]
    return (10.0 + 80.0 * grey).astype(np.float32)


def panning(name: str, kind: str, strength: float, seed: int, step: int = 2) -> Clip:
    """A photograph that moves to the left; its noise does not."""
    whole = photograph(name)
    planes = np.stack([whole[:, k * step : k * step + SIDE] for k in range(FRAMES)])
    sides = [np.clip(planes + strength * noise_of(kind, 2 * seed + s, planes.shape), 1.0, 99.0).astype(np.float32) for s in (0, 1)]
    return Clip(f"{name}, pans, {kind} {strength:g}", name, *sides, step)


def made_clips() -> list[Clip]:
    """All that are made by formula."""
    out, seed = [], 100
    for level in (30.0, 50.0, 75.0):
        for kind, strengths in (("white", (1.5, 3.0, 6.0)), ("soft", (0.5, 1.0, 2.0)), ("crawls", (0.5, 1.0, 2.0))):
            for strength in strengths:
                grey = np.full((SIDE, SIDE), level, np.float32)
                out.append(still(f"grey {level:g}, {kind} {strength:g}", "grey", grey, kind, strength, seed := seed + 1))
    for name in PHOTOGRAPHS:
        for kind, strengths in (("white", (3.0, 6.0)), ("soft", (1.0, 3.0)), ("crawls", (2.0,))):
            for strength in strengths:
                whole = photograph(name)[:, :SIDE]
                out.append(still(f"{name}, {kind} {strength:g}", name, whole, kind, strength, seed := seed + 1))
                if strength == strengths[-1]:
                    out.append(panning(name, kind, strength, seed := seed + 1))
    edges = 50.0 + 30.0 * np.tanh(gaussian_filter(np.random.default_rng(9).standard_normal((SIDE, SIDE)), 8) * 200.0 / 4.0)
    for kind, strengths in (("white", (3.0, 6.0)), ("soft", (1.0, 2.0)), ("crawls", (1.0, 2.0))):
        for strength in strengths:
            out.append(still(f"edges, {kind} {strength:g}", "edges", edges.astype(np.float32), kind, strength, seed := seed + 1))
    return out


def seen(clip: Clip, density: float) -> float:
    """Seen flicker of its noise in JND, as the program measures it."""
    vectors = {"motion.X": np.full(clip.one.shape[1:], -float(clip.step), np.float32), "motion.Y": np.zeros(clip.one.shape[1:], np.float32)}

    def picture(planes: np.ndarray, k: int) -> Picture:
        return Picture(np.repeat(luminance_of_lightness(planes[k])[..., None], 3, axis=2).astype(np.float32), vectors)

    sides = [lambda f, w, p=p: picture(p, f) for p in (clip.one, clip.two)]
    return measure_sequence(range(len(clip.one)), *sides, fps=FPS, pixels_a_degree=density).seen_noise
