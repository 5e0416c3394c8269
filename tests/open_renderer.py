"""A third stand-in: a small renderer that stays open. It shares no code with the others, and speaks through `hasty_reel.link`.

A lit ball rolls over a striped floor while mist gathers from frame to frame (a history); bounced light may come from a cache
file. Its noise is that of so many samples. Faults are asked for by the environment: OPEN_FAULTS='crash@1003,hang@1005'.
"""

from __future__ import annotations

import os
import sys
import time
from pathlib import Path

import numpy as np
import OpenImageIO as oiio

from hasty_reel import link

LOAD_SECONDS = float(os.environ.get("OPEN_LOAD", "0.2"))
CACHE_SECONDS = float(os.environ.get("OPEN_CACHE", "0.1"))
HISTORY_SECONDS = float(os.environ.get("OPEN_HISTORY", "0"))
"""Of a frame that is gone through without a picture."""
SAMPLE_SECONDS = float(os.environ.get("OPEN_SAMPLE", "2e-7"))
"""Of a pixel and sample."""
CAN = os.environ.get("OPEN_CAN", "keep crop guides history caches preview").split()
LOG = os.environ.get("OPEN_LOG", "")
STATE = {"scene": None, "mist": 0.0, "frame": None}


def faults_at(frame):
    """The faults that are asked for at a frame; each once, where a folder for that is named."""
    found = [part.split("@")[0] for part in os.environ.get("OPEN_FAULTS", "").split(",") if part.endswith(f"@{frame:g}")]
    once = os.environ.get("OPEN_ONCE", "")
    if found and once:
        try:
            Path(once, f"{frame:g}").touch(exist_ok=False)
        except FileExistsError:
            return []
    return found


def work(seconds):
    """Keep a processor busy: one that sleeps would look as if other work kept it waiting."""
    until = time.perf_counter() + seconds
    while time.perf_counter() < until:
        pass


def log(words):
    if LOG:
        with open(LOG, "a", encoding="utf-8") as file:
            file.write(f"{os.getpid()} {words}\n")


@link.scene
def load(name):
    if name == "no such scene":
        raise RuntimeError("there is no such scene")
    work(LOAD_SECONDS)
    STATE.update(scene=name, mist=0.0, frame=None)
    log(f"load {name}")


def gather(frame):
    STATE["mist"] += (1.0 - STATE["mist"]) * 0.25
    STATE["frame"] = frame


@link.cache
def cache(job):
    work(CACHE_SECONDS)
    with open(job.output, "wb") as file:
        np.save(file, np.array([0.2 + 0.01 * job.settings.get("bounces", 6)]))
    log(f"cache {job.frame:g}")


def light(job):
    """The picture without noise, (h, w, 3)."""
    x0, y0, w, h = job.crop
    x, y = (np.arange(x0, x0 + w) + 0.5) / job.width, (np.arange(y0, y0 + h) + 0.5) / job.height
    at = 0.2 + 0.01 * (job.frame % 60)
    stripes = 0.3 + 0.2 * (np.sin(40.0 * x)[None, :] > 0)
    ball = ((x - at)[None, :] ** 2 + ((y - 0.5)[:, None] * job.height / job.width) ** 2) < 0.01
    bounced = sum(c["share"] * float(np.load(c["path"])[0]) for c in job.caches) if job.caches else 0.26
    rgb = np.where(ball[..., None], np.array([0.9, 0.5, 0.2]), stripes[..., None] * np.ones(3)) * (0.7 + bounced)
    return rgb * (1.0 - 0.3 * STATE["mist"]), ball


@link.frame
def render(job):
    found = faults_at(job.frame)
    if job.fresh:
        STATE.update(mist=0.0, frame=None)
    for frame in job.history:
        work(HISTORY_SECONDS)
        gather(frame)
    if STATE["frame"] != job.frame:
        gather(job.frame)
    log(f"render {job.frame:g} {job.samples} after {len(job.history)}")
    if "crash" in found:
        print("ran out of brass", file=sys.stderr, flush=True)
        os._exit(3)
    if "hang" in found:
        time.sleep(3600)
    if "fail" in found:
        raise RuntimeError("the tide gauge is not there")
    out = link.ADAPTER._out
    if "flood" in found:
        for _ in range(5000):
            out.write('{"say": "result", "id": 999999}\n')
        out.write("x" * 3_000_000)
        out.flush()
        time.sleep(3600)
    if "order" in found:
        out.write(f'{{"say": "result", "id": {job.id + 1}, "frame": {job.frame + 1}}}\nwhat is this\n[1, 2\n')
        out.write(f'{{"say": "result", "id": {job.id - 1}}}\n{{"say": "tide", "id": {job.id}}}\n')
        out.flush()
    if "unsaid" in found:
        return {}
    rgb, ball = light(job)
    steps = 4
    for k in range(steps):
        work(SAMPLE_SECONDS * rgb.shape[0] * rgb.shape[1] * job.samples / steps)
        job.progress((k + 1) / steps)
    random = np.random.default_rng(job.seed)
    rgb = np.maximum(rgb + 0.25 * random.standard_normal(rgb.shape) / np.sqrt(job.samples), 0.0)
    if "size" in found:
        rgb = rgb[:-1]
    if "nan" in found:
        rgb[0, 0, 0] = np.nan
    names, planes = ["R", "G", "B"], [rgb[..., k] for k in range(3)]
    if job.guides:
        flat = np.ones(rgb.shape[:2])
        still, moved = 0 * flat, 0.01 * job.width * ball[: rgb.shape[0]]
        named = {"albedo.R": flat, "albedo.G": flat, "albedo.B": flat, "normal.X": flat, "normal.Y": still, "normal.Z": still}
        named |= {"Z": 4.0 - ball[: rgb.shape[0]], "motion.X": moved, "motion.Y": still}
        names, planes = names + list(named), planes + list(named.values())
    write(job.output, names, planes)
    if job.preview:
        write(job.preview, names[:3], planes[:3])
        job.previewed()
    if "half" in found:
        raw = Path(job.output).read_bytes()
        Path(job.output).write_bytes(raw[: len(raw) // 2])
    if "lie" in found:
        return {"frame": job.frame + 7}
    if "times" in found:
        return {"seconds": {"sample": -5.0, "load": 1e300}, "samples": -3, "warnings": ["its clock stands"]}
    told = {"seconds": {"sample": SAMPLE_SECONDS * rgb.shape[0] * rgb.shape[1] * job.samples}, "samples": job.samples}
    return {**told, "objects": {"ball": 1.0, "floor": 2.0}, "object_memory": {"floor": 3e6}}


def write(path, names, planes):
    pixels = np.stack(planes, axis=-1).astype(np.float32)
    spec = oiio.ImageSpec(pixels.shape[1], pixels.shape[0], pixels.shape[2], oiio.FLOAT)
    spec.channelnames = names
    out = oiio.ImageOutput.create(path)
    out.open(path, spec)
    out.write_image(np.ascontiguousarray(pixels))
    out.close()


if __name__ == "__main__":
    if os.environ.get("OPEN_START", ""):
        time.sleep(float(os.environ["OPEN_START"]))
    link.serve(name="Open stand-in", can=CAN, settings=None)
