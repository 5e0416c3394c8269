"""Frames as they would look with other samples against frames that were really rendered with them.

`python benchmarks/previews.py [PICTURE.png]` prints the table of docs/truth.md: from two renders of 16 samples a pixel, shown at a quarter,
four and sixteen times as many: noise in L* against an independent render of 256 samples, seen flicker of two such sequences beside that
of two real ones, sparks a pixel and their height, and the Wasserstein distance of the lightness beside that of two real renders. With a
path it also writes both side by side. No constant was chosen on these scenes but what a spark is (`measure/bodysparks.py`).
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
from hasty_reel.farm.atsamples import CALM
from hasty_reel.finish.denoise import Denoiser
from hasty_reel.measure.bandsleft import bands_left
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


class Previews:
    """Frames of other samples, from pairs of pictures."""

    def __init__(self, pairs: dict[int, list[Picture]]) -> None:
        self.pairs, self.two = pairs, {k: two_renders(a.rgb, b.rgb, SAMPLES) for k, (a, b) in pairs.items()}
        sides = [{k: Picture(two.sides[side], pairs[k][side].guides) for k, two in self.two.items()} for side in (0, 1)]
        calmed = [{k: denoiser.denoise(k, FRAMES) for k in FRAMES} for denoiser in (Denoiser(CALM, side.__getitem__) for side in sides)]
        self.left = {k: bands_left(two.mean, two.half, calmed[0][k], calmed[1][k]) for k, two in self.two.items()}

    def at(self, k: int, samples: float) -> Picture:
        """A frame with so many samples."""
        return Picture(self.two[k].at(samples, k, self.left[k]), self.pairs[k][0].guides)


def main() -> None:
    """Print the table."""
    warm_up()
    rows = []
    for name, take in SCENES.items():
        pairs = [{k: [take(k, SAMPLES, seed) for seed in seeds] for k in FRAMES} for seeds in ((1, 2), (3, 4))]
        calm = {k: take(k, REFERENCE, 90) for k in FRAMES}
        made = [Previews(both) for both in pairs]
        row = []
        for samples in SHOWN:
            ours, ours_again = ({k: side.at(k, samples) for k in FRAMES} for side in made)
            real, real_again = ({k: take(k, samples, seed) for k in FRAMES} for seed in (7, 8))
            kinds = [(noise(f, calm), seen(f, g), *sparks(f, calm, samples)) for f, g in ((ours, ours_again), (real, real_again))]
            apart = [wasserstein_distance(lightness(f), lightness(real)) for f in (ours, real_again)]
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
