"""Finished frames judged by ColorVideoVDP (Mantiuk et al., ACM Transactions on Graphics 43, 2024), beside general filters.

`python benchmarks/judgedfinish.py make FOLDER` renders and finishes the clips here, `python benchmarks/judgedfinish.py judge FOLDER` has
them judged in the judge's own environment (`pip install -r requirements-judged.lock`) and prints the table of docs/finish.md: JOD of five
frames in motion against references, the display and the densities of benchmarks/judged.py. The general filters get the best of five
strengths each, by likeness. No constant of the denoiser was chosen with a look at embers, comet and bay.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

import numpy as np

DENSITIES = (57.0, 28.0)
FRAMES, INNER, REFERENCE = 17, range(6, 11), 256
NAMES = ("gears", "lamp", "second: gallery", "second: embers", "comet", "bay")
BOX = np.s_[10:118, 16:208]
"""Of the clips of benchmarks/seenleft.py: what is judged, without the edges."""


def make(folder: Path) -> None:
    """Make all clips."""
    from finishing import STRENGTHS, shown, theirs
    from hasty_reel.bench.render import warm_up
    from hasty_reel.finish.denoise import Denoiser, Denoising
    from seenleft import SCENES

    warm_up()
    for name in NAMES:
        take, samples, _ = SCENES[name]
        run = {k: take(k, samples, 1) for k in range(FRAMES)}
        true = {k: take(k, REFERENCE, 60).rgb for k in INNER}
        sides = {"reference": true, "as rendered": {k: run[k].rgb for k in INNER}}
        ways = {"thorough, 5 frames": Denoising(2, True), "thorough, 11 frames": Denoising(5, True), "quick, 5 frames": Denoising(2, False)}
        for words, how in ways.items():
            denoiser = Denoiser(how, run.__getitem__)
            sides[words] = {k: denoiser.denoise(k, range(FRAMES)) for k in INNER}
        for words, acts in theirs([run[k] for k in range(FRAMES)]).items():
            found = [{k: act(k) for k in INNER} for act in acts[: len(STRENGTHS)]]
            sides[words] = min(found, key=lambda frames: sum(float(np.mean((shown(frames[k]) - shown(true[k])) ** 2)) for k in INNER))
        planes = {w: np.stack([shown(frames[k])[BOX] for k in INNER]).astype(np.float16) for w, frames in sides.items()}
        np.savez_compressed(folder / f"{name.replace(': ', '_')}.npz", **planes)
        print(name, flush=True)


def judge(folder: Path) -> None:
    """Judge all clips, in the environment of the judge."""
    import pycvvdp
    import torch

    from judged import DISPLAY

    photometry = pycvvdp.vvdp_display_photometry.load(DISPLAY, [])
    told = {}
    for path in sorted(folder.glob("*.npz")):
        planes = np.load(path)
        true = np.clip(planes["reference"].astype(np.float32), 0.0, 1.0)
        for words in planes.files[1:]:
            jods = []
            for density in DENSITIES:
                geometry = pycvvdp.vvdp_display_geometry((960, 540), ppd=density)
                measure = pycvvdp.cvvdp(display_photometry=photometry, display_geometry=geometry, quiet=True)
                with torch.no_grad():
                    jod, _ = measure.predict(
                        np.clip(planes[words].astype(np.float32), 0.0, 1.0), true, dim_order="FHWC", frames_per_second=24.0
                    )
                jods.append(round(float(jod), 2))
            told[f"{path.stem}, {words}"] = jods
            print(f"{path.stem:16} {words:36} {jods[0]:6.2f} {jods[1]:6.2f}", flush=True)
    (folder / "told.json").write_text(json.dumps(told, indent=1))


if __name__ == "__main__":
    {"make": make, "judge": judge}[sys.argv[1]](Path(sys.argv[2]))
