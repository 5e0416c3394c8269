"""The yardstick on this machine: alike when nothing changed, and what workers do together is measured."""

from __future__ import annotations

from hasty_reel.farm import yardstick
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.proofs import make_proof
from hasty_reel.reel.file import read_reel


def test_it_is_taken_once_in_two_minutes_and_kept_with_each_proof(small_path, tmp_path, monkeypatch):
    taken = []
    monkeypatch.setattr(yardstick, "yardstick_seconds", lambda cancel=None: taken.append(1) or 0.37)
    monkeypatch.setattr(yardstick, "_last", (-yardstick.KEPT - 1e9, 0.0))
    small_reel = read_reel(small_path)
    shot = small_reel.shot("sh010")
    order = ProofOrder(shot, small_reel.recipe_of(shot), (1001,), 1, 25.0, seeds=1)
    made = [make_proof(small_reel, tmp_path / "proofs", order, yardstick=yardstick.recent_yardstick) for _ in range(2)]
    assert [p.yardstick for p in made] == [0.37, 0.37] and len(taken) == 1


def test_workers_together_do_more_than_half_and_no_more_than_their_number():
    assert yardstick.together(1) == 1.0
    assert 0.4 < yardstick.together(2) < 2.2
