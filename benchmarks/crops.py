"""Crops: what proofs say moves before a camera that stands still, against all frames rendered, and the seconds that a crop saves.

Nothing was tuned on these scenes. `python benchmarks/crops.py` prints a line a scene: five proof frames in two seeds tell the box; every
third frame is rendered whole and as that crop with two other seeds. What changes around the crop is the root mean square in L* against the
frame in the middle, told by both seeds; once as the proofs foretell it and once of all frames, and of the worst part of the worst frame.
"""

from __future__ import annotations

import sys
import tempfile
import time
import zlib
from dataclasses import replace
from pathlib import Path

import msgspec
import numpy as np

sys.path.insert(0, str(Path(__file__).parent.parent / "tests" / "measure"))

from planted import HELD_BACK, TUNED, deep, jewels, room

from hasty_reel.bench.library import find_scene
from hasty_reel.bench.render import Settings, render, warm_up
from hasty_reel.bench.scene import Scene, glowing, matte, sphere
from hasty_reel.evidence.moving import moving_of
from hasty_reel.evidence.pictureparts import PARTS
from hasty_reel.evidence.proof import Proof, ProofPicture
from hasty_reel.evidence.rows import Evidence
from hasty_reel.image.resize import resize
from hasty_reel.measure.plane import seen_frame
from hasty_reel.measure.twoseeds import common_squares
from hasty_reel.pictures.frame import Picture
from hasty_reel.pictures.writing import write_picture
from hasty_reel.plan.frames.crops import MOST_SHARE, SEEN, crop_lines
from hasty_reel.settings.recipe import Recipe

SIZE, FRAMES, SAMPLES = (320, 180), 48, 32
PROOFS, CHECKED = (0, 12, 24, 36, 47), tuple(range(1, FRAMES, 3))
MIDDLE = 24


def still(scene: Scene, first: int) -> Scene:
    """A scene before a camera that stands where it stood on a frame."""
    where = scene.camera(float(first))
    return replace(scene, camera=lambda frame: where, name=f"{scene.name} still")


def rolling(scene: Scene, light: float = 0.0) -> Scene:
    """A scene that stands still but for a small ball that rolls across a part of it; light : that it gives off, which changes the rest."""
    scene = still(scene, 1001)

    def pose(frame: float) -> tuple[np.ndarray, np.ndarray]:
        a = (frame - 1001) * 0.06
        turn = np.array([[np.cos(a), -np.sin(a), 0.0], [np.sin(a), np.cos(a), 0.0], [0.0, 0.0, 1.0]])
        return turn, np.array([-0.3 + 0.012 * (frame - 1001), 0.2, 0.4])

    look = glowing((light, light, light)) if light else matte((0.7, 0.5, 0.3))
    return replace(scene, shapes=(*scene.shapes, sphere((0, 0, 0), 0.2, look, pose)), name=f"{scene.name} rolling {light:g}")


def made(scene: Scene, first: int, place: int, seed: int, crop: tuple[int, int, int, int] | None = None) -> tuple[Picture, float]:
    """One picture and its seconds."""
    told = zlib.crc32(f"{scene.name} {place} {seed}".encode())
    done = render(scene, first + place, Settings(*SIZE, SAMPLES, steps=0, bounces=4, ceiling=5.0, seed=told, crop=crop))
    return Picture(done.rgb, done.guides), done.sample_seconds


def proofs_of(scene: Scene, first: int, folder: Path) -> Evidence:
    """Proof frames of two seeds, as they are kept."""
    kept = []
    for place in PROOFS:
        for seed in (1, 2):
            picture, seconds = made(scene, first, place, seed)
            file = f"{place}.{seed}.exr"
            write_picture(folder / file, picture)
            kept.append(ProofPicture(frame=place, seed=seed, file=file, load_seconds=0.0, sample_seconds=seconds, write_seconds=0.0))
    recipe = Recipe(name="Crops")
    proof = Proof(id="p", shot="s", made="", recipe=recipe, width=SIZE[0], height=SIZE[1], samples=SAMPLES, pictures=tuple(kept))
    return Evidence(proofs=(proof,), folders={"p": folder})


def lightness(picture: Picture) -> np.ndarray:
    """Of a picture, (h, w) in L*."""
    return seen_frame(picture.rgb).lightness.astype(np.float64)


def checked(name: str, scene: Scene, first: int) -> None:
    """What proofs say of a scene, and what all frames show."""
    with tempfile.TemporaryDirectory() as folder:
        moving = moving_of(proofs_of(scene, first, Path(folder)), MIDDLE)
    if moving is None or not 0.0 < moving.share <= MOST_SHARE or moving.outside > SEEN:
        told = "" if moving is None else f": the box is {100 * moving.share:.0f} % of the picture, {moving.outside:.2f} L* around it"
        print(f"{name:14} no crop{told}", flush=True)
        return
    crop = msgspec.structs.replace(Recipe(name="Crops"), **crop_lines(moving.box)).crop_box(*SIZE)
    assert crop is not None
    x, y, w, h = crop
    around = np.ones((SIZE[1], SIZE[0]))
    around[y : y + h, x : x + w] = 0.0
    middle = [lightness(made(scene, first, MIDDLE, seed)[0]) for seed in (3, 4)]
    squares, parts, took = [], [], []
    for place in CHECKED:
        whole = [made(scene, first, place, seed) for seed in (3, 4)]
        part = [made(scene, first, place, seed, crop)[1] for seed in (3, 4)]
        took.append((sum(t for _, t in whole), sum(part)))
        off = common_squares(middle, [lightness(p) for p, _ in whole]) * around
        squares.append(off.sum() / around.sum())
        light = [resize((lightness(p) * around)[..., None], PARTS[1], PARTS[0])[..., 0] for p, _ in whole]
        stood = [resize((m * around)[..., None], PARTS[1], PARTS[0])[..., 0] for m in middle]
        parts.append(common_squares(stood, light).max())
    seconds = np.array(took).sum(axis=0)
    share = w * h / (SIZE[0] * SIZE[1])
    rendered, worst = (np.sqrt(max(0.0, square)) for square in (np.mean(squares), max(parts)))
    changes = f"foretold {moving.outside:.2f}, rendered {rendered:.2f}, worst part {worst:.2f} L*"
    print(f"{name:14} box {100 * share:.0f} %, takes {100 * seconds[1] / seconds[0]:.0f} % of the seconds; around it {changes}", flush=True)


def main() -> None:
    """Print the lines."""
    warm_up()
    began = time.perf_counter()
    for name, scene, first in (
        ("room", rolling(room(TUNED)), 1001), ("hall", rolling(room(HELD_BACK)), 1001), ("close", rolling(deep(HELD_BACK)), 1001),
        ("glassware", rolling(jewels(TUNED)), 1001), ("dim ball", rolling(room(TUNED), 0.5), 1001),
        ("bright ball", rolling(room(TUNED), 5.0), 1001),
        ("tide dial", still(find_scene("tide_dial"), 1020), 1020), ("nothing moves", still(room(HELD_BACK), 1001), 1001),
    ):  # fmt: skip
        checked(name, scene, first)
    print(f"{time.perf_counter() - began:.0f} s")


if __name__ == "__main__":
    main()
