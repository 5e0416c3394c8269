"""Seconds of frames rendered elsewhere: from a table, a log, or the heads of the pictures."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from hasty_reel.errors import WrongInput
from hasty_reel.evidence.proof import SECONDS_FIELDS
from hasty_reel.farm.renderers.statistics import read_seconds
from hasty_reel.programs.expressions import compiled
from hasty_reel.regularfile import read_regular

MOST_FRAMES = 100_000
LARGEST_TEXT = 64 * 1024 * 1024
PAUSE, COPIED = 8.0, 0.05
"""Medians from which on the time between two files is a pause; seconds below which files were copied, not rendered: both by choice."""
SECONDS_NAMES = ("hr:seconds", "seconds", "rendertime", "render_time", "render time", "time")


@dataclass(frozen=True)
class Times:
    """Seconds by frame, and by part where they are told."""

    seconds: Mapping[int, float] = field(default_factory=dict)
    parts: Mapping[int, Mapping[str, float]] = field(default_factory=dict)
    samples: Mapping[int, int] = field(default_factory=dict)


def read_times(path: Path) -> Times:
    """Times from a CSV table: frame and seconds, and any of samples, load_seconds, sample_seconds, write_seconds.

    Parameters
    ----------
    path : of the file

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

    Parameters
    ----------
    path : of the file
    pattern : regular expression

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


def times_of_files(paths: Mapping[int, Path]) -> tuple[Times, int]:
    """Times from the moments at which the pictures were last written, as if one machine had rendered one after another.

    A frame took as long as lies between its picture and the one written before; the first one written took the median. What took
    more than `PAUSE` medians is a pause, and tells nothing.

    Parameters
    ----------
    paths : files by frame

    Returns
    -------
    times : Times
        Seconds by frame, of those that tell them.
    pauses : int
        How many frames tell nothing since a pause came before them.

    Raises
    ------
    WrongInput
        When there are fewer than three files, or they were copied: all written at once.
    """
    moments = sorted((path.stat().st_mtime_ns / 1e9, frame) for frame, path in paths.items())
    if len(moments) < 3:
        raise WrongInput(f"Times by file dates: {len(moments)} files; expected at least 3.")
    gaps = np.diff([moment for moment, _ in moments])
    usual = float(np.median(gaps))
    if usual < COPIED:
        raise WrongInput(
            f"Times by file dates: the files were written within {moments[-1][0] - moments[0][0]:.2f} s of each other, as by copying; "
            "expected those that the renderer wrote."
        )
    seconds = {frame: float(gap) for (_, frame), gap in zip(moments[1:], gaps) if gap <= PAUSE * usual}
    seconds[moments[0][1]] = usual
    return Times(seconds), int((gaps > PAUSE * usual).sum())


def seconds_in(attributes: Mapping[str, object], name: str = "") -> float | None:
    """Return the seconds told by the head of a picture: a number, or a time such as 1:02:03.5; None where there are none.

    Parameters
    ----------
    attributes : of the head of a file
    name : of the attribute; '' looks for the usual ones
    """
    lower = {k.lower(): v for k, v in attributes.items()}
    for key in (name.lower(),) if name else SECONDS_NAMES:
        value = lower.get(key)
        if isinstance(value, int | float):
            return float(value) if value >= 0 else None
        if isinstance(value, str):
            return read_seconds(value.rstrip().removesuffix("s") if ":" in value else value)
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
