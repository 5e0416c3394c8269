"""Frames and times from elsewhere, kept as a proof like those rendered here."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path

import numpy as np

from hasty_reel.errors import PictureError, WrongInput
from hasty_reel.evidence.proof import SECONDS_FIELDS, Proof, ProofPicture, write_effects, write_proof
from hasty_reel.farm.claim import new_proof_folder
from hasty_reel.farm.patterns import compiled
from hasty_reel.farm.proofs import measure_run, runs_of
from hasty_reel.pictures.foreign import ENDINGS, Channels, guess_channels, is_coded, read_foreign
from hasty_reel.pictures.frame import Picture, read_planes
from hasty_reel.pictures.sequence import FramePattern
from hasty_reel.pictures.writing import write_picture
from hasty_reel.reel.frames import write_frames
from hasty_reel.reel.recipe import Recipe
from hasty_reel.reel.shot import Shot
from hasty_reel.regularfile import read_regular
from hasty_reel.work import CancelToken, Progress, silent

MOST_FRAMES = 100_000
LARGEST_TEXT = 64 * 1024 * 1024
SECONDS_NAMES = ("hr:seconds", "seconds", "rendertime", "render_time", "render time", "time")
_SEED = re.compile(r"(?P<a>(?:^|[._-])(?:s|seed|take|pass)?)(?P<n>1|a)(?P<z>(?=[._-]|$))", re.IGNORECASE)


@dataclass(frozen=True)
class Times:
    """Seconds by frame, and by part where they are told."""

    seconds: Mapping[int, float] = field(default_factory=dict)
    parts: Mapping[int, Mapping[str, float]] = field(default_factory=dict)
    samples: Mapping[int, int] = field(default_factory=dict)


@dataclass(frozen=True)
class Bringing:
    """What is brought in.

    pattern : the pictures; pair : the same frames with another seed, None for none
    samples : per pixel; None: as the files or the times say
    channels : what is which channel, guessed where it is None; coded : display codes, None: as the files let expect
    attribute : name of the header attribute with the seconds; '' looks for the usual ones
    """

    shot: Shot
    recipe: Recipe
    pattern: FramePattern
    pair: FramePattern | None = None
    samples: int | None = None
    channels: Channels | None = None
    coded: bool | None = None
    times: Times = Times()
    attribute: str = ""


def guess_pair(pattern: FramePattern) -> FramePattern | None:
    """The sequence beside it that differs in the number of its seed: 'a.s1.####.exr' has 'a.s2.####.exr'."""
    for match in reversed(list(_SEED.finditer(pattern.before))):
        other = {"1": "2", "a": "b", "A": "B"}[match["n"]]
        before = pattern.before[: match.start("n")] + other + pattern.before[match.end("n") :]
        found = FramePattern(pattern.folder, before, pattern.digits, pattern.after)
        if found.frames():
            return found
    behind = re.search(r"(?P<a>[._-](?:s|seed))(?P<n>1)(?P<z>(?=[._-]))", pattern.after, re.IGNORECASE)
    if behind:
        after = pattern.after[: behind.start("n")] + "2" + pattern.after[behind.end("n") :]
        found = FramePattern(pattern.folder, pattern.before, pattern.digits, after)
        return found if found.frames() else None
    return None


def pattern_of(path: Path) -> FramePattern:
    """The pattern of the sequence a picture belongs to: its last number is the frame.

    Raises
    ------
    WrongInput
        When its name has no number, or it is no picture of a known kind.
    """
    if path.suffix.lower() not in ENDINGS:
        raise WrongInput(f"{path}: expected a picture ending in {', '.join(ENDINGS)}.")
    match = re.match(r"(?P<before>.*?)(?P<number>\d+)(?P<after>(?:[._-](?:s|seed)\d)?\.[A-Za-z]+)\Z", path.name)
    if match is None:
        raise WrongInput(f"{path}: no frame number in the name; expected one such as shot.1001.exr.")
    return FramePattern(path.parent, match["before"], len(match["number"]), match["after"])


# -- times


def read_times(path: Path) -> Times:
    """Times from a CSV table: frame and seconds, and any of samples, load_seconds, sample_seconds, write_seconds.

    Raises
    ------
    WrongInput
        The file, the line and column, and what was expected.
    """
    text = _text(path)
    reader = csv.DictReader(io.StringIO(text, newline=""), restkey="")
    try:
        names = [(n or "").strip().lower() for n in reader.fieldnames or []]
        reader.fieldnames = names
        for needed in ("frame", "seconds"):
            if needed not in names:
                raise WrongInput(f"{path}, line 1: no column '{needed}'; expected frame and seconds.")
        seconds: dict[int, float] = {}
        parts: dict[int, dict[str, float]] = {}
        samples: dict[int, int] = {}
        for row in reader:
            where = f"{path}, line {reader.line_num}"
            frame = int(_number(row.get("frame"), "frame", where))
            seconds[frame] = _number(row.get("seconds"), "seconds", where)
            parts[frame] = {p: _number(row.get(p), p, where) for p in SECONDS_FIELDS if (row.get(p) or "").strip()}
            if (row.get("samples") or "").strip():
                samples[frame] = int(_number(row.get("samples"), "samples", where))
            if len(seconds) > MOST_FRAMES:
                raise WrongInput(f"{path}: more than {MOST_FRAMES:,} frames.")
    except csv.Error as error:
        raise WrongInput(f"{path}, line {reader.line_num}: not CSV ({error}).") from error
    if not seconds:
        raise WrongInput(f"{path}: no rows; expected a row a frame.")
    return Times(seconds, parts, samples)


def read_log(path: Path, pattern: str) -> Times:
    """Times from a text log by a regular expression with groups named 'frame' and 'seconds' (and 'minutes', 'hours').

    Raises
    ------
    WrongInput
        When the pattern has not these groups, or nothing in the log fits it.
    """
    form = compiled(pattern, "Times of a log")
    if not {"frame", "seconds"} <= set(form.groupindex):
        raise WrongInput(f"Pattern '{pattern[:60]}'; expected groups named (?P<frame>…) and (?P<seconds>…).")
    seconds: dict[int, float] = {}
    for line in _text(path).splitlines():
        match = form.search(line[:2000])
        if match is None:
            continue
        found = match.groupdict()
        where = f"{path}: '{line.strip()[:60]}'"
        total = _number(found["seconds"], "seconds", where)
        total += 60 * _number(found.get("minutes") or "0", "minutes", where) + 3600 * _number(found.get("hours") or "0", "hours", where)
        seconds[int(_number(found["frame"], "frame", where))] = total
    if not seconds:
        raise WrongInput(f"{path}: nothing fits the pattern '{pattern[:60]}'; expected lines with a frame and its seconds.")
    return Times(seconds)


def seconds_in(attributes: Mapping[str, object], name: str = "") -> float | None:
    """Seconds told by the head of a picture: a number, or a time such as 1:02:03.5; None where there are none."""
    lower = {k.lower(): v for k, v in attributes.items()}
    for key in (name.lower(),) if name else SECONDS_NAMES:
        value = lower.get(key)
        if isinstance(value, int | float):
            return float(value) if value >= 0 else None
        if isinstance(value, str):
            match = re.fullmatch(r"\s*(?:(\d+):)?(?:(\d+):)?(\d+(?:\.\d+)?)\s*s?\s*", value)
            if match:
                first, second, last = match.groups()
                hours, minutes = (float(first), float(second)) if second is not None else (0.0, float(first or 0))
                return 3600 * hours + 60 * minutes + float(last)
    return None


def _text(path: Path) -> str:
    return read_regular(path, LARGEST_TEXT, "times of frames").decode("utf-8-sig", "replace")


def _number(text: str | None, name: str, where: str) -> float:
    try:
        value = float((text or "").strip().replace(",", "."))
    except ValueError:
        value = -1.0
    if not (np.isfinite(value) and 0 <= value < 1e9):
        raise WrongInput(f"{where}: {name} is '{(text or '')[:40]}'; expected a number of 0 or more.")
    return value


# -- pictures


def bring_in(root: Path, what: Bringing, progress: Progress = silent, cancel: CancelToken | None = None) -> tuple[Proof, list[str]]:
    """Keep a sequence as a proof; returns it and what is missing in it, in words.

    Parameters
    ----------
    root : the proofs folder of the reel

    Raises
    ------
    WrongInput
        When there are no frames of the shot, or the samples are not known.
    PictureError
        When the first picture cannot be read.
    """
    shot = what.shot
    there = [f for f in what.pattern.frames() if shot.begin <= f < shot.past]
    if not there:
        raise WrongInput(f"{what.pattern}: no frames of {shot.id}; expected some of {shot.begin} to {shot.past - 1}.")
    _, names, head = read_planes(what.pattern.path(there[0]))
    channels = {**guess_channels(names), **(what.channels or {})}
    coded = is_coded(what.pattern.path(there[0]), head) if what.coded is None else what.coded
    samples = what.samples or _whole(head.get("hr:samples")) or next(iter(what.times.samples.values()), 0)
    if samples < 1:
        raise WrongInput(f"{what.pattern}: how many samples a pixel got is not told; expected it, such as 64.")
    with new_proof_folder(root, shot.proofs) as folder:
        pictures, size, words = _copied(folder, what, there, channels, coded, samples, progress, cancel)
        words += _unknown(what, pictures)
        proof = Proof(
            id=folder.name,
            shot=shot.id,
            made=datetime.now().astimezone().isoformat(timespec="seconds"),
            recipe=what.recipe,
            width=size[0],
            height=size[1],
            samples=samples,
            offset=shot.offset,
            pictures=tuple(pictures),
        )
        write_proof(folder, proof)
        for run in runs_of(sorted({p.frame for p in pictures})):
            write_effects(folder, measure_run(folder, proof, run))
    return proof, words


def _copied(
    folder: Path, what: Bringing, there: Sequence[int], channels: Channels, coded: bool, samples: int,
    progress: Progress, cancel: CancelToken | None,
) -> tuple[list[ProofPicture], tuple[int, int], list[str]]:  # fmt: skip
    """Copy what can be read of a sequence into a proof; its entries, its size in pixels, and what cannot be read, in words."""
    words: list[str] = []
    pictures: list[ProofPicture] = []
    size: tuple[int, int] | None = None
    patterns = [p for p in (what.pattern, what.pair) if p is not None]
    for k, frame in enumerate(there):
        if cancel is not None:
            cancel.check()
        progress(k / len(there), f"frame {frame}")
        made: list[tuple[Picture, ProofPicture]] = []
        try:
            for seed, pattern in enumerate(patterns, start=1):
                # the other seed is for the noise alone, and may come without guides
                wanted = None if seed == 1 else ()
                picture = read_foreign(pattern.path(frame), channels, coded, wanted)
                size = size or (picture.width, picture.height)
                if (picture.width, picture.height) != size:
                    raise PictureError(
                        f"{pattern.path(frame)}: {picture.width}x{picture.height}; expected {size[0]}x{size[1]} like the first."
                    )
                if not np.isfinite(picture.rgb).all():
                    raise PictureError(f"{pattern.path(frame)}: holds numbers that are not finite.")
                made.append((picture, _entry(what.shot, what, frame, seed, picture.attributes)))
        except PictureError as error:
            words.append(str(error))
            continue
        for picture, entry in made:
            write_picture(folder / entry.file, Picture(picture.rgb, picture.guides, {"hr:samples": samples, "hr:seed": str(entry.seed)}))
            pictures.append(entry)
    if not pictures or size is None:
        raise PictureError(f"{what.pattern}: no frame could be brought in. {words[0] if words else ''}".strip())
    return pictures, size, words


def _unknown(what: Bringing, pictures: Sequence[ProofPicture]) -> list[str]:
    """What a sequence does not tell of itself, in words."""
    words = []
    timeless = [int(p.frame) for p in pictures if p.sample_seconds == 0 and p.seed == 1]
    if timeless:
        words.append(f"Seconds of {write_frames(timeless)} are not known: these frames can be looked at, but not planned from.")
    if what.pair is None:
        words.append("One seed: noise is not measured.")
    return words


def _entry(shot: Shot, what: Bringing, frame: int, seed: int, attributes: Mapping[str, object]) -> ProofPicture:
    parts = what.times.parts.get(frame, {})
    told = what.times.seconds.get(frame)
    seconds = told if told is not None else seconds_in(attributes, what.attribute)
    load, write = parts.get("load_seconds", 0.0), parts.get("write_seconds", 0.0)
    sample = parts.get("sample_seconds", max(0.0, (seconds or 0.0) - load - write))
    return ProofPicture(
        frame=frame, seed=seed, file=f"{shot.id}.{frame:04d}.s{seed}.exr", load_seconds=load, sample_seconds=sample, write_seconds=write
    )


def _whole(value: object) -> int:
    return int(value) if isinstance(value, int | float) and value >= 1 else 0


def sequences_in(paths: Sequence[Path]) -> list[FramePattern]:
    """The sequences that some pictures belong to, each once, without those that are another's pair."""
    found = list(dict.fromkeys(pattern_of(p) for p in paths))
    pairs = {q for p in found if (q := guess_pair(p)) is not None}
    return [p for p in found if p not in pairs]
