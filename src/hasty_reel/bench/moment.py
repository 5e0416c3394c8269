"""Where a frame stands in its shot, for what depends on other frames."""

from __future__ import annotations

from bisect import bisect_left
from dataclasses import dataclass, field

import numpy as np


@dataclass(frozen=True)
class LightCache:
    """A light cache that was computed.

    frame : that owns it; pattern : number of its noise pattern
    light : (x, y, z, 6, 3) float32, of the bench renderer; path : file of it, of a renderer that writes them
    """

    frame: int
    pattern: int
    light: np.ndarray = field(default_factory=lambda: np.zeros((0, 0, 0, 6, 3), np.float32), compare=False, repr=False)
    path: str = ""


@dataclass(frozen=True)
class Moment:
    """Where a frame stands in its shot, for what depends on other frames.

    owners : frames that own a light cache, in order; none: the frame itself. cache_blend : of these, how many nearest ones a frame blends
    history : frames rendered or simulated before this one in its chunk; None: as many as the scene may need
    placed : the owners do not follow each other by the step of the recipe
    given : light caches that are there already, whoever computed them
    """

    owners: tuple[int, ...] = ()
    cache_blend: int = 1
    history: int | None = None
    placed: bool = False
    given: tuple[LightCache, ...] = field(default=(), compare=False, repr=False)

    def nearest(self, frame: float) -> list[tuple[int, float]]:
        """Return the light caches a frame blends and their shares: the nearest ones, the nearer the more.

        Parameters
        ----------
        frame : its number; between two frames it may have a fraction
        """
        owners = self.owners or (round(frame),)
        at, most = bisect_left(owners, frame), max(1, self.cache_blend)
        near = sorted(owners[max(0, at - most) : at + most], key=lambda f: (abs(f - frame), f))[:most]
        if len(near) == 1 or (near[0] == frame and self.cache_blend == 1):
            return [(near[0], 1.0)]
        reach = max(abs(f - frame) for f in near) + 1.0
        weights = [1.0 - abs(f - frame) / (reach + 1e-9) for f in near]
        total = sum(weights)
        return [(f, w / total) for f, w in zip(near, weights)]


ALONE = Moment()
"""A frame by itself."""
