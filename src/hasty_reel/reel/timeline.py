"""Shots from an OpenTimelineIO file and back out to one.

What a timeline has no words for (scene, recipe, move, layers ...) travels in the metadata
under 'hasty_reel', so that a timeline written here and read again gives equal shots.
A timeline from elsewhere gives its clips: name, first frame, length.
"""

from __future__ import annotations

import json
import re
import subprocess
from collections.abc import Mapping
from fractions import Fraction
from pathlib import Path
from typing import Any

import msgspec

from hasty_reel.errors import WrongInput, reason
from hasty_reel.ownprocess import own_module
from hasty_reel.reel.clips import OURS, Clip, Clips
from hasty_reel.reel.document import Reel
from hasty_reel.reel.shot import CLEAN, Shot
from hasty_reel.regularfile import read_regular
from hasty_reel.wholefile import write_whole

LARGEST_BYTES = 64 * 1024 * 1024
LONGEST_READ = 120.0
"""Seconds; 100,000 clips take about ten."""


def timeline_of(reel: Reel, seconds: Mapping[str, float] | None = None) -> Any:
    """Return the reel as a timeline: one video track, a clip for each shot; disabled shots are disabled clips.

    Parameters
    ----------
    reel : the reel; it stays as it was
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

    Parameters
    ----------
    path : of the file
    reel : the reel; it stays as it was
    seconds : planned, by shot; None: not told

    Raises
    ------
    WrongInput
        When the file cannot be written.
    """
    import opentimelineio as otio

    text = otio.adapters.write_to_string(timeline_of(reel, seconds), "otio_json")
    try:
        write_whole(path, (text + "\n").encode())
    except OSError as error:
        raise WrongInput(f"{path}: cannot be written ({reason(error)}).") from error


def read_timeline(path: Path, rate: Fraction, scene: str, recipe: str) -> list[Shot]:
    """Return the shots of an OpenTimelineIO file, in the order they play.

    Parameters
    ----------
    path : of the file
    rate : of the reel; clips counted in another one keep their time
    scene, recipe : for clips that name none

    Raises
    ------
    WrongInput
        One sentence: the file, the place in it, what was expected.
    """
    shots: list[Shot] = []
    for clip in clips_of(path):
        where = f"{path}, track '{clip.track[:40]}', clip {len(shots) + 1} '{clip.name[:40]}'"
        shots.append(_shot_of(clip, rate, scene, recipe, len(shots), where))
    if not shots:
        raise WrongInput(f"{path}: no clip in a video track; expected at least one.")
    return shots


def clips_of(path: Path) -> list[Clip]:
    """Read the clips of a timeline, in the order they play, in a process of its own.

    The library ends the process on some files that are valid JSON; no check of ours can promise to know them all.

    Parameters
    ----------
    path : an OpenTimelineIO file

    Returns
    -------
    list[Clip]
        Its clips, with ranges as they stand there.

    Raises
    ------
    WrongInput
        When it is no timeline, or the library does not survive it.
    """
    raw = read_regular(path, LARGEST_BYTES, "an OpenTimelineIO file")
    need_plain_json(raw, path)
    try:
        ended = subprocess.run(
            own_module("hasty_reel.reel.clips"), input=raw, capture_output=True, cwd="/", timeout=LONGEST_READ, check=False
        )
    except subprocess.TimeoutExpired as error:
        raise WrongInput(f"{path}: not read within {LONGEST_READ:g} s; expected a timeline.") from error
    except OSError as error:
        raise WrongInput(f"{path}: cannot be read ({reason(error)}).") from error
    try:
        found = msgspec.json.decode(ended.stdout, type=Clips)
    except (msgspec.DecodeError, UnicodeDecodeError) as error:
        raise WrongInput(f"{path}: the timeline library does not survive this file; expected an OpenTimelineIO file.") from error
    if found.fault:
        raise WrongInput(f"{path}: {found.fault}")
    return found.clips


def need_plain_json(raw: bytes, path: Path) -> None:
    """Raise an error where bytes are no JSON that the timeline library can be trusted with.

    Parameters
    ----------
    raw : of the file
    path : of it, for the words

    Raises
    ------
    WrongInput
        When they are no JSON, nest too deep, or give one key twice in an object.
    """

    def _once(pairs: list[tuple[str, object]]) -> dict[str, object]:
        found = dict(pairs)
        if len(found) < len(pairs):
            names = [k for k, _ in pairs]
            twice = next(k for k in names if names.count(k) > 1)
            raise WrongInput(f"{path}: '{twice[:40]}' twice in one object; expected each key once.")
        return found

    try:
        msgspec.json.decode(raw)
        json.loads(raw.decode("utf-8"), object_pairs_hook=_once)
    except RecursionError as error:
        raise WrongInput(f"{path}: nested too deep; expected a timeline.") from error
    except (msgspec.DecodeError, UnicodeDecodeError, ValueError) as error:
        raise WrongInput(f"{path}: not an OpenTimelineIO file ({_line(str(error))}).") from error


def _shot_of(clip: Clip, rate: Fraction, scene: str, recipe: str, number: int, where: str) -> Shot:
    if clip.fault or not (0 < clip.rate <= 1e6 and abs(clip.duration) < 1e9 and abs(clip.start) < 1e9):
        why = clip.fault or "its range is out of bounds"
        raise WrongInput(f"{where}: has no usable range ({why}); expected a first frame and a length.")
    own = abs(clip.rate - float(rate)) < 1e-6
    first = round(clip.start if own else clip.start / clip.rate * float(rate))
    count = round(clip.duration if own else clip.duration / clip.rate * float(rate))
    if count < 1 or first < 0:
        raise WrongInput(f"{where}: frames {first} to {first + count - 1}; expected at least one frame, from 0 up.")
    kept = _ours(clip, where) if clip.ours is not None else None
    if kept is not None:
        moved = kept.move is not None and count != kept.length
        changes: dict[str, Any] = {"first": first, "last": first + count - 1, "enabled": clip.enabled}
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
        enabled=clip.enabled,
        hold=CLEAN,
    )


def _ours(clip: Clip, where: str) -> Shot:
    try:
        return msgspec.json.decode(clip.ours or "", type=Shot)
    except (msgspec.DecodeError, ValueError, RecursionError) as error:
        raise WrongInput(f"{where}: its '{OURS}' metadata do not hold a shot ({_line(str(error))}).") from error


def _id_of(name: str, number: int) -> str:
    plain = re.sub(r"[^A-Za-z0-9_-]+", "_", name).strip("_-")[:40]
    return plain if plain and plain[0].isalnum() else f"sh{(number + 1) * 10:03d}"


def _line(words: str) -> str:
    return " ".join(words.split())[:160]
