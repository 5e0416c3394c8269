"""What denoising leaves of what viewers see, on runs as dense as they are delivered: of scenes it was tuned on and of others.

`python benchmarks/seenleft.py [NAMES]` prints a line a scene and way: seen flicker finished / as rendered at 57 and 28 pixels a degree,
told by two seeds over nine frames, peak signal-to-noise ratio in dB against references whose own noise is taken out, light kept, seconds.
Scenes of the demo are crops of a picture of 960 x 540; the others are rendered small.
"""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))
sys.path.insert(0, str(Path(__file__).parent.parent / "tests" / "measure"))

from planted import HELD_BACK, fog, jewels, racing, room

import second_renderer
from finishing import shown
from hasty_reel.bench.library import find_scene
from hasty_reel.bench.render import Settings, render, warm_up
from hasty_reel.bench.scene import Scene
from hasty_reel.finish.denoise import Denoiser, Denoising
from hasty_reel.image.luminance import luminance
from hasty_reel.measure.sequence import measure_sequence
from hasty_reel.pictures.frame import Picture

SIZE, DELIVERED, FRAMES, INNER = (224, 128), (960, 540), 17, range(4, 13)
REFERENCE, JUDGED = 320, (7, 9)
"""Samples of each of the two halves of a reference, and the places that have one."""
WAYS = (("5 frames", Denoising(2, True)), ("5 frames, quick", Denoising(2, False)), ("11 frames", Denoising(5, True)))

Take = Callable[[int, int, int], Picture]
"""A frame of a scene by its place, its samples and its seed."""


def bench(scene: Scene, first: int, corner: tuple[int, int] | None = None) -> Take:
    """A scene of the renderer that ships; a crop from this corner on, or a small picture."""
    size, crop = (SIZE, None) if corner is None else (DELIVERED, (*corner, *SIZE))

    def take(place: int, samples: int, seed: int) -> Picture:
        made = render(scene, first + place, Settings(*size, samples, bounces=4, seed=seed * 1000 + place, ceiling=5.0, crop=crop))
        return Picture(made.rgb, made.guides)

    return take


def second(scene: str, first: int) -> Take:
    """A scene of the second renderer."""

    def take(place: int, samples: int, seed: int) -> Picture:
        rgb, planes, _ = second_renderer.render(scene, first + place, *SIZE, samples, seed=seed * 1000 + place, ceiling=10.0)
        guides = {name: np.ascontiguousarray(planes[c], np.float32) for c, name in enumerate(second_renderer.GUIDES)}
        return Picture(rgb.astype(np.float32), guides)

    return take


SCENES: dict[str, tuple[Take, int, bool]] = {
    "gears": (bench(find_scene("gears_jewels"), 1022, (380, 200)), 16, True),
    "lamp": (bench(find_scene("lamp_wakes"), 1032, (380, 240)), 32, True),
    "jewels": (bench(jewels(HELD_BACK), 1001), 16, True),
    "second: crossing": (second("crossing", 4), 16, True),
    "second: gallery": (second("gallery", 12), 16, True),
    "room": (bench(room(HELD_BACK), 1001), 16, True),
    "fast": (bench(racing(HELD_BACK), 1001), 16, True),
    "fog": (bench(fog(HELD_BACK), 1001), 16, False),
    "dial": (bench(find_scene("tide_dial"), 1030, (380, 220)), 16, True),
    "second: lens": (second("lens", 4), 16, True),
    "second: embers": (second("embers", 4), 16, False),
    "comet": (bench(find_scene("comet_pass"), 1030, (380, 220)), 16, False),
    "bay": (bench(find_scene("bay_fog"), 1020, (380, 220)), 16, False),
}
"""Scenes, their samples, and whether a constant of the denoiser was chosen, or a fault of it found, with a look at them."""


def seen(sides: list[dict[int, Picture]], density: float) -> float:
    """Seen flicker of the noise of the inner frames."""
    return measure_sequence(INNER, lambda f, w: sides[0][f], lambda f, w: sides[1][f], pixels_a_degree=density).seen_noise


def likeness(frames: dict[int, Picture], halves: dict[int, list[Picture]]) -> float:
    """PSNR of the displayed pictures, without the noise of the references."""
    errors = []
    for k, (a, b) in halves.items():
        off = shown(frames[k].rgb) - shown((a.rgb + b.rgb) / 2)
        errors.append(np.mean(off**2) - np.mean((shown(a.rgb) - shown(b.rgb)) ** 2) / 4)
    return float(-10 * np.log10(max(float(np.mean(errors)), 1e-8)))


def checked(name: str, take: Take, samples: int, tuned: bool) -> None:
    """Render a scene in two seeds, denoise it in each way, print what is left."""
    sides = [{k: take(k, samples, seed) for k in range(FRAMES)} for seed in (1, 2)]
    halves = {k: [take(k, REFERENCE, seed) for seed in (50, 51)] for k in JUDGED}
    raw = {density: seen(sides, density) for density in (57.0, 28.0)}
    told = f"{raw[57.0]:.2f} and {raw[28.0]:.2f} JND, {likeness(sides[0], halves):.1f} dB"
    print(f"{name}{' (in sight)' if tuned else ''}, {samples} samples: as rendered {told}")
    for words, how in WAYS:
        began, made = time.perf_counter(), []
        for side in sides:
            denoiser = Denoiser(how, side.__getitem__)
            made.append({k: Picture(denoiser.denoise(k, range(FRAMES)), side[k].guides) for k in INNER})
        took = (time.perf_counter() - began) / (2 * len(INNER))
        light = np.mean([luminance(made[0][k].rgb) for k in INNER]) / np.mean([luminance(sides[0][k].rgb) for k in INNER])
        left = ", ".join(f"{seen(made, d) / raw[d]:.2f}" for d in raw)
        print(f"    {words:16} leaves {left}; {likeness(made[0], halves):.1f} dB, light {light:.3f}, {took:.2f} s", flush=True)


def main() -> None:
    """Print the lines."""
    warm_up()
    wanted = sys.argv[1].split(",") if len(sys.argv) > 1 else list(SCENES)
    for name in wanted:
        checked(name, *SCENES[name])


if __name__ == "__main__":
    main()
