"""Figures kept beside a proof: the same as measured anew, measured anew when the pictures change, done without when broken."""

from __future__ import annotations

import json
import os
import shutil
from pathlib import Path

import numpy as np
import pytest

from hasty_reel.demo import SOURCE
from hasty_reel.evidence import rows as evidence
from hasty_reel.evidence.measured import MEASURED
from hasty_reel.evidence.proof import read_proof
from hasty_reel.evidence.rows import Evidence, EvidenceReader, ProofFrame
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.pictures.writing import write_picture

FIGURES = ("variance", "worst_variance", "spark_noise", "lightness_noise", "contrast_noise", "noise_linear", "noise_L")


@pytest.fixture
def root(tmp_path: Path, demo_reel) -> Path:
    """Two proofs of the demo reel alone, with nothing kept beside them."""
    for proof in ("p001", "p015"):
        shutil.copytree(SOURCE / "proofs" / "sh010" / proof, tmp_path / "proofs" / "sh010" / proof)
        (tmp_path / "proofs" / "sh010" / proof / MEASURED).unlink(missing_ok=True)
    return tmp_path / "proofs"


def _read(root: Path, demo_reel) -> Evidence:
    return EvidenceReader().read(root, demo_reel.shot("sh010"))


def _same(one: ProofFrame, two: ProofFrame) -> None:
    for name in FIGURES:
        np.testing.assert_allclose(getattr(one, name), getattr(two, name), rtol=1e-6, err_msg=f"{one.proof} frame {one.frame}: {name}")


def test_what_ships_beside_the_demo_proofs_is_what_is_measured(demo_reel, tmp_path):
    """A change of the measures shows here: raise the format and measure the demo anew."""
    for shot in demo_reel.shots:
        for folder in (SOURCE / "proofs" / shot.proofs).iterdir():
            target = tmp_path / shot.proofs / folder.name
            small = read_proof(folder).small > 1  # of these nothing is left to measure
            shutil.copytree(folder, target, ignore=None if small else shutil.ignore_patterns(MEASURED))
        fresh = EvidenceReader().read(tmp_path, shot).frames
        kept = EvidenceReader().read(SOURCE / "proofs", shot).frames
        assert len(fresh) == len(kept) > 0
        for one, two in zip(fresh, kept):
            _same(one, two)


def test_a_proof_is_measured_once_in_its_life(root, demo_reel, monkeypatch):
    first = _read(root, demo_reel)
    assert (root / "sh010" / "p001" / MEASURED).is_file()
    # one seed has nothing to measure
    assert not (root / "sh010" / "p018" / MEASURED).exists()

    def read_again(path, *more):
        raise AssertionError(f"{path} was read again")

    monkeypatch.setattr(evidence, "read_picture", read_again)
    again = _read(root, demo_reel)
    for one, two in zip(first.frames, again.frames, strict=True):
        _same(one, two)
    # another time stamp is no other picture: a copy of the reel is not measured anew
    for path in (root / "sh010" / "p001").glob("*.exr"):
        os.utime(path, ns=(1, 1))
    assert _read(root, demo_reel).faults == ()


def test_another_picture_in_the_same_place_is_measured_anew(root, demo_reel):
    first = _read(root, demo_reel)
    row = next(r for r in first.frames if r.proof == "p001")
    picture = read_picture(row.picture)
    write_picture(row.picture, Picture(picture.rgb * 0.0, picture.guides, picture.attributes))
    again = next(r for r in _read(root, demo_reel).frames if r.proof == "p001")
    assert again.noise_linear > 1.2 * row.noise_linear
    np.testing.assert_allclose(next(r for r in _read(root, demo_reel).frames if r.proof == "p001").noise_linear, again.noise_linear)


@pytest.mark.parametrize("raw", [b"", b"{", b'{"measured_format": 99, "rows": []}', b"\xff\xfe", b'{"measured_format": 1, "rows": [3]}'])
def test_a_broken_file_is_measured_over(root, demo_reel, raw):
    kept = root / "sh010" / "p001" / MEASURED
    kept.write_bytes(raw)
    found = _read(root, demo_reel)
    assert found.faults == () and all(np.isfinite(r.noise_linear) for r in found.frames if r.proof == "p001")
    assert json.loads(kept.read_text())["rows"]


def test_where_nothing_can_be_written_it_is_measured_each_time(root, demo_reel, monkeypatch):
    def full(*args, **more):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("hasty_reel.evidence.measured.write_whole", full)
    found = _read(root, demo_reel)
    assert found.faults == () and not (root / "sh010" / "p001" / MEASURED).exists()
