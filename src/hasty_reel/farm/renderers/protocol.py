"""What a renderer is to the rest of the program: something that renders one frame job, told of and stopped alike."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Protocol

import numpy as np

from hasty_reel.bench.moment import LightCache
from hasty_reel.farm.job import FrameJob
from hasty_reel.pictures.frame import Picture
from hasty_reel.work import CancelToken, Progress


@dataclass(frozen=True)
class RenderedFrame:
    """A rendered frame, the seconds of its parts, the samples a pixel got in the mean.

    memory_bytes, cache_bytes : the most it took, and of its light cache; 0 where not known; messages : what the renderer said
    light_caches : where these alone were asked for
    cpu_seconds : of processors, of its process and what that started; 0 where not known
    caches_made : light caches that were computed in its cache seconds; 0 where there were none or it is not known
    objects, object_memory : seconds and bytes by object or texture, where the renderer tells them
    one_number : the renderer told one number of seconds: those that grow with pixels and samples are not told from the rest of it
    history_seconds, history_frames : what going through frames before this one took, apart from the other seconds, and how many they were
    """

    picture: Picture
    load_seconds: float
    sample_seconds: float
    cache_seconds: float = 0.0
    samples: float = 0.0
    memory_bytes: int = 0
    messages: str = ""
    cache_bytes: int = 0
    light_caches: tuple[LightCache, ...] = ()
    cpu_seconds: float = 0.0
    one_number: bool = False
    caches_made: int = 0
    objects: dict[str, float] = field(default_factory=dict)
    object_memory: dict[str, float] = field(default_factory=dict)
    history_seconds: float = 0.0
    history_frames: int = 0


CacheMaker = Callable[[FrameJob, CancelToken | None], RenderedFrame]
"""Computes the light cache that a frame owns, and no picture."""


class Renderer(Protocol):
    """Renders a frame job: the bench renderer inside this program, one that is started for each frame, or one that stays open."""

    def __call__(
        self, job: FrameJob, progress: Progress, cancel: CancelToken | None, show: Callable[[np.ndarray], None] | None
    ) -> RenderedFrame:  # fmt: skip
        """Render a job.

        Parameters
        ----------
        job : the frame
        progress : called with the share that is done, and words
        cancel : looked at while it renders
        show : called with the growing picture, (h, w, 3) scene-linear light; None for nobody

        Returns
        -------
        RenderedFrame

        Raises
        ------
        RendererFault
            Which frame, and what went wrong.
        Stopped
            When `cancel` asked for it.
        """
        raise NotImplementedError
