"""Which frames own a light cache."""

from __future__ import annotations


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
