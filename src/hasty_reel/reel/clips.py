"""The clips of an OpenTimelineIO file, read by the library in a process that may die of it.

Run as `python -m hasty_reel.reel.clips`: the bytes of the file in, one JSON document out.
"""

from __future__ import annotations

import contextlib
import os
import resource
import sys
from typing import Any

import msgspec

OURS = "hasty_reel"
"""Key of what a timeline written here says of a shot beyond its range."""
MOST_CLIPS = 100_000
MOST_MEMORY = 8 << 30


class Clip(msgspec.Struct, frozen=True, kw_only=True):
    """One clip of a video track.

    start, duration : of what is used of it, counted at `rate` a second
    ours : what this program wrote of its shot, as JSON; None for a clip from elsewhere
    fault : why it has no usable range, '' where it has one
    """

    track: str
    name: str
    enabled: bool = True
    start: float = 0.0
    duration: float = 0.0
    rate: float = 0.0
    ours: str | None = None
    fault: str = ""


class Clips(msgspec.Struct, frozen=True, kw_only=True):
    """What a file holds: clips, or a sentence that says why there are none."""

    clips: list[Clip] = []
    fault: str = ""


def clips_in(raw: bytes) -> Clips:
    """Read the clips of all video tracks with the timeline library.

    Parameters
    ----------
    raw : the file; known to be JSON in UTF-8

    Returns
    -------
    Clips
        The clips in the order they play, or what was wrong.
    """
    import opentimelineio as otio

    try:
        timeline = otio.adapters.read_from_string(raw.decode("utf-8"), "otio_json")
        if not isinstance(timeline, otio.schema.Timeline):
            return Clips(fault="holds no timeline; expected an OpenTimelineIO timeline.")
        out: list[Clip] = []
        for track in timeline.video_tracks():
            for clip in track.find_clips():
                if len(out) >= MOST_CLIPS:
                    return Clips(fault=f"more than {MOST_CLIPS:,} clips; expected at most that many.")
                out.append(_clip_of(clip, track.name))
    except (KeyError, IndexError, AttributeError) as error:
        return Clips(fault=f"a timeline without its parts ({_words(error)}); expected tracks with clips.")
    except Exception as error:  # whatever the library raises: the file is at fault, and this process ends
        return Clips(fault=f"not an OpenTimelineIO file ({_words(error)}).")
    return Clips(clips=out)


def _clip_of(clip: Any, track: str) -> Clip:
    named: dict[str, Any] = {"track": str(track), "name": str(clip.name)}
    try:
        span = clip.trimmed_range()
        start, duration, rate = float(span.start_time.value), float(span.duration.value), float(span.duration.rate)
    except Exception as error:  # the library has several kinds for a clip without a range
        return Clip(**named, fault=_words(error))
    ours = None
    if OURS in clip.metadata:
        ours = ""
        with contextlib.suppress(KeyError, TypeError, AttributeError):
            told = clip.metadata[OURS]["shot"]
            ours = told if isinstance(told, str) else ""
    return Clip(**named, enabled=bool(clip.enabled), start=start, duration=duration, rate=rate, ours=ours)


def _words(error: Exception) -> str:
    return " ".join(str(error).split())[:160] or type(error).__name__


def main() -> None:
    """Read standard input, write what it holds to standard output."""
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    with contextlib.suppress(OSError, ValueError):
        resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    found = clips_in(sys.stdin.buffer.read())
    with os.fdopen(os.dup(1), "wb") as out:
        out.write(msgspec.json.encode(found))


if __name__ == "__main__":
    main()
