"""A renderer process that stays open: messages to it and from it, a line each, and what it says beside them."""

from __future__ import annotations

import contextlib
import os
import queue
import select
import tempfile
import threading
import time
from collections import deque

import psutil

from hasty_reel.errors import RendererFault
from hasty_reel.farm.renderers.messages import LONGEST_LINE, Answer, Asked, Preview, Told, as_line, read_answer
from hasty_reel.programs.processgroup import end_group, start_group
from hasty_reel.programs.watched import KEPT_CHARACTERS, last_line

MOST_ANSWERS = 1000
"""Answers that lie unread at most: who sends more floods its output."""
MOST_STRAY = 200
"""Lines of the standard output that are no messages and are kept."""
READ_SECONDS = 10.0
"""Seconds that a process has for reading what it is told."""
QUIT_SECONDS = 2.0
"""Seconds that a process has for ending by itself."""


class OpenProcess:
    """A renderer process that is there from frame to frame.

    share : of the frame under way that it said is done; grown : a preview was written that was not looked at

    Parameters
    ----------
    arguments : of its command, the program first
    what : is worked on, in words for messages
    whose : renderer it is, in words for messages

    Raises
    ------
    RendererFault
        When it cannot be started.
    """

    def __init__(self, arguments: list[str], what: str, whose: str) -> None:
        self._whose = whose
        self._beside = tempfile.TemporaryFile()  # noqa: SIM115  closed with the process
        try:
            self._process, self._mark = start_group(arguments, self._beside, talk=True)
        except (OSError, ValueError) as error:
            self._beside.close()
            raise RendererFault(f"{what}: {whose} cannot be started ({getattr(error, 'strerror', None) or error}).") from error
        assert self._process.stdin is not None
        os.set_blocking(self._process.stdin.fileno(), False)
        self._answers: queue.Queue[Answer] = queue.Queue(MOST_ANSWERS)
        self._stray: deque[str] = deque(maxlen=MOST_STRAY)
        self._flood = ""
        self._from = 0
        self._closed = threading.Event()
        self._ended = False
        self.share: tuple[int, float] | None = None
        self.grown: int | None = None
        self._reader = threading.Thread(target=self._read, name="renderer answers", daemon=True)
        self._reader.start()

    # -- from it

    def _read(self) -> None:
        """Read lines until the output closes; what is only news replaces the news before it."""
        assert self._process.stdout is not None
        number, kept = self._process.stdout.fileno(), b""
        with contextlib.suppress(OSError, ValueError):
            while block := os.read(number, 1 << 16):
                *lines, kept = (kept + block).split(b"\n")
                for line in lines:
                    if line.strip():
                        self._take(line)
                if len(kept) > LONGEST_LINE:
                    self._flood = f"a line of more than {LONGEST_LINE >> 20} MB"
                if self._flood:
                    break
        self._closed.set()

    def _take(self, line: bytes) -> None:
        try:
            answer = read_answer(line)
        except ValueError:
            # renderers print what they like: it is kept as words, and is nothing that could be acted on
            self._stray.append(line[:1000].decode("utf-8", "replace"))
            return
        if isinstance(answer, Told):
            self.share = answer.id, answer.share
        elif isinstance(answer, Preview):
            self.grown = answer.id
        else:
            try:
                self._answers.put_nowait(answer)
            except queue.Full:
                self._flood = f"more than {MOST_ANSWERS} answers that nobody asked for"

    def answer(self, seconds: float) -> Answer | None:
        """Return the next answer, waiting for it so long; None where none came.

        Parameters
        ----------
        seconds : of the clock
        """
        until = time.monotonic() + seconds
        while True:
            with contextlib.suppress(queue.Empty):
                return self._answers.get(timeout=max(0.0, min(0.02, until - time.monotonic())))
            if time.monotonic() >= until or self._closed.is_set():
                with contextlib.suppress(queue.Empty):
                    return self._answers.get_nowait()
                return None

    @property
    def there(self) -> bool:
        """Whether it is running and may still answer."""
        return not (self._ended or self._closed.is_set() or self._flood)

    def why(self, what: str) -> str:
        """Return what became of a process that is not there any more, in a sentence.

        Parameters
        ----------
        what : it worked on
        """
        if self._flood:
            return f"{what}: {self._whose} wrote {self._flood} and was ended."
        ended = self._waited(QUIT_SECONDS)
        how = "closed its output"
        if ended is not None:
            how = f"ended {'with status' if ended.si_code == os.CLD_EXITED else 'by signal'} {ended.si_status}"
        return f"{what}: {self._whose} {how}.{last_line(self.messages())}"

    def _waited(self, seconds: float) -> os.waitid_result | None:
        """How it ended, waiting for that so long and without letting go of its number; None while it runs."""
        until = time.monotonic() + seconds
        while (ended := os.waitid(os.P_PID, self._process.pid, os.WEXITED | os.WNOHANG | os.WNOWAIT)) is None:
            if time.monotonic() >= until:
                return None
            time.sleep(0.02)
        return ended

    def messages(self) -> str:
        """Return what it said beside its messages since this was asked last."""
        with contextlib.suppress(OSError, ValueError):
            size = os.fstat(self._beside.fileno()).st_size
            begin = max(self._from, size - KEPT_CHARACTERS)
            raw, self._from = os.pread(self._beside.fileno(), KEPT_CHARACTERS, begin), size
            stray = [self._stray.popleft() for _ in range(len(self._stray))]
            return "\n".join([*stray, raw.decode("utf-8", "replace")])[-KEPT_CHARACTERS:]
        return ""

    # -- to it

    def say(self, message: Asked, what: str) -> None:
        """Send a message.

        Parameters
        ----------
        message : to the renderer
        what : is worked on, in words for messages

        Raises
        ------
        RendererFault
            When it is not there any more.
        """
        assert self._process.stdin is not None
        try:
            number, left = self._process.stdin.fileno(), memoryview(as_line(message))
            while left:
                # a process that reads nothing would hold the thread for ever
                if not select.select([], [number], [], READ_SECONDS)[1]:
                    raise RendererFault(f"{what}: {self._whose} reads no messages.{last_line(self.messages())}")
                left = left[os.write(number, left) :]
        except (OSError, ValueError) as error:
            self._closed.wait(QUIT_SECONDS)
            raise RendererFault(self.why(what)) from error

    # -- what it takes

    def peak_bytes(self) -> int:
        """Return the most memory that it took so far; 0 where that is not known."""
        with contextlib.suppress(OSError, ValueError, IndexError):
            with open(f"/proc/{self._process.pid}/status", encoding="ascii") as file:
                found = next((line for line in file if line.startswith("VmHWM:")), "")
            return int(found.split()[1]) * 1024
        return 0

    def cpu_seconds(self) -> float:
        """Return the seconds of processors that it took so far; 0 where that is not known."""
        with contextlib.suppress(psutil.Error, OSError):
            times = psutil.Process(self._process.pid).cpu_times()
            return float(times.user + times.system + times.children_user + times.children_system)
        return 0.0

    # -- its end

    def end(self, well: bool = False) -> None:
        """End it, and all that it started.

        Parameters
        ----------
        well : its input is closed first, and it has some time for ending by itself
        """
        if self._ended:
            return
        self._ended = True
        if well:
            with contextlib.suppress(OSError, ValueError):
                assert self._process.stdin is not None
                self._process.stdin.close()
            self._waited(QUIT_SECONDS)
        # before it is waited for: until then its number belongs to nobody else
        end_group(self._process.pid, self._mark, well)
        self._process.wait()
        self._reader.join(QUIT_SECONDS)
        for stream in (self._process.stdin, self._process.stdout, self._beside):
            with contextlib.suppress(OSError, ValueError):
                if stream is not None:
                    stream.close()
