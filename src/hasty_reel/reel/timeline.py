"""Shots from an OpenTimelineIO file and back out to one.

What a timeline has no words for (scene, recipe, move, layers ...) travels in the metadata
under 'hasty_reel', so that a timeline written here and read again gives equal shots.
A timeline from elsewhere gives its clips: name, first frame, length.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from fractions import Fraction
from pathlib import Path
from typing import Any

import msgspec

from hasty_reel.errors import WrongInput
from hasty_reel.reel.document import Reel
from hasty_reel.reel.shot import Hold, Shot
from hasty_reel.wholefile import whole_file

LARGEST = 64 * 1024 * 1024
MOST_CLIPS = 100_000
OURS = "hasty_reel"


def timeline_of(reel: Reel, seconds: Mapping[str, float] | None = None) -> Any:
    """The reel as a timeline: one video track, a clip for each shot; disabled shots are disabled clips.

    Parameters
    ----------
    seconds : planned seconds by shot, written beside the shot where known
    """
    import opentimelineio as otio
    from opentimelineio.opentime import RationalTime, TimeRange

    rate = float(reel.fps)
    timeline = otio.schema.Timeline(reel.name, global_start_time=RationalTime(reel.start_frame, rate))
    track = otio.schema.Track("Shots", kind=otio.schema.TrackKind.Video)
    timeline.tracks.append(track)
    for shot in reel.shots:
        reference = otio.schema.ImageSequenceReference(
            target_url_base=f"{shot.id}/",
            name_prefix=f"{shot.id}.",
            name_suffix=".exr",
            start_frame=shot.begin,
            frame_step=shot.step,
            rate=rate,
            frame_zero_padding=4,
            available_range=TimeRange(RationalTime(shot.begin, rate), RationalTime(shot.last + shot.handle_out + 1 - shot.begin, rate)),
        )
        cut = TimeRange(RationalTime(shot.first, rate), RationalTime(shot.length, rate))
        clip = otio.schema.Clip(shot.name, media_reference=reference, source_range=cut)
        clip.enabled = shot.enabled
        # as text: the library writes numbers with a digit less than they need to come back the same
        ours: dict[str, Any] = {"shot": msgspec.json.encode(shot).decode()}
        if seconds and shot.id in seconds:
            ours["planned_seconds"] = float(seconds[shot.id])
        clip.metadata[OURS] = ours
        track.append(clip)
    return timeline


def write_timeline(path: Path, reel: Reel, seconds: Mapping[str, float] | None = None) -> None:
    """Write the shots of a reel as OpenTimelineIO.

    Raises
    ------
    WrongInput
        When the file cannot be written.
    """
    import opentimelineio as otio

    text = otio.adapters.write_to_string(timeline_of(reel, seconds), "otio_json")
    try:
        with whole_file(path, flush=True) as part:
            part.write_text(text + "\n", encoding="utf-8")
    except OSError as error:
        raise WrongInput(f"{path}: cannot be written ({error.strerror or error}).") from error


def read_timeline(path: Path, rate: Fraction, scene: str, recipe: str) -> list[Shot]:
    """The shots of an OpenTimelineIO file, in the order they play.

    Parameters
    ----------
    rate : of the reel; clips counted in another one keep their time
    scene, recipe : for clips that name none

    Raises
    ------
    WrongInput
        One sentence: the file, the place in it, what was expected.
    """
    timeline = _decoded(path)
    shots: list[Shot] = []
    for track in timeline.video_tracks():
        for clip in track.find_clips():
            if len(shots) >= MOST_CLIPS:
                raise WrongInput(f"{path}: more than {MOST_CLIPS:,} clips; expected at most that many.")
            where = f"{path}, track '{track.name[:40]}', clip {len(shots) + 1} '{clip.name[:40]}'"
            shots.append(_shot_of(clip, rate, scene, recipe, len(shots), where))
    if not shots:
        raise WrongInput(f"{path}: no clip in a video track; expected at least one.")
    return shots


def _decoded(path: Path) -> Any:
    import opentimelineio as otio

    try:
        if path.stat().st_size > LARGEST:
            raise WrongInput(f"{path}: larger than {LARGEST >> 20} MiB; expected a timeline.")
        raw = path.read_bytes()
    except OSError as error:
        raise WrongInput(f"{path}: cannot be read ({error.strerror or error}).") from error
    try:
        # the library's own reader does not bound how deep a file nests; this one does
        msgspec.json.decode(raw)
        timeline = otio.adapters.read_from_string(raw.decode("utf-8"), "otio_json")
    except RecursionError as error:
        raise WrongInput(f"{path}: nested too deep; expected a timeline.") from error
    except (msgspec.DecodeError, UnicodeDecodeError, ValueError, otio.exceptions.OTIOError) as error:
        raise WrongInput(f"{path}: not an OpenTimelineIO file ({_line(str(error))}).") from error
    if not isinstance(timeline, otio.schema.Timeline):
        raise WrongInput(f"{path}: holds no timeline; expected an OpenTimelineIO timeline.")
    return timeline


def _shot_of(clip: Any, rate: Fraction, scene: str, recipe: str, number: int, where: str) -> Shot:
    import opentimelineio as otio

    try:
        span = clip.trimmed_range()
        theirs = float(span.duration.rate)
        if not (0 < theirs <= 1e6 and abs(span.duration.value) < 1e9 and abs(span.start_time.value) < 1e9):
            raise ValueError("its range is out of bounds")
        own = abs(theirs - float(rate)) < 1e-6
        first = round(span.start_time.value if own else span.start_time.value / theirs * float(rate))
        count = round(span.duration.value if own else span.duration.value / theirs * float(rate))
    except (otio.exceptions.OTIOError, ValueError, RuntimeError, ZeroDivisionError) as error:
        raise WrongInput(f"{where}: has no usable range ({_line(str(error))}); expected a first frame and a length.") from error
    if count < 1 or first < 0:
        raise WrongInput(f"{where}: frames {first} to {first + count - 1}; expected at least one frame, from 0 up.")
    kept = _ours(clip, where) if OURS in clip.metadata else None
    if kept is not None:
        moved = kept.move is not None and count != kept.length
        changes: dict[str, Any] = {"first": first, "last": first + count - 1, "enabled": bool(clip.enabled)}
        if moved:  # cut elsewhere to another length: the range counts now
            changes["move"] = None
        return msgspec.structs.replace(kept, **changes)
    name = "".join(c for c in clip.name if c.isprintable()).strip()[:200]
    return Shot(
        id=_id_of(name, number),
        name=name or f"Clip {number + 1}",
        scene=scene,
        recipe=recipe,
        first=first,
        last=first + count - 1,
        enabled=bool(clip.enabled),
        hold=Hold(),
    )


def _ours(clip: Any, where: str) -> Shot:
    try:
        return msgspec.json.decode(clip.metadata[OURS]["shot"], type=Shot)
    except (msgspec.DecodeError, KeyError, TypeError, ValueError, RecursionError) as error:
        raise WrongInput(f"{where}: its '{OURS}' metadata do not hold a shot ({_line(str(error))}).") from error


def _id_of(name: str, number: int) -> str:
    plain = re.sub(r"[^A-Za-z0-9_-]+", "_", name).strip("_-")[:40]
    return plain if plain and plain[0].isalnum() else f"sh{(number + 1) * 10:03d}"


def _line(words: str) -> str:
    return " ".join(words.split())[:160]
