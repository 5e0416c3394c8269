"""The renderer's machine code is made beside everything else, and proofs wait for it."""

from __future__ import annotations

import threading

import pytest

from hasty_reel.errors import Stopped
from hasty_reel.studio.background import Background
from hasty_reel.studio.preparing import Preparing


def test_the_first_proof_waits_for_the_renderer_and_says_so(loop, monkeypatch):
    gate = threading.Event()
    monkeypatch.setattr("hasty_reel.studio.preparing.is_prepared", lambda: False)
    monkeypatch.setattr("hasty_reel.studio.preparing.prepare", lambda tell, cancel: (tell(0.35, "x"), gate.wait(20)))
    background = Background(loop.events)
    preparing = Preparing(background)
    preparing.begin()
    said: list[str] = []
    waiting = threading.Thread(target=lambda: preparing.wait(said.append))
    waiting.start()
    loop.until(lambda: any("35 %" in w for w in said))
    assert said[-1] == "Preparing the renderer, about a minute, once: 35 %" == preparing.words
    gate.set()
    loop.until(lambda: not waiting.is_alive())
    assert preparing.words == ""
    background.stop_all()


def test_a_part_that_is_there_is_not_waited_for(loop, monkeypatch):
    there: set[str] = set()
    monkeypatch.setattr("hasty_reel.studio.preparing.is_prepared", lambda part="ready": part in there)
    preparing = Preparing(Background(loop.events))
    told: list[str] = []

    def tell(words: str) -> None:
        told.append(words)
        there.add("dial")

    preparing.wait(tell, "dial")
    assert told and preparing.words, "the rest is still on its way"
    with pytest.raises(Stopped):
        preparing.wait(_leave)


def _leave(words: str) -> None:
    raise Stopped("enough")
