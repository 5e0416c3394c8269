"""A hundred runs with planted faults: the second renderer and the bench renderer as programs, one to four workers, and a cluster.

`python benchmarks/soak.py [RUNS [FIRST]]`. Each run must end; frames that fail for good are named and tried as often as said; all others
are finished with the pixels that the renderer gives them; nothing is taken for finished that is not; and no process is left.
"""

from __future__ import annotations

import random
import socket
import subprocess
import sys
import tempfile
import time
from collections import Counter
from datetime import datetime
from pathlib import Path

import msgspec
import numpy as np
import psutil

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

from faulty_renderer import FAULTY_RENDERER
from hasty_reel.demo import copy_demo
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.farm.renderers import renderer_of
from hasty_reel.farm.renderers.links import BY_COMMAND, Link
from hasty_reel.pictures.frame import read_picture
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.programs.processgroup import MARK
from hasty_reel.reel.edits import with_fields, with_frames, with_line
from hasty_reel.reel.file import read_reel
from hasty_reel.run import bound, framestate
from hasty_reel.run.cluster import ClusterCrew
from hasty_reel.run.clusterkeys import KEY_FILES, make_keys
from hasty_reel.run.framestate import FAILED, FINISHED
from hasty_reel.run.shotrun import Run
from hasty_reel.work import CancelToken
from second_link import ARGUMENTS, PROGRAM

RUNS, FRAMES, EVERY_CLUSTER = 100, 6, 10
FAULTS = ("crash", "hang", "half", "nothing", "wrong-size", "not-finite", "child", "slow", "lie")
HARMLESS = ("slow", "lie")
"""Faults with which a frame is right all the same."""
LINES = {
    "denoise_window": 3,
    "denoise_thorough": 0,
    "despike": 0,
    "sharpen": 0.0,
    "samples_floor": 2,
    "samples_ceiling": 4,
    "shutter_steps": 0,
}
BOUND = 15.0
"""Seconds after which a frame counts as hung here."""


def link_of(door: str, faults: list[str]) -> Link:
    """A link that misbehaves as told."""
    if door == "second":
        return Link(name=door, command=(*FAULTY_RENDERER, "--renderer", str(PROGRAM), *faults, *ARGUMENTS), timeout=BOUND)
    assert BY_COMMAND.command is not None
    return msgspec.structs.replace(BY_COMMAND, name=door, command=(*FAULTY_RENDERER, *faults, *BY_COMMAND.command[2:]), timeout=BOUND)


def left_over() -> list[int]:
    """Processes that a renderer left behind; another soak at the same time would be taken for one."""
    out = []
    for process in psutil.process_iter():
        try:
            if MARK in process.environ():
                out.append(process.pid)
        except (psutil.Error, OSError):
            continue
    return out


class Cluster:
    """A scheduler and two workers on this machine, with certificates."""

    def __init__(self, folder: Path) -> None:
        self.keys = folder / "keys"
        make_keys(self.keys)
        ca, certificate, key = (str(self.keys / name) for name in KEY_FILES)
        tls = [
            "--protocol",
            "tls",
            "--tls-ca-file",
            ca,
            "--tls-cert",
            certificate,
            "--tls-key",
            key,
            "--host",
            "127.0.0.1",
            "--no-dashboard",
        ]
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            port = str(free.getsockname()[1])
        self.address, dask = f"tls://127.0.0.1:{port}", [sys.executable, "-m", "dask"]
        quiet = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL, "cwd": folder}
        worker = [*dask, "worker", self.address, *tls, "--nthreads", "1", "--nworkers", "1", "--no-nanny"]
        self._processes = [subprocess.Popen([*dask, "scheduler", "--port", port, *tls], **quiet)]
        time.sleep(6)
        self._processes += [subprocess.Popen([*worker, "--name", f"w{k}"], **quiet) for k in range(2)]
        time.sleep(6)

    def close(self) -> None:
        """End it."""
        for process in self._processes:
            process.kill()
            process.wait()


def main() -> None:
    """Run all of it and print what went wrong, and the counts."""
    runs, first = (int(sys.argv[k]) if len(sys.argv) > k else usual for k, usual in ((1, RUNS), (2, 0)))
    bound.LEAST_SECONDS = BOUND
    seen: Counter[str] = Counter()
    wrong: list[str] = []
    began = time.perf_counter()
    with tempfile.TemporaryDirectory() as room:
        folder = Path(room)
        path = copy_demo(folder / "demo", datetime.now().astimezone())
        reel = with_fields(with_frames(read_reel(path), "sh010", 1001, 1000 + FRAMES), width=48, height=28)
        for field, value in LINES.items():
            reel = with_line(reel, "sh010", field, value)
        evidence = EvidenceReader().read(path.parent / reel.proofs, reel.shot("sh010"))
        cluster = Cluster(folder)
        for k in range(first, first + runs):
            rng, door = random.Random(k), ("second", "bench")[k % 2]
            shot = reel.shot("sh010") if door == "bench" else msgspec.structs.replace(reel.shot("sh010"), scene="crossing")
            plan = plan_shot(reel, shot, ShotModel(evidence, shot.frames))
            planted = {f: rng.choice(FAULTS) for f in shot.frames if rng.random() < 0.35}
            once = rng.random() < 0.5
            faults = [w for f, fault in planted.items() for w in (f"--{fault}-at", str(shot.scene_frame(f)))]
            if once:
                (folder / f"once{k}").mkdir()
                faults += ["--once", str(folder / f"once{k}")]
            link, workers, far = link_of(door, faults), rng.randint(1, 4), k % EVERY_CLUSTER == EVERY_CLUSTER - 1
            run = Run(reel, plan, folder / f"run{k}", renderer=renderer_of(link))
            crew = ClusterCrew(cluster.address, link, cluster.keys) if far else None
            try:
                run.go(lambda event: None, CancelToken(), workers, crew)
            except Exception as error:
                wrong.append(f"run {k}: ended by {error!r}")
            finally:
                if crew is not None:
                    crew.close()
            found = faulty_ends(run, k, {} if once else planted, renderer_of(link_of(door, [])))
            print(*found, sep="\n", end="\n" if found else "", flush=True)
            wrong += found
            seen.update(planted.values())
            where = "cluster" if far else f"{workers} workers"
            print(f"run {k}: {door}, {where}, {planted}{' once' if once else ''}: {Counter(run.states.values())}", flush=True)
        cluster.close()
    print(f"{runs} runs in {time.perf_counter() - began:.0f} s, faults planted: {dict(seen)}")
    print("\n".join(wrong) or "each ended, nothing lost, nothing falsely finished, no process left")


def faulty_ends(run: Run, k: int, planted: dict[int, str], plain) -> list[str]:
    """What is not as it should be after a run."""
    out = []
    for frame, state in run.states.items():
        good = planted.get(frame) in (None, *HARMLESS)
        if state != (FINISHED if good else FAILED):
            out.append(f"run {k}, frame {frame}: {state}, planted {planted.get(frame)}")
        if not good and run.attempts[frame] != framestate.ATTEMPTS:
            out.append(f"run {k}, frame {frame}: {run.attempts[frame]} attempts")
        if not good and run.folder.final.path(frame).exists():
            out.append(f"run {k}, frame {frame}: taken for finished")
    one = next((f for f, s in run.states.items() if s == FINISHED), None)
    if one is not None:
        wanted = plain(run.job(one), lambda share, words: None, None, None).picture.rgb
        if not np.allclose(read_picture(run.folder.rendered.path(one)).rgb, wanted, rtol=2e-3, atol=1e-3):
            out.append(f"run {k}, frame {one}: other pixels than the renderer gives")
    until = time.monotonic() + 5
    while left_over() and time.monotonic() < until:
        time.sleep(0.1)
    if left_over():
        out.append(f"run {k}: processes {left_over()} are left")
    return out


if __name__ == "__main__":
    main()
