"""Nothing lost: kills in the middle of work, mutated files for every reader, and disks that are too small.

    benchmarks/hardening.py                  100 kills of each work, 300 mutations for each reader, all disk sizes
    benchmarks/hardening.py --count 20       fewer of each, for a quick look
    benchmarks/hardening.py --only mutations kills, mutations or disks alone

Prints attempts and failures; ends with status 1 where there was a failure. Disks are real ones in memory where
this process may mount them (as root), else the largest file a process may write stands for them.
"""

from __future__ import annotations

import argparse
import contextlib
import json
import os
import random
import resource
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from datetime import datetime
from fractions import Fraction
from pathlib import Path

import msgspec
import numpy as np
import OpenImageIO as oiio

from hasty_reel.cli.answers import read_table as read_frames_table
from hasty_reel.demo import copy_demo
from hasty_reel.errors import HastyReelError
from hasty_reel.evidence.measured import MEASURED, ProofMeasures
from hasty_reel.evidence.proof import DENOISE, MANIFEST, proof_folders, read_effects, read_proof
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.farm.claim import new_proof_folder
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.proofs import make_proof
from hasty_reel.farm.renderers.links import LINKS, SHIPPED
from hasty_reel.farm.times import read_log, read_times
from hasty_reel.finish.chain import Chain
from hasty_reel.finish.sequence import finish_sequence
from hasty_reel.handover.deliver import deliver
from hasty_reel.handover.video import frames_in
from hasty_reel.measure.eyesight import WATCHERS, Watcher
from hasty_reel.own.draftcuts import DRAFT_CUTS
from hasty_reel.own.draftcuts import SHIPPED as CUTS
from hasty_reel.own.recentreels import recent_reels
from hasty_reel.pictures.frame import Picture, read_header, read_picture
from hasty_reel.pictures.outputs import FORMAT, write_format
from hasty_reel.pictures.sequence import FramePattern, read_pattern
from hasty_reel.pictures.writing import write_picture
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.file import read_reel, save_reel
from hasty_reel.reel.saves import autosave, save_keeping, unsaved
from hasty_reel.reel.shottable import read_table, write_table
from hasty_reel.reel.timeline import read_timeline, write_timeline
from hasty_reel.run.shotrun import Run
from hasty_reel.work import CancelToken

SHOT = "sh010"
LONGEST_WORK = 1.5
"""Seconds into the work, at most, at which it is killed."""
DISK_SIZES = (0, 4, 8, 12, 16, 24, 32, 48, 60, 64, 96, 128, 192, 256, 384, 512, 768, 1024, 1536, 2048)
"""KiB."""


class Score:
    """Attempts and failures of one kind; the first failures are told."""

    def __init__(self, kind: str) -> None:
        self.kind, self.attempts, self.failures, self.midway = kind, 0, 0, 0

    def add(self, faults: list[str]) -> None:
        """One attempt and what was wrong after it."""
        self.attempts += 1
        if faults:
            self.failures += 1
            if self.failures <= 3:
                print(f"  {self.kind}: {faults[0][:200]}", flush=True)

    def tell(self) -> None:
        """Print both numbers."""
        midway = f", {self.midway} in the middle of a file" if self.midway else ""
        print(f"{self.kind:<40} {self.attempts:>5} attempts {self.failures:>4} failures{midway}", flush=True)


# -- what there is to work on


def small_reel(folder: Path) -> Path:
    """The demo reel delivered at 96 x 54 with few samples."""
    path = copy_demo(folder, datetime.now().astimezone())
    reel = read_reel(path)
    recipes = tuple(msgspec.structs.replace(r, samples_floor=4, samples_ceiling=8, shutter_steps=4, denoise_window=3) for r in reel.recipes)
    shots = tuple(msgspec.structs.replace(s, departures={}) for s in reel.shots)
    save_reel(path, msgspec.structs.replace(reel, width=96, height=54, recipes=recipes, shots=shots))
    return path


def some_frames(folder: Path, count: int = 8, size: tuple[int, int] = (96, 54)) -> FramePattern:
    """A sequence of noise."""
    pattern = read_pattern(str(folder / "in" / "a.####.exr"))
    rng = np.random.default_rng(1)
    for k in range(count):
        write_picture(pattern.path(1001 + k), Picture(rng.random((size[1], size[0], 3), np.float32)))
    return pattern


def whole(folder: Path) -> list[str]:
    """What is wrong with the files that have final names below a folder."""
    faults = []
    for path in folder.rglob("*"):
        if path.name.startswith(".") or not path.is_file():
            continue
        try:
            if path.suffix in (".exr", ".png"):
                read_picture(path)
            elif path.suffix == ".mp4":
                frames_in(path)
            elif path.suffix == ".reel":
                read_reel(path)
        except Exception as error:
            faults.append(f"{path.name}: {type(error).__name__} {error}")
    return faults


# -- work that is killed: each begins in an own process, tells when it is under way, and goes on until it is killed


def saving(folder: Path, told: Callable[[str], None]) -> None:
    path = folder / "k.reel"
    reel = read_reel(path) if path.exists() else msgspec.structs.replace(read_reel(folder.parent / "tidal-orrery.reel"), name="0")
    number = int(reel.name)
    while True:
        number += 1
        told(str(number))
        autosave(path, msgspec.structs.replace(reel, name=str(number)))
        save_keeping(path, msgspec.structs.replace(reel, name=str(number)), datetime.now())


def saved_well(folder: Path, last: str) -> list[str]:
    path = folder / "k.reel"
    if not path.exists():
        return [] if last in ("", "1") else [f"no reel after save {last}"]
    reel = read_reel(path)
    kept = unsaved(path, reel)
    names = {reel.name, *([kept.name] if kept else [])}
    return [] if last in ("", *names) or str(int(last) - 1) in names else [f"save {last} is lost: {names}"]


def proving(folder: Path, told: Callable[[str], None]) -> None:
    path = folder.parent / "tidal-orrery.reel"
    reel = read_reel(path)
    shot = reel.shot(SHOT)
    root = folder / "proofs"
    root.mkdir(exist_ok=True)
    order = ProofOrder(shot, reel.recipe_of(shot), (1001, 1002, 1003, 1010), 2, 100.0)
    told("")
    while True:
        make_proof(reel, root, order)


def proved_well(folder: Path, last: str) -> list[str]:
    root = folder / "proofs"
    if not root.exists():
        return []
    with new_proof_folder(root, SHOT):
        pass  # clears what the killed one left, as the next proof does
    shot = read_reel(folder.parent / "tidal-orrery.reel").shot(SHOT)
    faults = list(EvidenceReader().read(root, shot).faults)
    without = [p.name for p in (root / SHOT).iterdir() if not p.name.startswith(".") and not (p / MANIFEST).exists()]
    parts = [p.name for p in root.rglob("*.part")]
    return faults + [f"{n} without a manifest" for n in without] + parts


def running(folder: Path, told: Callable[[str], None]) -> None:
    run = the_run(folder)
    told("")
    run.go(lambda event: None, CancelToken())
    time.sleep(60)


def the_run(folder: Path) -> Run:
    path = folder.parent / "tidal-orrery.reel"
    reel = read_reel(path)
    shot = reel.shot(SHOT)
    plan = plan_shot(reel, shot, ShotModel(EvidenceReader().read(path.parent / reel.proofs, shot), shot.frames))
    return Run(reel, plan, folder / "out", list(range(1001, 1041)))


def ran_well(folder: Path, last: str) -> list[str]:
    faults = whole(folder)
    if (folder / "out" / SHOT / f"{SHOT}.1040.exr").exists():
        shutil.rmtree(folder / "out")  # all frames are there: begin again
    return faults


def handing(folder: Path, told: Callable[[str], None]) -> None:
    source = read_pattern(str(folder.parent / "in" / "a.####.exr"))
    told("")
    while True:
        deliver(source, str(folder / "film.mp4"), Fraction(24), overwrite=True)
        deliver(source, str(folder / "p.####.png"), Fraction(24), overwrite=True)


def handed_well(folder: Path, last: str) -> list[str]:
    film = folder / "film.mp4"
    short = [f"the film has {frames_in(film)} of 8 frames"] if film.exists() and frames_in(film) != 8 else []
    return whole(folder) + short


def finishing(folder: Path, told: Callable[[str], None]) -> None:
    source, target = read_pattern(str(folder.parent / "in" / "a.####.exr")), read_pattern(str(folder / "f.####.exr"))
    told("")
    while True:
        finish_sequence(Chain(window=3, size=(64, 36)), source.frames(), source.path, target.path)


WORKS: dict[str, tuple[Callable, Callable[[Path, str], list[str]]]] = {
    "save": (saving, saved_well),
    "proof": (proving, proved_well),
    "run": (running, ran_well),
    "hand-over": (handing, handed_well),
    "finish": (finishing, lambda folder, last: whole(folder)),
}


def killed(name: str, folder: Path, rng: random.Random) -> str:
    """Start a work, kill it at a random moment, and return what it told last."""
    read, write = os.pipe()
    process = os.fork()
    if process == 0:
        os.close(read)
        with contextlib.suppress(BaseException):
            WORKS[name][0](folder, lambda words: os.write(write, f"{words}\n".encode()))
        os._exit(3)
    os.close(write)
    with os.fdopen(read, "rb", buffering=0) as pipe:
        first = pipe.readline()
        time.sleep(rng.uniform(0.0, LONGEST_WORK) * rng.random())
        os.kill(process, signal.SIGKILL)
        os.waitpid(process, 0)
        rest = pipe.read()
    lines = (first + rest).decode().split("\n")
    return lines[-2] if len(lines) > 1 else ""


def kills(count: int) -> list[Score]:
    """Kill each work many times and look at what is left."""
    scores = []
    for name, (_, check) in WORKS.items():
        score, rng = Score(f"kill -9 during {name}"), random.Random(name)
        with tempfile.TemporaryDirectory() as temporary:
            base = Path(temporary)
            small_reel(base)
            some_frames(base)
            folder = base / "work"
            folder.mkdir()
            for _ in range(count):
                last = killed(name, folder, rng)
                score.midway += any(folder.rglob("*.part"))
                try:
                    score.add(check(folder, last))
                except Exception as error:
                    score.add([f"{type(error).__name__} {error}"])
        score.tell()
        scores.append(score)
    return scores


# -- mutated files


def samples(folder: Path) -> dict[str, tuple[bytes, str, Callable[[Path], object]]]:
    """By reader: a good file, its name, and the reader."""
    path = small_reel(folder)
    reel = read_reel(path)
    proof = proof_folders(path.parent / reel.proofs, SHOT)[1]
    write_table(folder / "s.csv", reel)
    write_timeline(folder / "t.otio", reel)
    picture = Picture(np.random.default_rng(1).random((24, 32, 3), np.float32), {}, {"hr:recipe": "x", "hr:seconds": 1.5})
    write_picture(folder / "a.exr", picture)
    write_format(folder / "a.png", Picture(picture.rgb), FORMAT["png-16"])
    buffer = oiio.ImageBuf(oiio.ImageSpec(32, 24, 3, "uint8"))
    for ending in ("tif", "dpx", "jpg"):
        buffer.write(str(folder / f"a.{ending}"))

    def picture_reader(path: Path) -> None:
        read_header(path, whole=True)
        read_picture(path)

    def measured(path: Path) -> object:
        return ProofMeasures(path.parent).rows

    watchers = {"watchers": (Watcher(person="A", screen="B", limit=1.5),), "chosen": "A at B"}
    found: dict[str, tuple[bytes, str, Callable[[Path], object]]] = {
        "reel": (path.read_bytes(), "m.reel", read_reel),
        "shots CSV": ((folder / "s.csv").read_bytes(), "m.csv", lambda p: read_table(p, "s", "r")),
        "OpenTimelineIO": ((folder / "t.otio").read_bytes(), "m.otio", lambda p: read_timeline(p, Fraction(24), "s", "r")),
        "budget CSV": (b"frame,variance,seconds_per_sample,fixed_seconds\n1001,0.01,0.1,1\n", "b.csv",
                       lambda p: read_frames_table(p, ("frame", "variance"), ("weight",))),
        "times CSV": (b"frame,seconds,samples\n1001,1.5,8\n1002,2,8\n", "t.csv", read_times),
        "log": (b"frame 1001 12.5\nframe 1002 13\n", "r.log", lambda p: read_log(p, r"(?P<frame>\d+) (?P<seconds>[\d.]+)")),
        "renderer links": (msgspec.json.encode({"links": SHIPPED.items, "chosen": SHIPPED.chosen}), "renderers.json", LINKS.read),
        "draft cuts": (msgspec.json.encode({"cuts": CUTS.items, "chosen": CUTS.chosen}), "cuts.json", DRAFT_CUTS.read),
        "watchers": (msgspec.json.encode(watchers), "watchers.json", WATCHERS.read),
        "recent reels": (json.dumps([str(path)]).encode(), "recent.json", recent_reels),
        "proof manifest": ((proof / MANIFEST).read_bytes(), MANIFEST, lambda p: read_proof(p.parent)),
        "proof effects": ((proof / DENOISE).read_bytes(), DENOISE, lambda p: read_effects(p.parent)),
        "proof measures": ((proof / MEASURED).read_bytes(), MEASURED, measured),
    }  # fmt: skip
    for ending in ("exr", "png", "tif", "dpx", "jpg"):
        found[ending.upper()] = ((folder / f"a.{ending}").read_bytes(), f"m.{ending}", picture_reader)
    return found


def mutated(raw: bytes, rng: random.Random) -> bytes:
    """A file changed in a few places, cut short, or with a piece of it twice."""
    out = bytearray(raw)
    for _ in range(rng.randrange(1, 5)):
        at = rng.randrange(len(out) + 1)
        kind = rng.randrange(6)
        if kind == 0 and out:
            out[at % len(out)] ^= 1 << rng.randrange(8)
        elif kind == 1:
            out[at : at + rng.randrange(9)] = bytes(rng.randrange(256) for _ in range(rng.randrange(9)))
        elif kind == 2:
            del out[at:]
        elif kind == 3:
            length = rng.randrange(1, 200)
            out[at:at] = out[at : at + length]
        elif kind == 4:
            out[at : at + 1] = rng.choice([b"\xff\xfe", b"\0", b"99999999999999999999", b"-1", b"1e999", b"NaN", b'"', b"{", b"[" * 300])
        else:
            out[at : at + 4] = (rng.randrange(1 << 32)).to_bytes(4, "little")
    return bytes(out)


def mutations(count: int) -> list[Score]:
    """Give each reader changed files; it must read them or say one sentence."""
    scores = []
    with tempfile.TemporaryDirectory() as temporary:
        base = Path(temporary)
        for name, (raw, file_name, read) in samples(base / "good").items():
            score, rng = Score(f"mutated {name}"), random.Random(name)
            folder = base / name.replace(" ", "-")
            folder.mkdir()
            for _ in range(count):
                score.add(_in_own_process(folder / file_name, mutated(raw, rng), read))
            score.tell()
            scores.append(score)
    return scores


def _in_own_process(path: Path, raw: bytes, read: Callable[[Path], object]) -> list[str]:
    """Read a file in a fork of this process, which a fault of a library may end."""
    path.write_bytes(raw)
    to_read, to_write = os.pipe()
    process = os.fork()
    if process == 0:
        os.dup2(os.open(os.devnull, os.O_WRONLY), 2)
        words = ""
        try:
            read(path)
        except HastyReelError as error:
            words = "" if str(error).strip() else "an empty message"
        except BaseException as error:
            words = f"{type(error).__name__} {error}"
        os.write(to_write, words.encode("utf-8", "replace")[:2000])
        os._exit(0)
    os.close(to_write)
    with os.fdopen(to_read, "rb") as pipe:
        words = pipe.read().decode()
    _, status = os.waitpid(process, 0)
    if status:
        return [f"ended by signal {os.WTERMSIG(status)}"]
    return [words] if words else []


# -- disks that are too small


@contextlib.contextmanager
def disk(kib: int) -> Iterator[tuple[Path, bool]]:
    """A disk of some size; whether it is a real one."""
    with tempfile.TemporaryDirectory() as temporary:
        place = Path(temporary) / "disk"
        place.mkdir()
        mount = shutil.which("mount")
        real = bool(mount) and os.geteuid() == 0
        if real:
            told = ["mount", "-t", "tmpfs", "-o", f"size={max(4, kib)}k", "tmpfs", str(place)]
            real = subprocess.run(told, capture_output=True, check=False).returncode == 0
        if real and kib == 0:  # there is no disk of nothing: it is filled up first
            with contextlib.suppress(OSError):
                (place / ".filled").write_bytes(b"x" * (1 << 20))
        try:
            yield place, real
        finally:
            if real:
                subprocess.run(["umount", str(place)], check=False)


def film(source: FramePattern, place: Path) -> list[str]:
    deliver(source, str(place / "f.mp4"), Fraction(24))
    return [] if frames_in(place / "f.mp4") == len(source.frames()) else ["a film with holes"]


def disks(count: int) -> list[Score]:
    """Do each work on disks of every size; it succeeds whole or says so, and leaves nothing broken."""
    scores = []
    with tempfile.TemporaryDirectory() as temporary:
        base = Path(temporary)
        path = small_reel(base)
        source = some_frames(base)
        reel = read_reel(path)
        shot = reel.shot(SHOT)
        order = ProofOrder(shot, reel.recipe_of(shot), (1001, 1002), 2, 100.0)
        png = read_pattern("p.####.png")
        works: dict[str, Callable[[Path], object]] = {
            "save": lambda place: save_keeping(place / "a.reel", reel, datetime.now()),
            "pictures": lambda place: [write_picture(place / f"a.{k}.exr", read_picture(source.path(1001 + k))) for k in range(8)],
            "hand-over to PNG": lambda place: deliver(source, str(place / str(png)), Fraction(24)),
            "hand-over to a film": lambda place: film(source, place),
            "finish": lambda place: finish_sequence(
                Chain(window=3), source.frames(), source.path, read_pattern(str(place / "f.####.exr")).path
            ),
            "proof": lambda place: make_proof(reel, place, order),
        }
        sizes = DISK_SIZES if count >= 100 else DISK_SIZES[::4]
        for name, work in works.items():
            score = Score(f"disks of 0 to {sizes[-1]} KiB, {name}")
            for kib in sizes:
                with disk(kib) as (place, real):
                    score.add(_on_disk(place, None if real else kib * 1024, work))
            score.tell()
            scores.append(score)
    return scores


def _on_disk(place: Path, bound: int | None, work: Callable[[Path], object]) -> list[str]:
    soft, hard = resource.getrlimit(resource.RLIMIT_FSIZE)
    faults: list[str] = []
    try:
        if bound is not None:
            signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
            resource.setrlimit(resource.RLIMIT_FSIZE, (bound, hard))
        found = work(place)
        faults += found if isinstance(found, list) and found and isinstance(found[0], str) else []
    except HastyReelError as error:
        faults += [] if str(error).strip() else ["an empty message"]
    except Exception as error:
        faults.append(f"{type(error).__name__} {error}")
    finally:
        resource.setrlimit(resource.RLIMIT_FSIZE, (soft, hard))
    return faults + whole(place)


def main() -> None:
    """Do all of it and say how it went."""
    given = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    given.add_argument("--count", type=int, default=0, help="kills of each work and mutations for each reader; default 100 and 300")
    given.add_argument("--only", choices=("kills", "mutations", "disks"), default=None)
    asked = given.parse_args()
    scores: list[Score] = []
    # mutations first: they are read in forks, which is safe only before kernels run on threads
    if asked.only in (None, "mutations"):
        scores += mutations(asked.count or 300)
    if asked.only in (None, "kills"):
        scores += kills(asked.count or 100)
    if asked.only in (None, "disks"):
        scores += disks(asked.count or 100)
    failures = sum(s.failures for s in scores)
    print(f"{sum(s.attempts for s in scores)} attempts, {failures} failures")
    sys.exit(1 if failures else 0)


if __name__ == "__main__":
    main()
