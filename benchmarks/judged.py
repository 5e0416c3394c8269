"""Seen flicker held against ColorVideoVDP (Mantiuk et al., ACM Transactions on Graphics 43, 2024), which is fitted to people's judgements.

`python benchmarks/judged.py make FOLDER` renders and measures the clips here; `python benchmarks/judged.py judge FOLDER` has them judged,
in an environment of its own (`pip install -r requirements-judged.lock`), and `python benchmarks/judged.py table FOLDER` prints the table of
docs/truth.md and writes the data file that a test holds the measure to. What is judged is the noise alone: the mean of two seeds plus
their difference over the square root of two, against the mean. Scenes are crops of a picture of 960 x 540, of both renderers.
"""

from __future__ import annotations

import json
import sys
from functools import partial
from pathlib import Path

import numpy as np

DATA = Path(__file__).parent.parent / "tests" / "measure" / "judged.json"
DISPLAY = "standard_4k"
"""Of the judge's displays: white of 200 candelas a square metre, black a thousandth of it, in a lit room."""
SAMPLES, WINDOW, CROP = (8, 32), 5, (192, 108)
BENCH = (("lamp_wakes", 1040, (380, 240)), ("gears_jewels", 1030, (380, 200)), ("bay_fog", 1040, (380, 220)))
SECOND = (("crossing", 8), ("lens", 8), ("gallery", 20), ("embers", 5))
MOST_LOSS = 5.0
"""In JOD: what is worse is worse than anybody asks about."""
FITTED = ("grey", "brick", "coffee", "coins", "grass", "moon", "page", "edges")
"""Groups on which the curve was fitted; no rendered scene is one of them."""


def make(folder: Path) -> None:
    """Make and measure all clips."""
    sys.path.insert(0, str(DATA.parent))
    sys.path.insert(0, str(DATA.parent.parent))
    from judgedclips import DENSITIES, made_clips, seen

    rows = []
    for number, clip in enumerate(made_clips()):
        np.savez_compressed(folder / f"{number:03d}.npz", one=clip.one.astype(np.float16), two=clip.two.astype(np.float16))
        rows += [(number, clip.name, clip.group, d, seen(clip, d)) for d in DENSITIES]
    for name, group, one, two in rendered_clips():
        number += 1
        planes = [np.stack([lightness_of(p) for p in side]) for side in (one, two)]
        np.savez_compressed(folder / f"{number:03d}.npz", one=planes[0].astype(np.float16), two=planes[1].astype(np.float16))
        rows += [(number, name, group, d, seen_of_pictures(one, two, d)) for d in DENSITIES]
        print(name, [round(r[4], 2) for r in rows[-2:]], file=sys.stderr)
    (folder / "rows.json").write_text(json.dumps(rows))


def lightness_of(picture) -> np.ndarray:
    from hasty_reel.measure.plane import seen_frame

    return seen_frame(picture.rgb).lightness


def seen_of_pictures(one: list, two: list, density: float) -> float:
    from hasty_reel.measure.sequence import measure_sequence

    return measure_sequence(range(len(one)), lambda f, w: one[f], lambda f, w: two[f], pixels_a_degree=density).seen_noise


def rendered_clips():
    """Runs of nine frames of both renderers with two seeds, as rendered and as finished."""
    from planted import HELD_BACK, deep, jewels, room

    import second_renderer
    from hasty_reel.bench.library import find_scene
    from hasty_reel.bench.render import Settings, render, warm_up
    from hasty_reel.finish.chain import Chain
    from hasty_reel.finish.finisher import Finisher
    from hasty_reel.pictures.frame import Picture

    warm_up()

    def _bench(scene, first: int, box: tuple[int, int] | None, samples: int, seed: int, k: int) -> Picture:
        size, crop = (CROP, None) if box is None else ((960, 540), (*box, *CROP))
        made = render(scene, first + k, Settings(*size, samples, 8, seed=seed * 1000 + k, ceiling=5.0, crop=crop))
        return Picture(made.rgb, made.guides)

    def _second(scene: str, first: int, samples: int, seed: int, k: int) -> Picture:
        rgb, guides, _ = second_renderer.render(scene, first + k, *CROP, samples, seed=seed * 1000 + k, ceiling=10.0)
        return Picture(rgb, {name: np.ascontiguousarray(guides[c]) for c, name in enumerate(second_renderer.GUIDES)})

    makers = [(name, partial(_bench, find_scene(name), first, box)) for name, first, box in BENCH]
    planted = (("room", room(HELD_BACK)), ("jewels", jewels(HELD_BACK)), ("deep", deep(HELD_BACK)))
    makers += [(name, partial(_bench, scene, 1001, None)) for name, scene in planted]
    makers += [(f"second: {name}", partial(_second, name, first)) for name, first in SECOND]
    for name, made in makers:
        for samples in SAMPLES:
            sides = [[made(samples, seed, k) for k in range(9)] for seed in (1, 2)]
            yield f"{name}, {samples}", name, *sides
            finished = []
            for side in sides:
                finisher = Finisher(Chain(window=WINDOW), side.__getitem__)
                finished.append([Picture(finisher.finish(k, finisher.chain.needed(k, range(9))).rgb, side[k].guides) for k in range(9)])
            yield f"{name}, {samples}, finished", name, *finished


def judge(folder: Path) -> None:
    """Judge all clips, in the environment of the judge."""
    import pycvvdp
    import torch

    rows = json.loads((folder / "rows.json").read_text())
    photometry = pycvvdp.vvdp_display_photometry.load(DISPLAY, [])
    judges, out = {}, []
    for number, name, group, density, seen in rows:
        if density not in judges:
            geometry = pycvvdp.vvdp_display_geometry((960, 540), ppd=density)
            judges[density] = pycvvdp.cvvdp(display_photometry=photometry, display_geometry=geometry, quiet=True)
        planes = np.load(folder / f"{number:03d}.npz")
        a, b = (srgb(planes[k].astype(np.float64)) for k in ("one", "two"))
        middle = (a + b) / 2.0
        pair = [np.clip(p, 0.0, 1.0)[..., None].repeat(3, axis=3).astype(np.float32) for p in (middle + (a - b) / np.sqrt(2.0), middle)]
        with torch.no_grad():
            jod, _ = judges[density].predict(*pair, dim_order="FHWC", frames_per_second=24.0)
        out.append({"clip": name, "group": group, "density": density, "seen": seen, "loss": 10.0 - float(jod)})
        print(out[-1], file=sys.stderr)
    (folder / "judged.json").write_text(
        json.dumps({"judge": f"cvvdp {pycvvdp.__version__ if hasattr(pycvvdp, '__version__') else ''}", "rows": out})
    )


def srgb(lightness: np.ndarray) -> np.ndarray:
    """Codes 0 to 1 of L* (CIE 1976; IEC 61966-2-1)."""
    y = np.where(lightness > 8.0, ((lightness + 16.0) / 116.0) ** 3, lightness / 903.3)
    return np.where(y <= 0.0031308, 12.92 * y, 1.055 * np.maximum(y, 1e-9) ** (1 / 2.4) - 0.055)


def table(folder: Path) -> None:
    """Print how the measure agrees, and keep the judgements for a test."""
    from scipy.optimize import least_squares
    from scipy.stats import spearmanr

    from hasty_reel.viewers import BEGINS, KNEE, POWER, limit_of, loss_of, share_of_viewers

    told = json.loads((folder / "judged.json").read_text())
    rows = told["rows"]
    seen, loss = (np.array([r[k] for r in rows]) for k in ("seen", "loss"))
    fitted = np.array([r["group"] in FITTED for r in rows])

    def _off(p, which):
        begins = np.exp(p[2])
        x = ((np.hypot(seen[which], begins) - begins) / np.exp(p[0])) ** p[1]
        return (10.0 * x / (1.0 + x) - loss[which]) / np.sqrt(0.1 + loss[which])

    fit = least_squares(_off, (np.log(KNEE), POWER, np.log(BEGINS)), args=(fitted & (loss < MOST_LOSS),))
    print(f"fitted: {np.exp(fit.x[0]):.2f}, {fit.x[1]:.3f}, {np.exp(fit.x[2]):.2f}; in use {KNEE}, {POWER}, {BEGINS}")
    ours = np.array([loss_of(s) for s in seen])
    finished, asked = np.array(["finished" in r["clip"] for r in rows]), loss < MOST_LOSS
    parts = {"all": asked, "by formula": fitted & asked, "rendered": ~fitted & asked, "finished": finished & asked}
    for words, which in parts.items():
        rms = float(np.sqrt(np.mean((ours - loss)[which] ** 2)))
        print(f"| {words} | {which.sum()} | {spearmanr(seen[which], loss[which])[0]:.3f} | {rms:.2f} |")
    wanted = np.array([limit_of(share_of_viewers(x)) for x in np.clip(loss, 0.02, 4.5)])
    told_here = (loss > 0.05) & (loss < 4.0)
    for group in dict.fromkeys(r["group"] for r in rows):
        for density in sorted({r["density"] for r in rows}):
            which = np.array([r["group"] == group and r["density"] == density for r in rows]) & told_here
            if which.any():
                factor = np.exp(np.mean(np.log(seen[which] / wanted[which])))
                print(f"  {group:<18} {density:5.1f}: {factor:.2f} times what was judged ({which.sum()})")
    DATA.write_text(
        json.dumps(
            {"judge": told["judge"], "rows": [{**r, "seen": round(r["seen"], 3), "loss": round(r["loss"], 4)} for r in rows]}, indent=0
        )
    )


if __name__ == "__main__":
    {"make": make, "judge": judge, "table": table}[sys.argv[1]](Path(sys.argv[2]))
