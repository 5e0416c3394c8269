"""Finding anything by typing part of it: commands, stages and pages, settings, shots, a frame by its number, reels opened lately."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial

MOST = 60
"""Things that are listed at once: more of them nobody reads."""


LEAST = 3
"""Letters that a word must have to be looked for in what is said of a thing, beyond its name."""


@dataclass(frozen=True)
class Findable:
    """Something that can be gone to or done.

    words : its name; kind : what it is, in a word or two; keys : its shortcut, '' for none; act : goes there, or does it
    more : other words under which it is found
    """

    words: str
    kind: str
    keys: str
    act: Callable[[], object]
    more: str = ""


def found_by(text: str, things: Sequence[Findable]) -> list[Findable]:
    """Return what a text finds, best first: every word of it stands somewhere in its name.

    What begins with the text comes first, then what has a word that begins so, then the rest, each in the order given.

    Parameters
    ----------
    text : as typed
    things : that there are
    """
    typed = text.lower().split()
    if not typed:
        return list(things[:MOST])
    ranked = []
    for place, thing in enumerate(things):
        name = thing.words.lower()
        whole, more = f"{name} {thing.kind}".lower(), thing.more.lower()
        if not all(word in whole or (len(word) >= LEAST and word in more) for word in typed):
            continue
        begins = name.startswith(" ".join(typed))
        inside = all(any(part.startswith(word) for part in name.split()) for word in typed)
        ranked.append((0 if begins else 1 if inside else 2, place, thing))
    return [thing for _, _, thing in sorted(ranked, key=lambda r: r[:2])][:MOST]


def frames_found(text: str, shots: Sequence[tuple[str, int, int]], go: Callable[[str, int], object]) -> list[Findable]:
    """Return the frames that a typed number names, one for each shot that has it.

    Parameters
    ----------
    text : as typed
    shots : id, first and last frame of each, the one that is looked at first
    go : is told shot and frame
    """
    number = text.strip().removeprefix("frame").strip()
    if not number.isdigit():
        return []
    frame = int(number)
    there = [shot for shot, first, last in shots if first <= frame <= last]
    return [Findable(f"Frame {frame} of {shot}", "frame", "", partial(go, shot, frame)) for shot in there]
