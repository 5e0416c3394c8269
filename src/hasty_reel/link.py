"""An adapter for a renderer that stays open, in a few lines of your own. It needs Python 3.8 and nothing else.

Use it as `from hasty_reel import link`, or copy this one file beside your adapter, where the Python of your renderer is
another one, and use it as `import link`:

    import link

    @link.scene
    def load(name):
        ...                     # read the scene, also where it is read already

    @link.frame
    def render(job):
        ...                     # render job.frame into job.output, an OpenEXR file
        return {"seconds": {"sample": 3.2}, "samples": job.samples}

    link.serve(name="My renderer", can=["keep", "crop"])

`docs/renderers.md` has the messages behind it.
"""

from __future__ import annotations

import json
import os
import queue
import subprocess
import sys
import threading
import time
import traceback
from collections.abc import Callable, Sequence
from typing import Any

PROTOCOL = 1
FIELDS = ("scene", "frame", "width", "height", "crop", "samples", "floor", "seed", "shutter", "settings", "stop_noise", "cap", "guides",
          "history", "fresh", "caches", "output", "preview")  # fmt: skip


class Cancelled(Exception):
    """The job is not wanted any more: let it pass through your function."""


class Job:
    """What is wanted: a frame, or a light cache. Its fields are those of the message, see FIELDS and `docs/renderers.md`.

    Parameters
    ----------
    message : as it came
    send : writes a message
    """

    def __init__(self, message: dict[str, Any], send: Callable[..., None]) -> None:
        self.id: int = message["id"]
        for name in FIELDS:
            setattr(self, name, message.get(name))
        self._send = send
        self._cancelled = threading.Event()

    def __getattr__(self, name: str) -> Any:
        raise AttributeError(f"a job has no '{name}'; expected one of {', '.join(FIELDS)}")

    @property
    def cancelled(self) -> bool:
        """Whether it is not wanted any more."""
        return self._cancelled.is_set()

    def cancel(self) -> None:
        """Let the next look at it leave the work."""
        self._cancelled.set()

    def progress(self, share: float) -> None:
        """Tell how much is done.

        Parameters
        ----------
        share : 0 to 1

        Raises
        ------
        Cancelled
            When it is not wanted any more.
        """
        if self.cancelled:
            raise Cancelled
        self._send(say="progress", id=self.id, share=float(share))

    def previewed(self) -> None:
        """Tell that the picture as it is so far was written to the path `preview`."""
        self._send(say="preview", id=self.id)

    def start(self, arguments: Sequence[str], look: float = 0.05) -> str:
        """Start a program, wait for its end, and return what it printed; it is ended where the job is not wanted any more.

        Parameters
        ----------
        arguments : the program first
        look : seconds between two looks

        Raises
        ------
        Cancelled
            When it is not wanted any more.
        RuntimeError
            When it ended badly; with its last line.
        """
        printed: list[str] = []
        process = subprocess.Popen(
            list(arguments), stdin=subprocess.DEVNULL, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, universal_newlines=True
        )  # fmt: skip
        assert process.stdout is not None
        reader = threading.Thread(target=lambda: printed.extend(process.stdout or ()), daemon=True)
        reader.start()
        while process.poll() is None:
            if self.cancelled:
                process.kill()
                process.wait()
                raise Cancelled
            time.sleep(look)
        reader.join()
        if process.returncode != 0:
            last = printed[-1].strip() if printed else ""
            raise RuntimeError(f"{os.path.basename(arguments[0])} ended with status {process.returncode}. {last}".strip())
        return "".join(printed)


class Adapter:
    """The functions that do the work, and the loop that asks them."""

    def __init__(self) -> None:
        self._load: Callable[[str], Any] | None = None
        self._render: Callable[[Job], Any] | None = None
        self._cache: Callable[[Job], Any] | None = None
        self._jobs: queue.Queue[dict[str, Any] | None] = queue.Queue()
        self._job: Job | None = None
        self._given_up = 0
        self._lock = threading.Lock()
        self._out: Any = None

    def scene(self, function: Callable[[str], Any]) -> Callable[[str], Any]:
        """Take the function that reads a scene by its name; decorates it.

        Parameters
        ----------
        function : called with the name
        """
        self._load = function
        return function

    def frame(self, function: Callable[[Job], Any]) -> Callable[[Job], Any]:
        """Take the function that renders a frame; decorates it.

        Parameters
        ----------
        function : called with the job; what it returns goes into the result: 'seconds' by part, 'samples', 'memory_bytes',
            'warnings', 'objects' and 'object_memory'
        """
        self._render = function
        return function

    def cache(self, function: Callable[[Job], Any]) -> Callable[[Job], Any]:
        """Take the function that computes a light cache into a file; decorates it.

        Parameters
        ----------
        function : called with the job
        """
        self._cache = function
        return function

    def serve(self, name: str = "", can: Sequence[str] = (), settings: dict[str, Sequence[float]] | None = None) -> None:
        """Answer until nothing more is asked for.

        Parameters
        ----------
        name : of the renderer
        can : what it can: keep, crop, guides, history, caches, stop, cap, preview
        settings : least and most of each setting that it knows, by name; None: all are told to it
        """
        # what a library prints must not get among the messages: they have a copy of the output, the rest goes to the errors
        self._out = os.fdopen(os.dup(sys.stdout.fileno()), "w", encoding="utf-8")
        os.dup2(sys.stderr.fileno(), sys.stdout.fileno())
        bounds = {key: {"low": float(low), "high": float(high)} for key, (low, high) in (settings or {}).items()}
        reader = threading.Thread(target=self._read, daemon=True)
        reader.start()
        while True:
            message = self._jobs.get()
            if message is None:
                return
            if message["say"] == "hello":
                self._send(say="hello", protocol=PROTOCOL, name=name, can=list(can), settings=bounds)
            elif message["say"] in ("load", "render", "cache"):
                self._do(message)

    def _read(self) -> None:
        for line in sys.stdin:
            try:
                message = json.loads(line)
            except ValueError:
                continue
            if message.get("say") == "cancel":
                self._given_up = max(self._given_up, int(message["id"]))
                job = self._job
                if job is not None and job.id <= self._given_up:
                    job.cancel()
            elif message.get("say") == "quit":
                break
            else:
                self._jobs.put(message)
        job = self._job
        if job is not None:
            job.cancel()
        self._jobs.put(None)

    def _do(self, message: dict[str, Any]) -> None:
        number, kind = message["id"], message["say"]
        job = self._job = Job(message, self._send)
        if number <= self._given_up:
            job.cancel()
        began = time.perf_counter()
        try:
            if job.cancelled:
                raise Cancelled
            if kind == "load":
                if self._load is not None:
                    self._load(message["scene"])
                self._send(say="loaded", id=number, seconds=time.perf_counter() - began)
                return
            work = self._render if kind == "render" else self._cache
            if work is None:
                raise RuntimeError(f"this adapter has no function for '{kind}'")
            told = work(job)
            result = {"say": "result", "id": number, **(told if isinstance(told, dict) else {})}
            if kind == "render":
                result.setdefault("frame", message["frame"])
            self._send(**result)
        except Cancelled:
            self._send(say="cancelled", id=number)
        except Exception as error:
            traceback.print_exc()
            self._send(say="failed", id=number, words=f"{error or type(error).__name__}")
        finally:
            self._job = None

    def _send(self, **message: Any) -> None:
        with self._lock:
            self._out.write(json.dumps(message) + "\n")
            self._out.flush()


ADAPTER = Adapter()
scene, frame, cache, serve = ADAPTER.scene, ADAPTER.frame, ADAPTER.cache, ADAPTER.serve
