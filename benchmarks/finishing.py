"""Denoising against references that are nearly clean, and against what general libraries do, on scenes that it was not tuned on.

`python benchmarks/finishing.py [SAMPLES ...]` prints the table of docs/finish.md: peak signal-to-noise ratio in dB, SSIM and FLIP of
the displayed picture, and unrest of the error over time as a share of that of the frames as rendered. The references' own
noise, told by their two halves, is taken out of both. The libraries' filters get the best of five strengths each.
"""

from __future__ import annotations

import sys
import time
import zlib
from collections.abc import Callable, Sequence
from pathlib import Path

import cv2
import numpy as np
from skimage.metrics import structural_similarity
from skimage.restoration import denoise_nl_means, denoise_tv_chambolle

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))
sys.path.insert(0, str(Path(__file__).parent.parent / "tests" / "measure"))

from planted import HELD_BACK, deep, fog, jewels, racing, room

import second_renderer
from hasty_reel.bench.library import find_scene
from hasty_reel.bench.render import Settings, render, warm_up
from hasty_reel.bench.scene import Scene
from hasty_reel.finish.denoise import Denoiser, Denoising
from hasty_reel.image.lightness import lightness
from hasty_reel.image.luminance import luminance
from hasty_reel.image.warp import motion_path
from hasty_reel.measure.difference import flip
from hasty_reel.measure.seen import STANDARD
from hasty_reel.pictures.colour import codes8
from hasty_reel.pictures.frame import Picture

SIZE, FRAMES, MIDDLE, REFERENCE = (192, 108), 11, (4, 5, 6), 512
SCENES: tuple[tuple[str, Scene | str, int], ...] = (
    ("room, pan", room(HELD_BACK), 1001),
    ("glass", jewels(HELD_BACK), 1001),
    ("fast", racing(HELD_BACK), 1001),
    ("fog", fog(HELD_BACK), 1001),
    ("lens blur", deep(HELD_BACK), 1001),
    ("lamps", find_scene("lamp_wakes"), 1040),
    # glass, mirrors, caustics of a renderer that shares no code with the first: light that does not follow the vectors
    ("second: glass crosses", "crossing", 8),
    ("second: a caustic wanders", "lens", 8),
    ("second: past mirrors", "gallery", 20),
    ("second: brushed metal", "embers", 5),
)
BLOCKS = (6, 8)
"""Down and across, in which the error with guides is held against that without."""
STRENGTHS = (2, 4, 7, 12, 20)


def by_second(scene: str, frame: int, samples: int, seed: int, guides: bool = True) -> Picture:
    """A frame by the second renderer."""
    rgb, planes, _ = second_renderer.render(scene, frame, *SIZE, samples, seed=seed, ceiling=10.0)
    return Picture(rgb, dict(zip(second_renderer.GUIDES, np.ascontiguousarray(planes))) if guides else {})


def pictures(name: str, scene: Scene | str, first: int, samples: int, guides: bool = True) -> list[Picture]:
    """A run as rendered."""
    out = []
    for k in range(FRAMES):
        seed = zlib.crc32(f"{name} {samples} {k}".encode())
        if isinstance(scene, str):
            out.append(by_second(scene, first + k, samples, seed, guides))
            continue
        done = render(scene, first + k, Settings(*SIZE, samples, steps=0, bounces=4, ceiling=10.0, seed=seed, guides=guides))
        out.append(Picture(done.rgb, done.guides))
    return out


def references(name: str, scene: Scene | str, first: int) -> dict[int, list[np.ndarray]]:
    """Both halves of the references of the middle frames."""
    if isinstance(scene, str):
        return {k: [by_second(scene, first + k, REFERENCE, 7000 + 10 * k + h, False).rgb for h in (0, 1)] for k in MIDDLE}
    settings = Settings(*SIZE, REFERENCE, steps=0, bounces=4, ceiling=10.0, guides=False)
    return {
        k: [
            render(scene, first + k, Settings(**{**settings.__dict__, "seed": zlib.crc32(f"{name} reference {k} {half}".encode())})).rgb
            for half in (0, 1)
        ]
        for k in MIDDLE
    }


def shown(rgb: np.ndarray) -> np.ndarray:
    """The displayed picture, 0 to 1."""
    light = np.clip(rgb, 0.0, 1.0)
    return np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)


def l_star(rgb: np.ndarray) -> np.ndarray:
    """L* of the displayed picture."""
    return lightness(np.clip(luminance(rgb), 0.0, 1.0)).astype(np.float32)


class Judge:
    """Compares frames with the references of a scene."""

    def __init__(self, halves: dict[int, list[np.ndarray]], vectors: Sequence[np.ndarray | None]) -> None:
        self._halves, self._vectors = halves, vectors

    def psnr(self, frames: dict[int, np.ndarray]) -> float:
        """In dB, without the noise of the references."""
        errors = []
        for k, rgb in frames.items():
            a, b = (shown(p) for p in self._halves[k])
            errors.append(
                float(np.mean((shown(rgb) - shown((self._halves[k][0] + self._halves[k][1]) / 2)) ** 2) - np.mean((a - b) ** 2) / 4)
            )
        return float(-10 * np.log10(max(float(np.mean(errors)), 1e-8)))

    def ssim(self, frames: dict[int, np.ndarray]) -> float:
        """Structural similarity of the displayed pictures."""
        return float(
            np.mean(
                [
                    structural_similarity(shown(rgb), shown(sum(self._halves[k]) / 2), channel_axis=2, data_range=1.0)
                    for k, rgb in frames.items()
                ]
            )
        )

    def flip(self, frames: dict[int, np.ndarray]) -> float:
        """Mean difference that is seen when one flips between both (FLIP, as in Compare)."""
        density = STANDARD.pixels_per_degree(SIZE[1])
        return float(np.mean([flip(sum(self._halves[k]) / 2, rgb, density).mean() for k, rgb in frames.items()]))

    def blocks(self, frames: dict[int, np.ndarray]) -> np.ndarray:
        """Mean squared error of the displayed picture in each of the blocks, without the noise of the references."""
        off = [
            (shown(rgb) - shown(sum(self._halves[k]) / 2)) ** 2 - (shown(self._halves[k][0]) - shown(self._halves[k][1])) ** 2 / 4
            for k, rgb in frames.items()
        ]
        mean = np.mean(off, axis=(0, 3))
        rows, columns = (np.array_split(np.arange(n), k) for n, k in zip(mean.shape, BLOCKS))
        return np.array([[mean[np.ix_(r, c)].mean() for c in columns] for r in rows])

    def likeness(self, frames: dict[int, np.ndarray]) -> str:
        """PSNR, SSIM and FLIP in words."""
        return f"{self.psnr(frames):5.1f} dB  {self.ssim(frames):.3f}  FLIP {self.flip(frames):.3f}"

    def unrest(self, frames: dict[int, np.ndarray]) -> float:
        """Of the error over time along the motion, in L*, without that of the references."""
        errors = {k: l_star(rgb) - l_star(sum(self._halves[k]) / 2) for k, rgb in frames.items()}
        own = {k: (l_star(a) - l_star(b)) / 2 for k, (a, b) in self._halves.items()}
        return float(np.sqrt(max(1e-6, self._power(errors) - self._power(own))))

    def _power(self, planes: dict[int, np.ndarray]) -> float:
        before, middle, after = MIDDLE
        carried = []
        for k in (before, after):
            x, y = motion_path(self._vectors, middle, k, planes[middle].shape)
            carried.append(cv2.remap(planes[k], x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE))
        return float(np.mean((planes[middle] - (carried[0] + carried[1]) / 2) ** 2)) / 1.5


def ours(run: list[Picture], how: Denoising, guides: bool) -> dict[int, np.ndarray]:
    """The middle frames, denoised by us."""
    run = run if guides else [Picture(p.rgb) for p in run]
    denoiser = Denoiser(how, run.__getitem__)
    return {k: denoiser.denoise(k, range(len(run))) for k in MIDDLE}


def light_of(codes: np.ndarray) -> np.ndarray:
    """Scene-linear light of display codes (h, w, 3), 0 to 1."""
    return np.where(codes <= 0.04045, codes / 12.92, ((codes + 0.055) / 1.055) ** 2.4).astype(np.float32)


def theirs(run: list[Picture]) -> dict[str, list[Callable[[int], np.ndarray]]]:
    """General filters by name, each at five strengths, from a frame's number to its light."""
    codes = [codes8(p.rgb) for p in run]

    def over_time(h: float) -> Callable[[int], np.ndarray]:
        return lambda k: light_of(cv2.fastNlMeansDenoisingColoredMulti(codes, k, 5, None, h, h, 7, 21) / 255.0)

    def in_space(h: float) -> Callable[[int], np.ndarray]:
        return lambda k: light_of(denoise_nl_means(codes[k] / 255.0, 5, 6, h / 100.0, channel_axis=2))

    def variation(h: float) -> Callable[[int], np.ndarray]:
        return lambda k: light_of(denoise_tv_chambolle(codes[k] / 255.0, weight=h / 100.0, channel_axis=2))

    made = {
        "OpenCV, non-local means, 5 frames": over_time,
        "scikit-image, non-local means": in_space,
        "scikit-image, total variation": variation,
    }
    return {name: [make(float(h)) for h in STRENGTHS] for name, make in made.items()}


def main() -> None:
    """Print the table."""
    warm_up()
    counts = [int(a) for a in sys.argv[1:]] or [16]
    for name, scene, first in SCENES:
        halves = references(name, scene, first)
        for samples in counts:
            run = pictures(name, scene, first, samples)
            judge = Judge(halves, [p.stack("motion.X", "motion.Y") for p in run])
            raw = {k: run[k].rgb for k in MIDDLE}
            before = f"as rendered {judge.likeness(raw)}, unrest {judge.unrest(raw):.2f} L*"
            print(f"{name}, {samples} samples: {before}")
            cells: list[tuple[str, dict[int, np.ndarray], float]] = []
            for words, how, guides in (
                ("thorough, 7 frames", Denoising(3, True), True),
                ("thorough, 5 frames", Denoising(2, True), True),
                ("quick, 5 frames", Denoising(2, False), True),
                ("thorough, 7 frames, no guides", Denoising(3, True), False),
                ("each frame by itself", Denoising(0, True), True),
            ):
                began = time.perf_counter()
                cells.append((words, ours(run, how, guides), (time.perf_counter() - began) / len(MIDDLE)))
            for words, strengths in theirs(run).items():
                began = time.perf_counter()
                best = max(({k: act(k) for k in MIDDLE} for act in strengths), key=judge.psnr)
                cells.append((words, best, (time.perf_counter() - began) / len(MIDDLE) / len(strengths)))
            for words, frames, seconds in cells:
                share = judge.unrest(frames) / judge.unrest(raw)
                print(f"    {words:38} {judge.likeness(frames)}  {share:.2f}  {seconds:.2f} s", flush=True)
            guided, alone = (judge.blocks(ours(run, Denoising(2, True), guides)) for guides in (True, False))
            ratios = guided / np.maximum(alone, 1e-5)
            worst = f"worst of {ratios.size} blocks {1e4 * guided.max():.0f}e-4, without {1e4 * alone.max():.0f}e-4"
            print(f"    guides against none, thorough, 5 frames: {worst}, a block at most {ratios.max():.2f} times as wrong", flush=True)


if __name__ == "__main__":
    main()
