"""A proof's folder has one writer; what a killed one left is cleared away by the next."""

from __future__ import annotations

import os
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor

import pytest

from hasty_reel.errors import WrongInput
from hasty_reel.evidence.proof import MANIFEST
from hasty_reel.farm.claim import new_proof_folder
from hasty_reel.wholefile import clear_folder, part_of, writer_lives


def dead_process() -> int:
    gone = subprocess.Popen([sys.executable, "-c", ""])
    gone.wait()
    return gone.pid


def test_many_writers_at_once_get_folders_of_their_own(tmp_path):
    def take(_: int) -> str:
        with new_proof_folder(tmp_path / "proofs", "sh010") as folder:
            (folder / MANIFEST).write_text("{}")
            return folder.name

    with ThreadPoolExecutor(8) as pool:
        names = list(pool.map(take, range(40)))
    assert sorted(names) == [f"p{k:03d}" for k in range(1, 41)]
    assert not [p for p in (tmp_path / "proofs" / "sh010").iterdir() if p.name.startswith(".")], "no claim stays behind"


def test_two_commands_at_once_do_not_share_a_folder(small_path):
    """Each renders three frames into a proof of its own; before, one overwrote the other's manifest."""
    command = [sys.executable, "-m", "hasty_reel", "proof", str(small_path), "--shot", "sh010", "--samples", "1", "--scale", "20"]
    both = [subprocess.Popen([*command, "--frames", f], stdout=subprocess.DEVNULL) for f in ("1001-1003", "1005-1007")]
    assert [p.wait(timeout=120) for p in both] == [0, 0]
    from hasty_reel.evidence.rows import EvidenceReader
    from hasty_reel.reel.file import read_reel

    evidence = EvidenceReader().read(small_path.parent / "proofs", read_reel(small_path).shot("sh010"))
    new = {r.frame for r in evidence.frames if r.proof in ("p023", "p024")}
    assert new == {1001, 1002, 1003, 1005, 1006, 1007} and evidence.faults == ()


def test_a_folder_without_a_manifest_is_removed_when_its_writer_fails(tmp_path):
    with pytest.raises(KeyError), new_proof_folder(tmp_path / "proofs", "sh010") as folder:
        (folder / "half.exr").write_text("x")
        raise KeyError("stop")
    assert list((tmp_path / "proofs" / "sh010").iterdir()) == []


def test_what_killed_writers_left_is_cleared_by_the_next(tmp_path):
    base = tmp_path / "proofs" / "sh010"
    gone = dead_process()
    for name, frames in (("p001", False), ("p002", True), ("p003", False)):
        folder = base / name
        folder.mkdir(parents=True)
        owner = os.getpid() if name == "p003" else gone
        (base / part_of(folder).name.replace(str(os.getpid()), str(owner))).touch()
        (folder / part_of(folder / "a.exr").name.replace(str(os.getpid()), str(owner))).touch()
        if frames:
            (folder / MANIFEST).write_text("{}")
    with new_proof_folder(tmp_path / "proofs", "sh010") as folder:
        assert folder.name == "p004"
    left = sorted(p.name for p in base.iterdir() if not p.name.startswith("."))
    assert left == ["p002", "p003"], "the folder of a writer at work stays, that of a dead one without frames goes"
    assert [p.name for p in (base / "p002").iterdir()] == [MANIFEST] and len(list((base / "p003").iterdir())) == 1


def test_parts_of_other_machines_and_of_the_living_stay(tmp_path):
    own = part_of(tmp_path / "a.exr")
    dead = own.with_name(own.name.replace(str(os.getpid()), str(dead_process())))
    other = own.with_name(".a.exr.elsewhere-1.part")
    mine = tmp_path / ".a.part"
    for path in (own, dead, other, mine):
        path.touch()
    clear_folder(tmp_path)
    assert {p.name for p in tmp_path.iterdir()} == {own.name, other.name, mine.name}
    assert writer_lives(own.name) and not writer_lives(dead.name) and not writer_lives("a.exr")


def test_a_removed_reel_folder_is_not_made_again(tmp_path):
    with pytest.raises(WrongInput, match="a proof cannot be kept there"), new_proof_folder(tmp_path / "gone" / "proofs", "sh010"):
        pass
    assert not (tmp_path / "gone").exists()
