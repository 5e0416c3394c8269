"""What the documents and docstrings show is run: blocks of docs/scripting.md in their order, and examples of docstrings."""

from __future__ import annotations

import doctest
import importlib
import re
from pathlib import Path

import pytest

SCRIPTING = Path(__file__).parent.parent / "docs" / "scripting.md"
WITH_EXAMPLES = (
    "hasty_reel.budget.samples", "hasty_reel.predict.timefit", "hasty_reel.plan.time.schedule", "hasty_reel.reel.file",
    "hasty_reel.measure.noise", "hasty_reel.finish.chain", "hasty_reel.settings.recipe", "hasty_reel.run.state",
    "hasty_reel.reel.frames",
)  # fmt: skip


def test_what_scripting_shows_runs(tmp_path, monkeypatch, capsys):
    monkeypatch.chdir(tmp_path)
    blocks = re.findall(r"```python\n(.*?)```", SCRIPTING.read_text(), re.DOTALL)
    room: dict = {}
    for block in blocks:
        exec(compile(block, str(SCRIPTING), "exec"), room)
    assert len(blocks) == 4
    told = capsys.readouterr().out
    assert re.search(r"^sh010 [0-9.]+ h, \d+ samples a pixel$", told, re.MULTILINE)
    assert re.search(r"^ready \w+ \d\d:\d\d, 9 in 10 sure$", told, re.MULTILINE)


@pytest.mark.parametrize("name", WITH_EXAMPLES)
def test_examples_in_docstrings_run_as_they_are_shown(name):
    found = doctest.testmod(importlib.import_module(name), optionflags=doctest.ELLIPSIS | doctest.NORMALIZE_WHITESPACE)
    assert found.attempted > 0 and found.failed == 0
