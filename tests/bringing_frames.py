"""Frames as another program leaves them."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import OpenImageIO as oiio


def write(path: Path, pixels: np.ndarray, names: tuple[str, ...], kind: str = "half", **attributes) -> None:
    spec = oiio.ImageSpec(pixels.shape[1], pixels.shape[0], pixels.shape[2], kind)
    spec.channelnames = names
    for key, value in attributes.items():
        spec.attribute(key, value)
    out = oiio.ImageOutput.create(str(path))
    assert out.open(str(path), spec) and out.write_image(np.ascontiguousarray(pixels, np.float32))
    out.close()


def sequence(folder: Path, name: str, seeds=(1, 2), frames=range(1001, 1006), ending=".exr", **attributes) -> None:
    folder.mkdir(exist_ok=True)
    for seed in seeds:
        for frame in frames:
            rng = np.random.default_rng(seed * 10_000 + frame)
            rgb = np.clip(0.3 + 0.05 * rng.normal(size=(27, 48, 3)), 0, 1)
            kind = "half" if ending == ".exr" else "uint8"
            write(folder / name.format(seed=seed, frame=frame, ending=ending), rgb, ("R", "G", "B"), kind, **attributes)
