"""Measuring a sequence of 1080p half-float EXR against decoding it alone, in one run.

A still camera, a camera that moves (motion found in the pictures), and frames that carry their vectors and guides.
"""

from __future__ import annotations

import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
from scipy.ndimage import gaussian_filter

from hasty_reel.measure.sequence import measure_sequence
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.pictures.writing import write_picture

FRAMES, WIDTH, HEIGHT = 12, 1920, 1080
SPEED = 7


def timed(act: Callable[[], object], rounds: int = 3) -> float:
    """Median seconds of an act."""
    out = []
    for _ in range(rounds):
        began = time.perf_counter()
        act()
        out.append(time.perf_counter() - began)
    return statistics.median(out)


def write(folder: Path, name: str, speed: int, guides: bool) -> None:
    """A textured scene with grain, new in each frame."""
    scene = np.clip(gaussian_filter(np.random.RandomState(1).normal(0.3, 2, (HEIGHT, WIDTH + SPEED * FRAMES, 3)), (5, 5, 0)), 0, 1)
    for k in range(FRAMES):
        grain = np.random.RandomState(k).normal(0, 0.01, (HEIGHT, WIDTH, 3))
        rgb = (scene[:, speed * k : speed * k + WIDTH] + grain).astype(np.float32)
        planes: dict[str, np.ndarray] = {}
        if guides:
            flat = np.full((HEIGHT, WIDTH), 0.5, np.float32)
            names = ("albedo.R", "albedo.G", "albedo.B", "normal.X", "normal.Y", "normal.Z", "Z")
            planes = {n: flat + (rgb[..., j % 3] if j < 6 else 0) for j, n in enumerate(names)}
            planes |= {"motion.X": np.full((HEIGHT, WIDTH), -float(speed), np.float32), "motion.Y": np.zeros((HEIGHT, WIDTH), np.float32)}
        write_picture(folder / f"{name}.{k:04d}.exr", Picture(rgb, planes))


def main() -> None:
    """Print the figures."""
    with tempfile.TemporaryDirectory() as temporary:
        folder = Path(temporary)
        for name, speed, guides, words in (
            ("still", 0, False, "still camera, colour alone"),
            ("moving", SPEED, False, "moving camera, colour alone"),
            ("guided", SPEED, True, "moving camera, vectors and guides"),
        ):
            write(folder, name, speed, guides)

            def read(frame: int, wanted=None, name=name) -> Picture:
                return read_picture(folder / f"{name}.{frame:04d}.exr", wanted)

            def decode(read=read) -> None:
                for k in range(FRAMES):
                    read(k)

            measure_sequence(range(3), read)
            alone = timed(decode) / FRAMES
            both = timed(lambda read=read: measure_sequence(range(FRAMES), read)) / FRAMES
            flicker = measure_sequence(range(3), read).frames[1].flicker_L
            extra = (both - alone) / alone
            print(f"{words}: decode {alone * 1000:.0f} ms a frame, measured {both * 1000:.0f} ms,", end=" ")
            print(f"{extra:.2f} of the decode time on top; flicker {flicker:.3f} L*")


if __name__ == "__main__":
    main()
