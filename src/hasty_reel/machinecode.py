"""The machine code of the kernels: where it is kept, whether it is there, and preparing it in a process of its own.

Compiling takes a minute or more, once for each account and each state of the sources. It is
begun when a window opens rather than when the first frame is waited for, and beside it, since
the compiler holds the interpreter's lock.
"""

from __future__ import annotations

import contextlib
import hashlib
import os
import re
import subprocess
import time
from collections.abc import Callable
from importlib.metadata import version
from pathlib import Path

import platformdirs

from hasty_reel.ownprocess import own_module
from hasty_reel.wholefile import write_whole
from hasty_reel.work import CancelToken, Progress, silent

WORDS = "Preparing the renderer, about a minute, once"
READY = "ready"
DIAL = "dial"
"""Part of the machine code that is made first: frames at other samples, which one looks at before anything is rendered."""
LOOKS_PER_SECOND = 5
KERNEL_ROOMS = ("bench", "budget", "finish", "image", "measure")


def fingerprint(root: Path = Path(__file__).parent) -> str:
    """Return twelve hex digits that change whenever a kernel source changes.

    Parameters
    ----------
    root : folder of the rooms
    """
    digest = hashlib.sha256()
    for room in KERNEL_ROOMS:
        for path in sorted((root / room).rglob("*.py")):
            source = path.read_bytes()
            if b"njit" in source:
                digest.update(source)
    return digest.hexdigest()[:12]


def cache_folder() -> Path:
    """Return where the machine code of this state of the sources is kept."""
    return Path(platformdirs.user_cache_dir("hasty-reel")) / f"kernels-{fingerprint()}"


def place() -> Path:
    """Return the folder that the compiler uses in this process and those it starts."""
    told = os.environ.get("NUMBA_CACHE_DIR")
    return Path(told) if told else cache_folder()


def is_prepared(part: str = READY) -> bool:
    """Whether the machine code of this state of the sources is there, for this processor and compiler.

    Parameters
    ----------
    part : all of it, or `DIAL`
    """
    try:
        return (place() / part).read_text(encoding="utf-8") == _made_for()
    except (OSError, UnicodeDecodeError):
        return False


def mark_prepared(part: str = READY) -> None:
    """Note that kernels were compiled.

    Parameters
    ----------
    part : all of them, or `DIAL`
    """
    with contextlib.suppress(OSError):
        write_whole(place() / part, _made_for().encode(), make=True)


def share_prepared() -> float:
    """Return the share of the kernels whose machine code is there, 0 to 1."""
    try:
        done = sum(1 for _ in place().rglob("*.nbi"))
    except OSError:
        return 0.0
    return min(0.99, done / max(1, _kernels()))


def prepare(progress: Progress = silent, cancel: CancelToken | None = None) -> bool:
    """Compile all kernels in a process of its own, unless that was done.

    Parameters
    ----------
    progress : told the share of the kernels that are compiled
    cancel : ends the process

    Returns
    -------
    bool
        Whether the machine code is there now; where it is not, the first frame compiles it, which takes as long.

    Raises
    ------
    Stopped
        When `cancel` asked for it.
    """
    if is_prepared():
        return True
    quiet = subprocess.DEVNULL
    with subprocess.Popen([*own_module("hasty_reel.warm"), "--beside"], stdin=quiet, stdout=quiet, stderr=quiet) as process:
        try:
            while process.poll() is None:
                if cancel is not None:
                    cancel.check()
                progress(share_prepared(), WORDS)
                time.sleep(1.0 / LOOKS_PER_SECOND)
        finally:
            if process.poll() is None:
                process.kill()
    return is_prepared()


def prepare_saying(say: Callable[[str], None]) -> None:
    """Have all kernels compiled before they are waited for, and say so in lines, which a log keeps; at once where they are there.

    Parameters
    ----------
    say : called with each line
    """
    if is_prepared():
        return
    say(f"{WORDS}.")
    told = [0]

    def _progress(share: float, words: str) -> None:
        if int(10 * share) > told[0]:
            told[0] = int(10 * share)
            say(f"{WORDS}: {10 * told[0]} %")

    prepare(_progress)


def _kernels() -> int:
    """How many kernels the sources have."""
    root = Path(__file__).parent
    files = (path for room in KERNEL_ROOMS for path in (root / room).rglob("*.py"))
    return sum(len(re.findall(r"^@njit", path.read_text(encoding="utf-8"), re.MULTILINE)) for path in files)


def _made_for() -> str:
    """What machine code depends on beside the sources: the compiler and the processor."""
    processor = ""
    with contextlib.suppress(OSError):
        told = Path("/proc/cpuinfo").read_text(encoding="utf-8", errors="replace")
        match = re.search(r"^model name\s*:\s*(.+)$", told, re.MULTILINE)
        processor = match[1] if match else ""
    return f"{fingerprint()} numba {version('numba')} {processor}"
