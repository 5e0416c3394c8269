"""Only regular files are read, up to a stated size; every reader says in one sentence what was wrong."""

from __future__ import annotations

import os
import socket
from fractions import Fraction
from pathlib import Path

import pytest

from hasty_reel.cli.answers import read_table
from hasty_reel.errors import LONGEST_MESSAGE, HastyReelError, WrongInput, one_line, reason
from hasty_reel.evidence.proof import read_effects, read_proof
from hasty_reel.farm.renderers.links import LINKS
from hasty_reel.farm.times import read_log, read_times
from hasty_reel.measure.eyesight import WATCHERS
from hasty_reel.own.draftcuts import DRAFT_CUTS
from hasty_reel.own.recentreels import recent_reels
from hasty_reel.pictures.frame import read_header, read_picture
from hasty_reel.reel.file import read_reel
from hasty_reel.reel.shottable import read_table as read_shots
from hasty_reel.reel.timeline import read_timeline
from hasty_reel.regularfile import read_regular, size_text

READERS = {
    "reel": read_reel,
    "shots": lambda p: read_shots(p, "s", "r"),
    "timeline": lambda p: read_timeline(p, Fraction(24), "s", "r"),
    "times": read_times,
    "log": lambda p: read_log(p, r"(?P<frame>\d+) (?P<seconds>\d+)"),
    "budget": lambda p: read_table(p, ("frame",), ()),
    "links": LINKS.read,
    "cuts": DRAFT_CUTS.read,
    "watchers": WATCHERS.read,
    "picture": read_picture,
    "head": read_header,
    "manifest": lambda p: read_proof(_as(p, "proof.json")),
    "effects": lambda p: read_effects(_as(p, "denoise.json")),
}


def _as(path: Path, name: str) -> Path:
    """A proof folder in which a file of a proof leads to `path`."""
    folder = path.parent / f"proof-{path.name}"
    folder.mkdir(exist_ok=True)
    (folder / name).symlink_to(path)
    return folder


@pytest.fixture
def odd(tmp_path: Path) -> dict[str, Path]:
    """What a path may lead to that is no file."""
    fifo, sock, folder = tmp_path / "fifo", tmp_path / "sock", tmp_path / "folder"
    os.mkfifo(fifo)
    folder.mkdir()
    with socket.socket(socket.AF_UNIX) as bound:
        bound.bind(str(sock))
    device = tmp_path / "zero"
    device.symlink_to("/dev/zero")
    return {"pipe": fifo, "socket": sock, "folder": folder, "device": device}


@pytest.mark.parametrize("kind", ["pipe", "socket", "folder", "device"])
@pytest.mark.parametrize("reader", READERS)
def test_what_is_no_regular_file_is_told_at_once(reader, kind, odd):
    with pytest.raises(HastyReelError) as raised:
        READERS[reader](odd[kind])
    words = str(raised.value)
    assert kind in words and "expected" in words


def test_a_list_of_recent_reels_that_is_a_pipe_is_no_list(odd):
    assert recent_reels(odd["pipe"]) == []


def test_a_file_above_its_size_is_not_read(tmp_path):
    path = tmp_path / "large"
    with open(path, "wb") as stream:
        stream.truncate(5000)
    with pytest.raises(WrongInput, match="larger than 4 KiB; expected a table"):
        read_regular(path, 4096, "a table")
    assert len(read_regular(path, 5000, "a table")) == 5000
    assert [size_text(n) for n in (64 << 20, 8 << 30, 1000)] == ["64 MiB", "8 GiB", "1000 bytes"]


def test_a_reason_is_never_empty_and_a_message_is_one_short_line():
    assert reason(OSError()) == "OSError" and reason(MemoryError()) == "out of memory"
    assert reason(OSError(28, "No space left on device")) == "No space left on device"
    long = one_line("a\nb\x1b[31m" + "x" * 1000 + "end")
    assert len(long) <= LONGEST_MESSAGE and "\n" not in long and "\x1b" not in long and long.endswith("end")
    assert one_line("short") == "short"
