"""What happened lately, kept for the person: a log that is turned over, windows that ended badly, details for a report.

The log lies in the person's state folder (XDG Base Directory Specification, $XDG_STATE_HOME/hasty-reel).
"""

from __future__ import annotations

import contextlib
import faulthandler
import json
import logging
import os
import platform
import re
import sys
import threading
import traceback
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import datetime
from importlib.metadata import PackageNotFoundError, version
from logging.handlers import RotatingFileHandler
from pathlib import Path
from types import TracebackType

import platformdirs
import psutil

from hasty_reel import __version__

LOG_BYTES, LOGS = 1 << 20, 3
"""Size at which the log is turned over, and how many are kept."""
TOLD_LINES = 80
"""Lines of the log in the details for a report."""
PACKAGES = ("PySide6_Essentials", "numpy", "scipy", "numba", "OpenImageIO", "av")
LOG = logging.getLogger("hasty_reel")
_NAMES = re.compile(r"(?:~|\.{0,2})?/[^\s'\":,;]+|'[^'\n]*'")
"""Names of files and of a person's own things: paths, and what stands in quotation marks."""


@dataclass(frozen=True)
class EndedBadly:
    """A window that was not closed: the reel that was open, '' for none, and since when.

    reel : path of it; since : as ISO 8601
    """

    reel: str
    since: str


def state_folder() -> Path:
    """Return where what the program notes for itself is kept."""
    return Path(platformdirs.user_state_dir("hasty-reel"))


def log_path() -> Path:
    """Return the log that is being written."""
    return state_folder() / "hasty-reel.log"


def begin_log() -> None:
    """Write what happens into the log from now on, faults that nobody takes among them; without a folder for it there is none."""
    if any(isinstance(handler, RotatingFileHandler) for handler in LOG.handlers):
        return
    with contextlib.suppress(OSError):
        log_path().parent.mkdir(parents=True, exist_ok=True)
        handler = RotatingFileHandler(log_path(), maxBytes=LOG_BYTES, backupCount=LOGS - 1, encoding="utf-8", delay=True)
        handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(message)s"))
        LOG.addHandler(handler)
        LOG.setLevel(logging.INFO)
        LOG.propagate = False
        LOG.info("Hasty Reel %s, Python %s, process %d", __version__, platform.python_version(), os.getpid())


def end_log() -> None:
    """Write nothing more into the log."""
    for handler in list(LOG.handlers):
        LOG.removeHandler(handler)
        handler.close()


def keep_faults(told: Callable[[str], object]) -> None:
    """Keep faults of the program in the log, with where they happened; the program goes on.

    Parameters
    ----------
    told : called with one sentence
    """

    def _keep(kind: type[BaseException], fault: BaseException, where: TracebackType | None) -> None:
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, fault, where)
            return
        LOG.error("%s", "".join(traceback.format_exception(kind, fault, where)).strip())
        told(f"Something went wrong in the program itself ({kind.__name__}: {str(fault)[:120]}). The reel is as it was.")

    sys.excepthook = _keep
    threading.excepthook = lambda made: _keep(made.exc_type, made.exc_value or made.exc_type(), made.exc_traceback)


class OpenMark:
    """A note that a window is open, gone when it is closed: what is left of others tells which ended badly.

    Parameters
    ----------
    reel : path of what is open, '' for nothing
    """

    def __init__(self, reel: str) -> None:
        self._path = state_folder() / f"open-{os.getpid()}.json"
        self._crash = None
        with contextlib.suppress(OSError):
            self._path.parent.mkdir(parents=True, exist_ok=True)
            self._path.write_text(json.dumps({"reel": reel, "since": datetime.now().astimezone().isoformat(timespec="seconds")}))
            self._crash = open(state_folder() / "crash.txt", "a", encoding="utf-8")  # noqa: SIM115  it is written to when the process dies
            faulthandler.enable(self._crash)

    def close(self) -> None:
        """Say that the window was closed."""
        if self._crash is not None:
            faulthandler.disable()
            self._crash.close()
            self._crash = None
        with contextlib.suppress(OSError):
            self._path.unlink(missing_ok=True)


def ended_badly() -> list[EndedBadly]:
    """Return the windows that ended without being closed, each told once."""
    out = []
    for path in sorted(state_folder().glob("open-*.json")):
        number = path.stem.partition("-")[2]
        if number.isdecimal() and int(number) != os.getpid() and not _alive(int(number), path):
            with contextlib.suppress(OSError, ValueError, TypeError):
                held = json.loads(path.read_text())
                out.append(EndedBadly(str(held["reel"]), str(held["since"])))
            with contextlib.suppress(OSError):
                path.unlink(missing_ok=True)
    return out


def _alive(number: int, mark: Path) -> bool:
    """Whether the process that wrote a mark is still there: one that began later has its number by chance."""
    try:
        return psutil.Process(number).create_time() <= mark.stat().st_mtime + 1.0
    except (psutil.Error, OSError):
        return False


def without_names(line: str) -> str:
    """Return a line without names of files and what else stands in quotation marks.

    Parameters
    ----------
    line : of the log
    """
    return _NAMES.sub("[name]", line)


def report_details(more: Iterable[str] = (), names: bool = False) -> str:
    """Return what whoever mends the program needs to know: versions, machine, the last lines of the log.

    Parameters
    ----------
    more : lines of whoever asks, such as of the graphics
    names : names of files stay in them
    """
    found = []
    for name in PACKAGES:
        with contextlib.suppress(PackageNotFoundError):
            found.append(f"{name} {version(name)}")
    memory = psutil.virtual_memory().total / 1e9
    lines = [
        f"Hasty Reel {__version__}, Python {platform.python_version()}, {platform.platform()}",
        ", ".join(found),
        f"{os.cpu_count()} processors, {memory:.0f} GB memory",
        *more,
        "",
        f"Last lines of the log{'' if names else ', without names of files'}:",
    ]
    try:
        log = log_path().read_text(encoding="utf-8", errors="replace").splitlines()[-TOLD_LINES:]
    except OSError:
        log = ["(there is no log)"]
    return "\n".join([*lines, *(line if names else without_names(line) for line in log)]) + "\n"
