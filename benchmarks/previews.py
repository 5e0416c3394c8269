"""Frames as they would look with other samples against frames that were really rendered with them.

`python benchmarks/previews.py [PICTURE.png]` prints the table of docs/truth.md: from two renders of 16 samples a pixel, shown at a quarter,
four and sixteen times as many: noise in L* and seen flicker against an independent render of 256 samples, sparks a pixel and their height,
and the Wasserstein distance of the lightness beside that of two real renders. With a path it also writes both side by side. No constant was
chosen on these scenes but what a spark is (`measure/bodysparks.py`).
"""

from __future__ import annotations

import sys
from pathlib import Path

import cv2
import numpy as np
from scipy.stats import wasserstein_distance

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))
sys.path.insert(0, str(Path(__file__).parent.parent / "tests" / "measure"))

import seenleft
from finishing import l_star, shown
from hasty_reel.bench.library import find_scene
from hasty_reel.bench.render import warm_up
from hasty_reel.finish.denoise import Denoiser, Denoising
from hasty_reel.measure.othersamples import two_renders
from hasty_reel.measure.sequence import measure_sequence
from hasty_reel.pictures.frame import Picture

seenleft.SIZE = (160, 90)
SAMPLES, SHOWN, REFERENCE, FRAMES = 16, (4, 64, 256), 256, range(7)
SCENES = {
    "lamp": seenleft.bench(find_scene("lamp_wakes"), 1032, (400, 240)),
    "comet": seenleft.bench(find_scene("comet_pass"), 1030, (400, 220)),
    "bay": seenleft.bench(find_scene("bay_fog"), 1020, (400, 220)),
    "second: gallery": seenleft.second("gallery", 12),
}
STANDS_OUT = 0.25
"""Light above that of the reference from which on a pixel counts as a spark at the samples of both renders; at others by their ratio."""


def seen(frames: dict[int, Picture], others: dict[int, Picture]) -> float:
    """Seen flicker of the noise between two sequences, in JND."""
    return measure_sequence(FRAMES, lambda f, w: frames[f], lambda f, w: others[f], pixels_a_degree=57.0).seen_noise


def sparks(frames: dict[int, Picture], calm: dict[int, Picture], samples: float) -> tuple[float, float]:
    """Sparks a pixel, and their median height in linear light."""
    above = np.concatenate([(p.rgb.mean(axis=2) - calm[k].rgb.mean(axis=2)).ravel() for k, p in frames.items()])
    found = above[above > STANDS_OUT * SAMPLES / samples]
    return len(found) / len(above), float(np.median(found)) if len(found) else float("nan")


def noise(frames: dict[int, Picture], calm: dict[int, Picture]) -> float:
    """Root mean square difference in L*."""
    return float(np.sqrt(np.mean([(l_star(p.rgb) - l_star(calm[k].rgb)) ** 2 for k, p in frames.items()])))


def lightness(frames: dict[int, Picture]) -> np.ndarray:
    """L* of all pixels."""
    return np.concatenate([l_star(p.rgb).ravel() for p in frames.values()])


def main() -> None:
    """Print the table."""
    warm_up()
    rows = []
    for name, take in SCENES.items():
        pairs = {k: [take(k, SAMPLES, seed) for seed in (1, 2)] for k in FRAMES}
        calm = {k: take(k, REFERENCE, 90) for k in FRAMES}
        two = {k: two_renders(a.rgb, b.rgb, SAMPLES) for k, (a, b) in pairs.items()}
        means = {k: Picture(two[k].mean, pairs[k][0].guides) for k in FRAMES}
        denoiser = Denoiser(Denoising(2, True), means.__getitem__)
        row = []
        for samples in SHOWN:
            base = {k: denoiser.denoise(k, FRAMES) if samples > two[k].most_exact else None for k in FRAMES}
            ours = {k: Picture(two[k].at(samples, k, base[k]), pairs[k][0].guides) for k in FRAMES}
            real = {k: take(k, samples, 7) for k in FRAMES}
            again = {k: take(k, samples, 8) for k in FRAMES}
            kinds = [(noise(f, calm), seen(f, calm), *sparks(f, calm, samples)) for f in (ours, real)]
            apart = [wasserstein_distance(lightness(f), lightness(real)) for f in (ours, again)]
            ratios = [a / b if b else float("nan") for a, b in zip(*kinds)]
            print(
                f"{name:16} {samples:4} noise {ratios[0]:.2f}, seen {ratios[1]:.2f}, sparks {ratios[2]:.2f} ({1e6 * kinds[1][2]:.0f} in a "
                f"million), height {ratios[3]:.2f}, histogram {apart[0]:.2f} L* ({apart[1]:.2f} of two real ones)",
                flush=True,
            )
            row += [shown(ours[3].rgb), shown(real[3].rgb)]
        rows.append(np.hstack(row))
    if len(sys.argv) > 1:
        codes = (255 * np.vstack(rows)[..., ::-1]).clip(0, 255).astype(np.uint8)
        cv2.imwrite(sys.argv[1], codes, [cv2.IMWRITE_PNG_COMPRESSION, 9])


if __name__ == "__main__":
    main()
