"""The guide that ships with the program: its pages, what is found in them, and what a word on the screen means."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cache
from pathlib import Path

FOLDER = Path(__file__).parent.parent / "guide"
ORDER = ("start", "example-demo", "example-own", "brief", "proofs", "compare", "budget", "finish", "output", "run", "words")
"""Pages in the order in which they are listed."""
FEWEST = 2
"""Letters that are looked for at least."""


@dataclass(frozen=True)
class Page:
    """A page of the guide.

    name : of its file; title : its first heading; text : Markdown
    """

    name: str
    title: str
    text: str


@cache
def pages() -> tuple[Page, ...]:
    """Return the pages, in the order in which they are read."""
    out = []
    for name in ORDER:
        text = (FOLDER / f"{name}.md").read_text(encoding="utf-8")
        out.append(Page(name, text.splitlines()[0].lstrip("# "), text))
    return tuple(out)


def page(name: str) -> Page:
    """Return a page; the first one where there is none of that name.

    Parameters
    ----------
    name : of its file, with or without the ending
    """
    wanted = name.lower().removesuffix(".md")
    return next((p for p in pages() if p.name == wanted), pages()[0])


def found(text: str) -> list[Page]:
    """Return the pages that hold all words of a text, those with them in a heading first.

    Parameters
    ----------
    text : as typed
    """
    words = text.lower().split()
    if not words or len(text.strip()) < FEWEST:
        return list(pages())
    hits = [p for p in pages() if all(w in p.text.lower() for w in words)]

    def _headed(one: Page) -> bool:
        headings = " ".join(line for line in one.text.lower().splitlines() if line.startswith("#"))
        return all(w in headings for w in words)

    return sorted(hits, key=lambda p: not _headed(p))


@cache
def meanings() -> dict[str, str]:
    """Return what each word means, in a sentence or two, by the word in small letters."""
    parts = re.split(r"^## ", page("words").text, flags=re.MULTILINE)[1:]
    return {head.strip().lower(): " ".join(body.split()) for head, _, body in (part.partition("\n") for part in parts)}


def meant_by(text: str, most: int = 3) -> list[tuple[str, str]]:
    """Return the words of the guide that stand in a text of the screen, with what they mean; longer words first.

    Parameters
    ----------
    text : that somebody points at
    most : words that are told
    """
    told: list[tuple[str, str]] = []
    rest = text.lower()
    for word in sorted(meanings(), key=len, reverse=True):
        pattern = rf"\b{re.escape(word)}s?\b"
        if re.search(pattern, rest):
            told.append((word, meanings()[word]))
            rest = re.sub(pattern, " ", rest)
    return told[:most]
