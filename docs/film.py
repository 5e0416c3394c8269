"""Render the pictures of the start page: `python docs/film.py FOLDER` writes them into src/hasty_reel/demo/film.

One frame of each shot of the demo, 640 x 360, two seeds of 256 samples by the bench renderer, averaged, despiked and denoised by itself.
What lies in FOLDER already is not rendered again; all of it takes about a quarter of an hour on two cores.
"""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtGui import QGuiApplication

from hasty_reel.demo import FILM
from hasty_reel.desk.picture import as_image
from hasty_reel.pictures.colour import codes8
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.pictures.writing import write_picture

SHOWN = (("lamp_wakes", 1040), ("comet_pass", 1036), ("gears_jewels", 1030), ("bay_fog", 1050), ("tide_dial", 1048))
SEEDS = (7, 8)


def command(*words: object) -> None:
    """Run a program that lies beside this interpreter."""
    name, *rest = map(str, words)
    subprocess.run([str(Path(sys.executable).with_name(name)), *rest], check=True)


def main(folder: Path) -> None:
    """Render what is missing, and write the pictures."""
    folder.mkdir(parents=True, exist_ok=True)
    FILM.mkdir(exist_ok=True)
    app = QGuiApplication([])
    for k, (scene, frame) in enumerate(SHOWN, start=1):
        files = [folder / f"{scene}.s{place}.exr" for place in range(len(SEEDS))]
        for file, seed in zip(files, SEEDS):
            if not file.is_file():
                told = f"--scene {scene} --frame {frame} --size 640x360 --samples 256 --seed {seed} --ceiling 5 --guides"
                command("hasty-bench", "render", *told.split(), "--out", file)
        one, other = (read_picture(file) for file in files)
        write_picture(folder / f"mean.{k:04d}.exr", Picture((one.rgb + other.rgb) / 2, one.guides, one.attributes))
    command(
        "hasty-reel",
        "finish",
        folder / "mean.####.exr",
        "--out",
        folder / "film.####.exr",
        "--despike",
        "--denoise",
        "frame",
        "--overwrite",
    )
    for k in range(1, len(SHOWN) + 1):
        as_image(codes8(read_picture(folder / f"film.{k:04d}.exr", ()).rgb)).save(str(FILM / f"film.{k}.png"))
    app.quit()


if __name__ == "__main__":
    main(Path(sys.argv[1]))
