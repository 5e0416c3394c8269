"""Light caches of a run: each computed once, before the frames that blend it, and given to whoever renders those.

A worker by itself would compute every cache that its frames blend, so that many workers pay for each of them many times.
"""

from __future__ import annotations

from dataclasses import replace

from hasty_reel.bench.moment import LightCache
from hasty_reel.farm.job import FrameJob, moment_of
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.reel.caching import owners_of

KEPT = 64
"""Caches that are kept before those are looked for that nobody needs any more: some 13 MB."""


class CachePass:
    """Which light caches are there, in work, and wanted by which frame.

    in_work : frames, as the shot numbers them, whose caches are being computed

    Parameters
    ----------
    plan : of the shot; its recipe has a light cache
    """

    def __init__(self, plan: ShotPlan) -> None:
        self._shot, self._recipe = plan.shot, plan.recipe
        self._owners = {self._shot.scene_frame(f): f for f in owners_of(plan.shot, plan.recipe)}
        self._there: dict[int, tuple[LightCache, ...]] = {}
        self.in_work: set[int] = set()

    def needed(self, frame: int) -> list[int]:
        """Return the frames, as the shot numbers them, whose caches a frame blends.

        Parameters
        ----------
        frame : as the shot numbers it
        """
        moment = moment_of(self._shot, self._recipe, frame)
        return [self._owners[owner] for owner, _ in moment.nearest(self._shot.scene_frame(frame))]

    def there(self, owner: int) -> bool:
        """Whether a cache needs not be computed any more.

        Parameters
        ----------
        owner : the frame that owns it, as the shot numbers it
        """
        return owner in self._there

    def next_of(self, queue: list[int]) -> tuple[int, bool] | None:
        """Return what can begin: a frame whose caches are there, or else (True) one whose cache is wanted first; None while all wait.

        Parameters
        ----------
        queue : frames that wait, in their order
        """
        for frame in queue:
            missing = [o for o in self.needed(frame) if o not in self._there]
            if not missing:
                return frame, False
            for owner in missing:
                if owner not in self.in_work:
                    return owner, True
        return None

    def took(self, owner: int, found: tuple[LightCache, ...]) -> None:
        """Keep what was computed; nothing where it failed: the frames then compute it themselves.

        Parameters
        ----------
        owner : the frame that owns it
        found : its caches
        """
        self._there[owner] = found

    def given(self, job: FrameJob, frame: int) -> FrameJob:
        """Return a job with the caches that it blends.

        Parameters
        ----------
        job : of the frame
        frame : as the shot numbers it
        """
        found = tuple(c for owner in self.needed(frame) for c in self._there.get(owner, ()))
        return replace(job, moment=replace(job.moment, given=found))

    def forget(self, waiting: list[int]) -> None:
        """Let go of what no frame that waits blends.

        Parameters
        ----------
        waiting : frames that are still to be rendered
        """
        if sum(map(bool, self._there.values())) <= KEPT:
            return
        wanted = {owner for frame in waiting for owner in self.needed(frame)}
        self._there = {owner: found if owner in wanted else () for owner, found in self._there.items()}
