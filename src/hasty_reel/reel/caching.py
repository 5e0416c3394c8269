"""Which frames own a light cache."""

from __future__ import annotations

from hasty_reel.reel.shot import Shot
from hasty_reel.settings.recipe import Recipe


def owners_of(shot: Shot, recipe: Recipe) -> list[int]:
    """Return the frames of a shot that own a light cache, as they were placed, else by the step of its recipe.

    Parameters
    ----------
    shot : the shot or layer
    recipe : with its departures; where its light cache is off there are none
    """
    if recipe.cache_step and shot.caches:
        return list(shot.caches)
    return cache_frames(shot.begin, shot.end, recipe.cache_step)


def cache_frames(first: int, last: int, step: int) -> list[int]:
    """Return the frames of a shot that own a light cache: every step-th and the last, so that none lies beyond the ends.

    240 frames at step 5 have 48 and the end (common practice). Step 0 means no cache at all.

    Parameters
    ----------
    first : frame of the shot
    last : frame of the shot
    step : frames from one cache to the next; 0 for no cache
    """
    if step < 1:
        return []
    frames = list(range(first, last + 1, step))
    return frames if frames[-1] == last else [*frames, last]
