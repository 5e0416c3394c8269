"""Models without a window: an event loop of their own, and what they tell."""

from __future__ import annotations

import asyncio
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from hasty_reel.studio.session import Session


class Loop:
    """The event loop of asyncio, turned until something is so."""

    def __init__(self) -> None:
        self.events = asyncio.new_event_loop()

    def until(self, so: Callable[[], object], seconds: float = 20.0) -> None:
        """Turn the loop until something is so."""
        end = time.monotonic() + seconds
        while not so():
            assert time.monotonic() < end, "it never came to be so"
            self.events.run_until_complete(asyncio.sleep(0.005))

    def turn(self) -> None:
        """Turn the loop once or twice."""
        self.events.run_until_complete(asyncio.sleep(0.01))


@pytest.fixture
def loop() -> Iterator[Loop]:
    loop = Loop()
    yield loop
    loop.events.close()


@pytest.fixture
def open_session(loop: Loop) -> Iterator[Callable[[Path], Session]]:
    """Open reels without a window; what is said is kept in `session.heard`."""
    opened: list[Session] = []

    def open_(path: Path) -> Session:
        session = Session(path, loop.events)
        session.heard = []  # type: ignore[attr-defined]
        session.said.connect(lambda words: session.heard.append(words))  # type: ignore[attr-defined]
        opened.append(session)
        return session

    yield open_
    for session in opened:
        session.background.stop_all()
        session.close()


@pytest.fixture
def session(open_session, loop, demo_path: Path) -> Session:
    """The demo reel, open, with its evidence read and its plan made."""
    session = open_session(demo_path)
    session.read_evidence()
    loop.until(lambda: session.plan is not None and not session.planner.stale)
    return session
