"""Files of light caches that a linked renderer writes: each made once, by whoever needs it first, and shared by name.

A name tells the settings and the noise pattern, so a file that is there is the one that is wanted. It is written under
another name and renamed when it is whole.
"""

from __future__ import annotations

import contextlib
import os
import shutil
import tempfile
import threading
import uuid
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np

from hasty_reel.bench.moment import LightCache
from hasty_reel.farm.job import FrameJob, seeds_of_halves
from hasty_reel.farm.renderers.messages import CacheShare
from hasty_reel.farm.renderers.protocol import RenderedFrame
from hasty_reel.pictures.frame import Picture
from hasty_reel.wholefile import part_folder

Make = Callable[[FrameJob, Path], None]
"""Computes the light cache of a frame into a file."""


class CacheFiles:
    """Light caches on disk: in the folder that a job names, else in one that goes with this program."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._making: dict[Path, threading.Lock] = {}
        self._own: Path | None = None

    def blended(self, job: FrameJob, make: Make) -> list[CacheShare]:
        """Return the caches that a frame blends; those that are not there are made.

        Parameters
        ----------
        job : the frame
        make : computes one
        """
        shares = job.moment.nearest(float(job.frame))
        return [CacheShare(float(owner), share, str(self._there(replace(job, frame=owner), make))) for owner, share in shares]

    def owned(self, job: FrameJob, make: Make) -> tuple[LightCache, ...]:
        """Return the caches that a frame owns: of halves, that of each.

        Parameters
        ----------
        job : the frame
        make : computes one
        """
        jobs = [replace(job, seed=seed) for seed in (seeds_of_halves(job.seed) if job.recipe.halves else (job.seed,))]
        return tuple(LightCache(int(one.frame), one.settings.seed, path=str(self._there(one, make))) for one in jobs)

    def as_frame(self, found: tuple[LightCache, ...], seconds: float) -> RenderedFrame:
        """Return caches as what a renderer gives; its picture is one black pixel.

        Parameters
        ----------
        found : the caches
        seconds : they took
        """
        size = sum(Path(c.path).stat().st_size for c in found)
        return RenderedFrame(
            Picture(np.zeros((1, 1, 3), np.float32)), 0.0, 0.0, seconds, cache_bytes=size, light_caches=found, caches_made=len(found)
        )

    def close(self) -> None:
        """Let go of the files that go with this program."""
        with self._lock:
            own, self._own = self._own, None
        if own is not None:
            shutil.rmtree(own, ignore_errors=True)

    def _there(self, job: FrameJob, make: Make) -> Path:
        """The file of the cache that a frame owns, made where it is not there."""
        path = self._folder(job) / f"{job.hash}_{job.settings.seed:x}.cache"
        with self._lock:
            lock = self._making.setdefault(path, threading.Lock())
        with lock:
            if not path.is_file():
                part = path.with_name(f".{uuid.uuid4().hex}.part")
                try:
                    make(job, part)
                    os.replace(part, path)
                finally:
                    part.unlink(missing_ok=True)
        return path

    def _folder(self, job: FrameJob) -> Path:
        if job.cache_folder:
            folder = Path(job.cache_folder)
            # a machine elsewhere may not see the folder of the run: it makes its own
            with contextlib.suppress(OSError):
                folder.mkdir(parents=True, exist_ok=True)
                return folder
        with self._lock:
            if self._own is None:
                self._own = part_folder(Path(tempfile.gettempdir()), "caches")
            return self._own
