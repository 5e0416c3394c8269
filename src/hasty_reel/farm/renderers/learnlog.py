"""Patterns of a renderer's seconds learnt from an example of what it prints: numbers that are times, and which part each is of."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import msgspec

from hasty_reel.farm.renderers.links import TOTAL, Link
from hasty_reel.farm.renderers.statistics import UNITS, read_seconds

LONGEST_LOG = 200_000
"""Characters of a log that are looked through, its last ones."""
LONGEST_LABEL = 48
"""Characters before a number that its pattern goes by, at most."""
PROGRESS = "progress"

_NUMBER = r"[0-9]+(?:[.,][0-9]+)?"
_UNIT = "|".join(sorted(UNITS, key=len, reverse=True))
_CLOCK = r"[0-9]+(?::[0-9]{2})+(?:[.,][0-9]+)?"
_MEASURED = rf"(?:{_NUMBER}\s*(?:{_UNIT})\b[\s,]*)*{_NUMBER}\s*(?:{_UNIT})\b"
_JOINED = r"(?:[0-9]+h)?(?:[0-9]+m)[0-9]+(?:[.,][0-9]+)?s"
_FORMS = (_CLOCK, _JOINED, _MEASURED, _NUMBER)
_FIND = re.compile(
    rf"(?<![\w.:/\\-])(?:(?P<a>{_CLOCK})|(?P<b>{_JOINED})|(?P<c>{_MEASURED})|(?P<d>{_NUMBER}))(?![\w:/\\])(?!\.[0-9])", re.IGNORECASE
)
_PERCENT = re.compile(rf"({_NUMBER})\s?%")
_STAMP = re.compile(r"^\s*[\[(]?(?:[0-9]{4}-[0-9]{2}-[0-9]{2}[T ])?[0-9]{1,2}:[0-9]{2}:[0-9]{2}(?:[.,][0-9]+)?[\])]?\s*[:|-]?\s*")

_LEFT = re.compile(r"remain|left|\beta\b|estimat|time-?out|limit", re.IGNORECASE)
_PARTS = (
    ("cache", re.compile(r"cach|irradiance|photon|pre-?pass|light ?map|radiosity", re.IGNORECASE)),
    ("write", re.compile(r"writ|\bsav|output|encod|export", re.IGNORECASE)),
    (
        "load",
        re.compile(
            r"load|read|pars|\bscene\b|import|sync|buil[dt]|\bbvh\b|accel|geometr|prepar|\binit|start-?up|textures?|compil", re.IGNORECASE
        ),
    ),
    ("sample", re.compile(r"sampl|render|trac(?:e|ing)|\bpaths?\b|integrat|shad(?:e|ing)|pixels", re.IGNORECASE)),
    (TOTAL, re.compile(r"total|elapsed|overall|wall|took|complete|finished|done|\btime\b|frame", re.IGNORECASE)),
)  # fmt: skip
_STRONG_TOTAL = re.compile(r"total|overall|\bwall|elapsed|altogether", re.IGNORECASE)
_TIME = re.compile(r"(?:time|seconds?|elapsed|took|secs?|duration)\W*$", re.IGNORECASE)
_FILE = re.compile(r"\S*[./\\]\S*[a-z]\S*", re.IGNORECASE)


@dataclass(frozen=True)
class Found:
    """A number in a log that may be a time, or a share that is done.

    line : which, from 0; begin, end : its place in that line; seconds : that it tells, or percent
    part : it is taken for, '' for none; pattern : that finds it again
    """

    line: int
    begin: int
    end: int
    text: str
    seconds: float
    part: str
    pattern: str


def times_in(log: str) -> list[Found]:
    """Return the numbers of a log that may be times or progress, in their order, each with what it is taken for.

    Of each part one number is taken: that of the last line which names it; a total only where no part is named better.

    Parameters
    ----------
    log : what a renderer printed
    """
    found = []
    for number, line in enumerate(log[-LONGEST_LOG:].splitlines()):
        stamp = _STAMP.match(line)
        begin = 0 if stamp is None or stamp.end() == len(line) else stamp.end()
        found += _in_line(number, line, begin)
    return _one_of_each(found)


def patterns_of(found: Sequence[Found]) -> dict[str, str]:
    """Return the pattern by part of what numbers are taken for, that of progress under 'progress'.

    Parameters
    ----------
    found : numbers of a log
    """
    return {f.part: f.pattern for f in found if f.part}


def taken_for(found: Sequence[Found], place: int, part: str) -> list[Found]:
    """Return the numbers with one of them taken for another part; no other stands for that part any more.

    Parameters
    ----------
    found : numbers of a log
    place : which of them
    part : of the seconds of a frame, 'progress', or '' for none
    """
    return [replace(f, part=part if k == place else "" if f.part == part else f.part) for k, f in enumerate(found)]


def with_patterns(link: Link, patterns: Mapping[str, str]) -> Link:
    """Return a link with patterns in place of those that it had.

    Parameters
    ----------
    link : the renderer link
    patterns : by part of the seconds of a frame, and 'progress'
    """
    seconds = {part: pattern for part, pattern in patterns.items() if part != PROGRESS}
    return msgspec.structs.replace(link, seconds=seconds, progress=patterns.get(PROGRESS, link.progress))


def _in_line(number: int, line: str, begin: int) -> list[Found]:
    out, label_from = [], begin
    for match in _FIND.finditer(line, begin):
        text, percent = match[0].strip(" ,"), _PERCENT.match(line, match.start())
        end = match.start() + len(text)
        label = before = line[label_from : match.start()]
        if not re.search("[a-z]", label, re.IGNORECASE):  # the words stand before another number
            label_from, label = begin, line[begin : match.start()]
        whole = label_from == begin
        if percent is not None:
            out.append(Found(number, match.start(), end, text, _figure(text), PROGRESS, _pattern(label, rf"({_NUMBER})\s?%", whole)))
            label_from = percent.end()
            continue
        form = next(k for k, name in enumerate("abcd") if match[name] is not None)
        seconds = read_seconds(text)
        # a number alone is a time where the words say so; with a unit or as a clock it always is one
        if seconds is not None and (form < 3 or _TIME.search(before)):
            part = _part(label, line[begin:], re.split(r"[,;|)\]]", line[end : end + 24])[0])
            out.append(Found(number, match.start(), end, text, seconds, part, _pattern(label, f"({_FORMS[form]})", whole)))
            label_from = match.end()
    return out


def _figure(text: str) -> float:
    return float(text.replace(",", "."))


def _part(label: str, line: str, after: str) -> str:
    """What a number is of: by the words before it, else by those after it, else by those of the line."""
    if _LEFT.search(label[-30:]):
        return ""
    if _STRONG_TOTAL.search(label) or _STRONG_TOTAL.search(after):
        return TOTAL
    for words in (label, after, line):
        # of several words the one nearest to the number counts
        at = [(max(m.start() for m in form.finditer(words)), part) for part, form in _PARTS if form.search(words)]
        named = [(place, part) for place, part in at if part != TOTAL]
        if named:
            return max(named)[1]
        if at and words is not line:
            return TOTAL
    return ""


def _pattern(label: str, number: str, whole: bool) -> str:
    """A pattern by the words before a number; where there are none by the beginning of the line."""
    words = label[-LONGEST_LABEL:]
    if len(words) < len(label):
        words = words[words.find(" ") + 1 :]
    # digits within the words, and names of files, change from frame to frame
    parts = [
        r"[0-9]+" if p.isdigit() else r"\s+" if p.isspace() else r"\S+" if _FILE.fullmatch(p) else re.escape(p)
        for p in re.findall(r"\s+|[^\s0-9]*[./\\][^\s]*[a-zA-Z][^\s]*|[0-9]+|[^\s0-9]+", words)
    ]
    head = "".join(parts)
    if not words.strip():
        return rf"(?m)^\s*{number}" if whole else number
    return rf"(?i){head.removeprefix(chr(92) + 's+')}{number}"


def _one_of_each(found: list[Found]) -> list[Found]:
    """Take one number for each part: the last that names it."""
    last = {f.part: f for f in found if f.part}
    if len({"sample", "load"} & set(last)) == 2 and TOTAL in last:
        del last[TOTAL]  # the parts tell more than their sum
    return [f if last.get(f.part) is f else replace(f, part="") for f in found]
