"""Stands in for a program of the artist's in the finishing chain: own_step.py BEFORE AFTER ACT, files or folders."""

import sys
import time
from pathlib import Path

import OpenImageIO as oiio


def change(path: Path, out: Path, act: str) -> None:
    buf = oiio.ImageBuf(str(path))
    buf.read(force=True, convert="float")
    if act == "double":
        buf = oiio.ImageBufAlgo.mul(buf, 2.0)
    if act == "enlarge":
        buf = oiio.ImageBufAlgo.resize(buf, roi=oiio.ROI(0, buf.spec().width * 2, 0, buf.spec().height * 2))
    if act == "broken":
        out.write_bytes(b"no picture")
    elif act == "nan":
        oiio.ImageBufAlgo.mul(buf, float("nan")).write(str(out))
    elif act == "in place":
        oiio.ImageBufAlgo.mul(buf, 0.0).write(str(path))
        buf.write(str(out))
    elif act != "nothing":
        buf.write(str(out))


if __name__ == "__main__":
    before, after, act = Path(sys.argv[1]), Path(sys.argv[2]), sys.argv[3]
    if act == "fail":
        sys.exit("no licence for this")
    if act == "slow":
        time.sleep(0.5)
    for k, path in enumerate(sorted(before.iterdir()) if before.is_dir() else [before]):
        print("done", 25 * k, flush=True)
        change(path, after / path.name if before.is_dir() else after, act)
