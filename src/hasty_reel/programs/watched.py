"""A process that is watched until it ends: time-out, cancel, progress, memory."""

from __future__ import annotations

import math
import os
import tempfile
import time
from dataclasses import dataclass

from hasty_reel.errors import RendererFault
from hasty_reel.programs.expressions import compiled, last_group
from hasty_reel.programs.processgroup import end_group, start_group
from hasty_reel.work import CancelToken, Progress

LOOKS_PER_SECOND = 50
KEPT_CHARACTERS = 20_000
TOLD = 160


@dataclass(frozen=True)
class Watch:
    """How a process is watched.

    kind : of program, as 'renderer', in messages; whose : of whom the patterns are, in messages
    timeout : seconds after which it is ended
    progress : pattern whose first group is the percentage done; '' for none
    """

    kind: str
    whose: str
    timeout: float
    progress: str = ""


@dataclass(frozen=True)
class Ended:
    """A process that ended: its status, what it printed, seconds of the clock, largest memory in bytes, seconds of processors."""

    status: int
    messages: str
    seconds: float
    memory_bytes: int
    cpu_seconds: float = 0.0

    def fault(self, what: str, kind: str, missing: bool) -> str:
        """Return what is wrong with how it ended, in a sentence; '' where nothing is.

        Parameters
        ----------
        what : it worked on, as 'Frame 12'
        kind : of program
        missing : whether what it was to write is not there
        """
        how = f"by signal {-self.status}" if self.status < 0 else f"with status {self.status}"
        if self.status != 0:
            return f"{what}: the {kind} ended {how}.{last_line(self.messages)}"
        return f"{what}: the {kind} ended well but wrote no picture.{last_line(self.messages)}" if missing else ""


def run_watched(arguments: list[str], watch: Watch, what: str, progress: Progress, cancel: CancelToken | None) -> Ended:
    """Start a process and watch it until it ends.

    Parameters
    ----------
    arguments : of the command, the program first
    watch : how it is watched
    what : is worked on, in words for messages
    progress : called with the share that is done, 0 to 1, and words
    cancel : looked at meanwhile; None: it cannot be stopped

    Raises
    ------
    RendererFault
        When it cannot be started, or takes longer than the time-out.
    Stopped
        When `cancel` asked for it.
    """
    began = time.perf_counter()
    with tempfile.TemporaryFile() as told:
        try:
            process, mark = start_group(arguments, told)
        except (OSError, ValueError) as error:
            raise RendererFault(f"{what}: the {watch.kind} cannot be started ({getattr(error, 'strerror', None) or error}).") from error
        looks, well = 0, False
        try:
            while os.waitid(os.P_PID, process.pid, os.WEXITED | os.WNOHANG | os.WNOWAIT) is None:
                if cancel is not None:
                    cancel.check()
                seconds = time.perf_counter() - began
                if seconds > watch.timeout:
                    raise RendererFault(
                        f"{what}: the {watch.kind} was ended after {watch.timeout:g} s, its time-out.{last_line(_printed(told))}"
                    )
                looks += 1
                if watch.progress and looks % 10 == 0:
                    share = _share(watch, _printed(told)[-2000:])
                    if share is not None:
                        progress(share, f"{100 * share:.0f} %")
                time.sleep(1.0 / LOOKS_PER_SECOND)
            well = True
        finally:  # before it is waited for: until then its number belongs to nobody else
            end_group(process.pid, mark, well)
            _, status, usage = os.wait4(process.pid, 0)
            process.returncode = os.waitstatus_to_exitcode(status)
        seconds, cpu = time.perf_counter() - began, usage.ru_utime + usage.ru_stime
        return Ended(process.returncode, _printed(told), seconds, usage.ru_maxrss * 1024, cpu)


def _share(watch: Watch, printed: str) -> float | None:
    """The share done that a program printed last, 0 to 1; None where it tells none."""
    told = last_group(compiled(watch.progress, f"{watch.whose}, progress"), printed)
    try:
        percent = float(told) if told is not None else math.nan
    except ValueError:
        return None
    return min(1.0, max(0.0, percent / 100.0)) if math.isfinite(percent) else None


def _printed(told) -> str:
    size = os.fstat(told.fileno()).st_size
    raw = os.pread(told.fileno(), KEPT_CHARACTERS, max(0, size - KEPT_CHARACTERS))
    return raw.decode("utf-8", "replace")


def last_line(messages: str) -> str:
    """Return the last line that a program printed, as a sentence; '' where it printed none.

    Parameters
    ----------
    messages : what it printed
    """
    lines = [" ".join(x.split()) for x in messages.splitlines() if x.strip()]
    return f" It said: {lines[-1][:TOLD]}" if lines else ""
