"""The yardstick on this machine: alike when nothing changed, and what workers do together is measured."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from hasty_reel.farm import proofs, yardstick
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.proofs import make_proof
from hasty_reel.reel.file import read_reel


def test_it_is_taken_around_and_within_a_proof_and_its_spread_is_kept(small_path, tmp_path, monkeypatch):
    taken = []
    monkeypatch.setattr(yardstick, "short_yardsticks", lambda cancel=None, times=1: taken.append(1) or (0.3, 0.4))
    monkeypatch.setattr(yardstick, "_last", (-yardstick.KEPT - 1e9, ()))
    small_reel = read_reel(small_path)
    shot = small_reel.shot("sh010")
    order = ProofOrder(shot, small_reel.recipe_of(shot), (1001,), 1, 25.0, seeds=1)
    made = [make_proof(small_reel, tmp_path / "proofs", order, yardstick=yardstick.recent_yardsticks) for _ in range(2)]
    assert [p.yardstick for p in made] == [pytest.approx(0.35)] * 2 and len(taken) == 1
    assert made[0].yardstick_spread == pytest.approx(np.log(0.4 / 0.3) / 2)
    monkeypatch.setattr(proofs, "OFTEN", -1.0)  # a proof so long that each frame has one before it
    told = iter([(0.2,), (0.2,), (0.8,), (0.8,)])
    long = make_proof(small_reel, tmp_path / "proofs", replace(order, frames=(1001, 1002, 1003)), yardstick=lambda cancel: next(told))
    assert long.yardstick == pytest.approx(0.5) and long.yardstick_spread == pytest.approx(np.log(4.0) / 2)


def test_short_ones_have_the_samples_of_the_whole_one():
    assert yardstick.PARTS * yardstick._PART.samples == yardstick.JOB.samples


def test_workers_together_are_counted_by_the_frames_they_render_in_the_time_of_one(monkeypatch):
    assert yardstick.together(1) == 1.0
    rendered, clock = [], iter((100.0, 100.0 + 2.5 * yardstick.TIMES))
    monkeypatch.setattr(yardstick, "yardstick_seconds", lambda cancel: 2.0)
    monkeypatch.setattr(yardstick, "render_on_bench", lambda job, **more: rendered.append(job))
    monkeypatch.setattr(yardstick.time, "perf_counter", lambda: next(clock))
    # two at once take 2.5 s a frame each, one alone 2.0 s: as many frames as 1.6 workers would alone
    assert yardstick.together(2) == pytest.approx(1.6) and len(rendered) == 2 * yardstick.TIMES
