"""Nothing is imported from the folder that one is in: files planted beside a reel never run."""

from __future__ import annotations

import subprocess
from fractions import Fraction

import numpy as np
import pytest

from hasty_reel.handover.pdf import as_pdf
from hasty_reel.measure.flipprocess import flip_in_process
from hasty_reel.ownprocess import own_module
from hasty_reel.programs.commands import find_program
from hasty_reel.programs.watched import Watch, run_watched
from hasty_reel.reel.edits import with_frames
from hasty_reel.reel.timeline import read_timeline, write_timeline
from hasty_reel.work import silent


@pytest.fixture
def planted(tmp_path, monkeypatch):
    """A folder with files that are called as our package and as a library, and one is in it."""
    marker = tmp_path / "it ran"
    beside = tmp_path / "beside"
    (beside / "hasty_reel").mkdir(parents=True)
    for path in (beside / "hasty_reel" / "__init__.py", *(beside / f"{n}.py" for n in ("random", "json", "numpy", "msgspec", "psutil"))):
        path.write_text(f"open({str(marker)!r}, 'w').close()\nraise SystemExit(3)\n")
    monkeypatch.chdir(beside)
    yield marker
    assert not marker.exists()


def test_the_timeline_is_read_in_a_clean_process(planted, demo_reel, tmp_path):
    path = tmp_path / "film.otio"
    write_timeline(path, with_frames(demo_reel, "sh010", 1001, 1010), {})
    assert read_timeline(path, Fraction(24), "lamp_wakes", "Final")


def test_flip_is_computed_in_a_clean_process(planted):
    a = np.random.default_rng(1).random((32, 32, 3)).astype(np.float32)
    assert flip_in_process(a, a, 30.0).max() == pytest.approx(0.0, abs=1e-6)


def test_a_page_is_laid_out_in_a_clean_process(planted):
    assert as_pdf("<html><head></head><body>Tidal Orrery</body></html>")[:5] == b"%PDF-"


@pytest.mark.parametrize("module, arguments", [("hasty_reel.warm", ["--beside"]), ("hasty_reel.bench", ["scenes"])])
def test_our_own_programs_are_started_clean(planted, module, arguments):
    done = subprocess.run([*own_module(module), *arguments], capture_output=True, text=True, timeout=300)
    assert done.returncode == 0, done.stderr


def test_a_link_to_our_renderer_and_its_warden_are_started_clean(planted):
    ended = run_watched(find_program(["hasty-bench", "scenes"]), Watch("renderer", "x", 60.0), "Frame 1", silent, None)
    assert ended.status == 0 and "lamp_wakes" in ended.messages
