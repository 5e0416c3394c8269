"""Finished looks on the disk: found again by what made them, and within a bound."""

from __future__ import annotations

import os

import numpy as np

from hasty_reel.farm import keptlooks
from hasty_reel.farm.atsamples import run_to_look_at
from hasty_reel.farm.keptlooks import KeptLooks
from hasty_reel.finish.chain import Chain


def test_a_look_is_found_again_by_all_that_makes_it(demo_reel, demo_evidence, tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    run = run_to_look_at(demo_evidence["sh020"], demo_reel.shot("sh020"))
    codes = np.random.default_rng(1).integers(0, 255, (9, 16, 3), np.uint8)
    looks = KeptLooks.of(run, Chain(window=5), 64.0)
    assert looks.get(1040) is None
    looks.keep(1040, codes)
    assert np.array_equal(KeptLooks.of(run, Chain(window=5), 64.0).get(1040), codes)
    for other in (KeptLooks.of(run, Chain(window=3), 64.0), KeptLooks.of(run, Chain(window=5), 65.0)):
        assert other.get(1040) is None


def test_beyond_the_bound_those_used_longest_ago_go(tmp_path, monkeypatch):
    monkeypatch.setattr(keptlooks, "MOST_BYTES", 2000)
    codes = np.random.default_rng(1).integers(0, 255, (20, 20, 3), np.uint8)
    old, new = KeptLooks(tmp_path / "old"), KeptLooks(tmp_path / "new")
    old.keep(1, codes)
    os.utime(tmp_path / "old" / "1.png", (1, 1))
    new.keep(1, codes)
    assert old.get(1) is None and np.array_equal(new.get(1), codes)
    (tmp_path / "file").write_text("in the way")
    KeptLooks(tmp_path / "file").keep(1, codes)  # a disk that takes nothing is no fault
