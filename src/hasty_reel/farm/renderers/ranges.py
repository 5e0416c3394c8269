"""Frames from a renderer that renders a range of them in one start: its pictures are taken one by one, as they come.

The start and the reading of the scene are paid once for the range. All its frames get the samples of the one that needs most.
What a frame took is the time from the picture before to its own, by the moments at which the files were last written.
"""

from __future__ import annotations

import contextlib
import re
import shutil
import tempfile
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from pathlib import Path

import msgspec
import numpy as np

from hasty_reel.errors import HastyReelError, PictureError, RendererFault, Stopped
from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.renderers.askedframe import asked_frame, settings_told
from hasty_reel.farm.renderers.command import check_asked, placeholder_values
from hasty_reel.farm.renderers.links import Link
from hasty_reel.farm.renderers.protocol import RenderedFrame
from hasty_reel.farm.renderers.takenpicture import rendered_samples, taken
from hasty_reel.pictures.frame import read_header
from hasty_reel.programs.commands import filled, find_program
from hasty_reel.programs.watched import Ended, last_line, run_watched
from hasty_reel.wholefile import part_folder
from hasty_reel.work import CancelToken, Progress, silent

LOOK_SECONDS = 0.05
STILL_SECONDS = 0.5
"""A file that is whole and was not written to for so long is finished, though no later one is there yet."""
_NUMBER = re.compile(r"(\d+)\.[A-Za-z0-9]+$")


@dataclass
class _Range:
    """A start of the renderer: the frames it renders, with which samples, where its pictures go, and how it ended."""

    key: tuple
    frames: tuple[int, ...]
    samples: int
    folder: Path
    cancel: CancelToken = field(default_factory=CancelToken)
    began: float = field(default_factory=time.time)
    ended: Ended | None = None
    fault: HastyReelError | None = None
    taken: set[int] = field(default_factory=set)

    @property
    def over(self) -> bool:
        """Whether its process is gone."""
        return self.ended is not None or self.fault is not None

    def files(self) -> dict[int, Path]:
        """Its pictures by frame, as far as they are there."""
        found = {}
        with contextlib.suppress(OSError):  # the folder goes when nobody comes for it any more
            for path in self.folder.iterdir():
                number = _NUMBER.search(path.name)
                if number is not None and path.suffix.lower() != ".json":
                    found[int(number[1])] = path
        return found

    def finished(self, frame: int, files: dict[int, Path]) -> bool:
        """Whether the picture of a frame is there, and nothing more is written to it."""
        path = files.get(frame)
        if path is None:
            return False
        if self.over or any(other > frame for other in files):
            return True
        try:
            return time.time() - path.stat().st_mtime > STILL_SECONDS and read_header(path, whole=True).width > 0
        except (OSError, PictureError):
            return False

    def seconds(self, frame: int, files: dict[int, Path]) -> float:
        """From the picture before, or the start, to that of a frame."""
        before = [path.stat().st_mtime for other, path in files.items() if other < frame]
        return max(0.0, files[frame].stat().st_mtime - max([self.began, *before]))


class RangeRenderer:
    """Renders frame jobs by starts that render several.

    Parameters
    ----------
    link : the renderer link; its command has the places of a range and of a folder
    """

    def __init__(self, link: Link) -> None:
        self.link = link
        self._lock, self._starting = threading.Lock(), threading.Lock()
        self._ranges: list[_Range] = []

    @property
    def frames(self) -> int:
        """Frames of one start, at most."""
        return self.link.frames

    def __call__(
        self, job: FrameJob, progress: Progress = silent, cancel: CancelToken | None = None,
        show: Callable[[np.ndarray], None] | None = None,
    ) -> RenderedFrame:  # fmt: skip
        """Render a job: with those ahead of it, where none of them is under way.

        Parameters
        ----------
        job : the frame
        progress : called with the share that is done, 0 to 1, and words
        cancel : looked at meanwhile; None: it cannot be stopped
        show : not called: the picture comes at the end

        Raises
        ------
        RendererFault
            Which frame, what went wrong, and the renderer's last line.
        Stopped
            When `cancel` asked for it; the renderer is ended.
        """
        check_asked(self.link, job)
        frame = int(job.frame)
        with self._starting:  # two workers that ask at once would make a start each
            under_way = self._covering(job) or self._started(job)
        try:
            while True:
                over = under_way.over  # looked at first: what was written until then is there
                files = under_way.files()
                if under_way.finished(frame, files):
                    try:
                        return self._rendered(job, under_way, files)
                    except OSError as error:
                        raise RendererFault(f"Frame {frame}: its picture was taken away ({error.strerror}).") from error
                if over:
                    raise self._fault(frame, under_way)
                if cancel is not None:
                    cancel.check()
                time.sleep(LOOK_SECONDS)
        except Stopped:
            under_way.cancel.cancel()
            raise

    def _covering(self, job: FrameJob) -> _Range | None:
        """The start that renders a frame, or has rendered it."""
        with self._lock:
            for one in self._ranges:
                wanted = one.key == _key(job) and int(job.frame) in one.frames and int(job.frame) not in one.taken
                if wanted and one.samples >= job.samples and (not one.over or int(job.frame) in one.files()):
                    return one
        return None

    def _started(self, job: FrameJob) -> _Range:
        first = int(job.frame)
        ahead = [(frame, samples) for frame, samples in job.ahead if frame > first][: self.frames - 1]
        frames = [first, *(frame for k, (frame, _) in enumerate(ahead) if frame == first + k + 1)]
        samples = max([job.samples, *(samples for _, samples in ahead[: len(frames) - 1])])
        folder = part_folder(Path(tempfile.gettempdir()), "range")
        one = _Range(_key(job), tuple(frames), samples, folder)
        with self._lock:
            kept = [r for r in self._ranges if not r.over or (set(r.frames) - r.taken) & set(r.files())]
            gone = [r for r in self._ranges if r not in kept]
            self._ranges = [*kept, one][-8:]
        for old in gone:
            shutil.rmtree(old.folder, ignore_errors=True)
        whole = replace(job, samples=samples)
        values = placeholder_values(whole, folder / f"frame.{first:04d}.exr")
        values |= {"last": f"{frames[-1]}", "frames": f"{first}-{frames[-1]}"}
        asked = asked_frame(whole, folder, settings_told(whole))
        document = {**msgspec.to_builtins(asked), "first": frames[0], "last": frames[-1]}
        Path(values["job"]).write_bytes(msgspec.json.format(msgspec.json.encode(document), indent=2))
        assert self.link.command is not None
        arguments = find_program(filled(self.link.command, values))
        watch = msgspec.structs.replace(self.link, timeout=self.link.timeout * len(frames)).watch

        def _work() -> None:
            try:
                one.ended = run_watched(arguments, watch, f"Frames {first}-{frames[-1]}", silent, one.cancel)
            except HastyReelError as error:
                one.fault = error
            if one.taken >= set(one.frames):  # nobody comes for it any more
                shutil.rmtree(folder, ignore_errors=True)

        threading.Thread(target=_work, name="range", daemon=True).start()
        return one

    def _rendered(self, job: FrameJob, one: _Range, files: dict[int, Path]) -> RenderedFrame:
        frame = int(job.frame)
        picture = taken(job, files[frame], self.link)
        seconds = one.seconds(frame, files)
        one.taken.add(frame)
        made = RenderedFrame(
            picture, 0.0, seconds, samples=rendered_samples(replace(job, samples=one.samples), picture),
            messages="" if one.ended is None else one.ended.messages, one_number=True,
        )  # fmt: skip
        if one.taken >= set(one.frames):
            with self._lock:
                self._ranges = [r for r in self._ranges if r is not one]
            if one.over:
                shutil.rmtree(one.folder, ignore_errors=True)
        return made

    def _fault(self, frame: int, one: _Range) -> HastyReelError:
        """Why a frame is not there after the process is gone."""
        if one.fault is not None:
            return one.fault if isinstance(one.fault, Stopped) else RendererFault(f"Frame {frame}: {one.fault}")
        assert one.ended is not None
        if fault := one.ended.fault(f"Frame {frame}", "renderer", False):
            return RendererFault(fault)
        there = ", ".join(str(f) for f in sorted(one.files())) or "none"
        words = f"wrote no picture with this number; there are {there}."
        return RendererFault(f"Frame {frame}: the renderer ended well but {words}{last_line(one.ended.messages)}")


def _key(job: FrameJob) -> tuple:
    """What all frames of a start have in common."""
    return job.hash, job.seed, job.width, job.height, job.crop, job.floor, job.stop_noise, job.cap
