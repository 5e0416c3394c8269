"""The newcomer's path: from an empty home to a film with a renderer that the program never saw, by the lines that the documents print."""

from __future__ import annotations

import os
import re
import subprocess
import sys
from pathlib import Path

import av

from hasty_reel.machinecode import place
from second_link import PROGRAM

DOCUMENT = Path(__file__).parent.parent / "docs" / "renderers.md"


def printed_commands() -> list[str]:
    """The lines of the first block of commands."""
    part = DOCUMENT.read_text(encoding="utf-8").partition("## From nothing to a film")[2].partition("## A link")[0]
    return re.findall(r"^ {4}(hasty-reel .*)$", part, re.MULTILINE)


def test_the_lines_of_the_document_lead_from_an_empty_home_to_a_film(tmp_path):
    home, programs, work = (tmp_path / name for name in ("home", "programs", "work"))
    for folder in (home, programs, work):
        folder.mkdir()
    mine = programs / "my-renderer"
    mine.write_text(f'#!/bin/sh\nexec {sys.executable} {PROGRAM} "$@"\n')
    mine.chmod(0o755)
    environment = {
        "PATH": f"{programs}:{Path(sys.executable).parent}:{os.environ['PATH']}", "HOME": str(home), "LANG": "C.UTF-8",
        "NUMBA_CACHE_DIR": str(place()),  # compiled at set-up; the renderer's own kernels lie beside it
    }  # fmt: skip
    lines = printed_commands()
    assert len(lines) >= 9 and {line.split()[1] for line in lines} >= {"link", "begin", "set", "proof", "estimate", "run", "film"}
    told = {}
    for line in lines:
        done = subprocess.run(["bash", "-c", line], cwd=work, env=environment, capture_output=True, text=True, timeout=300)
        told[line.split()[1]] = done.stdout + done.stderr
        assert done.returncode == 0, f"{line}\n{done.stdout}{done.stderr}"
    assert "Ready " in told["estimate"] and "6 of 6 frames finished" in told["run"]
    with av.open(str(work / "orrery.mp4")) as film:
        assert film.streams.video[0].frames == 6 and (film.streams.video[0].width, film.streams.video[0].height) == (96, 54)
    # its own measure goes by the vectors of the rendered frames, which lie beside the finished ones
    done = subprocess.run(
        ["hasty-reel", "measure", "frames/sh010/sh010.####.exr", "--json"], cwd=work, env=environment, capture_output=True, text=True
    )
    assert '"motion_from": "vectors"' in done.stdout
