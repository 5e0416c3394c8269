"""How the third stand-in, which stays open, is linked."""

from __future__ import annotations

import sys
from pathlib import Path

import pytest

from hasty_reel.farm.renderers import close_sessions, session_of
from hasty_reel.farm.renderers.links import Link

OPEN = Link(name="Open stand-in", command=(sys.executable, str(Path(__file__).with_name("open_renderer.py"))), stays=True, timeout=30.0)


class OpenRenderer:
    """The stand-in with a log of what it did; told(...) sets what it is to do: faults, load, cache, sample, can, once."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch, folder: Path) -> None:
        self._monkeypatch, self._log = monkeypatch, folder / "open.log"
        self.told(log=str(self._log))

    def told(self, **how: object) -> OpenRenderer:
        for name, value in how.items():
            self._monkeypatch.setenv(f"OPEN_{name.upper()}", str(value))
        return self

    def session(self, link: Link = OPEN):
        return session_of(link)

    def did(self, kind: str = "") -> list[str]:
        """What it did, in order, without process numbers."""
        lines = self._log.read_text().splitlines() if self._log.exists() else []
        return [words for words in (line.partition(" ")[2] for line in lines) if words.startswith(kind)]

    def processes(self) -> int:
        """How many processes did something."""
        return len({line.split()[0] for line in self._log.read_text().splitlines()})


@pytest.fixture
def open_renderer(monkeypatch, tmp_path):
    close_sessions()  # one that is open has the environment of before
    yield OpenRenderer(monkeypatch, tmp_path)
    close_sessions()
