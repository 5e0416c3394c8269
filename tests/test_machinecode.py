"""The machine code of the kernels: known to be there or not, and made beside the program."""

from __future__ import annotations

import time

import numpy as np
import pytest

from hasty_reel import machinecode
from hasty_reel.budget.relax import fast_sweeps, relax, sweeps
from hasty_reel.errors import Stopped
from hasty_reel.work import CancelToken


@pytest.fixture
def empty(tmp_path, monkeypatch):
    monkeypatch.setenv("NUMBA_CACHE_DIR", str(tmp_path / "kernels"))
    return tmp_path / "kernels"


def test_it_is_there_once_it_was_marked_for_this_processor_and_compiler(empty, monkeypatch):
    assert not machinecode.is_prepared() and machinecode.place() == empty
    machinecode.mark_prepared()
    assert machinecode.is_prepared()
    monkeypatch.setattr(machinecode, "version", lambda name: "another")
    assert not machinecode.is_prepared()
    (empty / machinecode.READY).write_bytes(b"\xff\xfe")
    assert not machinecode.is_prepared()


def test_a_changed_kernel_is_noticed_however_deep_it_lies(tmp_path):
    """Else old machine code would run for it."""
    path = tmp_path / "measure" / "causes" / "deep.py"
    path.parent.mkdir(parents=True)
    seen = set()
    for text in ("@njit()\ndef a(): pass\n", "@njit()\ndef b(): pass\n"):
        path.write_text(text)
        seen.add(machinecode.fingerprint(tmp_path))
    path.with_name("plain.py").write_text("def c(): pass\n")
    assert len({*seen, machinecode.fingerprint(tmp_path)}) == 2, "what is no kernel does not count"


def test_its_share_is_that_of_the_kernels_that_are_there(empty):
    assert machinecode.share_prepared() == 0.0
    empty.mkdir()
    for k in range(10):
        (empty / f"{k}.nbi").touch()
    assert 0.1 < machinecode.share_prepared() < 0.9, "ten of some fifty"
    for k in range(500):
        (empty / f"{k}.nbi").touch()
    assert machinecode.share_prepared() == 0.99, "not all until it is marked"


def test_preparing_tells_how_far_it_is_and_stops_when_asked(empty):
    """The real compiler in a process of its own, ended after its first words."""
    cancel, told = CancelToken(), []

    def progress(share: float, words: str) -> None:
        told.append((share, words))
        cancel.cancel()

    with pytest.raises(Stopped):
        machinecode.prepare(progress, cancel)
    assert told[0][1] == "Preparing the renderer, about a minute, once" and not machinecode.is_prepared()


def test_a_second_wish_costs_nothing(empty):
    machinecode.mark_prepared()
    assert machinecode.prepare(lambda share, words: pytest.fail("nothing is to be done"))


def test_sweeps_with_and_without_the_compiler_are_the_same():
    rng = np.random.default_rng(4)
    variance = rng.uniform(0.001, 0.1, 300)
    low = np.full(300, 4)
    samples = rng.integers(4, 512, 300) // 4 * 4
    plain, fast, taken = samples.copy(), samples.copy(), samples.tolist()
    relax(plain, variance, low, 4, 1.25, np.inf)
    fast_sweeps()(fast, variance, low, 4, 1.25, np.inf)
    sweeps(taken, variance.tolist(), low.tolist(), 4, 1.25, np.inf)
    assert (plain == fast).all() and plain.tolist() == taken and (plain < samples).any()
    began = time.perf_counter()
    many = np.tile(samples, 20)
    relax(many, np.tile(variance, 20), np.tile(low, 20), 4, 1.25, np.inf)
    assert (many <= np.tile(samples, 20)).all() and time.perf_counter() - began < 60
