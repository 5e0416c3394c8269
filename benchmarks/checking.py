"""Checking a folder of frames: heads alone against all pixels, ten thousand frames of a small picture.

`python benchmarks/checking.py [FRAMES]` prints seconds and their ratio.
"""

from __future__ import annotations

import sys
import tempfile
import time
from pathlib import Path

import numpy as np

from hasty_reel.handover.foldercheck import check_frames
from hasty_reel.pictures.footage import Footage
from hasty_reel.pictures.frame import Picture
from hasty_reel.pictures.sequence import read_pattern
from hasty_reel.pictures.writing import write_picture


def main() -> None:
    """Print the figures."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 10_000
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        rng = np.random.default_rng(1)
        write_picture(root / "a.0001.exr", Picture(rng.random((54, 96, 3), dtype=np.float32)))
        data = (root / "a.0001.exr").read_bytes()
        for k in range(2, count + 1):
            (root / f"a.{k:04d}.exr").write_bytes(data)
        took = []
        for quick in (True, False):
            began = time.perf_counter()
            found = check_frames(Footage(read_pattern(str(root / "a.####.exr"))), range(1, count + 1), quick=quick)
            took.append(time.perf_counter() - began)
            assert not quick or not found.faults
    print(f"{count} frames: heads and last rows {took[0]:.1f} s, all pixels {took[1]:.1f} s, {took[1] / took[0]:.1f} times as long")


if __name__ == "__main__":
    main()
