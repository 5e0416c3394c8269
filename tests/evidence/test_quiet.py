"""Proofs that were made while the machine was busy, set right by their yardsticks."""

from __future__ import annotations

import msgspec
import pytest

from hasty_reel.evidence.quiet import as_quiet, quiet_yardstick, slowness, speed_words
from hasty_reel.plan.outlook import quiet_of
from hasty_reel.predict.model import ShotModel


def busy(evidence, times, others=0.5):
    """Evidence whose first proof was made while the machine was so many times slower."""
    proofs = tuple(msgspec.structs.replace(p, yardstick=others * (times if k == 0 else 1.0)) for k, p in enumerate(evidence.proofs))
    parts = ("load_seconds", "cache_seconds", "sample_seconds", "write_seconds")
    first = proofs[0].id
    rows = tuple(type(r)(**{**r.__dict__, **{n: getattr(r, n) * times for n in parts}}) if r.proof == first else r for r in evidence.frames)
    return type(evidence)(**{**evidence.__dict__, "proofs": proofs, "frames": rows})


def test_what_a_busy_machine_did_is_taken_back(demo_evidence):
    """The first proof of the demo made 1.6 times slower: what its yardstick gives back is all but the 6 % that may be chance."""
    evidence = demo_evidence["sh010"]
    slow = busy(evidence, 1.6)
    quiet = quiet_of({"sh010": slow})
    assert quiet == pytest.approx(0.5, rel=1e-6)
    frames = range(1001, 1097)
    was, off, back = (ShotModel(e, frames).at(evidence.frames[0].recipe).cost.sum() for e in (evidence, slow, as_quiet(slow, quiet)))
    assert off > 1.1 * was and back == pytest.approx(was, rel=0.05)


def test_chance_is_left_alone_and_the_rest_is_said():
    assert slowness(0.51, 0.5) == 1.0 and slowness(0.0, 0.5) == 1.0 and slowness(0.5, 0.0) == 1.0
    assert slowness(0.85, 0.5) == pytest.approx(1.6, rel=0.01) and slowness(0.25, 0.5) == pytest.approx(0.53, rel=0.01)
    assert speed_words(0.85, 0.5) == "this machine is 1.6 times slower than when the proofs were made"
    assert speed_words(0.25, 0.5) == "this machine is 1.9 times faster than when the proofs were made"
    assert speed_words(0.5, 0.5).endswith("as fast as when the proofs were made") and speed_words(0.5, 0.0) == ""
    assert quiet_yardstick([]) == 0.0


def test_evidence_without_yardsticks_stays_as_it_is(demo_evidence):
    evidence = demo_evidence["sh010"]
    without = type(evidence)(**{**evidence.__dict__, "proofs": tuple(msgspec.structs.replace(p, yardstick=0.0) for p in evidence.proofs)})
    assert as_quiet(without, quiet_of({"a": without})) is without
