"""What finishing keeps of other frames: in memory up to a limit, beyond it on the disk, and the same bit by bit."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pytest

from hasty_reel.errors import PictureError
from hasty_reel.finish import shelf as shelf_module
from hasty_reel.finish.chain import Chain
from hasty_reel.finish.finisher import AT_ONCE, Finisher
from hasty_reel.finish.shelf import Shelf
from hasty_reel.pictures.frame import Picture

SIZE = (48, 64)


@dataclass(frozen=True)
class Pair:
    """Two arrays, as steps and surfaces hold them."""

    one: np.ndarray
    other: tuple[np.ndarray, int]


def some(k: int) -> Pair:
    """Eight thousand bytes of noise."""
    rng = np.random.default_rng(k)
    return Pair(rng.standard_normal((20, 25)), (rng.standard_normal((4, 1000)).astype(np.float32)[:, ::2][:, :500], k))


def test_what_is_put_away_comes_back_bit_by_bit():
    kept = Shelf(limit=30_000)
    for k in range(12):
        kept.get((k,), lambda k=k: some(k))
    assert kept.put_away >= 8
    for k in (0, 5, 11, 0):
        back = kept.get((k,), lambda: pytest.fail("it is kept"))
        assert np.array_equal(back.one, some(k).one) and np.array_equal(back.other[0], some(k).other[0]) and back.other[1] == k
        back.one[0, 0] = back.one[0, 0]  # and may be written to, as before
    assert kept.kept[-1] == (0,), "what was used last is put away last"
    for k in range(12):
        kept.drop((k,))
    assert kept.kept == [] and kept._bytes == 0


def test_without_a_limit_nothing_is_put_away():
    kept = Shelf()
    for k in range(12):
        kept.get((k,), lambda k=k: some(k))
    assert kept.put_away == 0


def test_a_full_disk_is_told_in_a_sentence(monkeypatch):
    def full(**_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(shelf_module.tempfile, "TemporaryFile", full)
    kept = Shelf(limit=1000)
    with pytest.raises(PictureError, match=r"cannot be put away there .*[Nn]o space left"):
        kept.get((1,), lambda: some(1))


@pytest.mark.parametrize("guided", [True, False])
def test_frames_come_out_the_same_whatever_memory_there_is(guided):
    rng = np.random.default_rng(5)
    planes = ("albedo.R", "albedo.G", "albedo.B", "normal.X", "normal.Y", "normal.Z", "Z")
    guides = dict.fromkeys(planes, np.full(SIZE, 0.5, np.float32)) if guided else {}
    guides |= {"motion.X": np.full(SIZE, 0.4, np.float32), "motion.Y": np.zeros(SIZE, np.float32)} if guided else {}
    frames = [Picture((0.4 + 0.1 * rng.standard_normal((*SIZE, 3))).astype(np.float32), guides) for _ in range(9)]
    chain = Chain(window=3, despike=True)
    at_once = AT_ONCE * SIZE[0] * SIZE[1]
    free, tight = (Finisher(chain, frames.__getitem__, memory=memory) for memory in (None, at_once + 100_000))
    for k in range(9):
        near = chain.needed(k, range(9))
        assert np.array_equal(free.finish(k, near).rgb, tight.finish(k, near).rgb)
    assert tight._shelf.put_away > 20 and free._shelf.put_away == 0


def test_the_command_line_takes_and_keeps_a_limit(call, tmp_path: Path):
    status, out = call("limits", "--finish-memory", "3", "--json")[:2]
    assert status == 0 and '"finish_memory_gb": 3.0' in out.replace('":3', '": 3')
    assert call("limits", "--finish-memory", "0.1")[0] == 2
    assert call("finish", str(tmp_path / "a.####.exr"), "--out", str(tmp_path / "b.####.exr"), "--memory", "0")[0] == 2
    assert call("limits", "--finish-memory", "2")[0] == 0
