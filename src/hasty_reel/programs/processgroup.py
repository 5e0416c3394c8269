"""Processes that are started with all that they start themselves, and ended with it, also when this program is killed.

Each gets a session and a process group of its own, and a mark in its environment that whatever it starts inherits. A small
process, the warden, holds the list of those under way and the other end of a pipe: when that closes, however this program
ended, it ends what is still on the list (`kill -9` leaves a program no time to do it itself).
"""

from __future__ import annotations

import contextlib
import os
import signal
import subprocess
import sys
import threading
import uuid
from collections.abc import Sequence
from typing import IO, Any

import psutil

from hasty_reel.ownprocess import own_module

MARK = "HASTY_REEL_WORK"
"""Environment variable by which what a process started is told, also where it left the group."""


def start_group(arguments: Sequence[str], output: IO[Any], talk: bool = False) -> tuple[subprocess.Popen[bytes], str]:
    """Start a process in a group of its own, which the warden ends should this program die.

    Parameters
    ----------
    arguments : of the command, the program first
    output : what it prints goes there
    talk : its standard input and output are pipes to talk through, and what it prints beside them alone goes to `output`

    Returns
    -------
    process : subprocess.Popen
        As it was started.
    mark : str
        Of what it starts.

    Raises
    ------
    OSError
        When it cannot be started.
    """
    mark = uuid.uuid4().hex
    WARDEN.wake()
    process = subprocess.Popen(
        arguments,
        stdin=subprocess.PIPE if talk else subprocess.DEVNULL,
        stdout=subprocess.PIPE if talk else output,
        stderr=output if talk else subprocess.STDOUT,
        start_new_session=True,
        close_fds=True,
        env={**os.environ, MARK: mark},
    )
    WARDEN.watch(process.pid, mark)
    return process, mark


def end_group(leader: int, mark: str, well: bool = False) -> None:
    """End what is left of a process that was started by `start_group`; called before its leader is waited for.

    Parameters
    ----------
    leader : its process number, which is that of its group
    mark : of what it started
    well : it ended by itself and well: what left its group on purpose may go on
    """
    with contextlib.suppress(ProcessLookupError, PermissionError):
        os.killpg(leader, signal.SIGKILL)
    if not well:
        _end_marked(mark)
    WARDEN.forget(leader)


def _end_marked(mark: str) -> None:
    """End every process that carries the mark."""
    own = os.getuid()
    for process in psutil.process_iter():
        with contextlib.suppress(psutil.Error, OSError):
            if process.uids().real == own and process.environ().get(MARK) == mark:
                process.kill()


class _Warden:
    """The process that ends what is under way when this one dies."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._process: subprocess.Popen[bytes] | None = None
        self._watched: dict[int, str] = {}

    def wake(self) -> None:
        """Start it, where it is not there; without one what is under way is still ended by this program itself."""
        with self._lock:
            if self._process is None or self._process.poll() is not None:
                quiet = subprocess.DEVNULL
                with contextlib.suppress(OSError):
                    self._process = subprocess.Popen(
                        own_module("hasty_reel.programs.processgroup"), stdin=subprocess.PIPE, stdout=quiet, stderr=quiet,
                        start_new_session=True, cwd="/",
                    )  # fmt: skip
                for leader, mark in self._watched.items():
                    self._tell(f"+ {leader} {mark}\n")

    def watch(self, leader: int, mark: str) -> None:
        """Put a process on the list.

        Parameters
        ----------
        leader : its process number
        mark : of what it starts
        """
        with self._lock:
            self._watched[leader] = mark
            self._tell(f"+ {leader} {mark}\n")

    def forget(self, leader: int) -> None:
        """Take a process off the list.

        Parameters
        ----------
        leader : its process number
        """
        with self._lock:
            if self._watched.pop(leader, None) is not None:
                self._tell(f"- {leader}\n")

    def _tell(self, line: str) -> None:
        if self._process is not None and self._process.stdin is not None:
            with contextlib.suppress(OSError, ValueError):
                self._process.stdin.write(line.encode())
                self._process.stdin.flush()


WARDEN = _Warden()


def main() -> None:
    """Be the warden: keep the list until the pipe closes, then end what is on it."""
    watched: dict[int, str] = {}
    for line in sys.stdin:
        what, leader, *mark = line.split()
        if what == "+":
            watched[int(leader)] = mark[0]
        else:
            watched.pop(int(leader), None)
    for leader, told in watched.items():
        with contextlib.suppress(ProcessLookupError, PermissionError):
            os.killpg(leader, signal.SIGKILL)
        _end_marked(told)


if __name__ == "__main__":
    main()
